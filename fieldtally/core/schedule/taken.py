"""When looks were truly taken, and the plan as it was truly kept to.

A look that was read inside its window is told as it was planned.  One that was not keeps its name, and is told with the time at which it
was truly taken; that time counts wherever times are counted with (areas, slopes, times of events, charts).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from statistics import median

from fieldtally.core.design.layout import last_start
from fieldtally.core.design.plan import Checkpoint, Plan
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.quantities.numbers import honest
from fieldtally.core.schedule.naming import called
from fieldtally.core.schedule.standing import due_at

HOUR, DAY = 60.0, 1440.0
LEAST_TOLD, LEAST_SHARE = 10.0, 0.01
"""So many minutes, or such a share of the time since the start, beside its window nobody needs to be told of."""


@dataclass(frozen=True)
class Taken:
    """How one look (key) was taken: ``at`` minutes after each sample's start and ``off`` minutes after it fell due (below 0: before), both
    the middle one of its samples; of ``samples`` read, so many ``early`` and ``late`` beside its window, by up to ``earliest`` and
    ``latest`` minutes from the moment it fell due."""

    at: float
    off: float
    samples: int
    early: tuple[str, ...] = ()
    late: tuple[str, ...] = ()
    earliest: float = 0.0
    latest: float = 0.0

    @property
    def mostly_off(self) -> bool:
        """Whether more than half of its samples were read beside its window, on one side."""
        return 2 * max(len(self.early), len(self.late)) > self.samples


def taken_looks(
    plan: Plan, starts: Mapping[str, datetime], read: Iterable[tuple[str, str, datetime]]
) -> dict[str, Taken]:
    """How each look of ``plan`` (key) was taken.

    ``starts`` are when samples (codes) came under their treatment, ``read`` the look (key), sample (code) and moment of each reading.  A
    baseline has no such time, a look after a count of cycles follows these.
    """
    own: dict[str, dict[str, datetime]] = defaultdict(dict)
    for look, sample, at in read:
        first = own[look].get(sample)
        own[look][sample] = at if first is None or at < first else first
    found = {}
    for checkpoint in plan.checkpoints:
        if checkpoint.baseline or checkpoint.cycle is not None or checkpoint.unplanned:
            continue
        seen = {sample: at for sample, at in own.get(checkpoint.key, {}).items() if sample in starts}
        if seen:
            found[checkpoint.key] = _one(checkpoint, plan.zone, starts, seen)
    return found


def _one(checkpoint: Checkpoint, zone: str, starts: Mapping[str, datetime], seen: Mapping[str, datetime]) -> Taken:
    due = {start: due_at(checkpoint, zone, start) for start in {starts[sample] for sample in seen}}
    off = {sample: (at - due[starts[sample]]) / timedelta(minutes=1) for sample, at in seen.items()}
    grace = max(LEAST_TOLD, LEAST_SHARE * checkpoint.offset)
    early = tuple(sorted(sample for sample, by in off.items() if by < -checkpoint.before - grace))
    late = tuple(sorted(sample for sample, by in off.items() if by > checkpoint.after + grace))
    return Taken(
        median((at - starts[sample]) / timedelta(minutes=1) for sample, at in seen.items()),
        median(off.values()),
        len(seen),
        early,
        late,
        min(0.0, *off.values()),
        max(0.0, *off.values()),
    )


def plan_as_taken(plan: Plan, taken: Mapping[str, Taken]) -> Plan:
    """``plan`` with looks that were mostly taken beside their window at their true time, and called by it.

    Stages of one moment stay one moment: they share the time of the first of them.
    """
    moments: dict[int, float] = {}
    looks = []
    for checkpoint in plan.checkpoints:
        one = taken.get(checkpoint.key)
        if one is None or not one.mostly_off:
            looks.append(checkpoint)
            continue
        at = moments.setdefault(checkpoint.offset, one.at) if checkpoint.stage else one.at
        looks.append(replace(checkpoint, offset=round(at), name=_named(checkpoint, at)))
    return replace(plan, checkpoints=tuple(looks))


def _named(checkpoint: Checkpoint, at: float) -> str:
    """``Day 5, planned for day 3``; a look with a name of its own keeps that."""
    truly, planned = time_told(at), time_told(checkpoint.offset)
    weeks, rest = divmod(checkpoint.offset, 7 * 1440)
    if not rest and checkpoint.name.strip().casefold() == f"week {weeks}" and round(at / 7 / DAY) != weeks:
        truly, planned = f"Week {round(at / 7 / DAY)}", f"Week {weeks}"
    if truly == planned:
        return checkpoint.name
    if checkpoint.name.strip().casefold() == planned.casefold():
        return f"{truly}, planned for {planned[0].lower()}{planned[1:]}"
    return (
        f"{checkpoint.name}, taken at {truly[0].lower()}{truly[1:]} and planned for {planned[0].lower()}{planned[1:]}"
    )


def time_told(offset: float) -> str:
    """A time after the start as a look is called by: whole days from two days on, else hours or minutes.

    >>> time_told(5 * 1440 + 200), time_told(90), time_told(30)
    ('Day 5', '1.5 h', '30 min')
    """
    if offset >= 2 * DAY:
        return f"Day {round(offset / DAY)}"
    return f"{honest(offset / HOUR, 2)} h" if offset >= HOUR else f"{round(offset)} min"


def off_told(minutes: float) -> str:
    """How far a look lies from the moment it fell due.

    >>> off_told(-1500), off_told(2 * 1440), off_told(95)
    ('1 day', '2 days', '1.6 h')
    """
    far = abs(minutes)
    if far >= DAY:
        return noun("day").counted(round(far / DAY))
    return f"{honest(far / HOUR, 2)} h" if far >= HOUR else noun("minute").counted(round(far))


def slips_told(plan: Plan, taken: Mapping[str, Taken], most: int = 6) -> tuple[str, ...]:
    """Which looks were read beside their window, by how much, a sentence each; ``plan`` as it was planned."""
    return tuple(
        sentence
        for checkpoint in plan.in_time
        if (one := taken.get(checkpoint.key)) is not None
        for sentence in _slip(plan, called(checkpoint), one, most)
    )


def late_starts_told(plan: Plan, starts: Mapping[str, datetime], most: int = 6) -> tuple[str, ...]:
    """Which samples came under their treatment later than the plan has any start, by how much; ``starts`` by sample (code).  None of
    a trial that had begun before it was planned: its starts are what they were."""
    if len(starts) < 2 or plan.begun is not None:
        return ()
    last = min(starts.values()) + timedelta(minutes=last_start(plan))
    longest = max((checkpoint.offset for checkpoint in plan.checkpoints), default=0)
    grace = timedelta(minutes=max(HOUR, LEAST_SHARE * longest))
    late = sorted(sample for sample, at in starts.items() if at > last + grace)
    if not late:
        return ()
    far = (max(starts.values()) - last) / timedelta(minutes=1)
    which = f" ({', '.join(late)})" if len(late) <= most else ""
    return (
        f"{len(late)} of {plan.sample.counted(len(starts))}{which} started later than planned, by up to {off_told(far)}.",
    )


def _slip(plan: Plan, name: str, one: Taken, most: int) -> Iterable[str]:
    for codes, far, word in ((one.late, one.latest, "late"), (one.early, one.earliest, "early")):
        if not codes:
            continue
        if len(codes) == one.samples:
            same = abs(far - one.off) < HOUR
            yield f"{name} was taken {off_told(one.off)} {word}" + ("" if same else f", up to {off_told(far)}") + "."
        else:
            which = f" ({', '.join(codes)})" if len(codes) <= most else ""
            were = "was" if len(codes) == 1 else "were"
            yield (
                f"At {name}, {len(codes)} of {plan.sample.counted(one.samples)}{which} {were} read {word}, by up to "
                f"{off_told(far)}."
            )
