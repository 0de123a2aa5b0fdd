"""What this design can tell: the answer that stands beside the plan and follows each edit."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from fieldtally.core.design.asked import part_for, planned_for, readings_of
from fieldtally.core.design.plan import Outcome, Plan, Treatment
from fieldtally.core.design.sound.layout import layout_problems
from fieldtally.core.design.sound.treatments import MOST_SAMPLES
from fieldtally.core.dosing.costs import all_samples
from fieldtally.core.outlook.advice import ENOUGH, QUICK, Advice, advice_for
from fieldtally.core.outlook.rare import samples_to_see_one, still_possible
from fieldtally.core.outlook.simulate import Design, Shares, Truth, play, play_each
from fieldtally.core.outlook.smallest import hardest_pair
from fieldtally.core.scales import (
    CountScale,
    EventScale,
    GradeScale,
    LadderScale,
    PassFailScale,
    ShadeScale,
    honest,
    unit_of,
)
from fieldtally.core.schedule.pace import minutes_for

HARDLY = 0.5
USUALLY_RARE = 0.05
"""The share of failures that is told of where nobody said which is looked for."""
LOOKS = 5


@dataclass(frozen=True)
class Outlook:
    """What a design can tell.  Shares are from 0 to 1; ``lead``, ``spread`` and ``found_8_in_10`` in the outcome's unit.

    ``cost`` is the money that all samples take, None while no cost is known.
    """

    standing: str
    """``impossible``, ``weak``, ``fair`` or ``enough``."""
    headline: str
    outcome: str
    unit: str
    smallest_p: float
    between: tuple[str, str]
    lead: float
    spread: float
    assumed: tuple[str, ...]
    shares: Shares
    found_8_in_10: float | None
    advice: tuple[Advice, ...]
    rare: str | None
    steps: tuple[str, ...]
    samples: int
    cost: float | None
    others: tuple[OtherPrimary, ...] = ()
    """The other primary outcomes, which share the level with the first."""
    whole: bool = True
    """Whether ``found_8_in_10`` and ``advice`` were looked for."""
    minutes: int = 0
    """How long all readings take, at the pace of somebody who has not scored yet."""
    alone: float | None = None
    """Of several primary outcomes: how often the first would name the best one were it the only one; None where it is."""
    unpriced: tuple[str, ...] = ()
    """Of what no price is known, so that ``cost``, in the plan's money, is without it."""


@dataclass(frozen=True)
class OtherPrimary:
    """How often another primary outcome would name the right one, none, or another."""

    outcome: str
    shares: Shares


def outlook(plan: Plan, rng: np.random.Generator, *, whole: bool = True) -> Outlook | None:
    """The outlook of ``plan`` on its first primary outcome; None while there is too little to say anything.  None where instruments
    are what is asked about, and nothing wins.  Without the ``whole`` of it
    what would be found and what would help are not looked for, which takes longest; all else is the same.

    Needs two treatments with at least one sample each, a layout that can be drawn, and an outcome with a sound scale.
    """
    amended, plan = plan, plan.first_drawn
    outcome = next((o for o in plan.outcomes if o.primary and o.compared), None)
    if (
        plan.agreement is not None
        or outcome is None
        or outcome.scale.problems()
        or len(plan.treatments) < 2
        or not 0 < plan.alpha < 1
    ):
        return None
    if any(t.samples < 1 for t in plan.treatments) or plan.sample_count > MOST_SAMPLES or plan.block_count < 1:
        return None
    if plan.layout.kind in ("latin", "split", "pairs") and [*layout_problems(plan)]:
        return None
    all_of_it, plan = plan, part_for(plan, outcome)
    if len(plan.treatments) < 2:
        return None
    truth, assumed = expectation(plan, outcome)
    others = [o for o in plan.outcomes if o.primary and o.compared and o.key != outcome.key and not o.scale.problems()]
    truths = [truth, *(expectation(plan, one)[0] for one in others)]
    design = Design.of_plan(plan)
    a, b, smallest = hardest_pair(plan)
    seeds = rng.integers(2**63, size=3)
    shares, *rest = play_each(design, truths, np.random.default_rng(seeds[0]))
    standing = _standing(smallest, plan.level, shares)
    costs = all_samples(amended)
    found = None if smallest > plan.level or not whole else _found(design, truths, int(seeds[1]))
    return Outlook(
        standing=standing,
        headline=_headline(plan, standing, smallest, shares),
        outcome=outcome.name,
        unit=unit_of(outcome.scale),
        smallest_p=smallest,
        between=(plan.treatments[a].name, plan.treatments[b].name),
        lead=truth.lead,
        spread=truth.spread,
        assumed=tuple(assumed),
        shares=shares,
        found_8_in_10=found,
        advice=()
        if shares.right >= ENOUGH or not whole
        else advice_for(plan, outcome, truths, found, (int(seeds[0]), int(seeds[2]))),
        rare=_rare(plan, outcome),
        steps=(
            *_steps(plan, outcome, truth, smallest, shares, (a, b)),
            *_on_some(all_of_it, outcome, others),
            *_without_added(amended),
        ),
        samples=amended.sample_count,
        cost=costs[0] if costs else None,
        unpriced=costs[1] if costs else (),
        minutes=minutes_for(readings_of(amended), None),
        alone=play(design, [truth], np.random.default_rng(seeds[0]), QUICK).right if others and whole else None,
        others=tuple(OtherPrimary(one.name, own) for one, own in zip(others, rest, strict=True)),
        whole=whole,
    )


def _on_some(plan: Plan, outcome: Outcome, others: list[Outcome]) -> tuple[str, ...]:
    """What is played otherwise than it is planned, where an outcome is read on some samples only."""
    own = planned_for(plan, outcome)
    said = [f"{outcome.name} is read on {sum(own)} of {plan.sample_count} {plan.sample.many}: these are played."]
    said += [
        f"{one.name} is read on other {plan.sample.many}; it is played as if it were read on these."
        for one in others
        if planned_for(plan, one) != own
    ]
    return tuple(said if sum(own) != plan.sample_count else said[1:])


def _without_added(plan: Plan) -> tuple[str, ...]:
    added = plan.sample_count - plan.first_drawn.sample_count
    if not added:
        return ()
    return (f"Played as it was drawn at first, without the {plan.sample.counted(added)} that were added later.",)


def expectation(plan: Plan, outcome: Outcome) -> tuple[Truth, list[str]]:
    """The truth to simulate for ``outcome``, and which parts of it were assumed (``lead``, ``spread``).

    Where samples stand in several places without blocks, the spread between places adds to that between samples.
    """
    assumed = []
    spread = outcome.spread
    if spread is None:
        assumed.append("spread")
        spread = usual_spread(outcome)
    lead = outcome.expected
    if lead is None:
        assumed.append("lead")
        fails = isinstance(outcome.scale, PassFailScale | EventScale)
        lead = 1.5 * outcome.margin if outcome.margin else (0.4 if fails else 1.5 * spread)
    plots = (outcome.between if outcome.between is not None else spread / 2) if plan.layout.kind == "split" else 0.0
    if plan.layout.kind == "random" and outcome.between:
        spread = math.hypot(spread, outcome.between)
    looks = tuple(float(c.offset) for c in plan.looked_at(outcome) if c.offset > 0) if plan.checkpoints else ()
    rising = tuple(sorted(set(looks))) or (1.0,)
    return Truth(outcome.scale, lead, spread, outcome.margin, plan.level, plots, rising), assumed


def usual_spread(outcome: Outcome) -> float:
    """A spread to begin with: most of a grade or step, that of chance for counts out of n, the margin, or 1."""
    match outcome.scale:
        case PassFailScale() | EventScale():
            return 0.5
        case GradeScale(levels=levels):
            whole = max(1, len([level for level in levels if "½" not in level.label]) - 1)
            return 0.8 * (levels[-1].value - levels[0].value) / whole
        case ShadeScale():
            return 0.8
        case LadderScale(steps=steps):
            return 0.8 * (steps[-1] - steps[0]) / max(1, len(steps) - 1)
        case CountScale(of=int() as of):
            return max(0.5, float(np.sqrt(of) / 2))
        case _:
            return outcome.margin or outcome.expected or 1.0


def _standing(smallest: float, alpha: float, shares: Shares) -> str:
    if smallest > alpha:
        return "impossible"
    return "enough" if shares.right >= ENOUGH else "fair" if shares.right >= HARDLY else "weak"


def _each(plan: Plan) -> str:
    numbers = sorted({plan.per_treatment(t) // plan.block_count for t in plan.treatments})
    each = f"{numbers[0]}" if len(numbers) == 1 else f"{numbers[0]} to {numbers[-1]}"
    word = plan.sample.one if each == "1" else plan.sample.many
    return f"{each} {word} each" + (f" in {plan.block_count} blocks" if plan.block_count > 1 else "")


def _headline(plan: Plan, standing: str, smallest: float, shares: Shares) -> str:
    share = round(100 * shares.right)
    match standing:
        case "impossible" if smallest >= 1:
            return f"Not enough. With {_each(plan)}, chance cannot be told from a real difference at all."
        case "impossible":
            return (
                f"Not enough. With {_each(plan)}, even a perfect result could be luck 1 time in {round(1 / smallest)}."
            )
        case "weak":
            return f"Hardly. With {_each(plan)} it would name the best one only {share} times in 100."
        case "fair":
            return f"More often than not. With {_each(plan)} it would name the best one {share} times in 100."
        case _:
            return f"Enough. With {_each(plan)} it would name the best one {share} times in 100."


def _found(design: Design, truths: list[Truth], seed: int) -> float | None:
    """The lead that would be named 8 times in 10, by halving between none and four times what is expected."""
    truth = truths[0]
    widest = 1.0 if isinstance(truth.scale, PassFailScale | EventScale) else 4 * max(truth.lead, 2 * truth.spread)
    if truth.scale.ends is not None:
        widest = min(widest, truth.scale.ends[1] - truth.scale.ends[0])

    def right(lead: float) -> float:
        return play(design, [replace(truth, lead=lead), *truths[1:]], np.random.default_rng(seed), QUICK).right

    if right(widest) < ENOUGH:
        return None
    low, high = 0.0, widest
    for _ in range(LOOKS):
        middle = (low + high) / 2
        low, high = (low, middle) if right(middle) >= ENOUGH else (middle, high)
    return high


def _rare(plan: Plan, outcome: Outcome) -> str | None:
    if not isinstance(outcome.scale, PassFailScale | EventScale):
        return None
    n, all_of_them = min(plan.per_treatment(t) for t in plan.treatments), plan.sample_count
    rate = outcome.rare or USUALLY_RARE
    told = f"If none of {n} fails, up to {honest(100 * still_possible(n), 2)} in 100 may still fail"
    if len({plan.per_treatment(t) for t in plan.treatments}) == 1 and len(plan.treatments) > 1:
        told += (
            f"; if none of all {all_of_them} does, up to {honest(100 * still_possible(all_of_them), 2)} in 100 over all"
        )
    needed = samples_to_see_one(rate)
    told += f". To see a failure that comes {_one_in(rate)} takes {needed} of each"
    if outcome.rare is None:
        return f"{told}."
    if n >= needed:
        return f"{told}: there are enough."
    together = "enough" if all_of_them >= needed else "too few, too"
    return f"{told}: there are too few. All {all_of_them} together are {together}."


def _one_in(rate: float) -> str:
    """A share as people say it.

    >>> _one_in(0.05), _one_in(0.3)
    ('1 time in 20', '30 times in 100')
    """
    return (
        f"1 time in {round(1 / rate)}"
        if abs(1 / rate - round(1 / rate)) < 1e-6
        else f"{honest(100 * rate)} times in 100"
    )


def _steps(
    plan: Plan, outcome: Outcome, truth: Truth, smallest: float, shares: Shares, pair: tuple[int, int]
) -> tuple[str, ...]:
    a, b = (plan.treatments[i] for i in pair)
    unit = unit_of(outcome.scale)
    return (
        f"Smallest p: {_against(plan, a, b)} can be arranged in so many ways that the most extreme "
        f"result has p = {honest(smallest)}; the plan's level is {plan.level:g}.",
        *(
            (
                f"{1 + sum(o.primary and o.compared for o in plan.outcomes if o is not outcome)} primary outcomes share the level.",
            )
            if sum(o.primary and o.compared for o in plan.outcomes) > 1
            else ()
        ),
        f"Simulated {shares.plays} times: one treatment truly {honest(truth.lead)} {unit} better than all others, samples "
        f"treated alike spread by {honest(truth.spread)} {unit} (standard deviation), on the outcome's own scale.",
        "Each time the verdict's own rule was applied: the leader must beat each other one in its own pair test"
        + (f" and lead by at least {honest(truth.margin)}." if truth.margin else "."),
        f"Named the best one {round(100 * shares.right)}, none {round(100 * shares.none)}, another one "
        f"{round(100 * shares.wrong)} times in 100.",
    )


def _against(plan: Plan, a: Treatment, b: Treatment) -> str:
    match plan.layout.kind:
        case "latin":
            squares = a.samples // len(plan.treatments)
            return f"{'a Latin square' if squares == 1 else f'{squares} Latin squares'} of {len(plan.treatments)}"
        case "pairs":
            return f"{a.samples} pairs"
        case "split":
            hard = plan.hard_factor
            if hard is not None and a.levels.get(hard.key) != b.levels.get(hard.key):
                plots = plan.layout.whole_plots
                each = " in each block" if plan.block_count > 1 else ""
                return f"{plots} whole plots against {plots}{each}"
            return f"{a.samples} against {b.samples} in each whole plot"
        case _:
            return f"{a.samples} against {b.samples}{' in each block' if plan.block_count > 1 else ''}"
