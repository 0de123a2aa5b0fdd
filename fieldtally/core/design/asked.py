"""What is asked of which sample: an outcome or a look may belong to some samples only, and a sample may be done before the last look.

One rule for all who ask: rounds, counts of what is missing, the planner, the dry run and the verdict.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from fieldtally.core.design.plan import Checkpoint, Outcome, Plan, Some

Sample = TypeVar("Sample", bound=Hashable)
"""Whatever names a sample."""
Look = tuple[str, str]
"""Keys of an outcome and of a checkpoint."""


@dataclass(frozen=True)
class Spot:
    """What decides what is asked of a sample: its treatment (key), its block (key; None where there are none) and its kind (empty where
    there are none)."""

    treatment: str
    block: str | None = None
    kind: str = ""


def spots_of(plan: Plan, placed: Iterable[tuple[str, str | None]]) -> list[Spot]:
    """The spots of samples that are ``placed``, each with its treatment (key) and block (key), in the order of their places.

    Each block begins with the next kind, so that treatments with one sample in each have all kinds over several.

    >>> trial = Plan("Bolts", kinds=("pull", "twist"))
    >>> [spot.kind for spot in spots_of(trial, [("oiled", "e"), ("oiled", "e"), ("dry", "e"), ("oiled", "w")])]
    ['pull', 'twist', 'pull', 'pull']
    """
    seen: Counter[tuple[str, str | None]] = Counter()
    first = {block.key: number for number, block in enumerate(plan.layout.blocks)}
    found = []
    for treatment, block in placed:
        turn = first.get(block or "", 0) + seen[treatment, block]
        kind = plan.kinds[turn % len(plan.kinds)] if plan.kinds else ""
        seen[treatment, block] += 1
        found.append(Spot(treatment, block, kind))
    return found


def asks_some(plan: Plan) -> bool:
    """Whether not everything is asked of every sample."""
    return any(one.only or one.done for one in plan.outcomes) or any(one.only for one in plan.checkpoints)


def covers(plan: Plan, some: Some, spot: Spot) -> bool:
    """Whether a sample at ``spot`` is one of ``some``."""
    if some.treatments or some.groups:
        group = next((one.group for one in plan.treatments if one.key == spot.treatment), "")
        if spot.treatment not in some.treatments and (not group or group not in some.groups):
            return False
    if some.blocks and spot.block not in some.blocks:
        return False
    return not some.kinds or spot.kind in some.kinds


def asked(plan: Plan, outcome: Outcome, checkpoint: Checkpoint, spot: Spot) -> bool:
    """Whether ``outcome`` is read on a sample at ``spot`` at ``checkpoint``, at which it is looked at."""
    return covers(plan, outcome.only, spot) and covers(plan, checkpoint.only, spot)


def asked_at(plan: Plan, checkpoint: Checkpoint, spot: Spot) -> frozenset[str]:
    """The outcomes (keys) that are read on a sample at ``spot`` at ``checkpoint``."""
    return frozenset(
        outcome.key
        for outcome in plan.outcomes
        if checkpoint in plan.looked_at(outcome) and asked(plan, outcome, checkpoint, spot)
    )


def done_after(plan: Plan, read: Iterable[tuple[Sample, str, str, float]]) -> dict[Sample, int]:
    """For each sample (any name) that is done, the place in time of the first look that made it so; ``read`` are values as (sample, outcome
    key, checkpoint key, value)."""
    rules = {outcome.key: outcome.done for outcome in plan.outcomes if outcome.done is not None}
    order = {checkpoint.key: place for place, checkpoint in enumerate(plan.in_time)}
    found: dict[Sample, int] = {}
    for sample, outcome, checkpoint, value in read:
        rule = rules.get(outcome)
        if rule is not None and rule.holds(value) and checkpoint in order:
            found[sample] = min(order[checkpoint], found.get(sample, order[checkpoint]))
    return found


def planned_for(plan: Plan, outcome: Outcome) -> tuple[int, ...]:
    """How many samples of each treatment, in the plan's order, are read on ``outcome`` at the look it is judged by."""
    judged = next((one for one in plan.checkpoints if one.key == plan.judged_at(outcome)), None)
    only = judged.only if judged is not None else Some()
    if not outcome.only and not only:
        return tuple(plan.per_treatment(treatment) for treatment in plan.treatments)
    counts = Counter(
        spot.treatment
        for spot in spots_of(plan, _planned(plan))
        if covers(plan, outcome.only, spot) and covers(plan, only, spot)
    )
    return tuple(counts[treatment.key] for treatment in plan.treatments)


def readings_of(plan: Plan) -> int:
    """How many readings are asked for in all, once by one scorer, while no sample is done."""
    if not asks_some(plan):
        return plan.sample_count * sum(len(plan.looked_at(outcome)) for outcome in plan.outcomes)
    many = Counter(spots_of(plan, _planned(plan)))
    return sum(n * len(asked_at(plan, one, spot)) for spot, n in many.items() for one in plan.checkpoints)


def _planned(plan: Plan) -> list[tuple[str, str | None]]:
    """Treatment and block of all samples that are planned."""
    blocks: Sequence[str | None] = [block.key for block in plan.layout.blocks] if plan.layout.in_blocks else [None]
    each = max(0, plan.layout.whole_plots) if plan.layout.kind == "split" else 1
    return [
        (treatment, block)
        for block in blocks
        for treatment, many in plan.counts_in(block).items()
        for _ in range(many * each)
    ]


def part_for(plan: Plan, outcome: Outcome) -> Plan:
    """The plan as ``outcome`` sees it: without treatments of which no sample is read on it, and places in which none is, with as many
    samples as are; what stands in the planner's sums for it."""
    numbers = planned_for(plan, outcome)
    if not asks_some(plan) or numbers == tuple(plan.per_treatment(treatment) for treatment in plan.treatments):
        return plan
    judged = next((one for one in plan.checkpoints if one.key == plan.judged_at(outcome)), None)
    wanted = set(outcome.only.blocks or [block.key for block in plan.layout.blocks])
    if judged is not None and judged.only.blocks:
        wanted &= set(judged.only.blocks)
    layout = replace(plan.layout, blocks=tuple(block for block in plan.layout.blocks if block.key in wanted))
    if layout.kind == "latin":
        # A part of a square is no square.
        layout = replace(layout, kind="random")
    places = max(1, len(layout.blocks)) if plan.layout.in_blocks else 1
    share = places * (max(1, plan.layout.whole_plots) if plan.layout.kind == "split" else 1)
    treatments = tuple(
        replace(treatment, samples=many // share)
        for treatment, many in zip(plan.treatments, numbers, strict=True)
        if many
    )
    return replace(plan, layout=layout, treatments=treatments, begun=None)


def told(plan: Plan, some: Some) -> str:
    """Which samples those are, in words that follow “only”; empty where it is all of them."""
    names = {one.key: one.name for one in plan.treatments}
    groups = {one.key: one.name for one in plan.groups}
    blocks = {one.key: one.name for one in plan.layout.blocks}
    whose = [*(groups.get(key, "?") for key in some.groups), *(names.get(key, "?") for key in some.treatments)]
    parts = [
        *([f"of {_listed(whose)}"] if whose else []),
        *([f"in {_listed([blocks.get(key, '?') for key in some.blocks])}"] if some.blocks else []),
        *([f"for {_listed(some.kinds)}"] if some.kinds else []),
    ]
    return f"{plan.sample.many} {' '.join(parts)}" if parts else ""


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def left_to_read(
    plan: Plan, checkpoint: Checkpoint, spots: Mapping[Sample, Spot], done: Mapping[Sample, int]
) -> dict[Sample, frozenset[str]]:
    """For each sample (any name) that is looked at at ``checkpoint`` the outcomes (keys) that are read on it: none of one that was done
    before."""
    place = {one.key: at for at, one in enumerate(plan.in_time)}[checkpoint.key]
    by_spot = {spot: asked_at(plan, checkpoint, spot) for spot in set(spots.values())}
    return {
        sample: by_spot[spot] for sample, spot in spots.items() if by_spot[spot] and done.get(sample, place) >= place
    }


def carried(plan: Plan, values: Mapping[Look, Mapping[Sample, float]]) -> dict[Look, dict[Sample, float]]:
    """``values`` for each look (outcome key, checkpoint key) and sample, with the reading that made a sample done standing for the looks of
    that outcome that follow, at which nobody read it."""
    found = {look: dict(own) for look, own in values.items()}
    for outcome in plan.outcomes:
        if outcome.done is None:
            continue
        ended: dict[Sample, float] = {}
        for checkpoint in plan.looked_at(outcome):
            own = found.setdefault((outcome.key, checkpoint.key), {})
            for sample, value in ended.items():
                own.setdefault(sample, value)
            ended |= {one: value for one, value in own.items() if one not in ended and outcome.done.holds(value)}
            if not own:
                del found[outcome.key, checkpoint.key]
    return found
