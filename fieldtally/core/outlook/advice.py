"""What to change so that a design can tell, and what that costs in samples and in money."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from fieldtally.core.design.method import repeat_error
from fieldtally.core.design.plan import Outcome, Plan, Treatment
from fieldtally.core.dosing.costs import whole_cost
from fieldtally.core.outlook.simulate import PLAYS, Design, Shares, Truth, play
from fieldtally.core.outlook.smallest import hardest_pair
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.scales import GradeScale, Level, ShadeScale, honest, unit_of

ENOUGH = 0.8
MOST_REPLICATES = 60
QUICK = 120
WORTH_SAYING = 0.04
AdviceKind = Literal["samples", "blocks", "fewer", "finer", "repeats", "longer"]


@dataclass(frozen=True)
class Advice:
    """A change that helps: ``says`` what to do; with it the trial takes ``more`` samples and ``more_cost`` money than now
    (None where no cost is known), and names the best one in a share ``right`` of trials.

    ``samples`` is the number to enter for each treatment (for a split plot: the whole plots), None where that stays.
    """

    kind: AdviceKind
    says: str
    samples: int | None
    more: int
    more_cost: float | None
    right: float


def advice_for(
    plan: Plan, outcome: Outcome, truths: Sequence[Truth], found: float | None, seeds: tuple[int, int]
) -> tuple[Advice, ...]:
    """Changes that would help ``plan`` on its first primary ``outcome`` under ``truths``, one for each primary, the surest first;
    ``found`` is the lead named 8 times in 10.

    The first of ``seeds`` is that of the outlook itself: what a change is said to bring is what the outlook of the changed
    plan will say.  The second serves the search.
    """
    seed, searching = seeds
    now = _shares(plan, truths, seed).right
    best = _enough_samples(plan, truths, seed, searching)
    others = [
        one
        for one in (
            *_blocks(plan, outcome, truths, seed),
            *_fewer(plan, truths, seed),
            *_finer(plan, outcome, truths, seed),
        )
        if one.right >= now + WORTH_SAYING
    ]
    return (
        *([best] if best else []),
        *sorted(others, key=lambda one: -one.right),
        *_longer(outcome, truths[0], found),
    )


def _shares(plan: Plan, truths: Sequence[Truth], seed: int, plays: int = PLAYS) -> Shares:
    return play(Design.of_plan(plan), truths, np.random.default_rng(seed), plays)


def _cost(plan: Plan, other: Plan) -> float | None:
    now, then = whole_cost(plan), whole_cost(other)
    return None if now is None or then is None else then - now


def with_samples(plan: Plan, samples: int) -> Plan:
    """``plan`` with ``samples`` of each treatment; for a split plot with that many whole plots of each level."""
    if plan.layout.kind == "split":
        return replace(plan, layout=replace(plan.layout, whole_plots=samples))
    return replace(plan, treatments=tuple(replace(t, samples=samples) for t in plan.treatments))


def _enough_samples(plan: Plan, truths: Sequence[Truth], seed: int, searching: int) -> Advice | None:
    """The fewest samples of each that would name the best one 8 times in 10, where that is within reach."""
    unit = len(plan.treatments) if plan.layout.kind == "latin" else 1
    split = plan.layout.kind == "split"
    now = plan.layout.whole_plots if split else min(t.samples for t in plan.treatments)
    low = high = now // unit
    most = max(1, MOST_REPLICATES // unit)
    found: Shares | None = None
    while high < most:
        high = min(most, max(high + 1, round(high * 1.7)))
        found = _shares(with_samples(plan, high * unit), truths, searching, QUICK)
        if found.right >= ENOUGH:
            break
        low = high
    if found is None or found.right < ENOUGH:
        return None
    while high - low > 1:
        middle = (low + high) // 2
        looked = _shares(with_samples(plan, middle * unit), truths, searching, QUICK)
        if looked.right >= ENOUGH:
            high, found = middle, looked
        else:
            low = middle
    found = _shares(with_samples(plan, high * unit), truths, seed)
    while found.right < ENOUGH and high < most:
        high = min(most, high + max(1, round(0.08 * high)))
        found = _shares(with_samples(plan, high * unit), truths, seed)
    if found.right < ENOUGH:
        return None
    larger = with_samples(plan, high * unit)
    # Whoever has more of one treatment already keeps them.
    kept = larger if split else replace(larger, treatments=tuple(map(_larger, plan.treatments, larger.treatments)))
    what = (
        f"{noun(plan.layout.plot_word).many} of each level"
        if split
        else "pairs"
        if plan.layout.kind == "pairs"
        else "of each"
    )
    where = " in every block" if plan.layout.in_blocks else ""
    return Advice(
        "samples",
        f"{high * unit} {what}{where}",
        high * unit,
        kept.sample_count - plan.sample_count,
        _cost(plan, kept),
        found.right,
    )


def _larger(now: Treatment, other: Treatment) -> Treatment:
    return other if other.samples >= now.samples else now


def _blocks(plan: Plan, outcome: Outcome, truths: Sequence[Truth], seed: int) -> Iterator[Advice]:
    """The same samples in two blocks, where places are known to differ."""
    if plan.layout.kind != "random" or not outcome.between or any(t.samples % 2 for t in plan.treatments):
        return
    truth = truths[0]
    spread = math.sqrt(max(truth.spread**2 - outcome.between**2, 1e-12))
    halves = Design.of(tuple(t.samples // 2 for t in plan.treatments), 2, Design.of_plan(plan).candidates)
    right = play(halves, [replace(truth, spread=spread), *truths[1:]], np.random.default_rng(seed)).right
    yield Advice("blocks", "The same samples, half of each in each of two places", None, 0, None, right)


def _fewer(plan: Plan, truths: Sequence[Truth], seed: int) -> Iterator[Advice]:
    """The same number of samples on one treatment less."""
    count = len(plan.treatments)
    if count < 3 or plan.layout.kind not in ("random", "blocks"):
        return
    last = max(i for i, t in enumerate(plan.treatments) if not t.is_control or i == count - 1)
    left = tuple(t for i, t in enumerate(plan.treatments) if i != last)
    samples = sum(t.samples for t in plan.treatments) // len(left)
    fewer = replace(plan, treatments=tuple(replace(t, samples=samples) for t in left))
    if hardest_pair(fewer)[2] > plan.level:
        return
    right = _shares(fewer, truths, seed).right
    gone = plan.treatments[last].name.strip() or "one treatment"
    more = fewer.sample_count - plan.sample_count
    yield Advice("fewer", f"Without {gone}: {samples} of each other one", None, more, _cost(plan, fewer), right)


def _finer(plan: Plan, outcome: Outcome, truths: Sequence[Truth], seed: int) -> Iterator[Advice]:
    """Half steps on the scale; two readings of each sample where the repeat error is known."""
    scale, truth, others = outcome.scale, truths[0], truths[1:]
    if isinstance(scale, GradeScale) and len(scale.levels) < 12:
        levels = [*scale.levels]
        halves = [Level((a.value + b.value) / 2, f"{a.label}½") for a, b in itertools.pairwise(levels)]
        finer = GradeScale(tuple(sorted((*levels, *halves), key=lambda level: level.value)))
        right = _shares(plan, [replace(truth, scale=finer), *others], seed).right
        yield Advice("finer", "Half grades, if the eye can tell them", None, 0, None, right)
    elif isinstance(scale, ShadeScale) and not scale.between:
        right = _shares(plan, [replace(truth, scale=replace(scale, between=True)), *others], seed).right
        yield Advice("finer", "Readings half way between two steps of the chart", None, 0, None, right)
    error = repeat_error(outcome.proof)
    if error and error < truth.spread:
        twice = math.sqrt(truth.spread**2 - error**2 / 2)
        right = _shares(plan, [replace(truth, spread=twice), *others], seed).right
        yield Advice("repeats", "Each sample read twice and averaged", None, 0, None, right)


def _longer(outcome: Outcome, truth: Truth, found: float | None) -> Iterator[Advice]:
    if found is not None and found > truth.lead:
        unit = unit_of(outcome.scale)
        lead = f"{honest(100 * found, 2)} points" if unit == "share" else f"{honest(found)} {unit}".strip()
        yield Advice(
            "longer",
            f"A longer exposure, if the lead grows with it: it would have to reach {lead}",
            None,
            0,
            None,
            ENOUGH,
        )
