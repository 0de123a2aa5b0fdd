"""Slip: how far from its moment a look was taken."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True)
class Slip:
    """``hours`` late (early below 0), and that as a ``share`` of the time since the start; None where there is none."""

    hours: float
    share: float | None


def slip(started: datetime, due: datetime, taken: datetime) -> Slip:
    """The slip of a look that fell ``due`` and was ``taken`` (all UTC), for an exposure ``started`` then.

    >>> from datetime import UTC
    >>> slip(*(datetime(2026, 5, day, hour, tzinfo=UTC) for day, hour in ((1, 8), (3, 8), (3, 20))))
    Slip(hours=12.0, share=0.25)
    """
    planned = (due - started).total_seconds()
    late = (taken - due).total_seconds()
    return Slip(late / 3600, late / planned if planned > 0 else None)
