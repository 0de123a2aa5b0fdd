"""When samples of a trial that has begun came under their treatment."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from datetime import datetime, timedelta

from fieldtally.core.design.plan import Begun, Given, Plan
from fieldtally.core.problems import Refused
from fieldtally.core.quantities.moments import moment_in


def start_of(plan: Plan, begun: Begun, one: Given) -> datetime:
    """When ``one`` came under its treatment (UTC): at its own day and hour, or with all others.

    :raises Refused: that cannot be read.
    """
    return moment_in(one.started or begun.on, plan.zone)


def first_given(plan: Plan) -> datetime | None:
    """When the first sample of a trial that has begun came under its treatment (UTC); None of a plan of what will be, or while no day can
    be read."""
    if plan.begun is None:
        return None
    try:
        return min((start_of(plan, plan.begun, one) for one in plan.begun.samples), default=None) or moment_in(
            plan.begun.on, plan.zone
        )
    except Refused:
        return None


def last_given(plan: Plan) -> int | None:
    """So many minutes after the first one the last sample came under its treatment; None as in :func:`first_given`."""
    first = first_given(plan)
    if first is None or plan.begun is None or not plan.begun.samples:
        return None
    return round(max(start_of(plan, plan.begun, one) - first for one in plan.begun.samples) / timedelta(minutes=1))


def told_by_starts(starts: Iterable[tuple[str, datetime]]) -> tuple[str, ...]:
    """The treatments (keys) that their starts give away, in order: several samples of one began at a moment at which none of another did,
    so that a round, which says what is later or over, shows who belongs together.  ``starts`` are pairs of treatment and start.

    >>> at = datetime(2026, 5, 4, 9)
    >>> told_by_starts([("a", at), ("a", at), ("b", at), ("b", at.replace(day=6)), ("b", at.replace(day=6))])
    ('b',)
    """
    by_moment: dict[datetime, list[str]] = defaultdict(list)
    for treatment, at in starts:
        by_moment[at.replace(second=0, microsecond=0)].append(treatment)
    if len(by_moment) < 2:
        return ()
    alone = {own[0] for own in by_moment.values() if len(own) > 1 and len(set(own)) == 1}
    return tuple(sorted(alone))


def given_away(plan: Plan) -> tuple[str, ...]:
    """The same of a plan that says when each sample began: treatments (keys)."""
    begun = plan.begun
    if begun is None:
        return ()
    try:
        return told_by_starts([(one.treatment, start_of(plan, begun, one)) for one in begun.samples])
    except Refused:
        return ()
