"""What lies behind a verdict: who wins where, who leads when, factors, levelling off, and each against the control in percent."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.compare.effects import Effect, effects
from fieldtally.core.compare.levelling import Levelled, levelling
from fieldtally.core.compare.overall import overall_test
from fieldtally.core.compare.places import When, Where, who_leads_when
from fieldtally.core.compare.ratios import TimesAsMuch, ratio_of
from fieldtally.core.design.plan import Checkpoint, Outcome, Plan
from fieldtally.core.scales import CountScale, CurveScale, LadderScale, MeasurementScale, PercentScale
from fieldtally.core.scales.departing import straight
from fieldtally.core.verdict.conclude import Finding, Samples
from fieldtally.core.verdict.settling import Settle, what_would_settle
from fieldtally.core.verdict.summing import times_of

Curves = Mapping[str, Sequence[tuple[float | None, ...] | None]]
"""For an outcome (key) the responses of each sample at the look it is judged by, in order; None where there are none."""


@dataclass(frozen=True)
class OfControl:
    """A treatment's mean in percent of the control's, where the scale has a true zero."""

    treatment: str
    percent: float


@dataclass(frozen=True)
class Staged:
    """One look in two parts (before and after cleaning): names of both, means before and after by treatment (in the plan's order, None
    where nothing was read), and whether the changes differ between treatments."""

    before: str
    after: str
    means_before: tuple[float | None, ...]
    means_after: tuple[float | None, ...]
    p: float | None


@dataclass(frozen=True)
class Departed:
    """Where a treatment's curves leave their straight line: ``left`` of the ``told`` that have steps enough do (of ``n`` samples), half of
    them between the steps ``low`` and ``high`` (None: fewer than half do), in the unit of the steps.

    ``mean`` is the mean response at each step, None where nobody took it."""

    treatment: str
    n: int
    told: int
    left: int
    low: float | None
    high: float | None
    mean: tuple[float | None, ...]


@dataclass(frozen=True)
class SupportingAnalysis:
    """What lies behind the verdict on one outcome (key), and what would settle it.  Times of ``levelled`` are in ``unit``."""

    outcome: str
    where: tuple[Where, ...]
    when: When | None
    effects: tuple[Effect, ...]
    levelled: tuple[Levelled, ...]
    unit: str
    of_control: tuple[OfControl, ...]
    ratios: tuple[TimesAsMuch, ...]
    stages: tuple[Staged, ...]
    departed: tuple[Departed, ...]
    settle: tuple[Settle, ...]


def supporting(
    plan: Plan,
    samples: Samples,
    values: Mapping[tuple[str, str], Floats],
    findings: Sequence[Finding],
    rng: np.random.Generator,
    curves: Curves | None = None,
) -> list[SupportingAnalysis]:
    """One :class:`SupportingAnalysis` for each outcome that is compared; arguments as those of :func:`~.conclude.conclude` and what it
    found."""
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
        clock, times = times_of(plan, plan.checkpoints)
        where = main.where
        found.append(
            SupportingAnalysis(
                outcome.key,
                where,
                _when(plan, outcome, samples, values, own, labels, rng),
                tuple(_effects(plan, samples, numbers, rng)),
                tuple(_levelled(plan, outcome, own, times)),
                clock.unit,
                tuple(_of_control(plan, main)),
                tuple(_ratios(plan, outcome, samples, main, rng)),
                tuple(_stages(plan, outcome, samples, values, labels, rng)),
                tuple(_departed(plan, outcome, labels, (curves or {}).get(outcome.key, ()))),
                what_would_settle(plan, main, [one for one in own if one.checkpoint is not None], where),
            )
        )
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


def _levelled(plan: Plan, outcome: Outcome, own: Sequence[Finding], at: Floats) -> list[Levelled]:
    looks = [one for one in own if one.checkpoint is not None]
    when = {c.key: float(time) for c, time in zip(plan.checkpoints, at, strict=True)}
    if len(looks) < 3:
        return []
    times = [when[one.checkpoint or ""] for one in looks]
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


def _ratios(
    plan: Plan, outcome: Outcome, samples: Samples, main: Finding, rng: np.random.Generator
) -> list[TimesAsMuch]:
    """How many times as much: of counts, and of the slopes of curves (stiffness)."""
    slope = isinstance(main.scale, CurveScale) and main.scale.number == "slope"
    if not (isinstance(main.scale, CountScale) or slope) or outcome.summary.kind not in ("value", "area"):
        return []
    if outcome.better == "target":
        return []
    numbers = np.array([np.nan if one is None else one for one in main.numbers])
    structure, names, labels = samples.structure(plan), [t.name for t in plan.treatments], samples.labels(plan)
    seed = int(rng.integers(2**63))
    found = [
        ratio_of(numbers, labels, structure, (a, b), (names[a], names[b]), np.random.default_rng(seed), plan.alpha)
        for a in range(len(names))
        for b in range(a + 1, len(names))
    ]
    return [one for one in found if one is not None]


def _stages(
    plan: Plan,
    outcome: Outcome,
    samples: Samples,
    values: Mapping[tuple[str, str], Floats],
    labels: Ints,
    rng: np.random.Generator,
) -> list[Staged]:
    looks = [c for c in plan.looked_at(outcome) if c.stage.strip()]
    structure = samples.structure(plan)
    found = []
    for first, second in itertools.pairwise(looks):
        if (first.offset, first.cycle) != (second.offset, second.cycle):
            continue
        before, after = values.get((outcome.key, first.key)), values.get((outcome.key, second.key))
        if before is None or after is None:
            continue
        change = after - before
        kept = ~np.isnan(change)
        p = None
        if kept.sum() >= 4 and len(np.unique(labels[kept])) > 1:
            (told,) = overall_test(change[kept][:, None], labels[kept], structure.kept(kept), rng)
            p = told.p
        each = range(len(plan.treatments))
        first_means, second_means = (tuple(_mean(column[labels == t]) for t in each) for column in (before, after))
        found.append(Staged(_staged(first), _staged(second), first_means, second_means, p))
    return found


def _staged(look: Checkpoint) -> str:
    return f"{look.name}, {look.stage}" if look.stage not in look.name else look.name


def _mean(own: Floats) -> float | None:
    known = own[~np.isnan(own)]
    return float(known.mean()) if len(known) else None


def _departed(
    plan: Plan, outcome: Outcome, labels: Ints, curves: Sequence[tuple[float | None, ...] | None]
) -> list[Departed]:
    if not isinstance(outcome.scale, CurveScale) or not any(curves):
        return []
    steps = outcome.scale.steps
    found = []
    for t, treatment in enumerate(plan.treatments):
        own = [curve for curve, label in zip(curves, labels, strict=True) if label == t and curve is not None]
        if not own:
            continue
        lines = [straight(steps, curve, through_zero=outcome.scale.through_zero) for curve in own]
        told = [line for line in lines if line is not None and line.told]
        left = sorted(line.leaves for line in told if line.leaves is not None)
        # Those that never leave it would leave it later than any that do.
        middle = (len(told) + 1) // 2
        low, high = left[middle - 1] if told and middle <= len(left) else (None, None)
        at_step = [
            [one for curve in own if len(curve) > i and (one := curve[i]) is not None] for i in range(len(steps))
        ]
        mean = tuple(float(np.mean(one)) if one else None for one in at_step)
        found.append(Departed(treatment.name, len(own), len(told), len(left), low, high, mean))
    return found
