"""How a checkpoint stands now: upcoming, due, late, taken, skipped or missed.

A checkpoint is *due* inside its window.  After that it is *late*, and can still be scored, until half the way to the next
checkpoint (or, for the last one, for as long again as it lies from the one before); then it is *missed*.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from fieldtally.core.design.plan import Checkpoint

Standing = Literal["upcoming", "due", "late", "taken", "skipped", "missed"]


@dataclass(frozen=True)
class Times:
    """The moments of one checkpoint for samples that started together (all UTC)."""

    opens: datetime
    due: datetime
    closes: datetime
    lost: datetime
    """From here on the checkpoint counts as missed."""


def times_of(checkpoints: Sequence[Checkpoint], started: datetime) -> dict[str, Times]:
    """The times of each checkpoint, by key, for an exposure that began at ``started``; elapsed time, so that a change of
    the clocks moves nothing."""
    in_time = sorted(checkpoints, key=lambda c: c.offset)
    found: dict[str, Times] = {}
    for i, checkpoint in enumerate(in_time):
        due = started + timedelta(minutes=checkpoint.offset)
        closes = due + timedelta(minutes=checkpoint.after)
        if i + 1 < len(in_time):
            gap = in_time[i + 1].offset - checkpoint.offset
        else:
            gap = 2 * (checkpoint.offset - in_time[i - 1].offset if i else max(checkpoint.offset, 60))
        found[checkpoint.key] = Times(
            opens=due - timedelta(minutes=checkpoint.before),
            due=due,
            closes=closes,
            lost=max(closes, due + timedelta(minutes=gap / 2)),
        )
    return found


def standing_at(times: Times, now: datetime, *, complete: bool, skipped: bool = False) -> Standing:
    """How a checkpoint stands at ``now``; ``complete`` when every sample that should be scored has been."""
    if complete:
        return "taken"
    if skipped:
        return "skipped"
    if now < times.opens:
        return "upcoming"
    if now <= times.closes:
        return "due"
    return "late" if now <= times.lost else "missed"
