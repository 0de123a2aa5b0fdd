"""The plan on the calendar: the date of each look, whether it falls on a weekend, and what else falls due then."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from fieldtally.core.design.plan import Plan
from fieldtally.core.design.starts import first_given
from fieldtally.core.problems import Refused
from fieldtally.core.schedule.standing import times_of

TOO_CLOSE = timedelta(hours=1)


@dataclass(frozen=True)
class Engagement:
    """Something else that the person has to do: a look of another trial, due at a moment (UTC)."""

    trial: str
    look: str
    due: datetime


@dataclass(frozen=True)
class Dated:
    """A look of the plan: ``due`` (UTC), whether that is a Saturday or Sunday where the trial is, looks of other trials
    within an hour (``clashes``) and on the same day (``same_day``), as ``trial: look``."""

    checkpoint: str
    due: datetime
    weekend: bool
    clashes: tuple[str, ...]
    same_day: tuple[str, ...]


def planned_start(plan: Plan) -> datetime | None:
    """The moment meant for the start, on the clocks of the plan's zone, or of a trial that has begun, when it did; None while there is none
    or it cannot be read."""
    if plan.begun is not None:
        return first_given(plan)
    if not plan.starts_on:
        return None
    try:
        return datetime.fromisoformat(plan.starts_on).replace(tzinfo=ZoneInfo(plan.zone))
    except (ValueError, KeyError, OSError):
        return None


def dated(plan: Plan, started: datetime, others: Sequence[Engagement]) -> tuple[Dated, ...]:
    """Each look of ``plan`` on the calendar if exposure starts at ``started``.

    :raises Refused: the start is too far off for a calendar.
    """
    try:
        times = times_of(plan, started)
        return tuple(_dated(c.key, times[c.key].due, plan.zone, others) for c in plan.in_time)
    except (OverflowError, KeyError, ValueError, OSError) as error:
        raise Refused("No calendar reaches as far as this plan does.", "starts_on") from error


def _dated(key: str, due: datetime, zone: str, others: Sequence[Engagement]) -> Dated:
    local = due.astimezone(ZoneInfo(zone))
    near = [one for one in others if abs(one.due - due) < TOO_CLOSE]
    same = [one for one in others if one not in near and one.due.astimezone(ZoneInfo(zone)).date() == local.date()]
    return Dated(key, due, local.weekday() >= 5, _named(near), _named(same))


def _named(engagements: Sequence[Engagement]) -> tuple[str, ...]:
    return tuple(f"{one.trial}: {one.look}" for one in engagements)
