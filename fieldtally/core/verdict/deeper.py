"""What lies behind a verdict: who wins where, who leads when, factors, levelling off, and each against the control in percent."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.compare.columns import worth
from fieldtally.core.compare.effects import Effect, effects
from fieldtally.core.compare.levelling import Levelled, levelling
from fieldtally.core.compare.places import When, Where, who_leads_when, who_wins_where
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.scales import CountScale, CurveScale, LadderScale, MeasurementScale, PercentScale
from fieldtally.core.verdict.conclude import Finding, Samples
from fieldtally.core.verdict.summing import unit_of_time


@dataclass(frozen=True)
class OfControl:
    """A treatment's mean in percent of the control's, where the scale has a true zero."""

    treatment: str
    percent: float


@dataclass(frozen=True)
class Deeper:
    """What lies behind the verdict on one outcome (key).  Times of ``levelled`` are in ``unit``."""

    outcome: str
    where: tuple[Where, ...]
    when: When | None
    effects: tuple[Effect, ...]
    levelled: tuple[Levelled, ...]
    unit: str
    of_control: tuple[OfControl, ...]


def deeper(
    plan: Plan,
    samples: Samples,
    values: Mapping[tuple[str, str], Floats],
    findings: Sequence[Finding],
    rng: np.random.Generator,
) -> list[Deeper]:
    """One :class:`Deeper` for each outcome that is compared; arguments as those of :func:`~.conclude.conclude` and what it found."""
    labels = samples.labels(plan)
    found = []
    for outcome in plan.outcomes:
        own = [one for one in findings if one.outcome == outcome.key]
        main = next((one for one in own if one.checkpoint is None), None)
        if main is None or outcome.better == "none":
            continue
        numbers = np.array([np.nan if one is None else one for one in main.numbers])
        if outcome.better == "target":
            numbers = np.abs(numbers - (outcome.target or 0.0))
        good = worth(numbers, main.comparison.column)
        unit, minutes = unit_of_time(plan)
        found.append(
            Deeper(
                outcome.key,
                tuple(_where(plan, samples, labels, good, rng)),
                _when(plan, outcome, samples, values, own, labels, rng),
                tuple(_effects(plan, samples, numbers, rng)),
                tuple(_levelled(plan, outcome, own, minutes)),
                unit,
                tuple(_of_control(plan, main)),
            )
        )
    return found


def _where(plan: Plan, samples: Samples, labels: Ints, good: Floats, rng: np.random.Generator) -> list[Where]:
    names = [treatment.name for treatment in plan.treatments]
    found = []
    blocks = plan.layout.blocks if plan.layout.in_blocks else ()
    if len(blocks) > 1:
        keys = [block.key for block in blocks]
        at = np.array([keys.index(one) if one in keys else 0 for one in samples.blocks], dtype=np.int64)
        told = who_wins_where(good, labels, names, at, [block.name for block in blocks], "place", rng)
        found += [told] if told else []
    return found


def _when(
    plan: Plan,
    outcome: Outcome,
    samples: Samples,
    values: Mapping[tuple[str, str], Floats],
    own: Sequence[Finding],
    labels: Ints,
    rng: np.random.Generator,
) -> When | None:
    looks = [one for one in own if one.checkpoint is not None]
    if len(looks) < 2:
        return None
    gap = np.full(len(labels), np.nan)
    table = np.column_stack([values.get((outcome.key, one.checkpoint or ""), gap) for one in looks])
    if outcome.better == "target":
        table = -np.abs(table - (outcome.target or 0.0))
    elif outcome.better == "less":
        table = -table
    overall = [one.comparison.overall.p if one.comparison.overall else None for one in looks]
    keys = [one.checkpoint or "" for one in looks]
    names = [treatment.name for treatment in plan.treatments]
    return who_leads_when(table, keys, overall, labels, names, samples.structure(plan), rng, plan.alpha)


def _effects(plan: Plan, samples: Samples, numbers: Floats, rng: np.random.Generator) -> list[Effect]:
    factors = plan.factors
    by_key = {treatment.key: treatment for treatment in plan.treatments}
    crossed = [all(factor.key in by_key[key].levels for factor in factors) for key in samples.treatments]
    kept = np.array(crossed, dtype=np.bool_)
    if len(factors) < 2 or kept.sum() < 4:
        return []
    levels = np.array(
        [
            [[level.key for level in factor.levels].index(by_key[key].levels[factor.key]) for factor in factors]
            for key, inside in zip(samples.treatments, crossed, strict=True)
            if inside
        ],
        dtype=np.int64,
    )
    if any(len(np.unique(levels[:, f])) < 2 for f in range(len(factors))):
        return []
    names = [factor.name for factor in factors]
    return effects(numbers[kept], levels, names, samples.structure(plan).kept(kept), rng)


def _levelled(plan: Plan, outcome: Outcome, own: Sequence[Finding], minutes: float) -> list[Levelled]:
    looks = [one for one in own if one.checkpoint is not None]
    offsets = {c.key: c.offset for c in plan.checkpoints}
    if len(looks) < 3:
        return []
    times = [offsets[one.checkpoint or ""] / minutes for one in looks]
    means = [[one.comparison.treatments[t].estimate for one in looks] for t in range(len(plan.treatments))]
    return levelling(times, means, [treatment.name for treatment in plan.treatments], outcome.margin)


def _of_control(plan: Plan, main: Finding) -> list[OfControl]:
    """Each mean in percent of the control's; only where zero means none of it."""
    if plan.control is None or not isinstance(
        main.scale, MeasurementScale | CountScale | LadderScale | PercentScale | CurveScale
    ):
        return []
    means = {one.treatment: one.estimate for one in main.comparison.treatments}
    base = means.get(plan.control.name)
    if not base or base < 0:
        return []
    return [
        OfControl(name, 100 * mean / base)
        for name, mean in means.items()
        if mean is not None and name != plan.control.name
    ]
