"""A moment as people write it on the clocks of a place, and what it is in UTC."""

from __future__ import annotations

from datetime import UTC, datetime
from zoneinfo import ZoneInfo

from fieldtally.core.problems import Refused


def moment_in(text: str, zone: str) -> datetime:
    """The moment (UTC) that ``text`` (``2027-03-01T09:00``, or a day alone: its noon) is on the clocks of ``zone``.

    An hour that came twice, as when clocks went back, is taken as its first.

    >>> moment_in("2027-07-01T09:00", "Europe/London").isoformat()
    '2027-07-01T08:00:00+00:00'

    :raises Refused: it is no day and hour, the zone is none, or the clocks never showed it.
    """
    try:
        read = datetime.fromisoformat(text.strip())
        place = ZoneInfo(zone)
    except (ValueError, KeyError, OSError) as error:
        raise Refused(f"“{text.strip()}” is no day and hour, as in 2027-03-01 09:00.") from error
    if read.tzinfo is not None:
        return read.astimezone(UTC)
    if len(text.strip()) <= len("2027-03-01"):
        read = read.replace(hour=12)
    try:
        at = read.replace(tzinfo=place).astimezone(UTC)
        shown = at.astimezone(place).replace(tzinfo=None)
    except OverflowError as error:
        raise Refused(f"“{text.strip()}” lies beyond any calendar.") from error
    if shown != read:
        raise Refused(f"No clock there showed {read:%H:%M} on {read:%Y-%m-%d}: they were put forward in that hour.")
    return at
