"""How a checkpoint stands now: upcoming, due, late, taken, skipped or missed.

A checkpoint is *due* inside its window.  After that it is *late*, and can still be scored, until half the way to the next
checkpoint (or, for the last one, for as long again as it lies from the one before); then it is *missed*.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, time, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

from fieldtally.core.design.layout import last_start
from fieldtally.core.design.plan import Checkpoint, Plan

BASELINE_OPENS = timedelta(days=7)
Standing = Literal["upcoming", "due", "late", "taken", "skipped", "missed"]


@dataclass(frozen=True)
class Times:
    """The moments of one checkpoint for samples that started together (all UTC)."""

    opens: datetime
    due: datetime
    closes: datetime
    lost: datetime
    """From here on the checkpoint counts as missed."""


def due_at(checkpoint: Checkpoint, zone: str, started: datetime) -> datetime:
    """When ``checkpoint`` falls due (UTC) for a sample whose exposure began at ``started``: so much elapsed time later, or
    at its hour of that day on the clocks of ``zone``."""
    if checkpoint.clock is None:
        return started + timedelta(minutes=checkpoint.offset)
    day = started.astimezone(ZoneInfo(zone)).date() + timedelta(days=checkpoint.offset // (24 * 60))
    hour = time(checkpoint.clock // 60, checkpoint.clock % 60)
    return datetime.combine(day, hour, ZoneInfo(zone)).astimezone(UTC)


def cycle_times(checkpoint: Checkpoint, cycles: Sequence[datetime]) -> Times | None:
    """The times of a look that follows a count of cycles, counted at these moments (in order): it is due when its cycle is
    done, and lost when the next one is.  None while too few are counted."""
    wanted = checkpoint.cycle or 0
    if len(cycles) < wanted:
        return None
    due = cycles[wanted - 1]
    closes = due + timedelta(minutes=checkpoint.after)
    lost = cycles[wanted] if len(cycles) > wanted else max(closes, due + timedelta(days=365))
    return Times(due, due, min(closes, lost), lost)


def times_of(plan: Plan, started: datetime, later: timedelta | None = None) -> dict[str, Times]:
    """The times of each checkpoint of ``plan``, by key, for an exposure whose first sample began at ``started``.

    Elapsed time, so that a change of the clocks moves nothing but a look with an hour of its own.  Where starts are
    staggered a look stays open until the last sample's window has closed; ``later`` says how much later the last one really
    started, where that is known, instead of what was planned.  A baseline closes with the start; unplanned
    looks change nothing for planned ones.
    """
    in_time = plan.in_time
    due = {c.key: started if c.baseline else due_at(c, plan.zone, started) for c in in_time}
    lag = timedelta(minutes=last_start(plan)) if later is None else later
    found: dict[str, Times] = {}
    for checkpoint in in_time:
        own = due[checkpoint.key]
        if checkpoint.baseline:
            opens = started - max(timedelta(minutes=checkpoint.before), BASELINE_OPENS)
            found[checkpoint.key] = Times(opens, own, own + timedelta(minutes=checkpoint.after), own + lag)
            continue
        closes = own + timedelta(minutes=checkpoint.after) + lag
        planned = [due[c.key] for c in in_time if not c.unplanned]
        after = [at for at in planned if at > own]
        earlier = [at for at in planned if at < own]
        gap = (
            after[0] - own if after else 2 * (own - earlier[-1] if earlier else max(own - started, timedelta(hours=1)))
        )
        found[checkpoint.key] = Times(
            opens=own - timedelta(minutes=checkpoint.before),
            due=own,
            closes=closes,
            lost=max(closes, own + gap / 2 + lag),
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
