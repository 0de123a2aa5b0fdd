"""Slip: how far outside its window a look was taken."""

from __future__ import annotations

from datetime import datetime, timedelta

from fieldtally.core.schedule.standing import Times


def slip(times: Times, taken: datetime) -> timedelta | None:
    """How long after the moment it fell due a look was ``taken`` (below 0: before); None where it was taken inside its window, both ends
    among it.

    >>> from datetime import UTC
    >>> opens, due, closes, lost = (datetime(2026, 5, day, 8, tzinfo=UTC) for day in (3, 4, 5, 9))
    >>> window = Times(opens, due, closes, lost)
    >>> slip(window, datetime(2026, 5, 6, 8, tzinfo=UTC)), slip(window, closes)
    (datetime.timedelta(days=2), None)
    """
    return None if times.opens <= taken <= times.closes else taken - times.due
