"""An imagined truth, and the readings that a trial under it would bring."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.compare.laid_out import numbered
from fieldtally.core.design.asked import asks_some, carried, done_after, left_to_read, spots_of
from fieldtally.core.design.layout import Slot
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.outlook.outlook import expectation
from fieldtally.core.outlook.simulate import on_scale
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.scales import EventScale, PassFailScale, honest
from fieldtally.core.verdict.telling.figures import amount

LASTING = 0.8
"""The share of the spread's variance that stays with a sample from look to look; the rest is new at each look."""


@dataclass(frozen=True)
class Imagined:
    """What is really so of one outcome, in its scale's unit (shares from 0 to 1 for pass or fail and events): the true
    mean of each treatment (key) at the look that is judged, and the standard deviation between samples treated alike."""

    outcome: str
    means: dict[str, float]
    spread: float


def usual(plan: Plan, outcome: Outcome) -> Imagined:
    """The truth to begin with: the first treatment that is no control leads by what is hoped for."""
    truth, _ = expectation(plan, outcome)
    ends = outcome.scale.ends
    if isinstance(outcome.scale, PassFailScale | EventScale):
        middle, lead = 0.5, min(truth.lead, 1.0)
    else:
        middle = (ends[0] + ends[1]) / 2 if ends else (outcome.target or 0.0) or 10 * truth.spread
        lead = min(truth.lead, ends[1] - ends[0]) if ends else truth.lead
    side = -1 if outcome.better == "less" else 1
    best = next((t.key for t in plan.treatments if not t.is_control), plan.treatments[0].key)
    means = {t.key: round(middle + side * (lead / 2 if t.key == best else -lead / 2), 6) for t in plan.treatments}
    return Imagined(outcome.key, means, round(outcome.spread or truth.spread, 6))


def refuse_nonsense(plan: Plan, imagined: Sequence[Imagined]) -> None:
    """Check ``imagined`` against ``plan``.

    :raises Refused: a truth that no sample could show, each at its field.
    """
    if plan.agreement is not None:
        raise Refused(
            "A dry run plays out which treatment wins; where instruments are held against each other none does."
        )
    problems = []
    outcomes = {outcome.key: outcome for outcome in plan.outcomes if outcome.compared}
    for i, one in enumerate(imagined):
        outcome = outcomes.get(one.outcome)
        if outcome is None:
            problems.append(Problem(f"imagined.{i}", "This outcome is not in the plan."))
            continue
        if not 0 < one.spread < 1e15 and not isinstance(outcome.scale, PassFailScale | EventScale):
            problems.append(Problem(f"imagined.{i}.spread", "The spread between samples treated alike lies above 0."))
        for treatment in plan.treatments:
            mean = one.means.get(treatment.key)
            if mean is None or not np.isfinite(mean):
                problems.append(Problem(f"imagined.{i}.means.{treatment.key}", "Say what is true of this one."))
            elif outcome.scale.ends is not None and not outcome.scale.ends[0] <= mean <= outcome.scale.ends[1]:
                low, high = (amount(end, outcome.scale) for end in outcome.scale.ends)
                problems.append(
                    Problem(
                        f"imagined.{i}.means.{treatment.key}", f"{honest(mean)} is off the scale, from {low} to {high}."
                    )
                )
    if problems:
        raise Refused(problems)


def readings(
    plan: Plan, slots: Sequence[Slot], imagined: Sequence[Imagined], rng: np.random.Generator
) -> dict[tuple[str, str], Floats]:
    """Values (n,) for each outcome and checkpoint (keys), in the order of ``slots``.

    Treatments part in proportion to the time; samples keep most of their own luck from look to look.  An outcome that
    nothing is imagined of shows no difference.
    """
    given = {one.outcome: one for one in imagined}
    found: dict[tuple[str, str], Floats] = {}
    for outcome in plan.outcomes:
        if not outcome.compared:
            continue
        one = given.get(outcome.key) or _alike(plan, outcome)
        target = np.array([one.means[slot.treatment] for slot in slots])
        middle = float(np.mean(list(one.means.values())))
        looked_at = plan.looked_at(outcome)
        judged = next((c for c in looked_at if c.key == plan.judged_at(outcome)), looked_at[-1])
        if isinstance(outcome.scale, PassFailScale | EventScale):
            luck = rng.random(len(slots))
            for checkpoint in looked_at:
                part = _part(checkpoint.offset, judged.offset)
                share = target * part if isinstance(outcome.scale, EventScale) else middle + (target - middle) * part
                found[outcome.key, checkpoint.key] = (luck < share).astype(np.float64)
            continue
        own = rng.standard_normal(len(slots)) * one.spread * np.sqrt(LASTING)
        own += _of_groups(plan, outcome, slots, one.spread, rng)
        for checkpoint in looked_at:
            new = rng.standard_normal(len(slots)) * one.spread * np.sqrt(1 - LASTING)
            moved = middle + (target - middle) * _part(checkpoint.offset, judged.offset)
            found[outcome.key, checkpoint.key] = on_scale(moved + own + new, outcome.scale)
    return as_asked(plan, slots, found) if asks_some(plan) else found


def as_asked(plan: Plan, slots: Sequence[Slot], values: dict[tuple[str, str], Floats]) -> dict[tuple[str, str], Floats]:
    """``values`` as they would be read: NaN where a sample is not asked for them, or is done by then."""
    spots = dict(enumerate(spots_of(plan, [(slot.treatment, slot.block) for slot in slots])))
    outcomes = {outcome.key: outcome for outcome in plan.outcomes}
    done: dict[int, int] = {}
    found = dict(values)
    for checkpoint in plan.in_time:
        left = left_to_read(plan, checkpoint, spots, done)
        for key, outcome in outcomes.items():
            if (key, checkpoint.key) not in values:
                continue
            asked = np.array([key in left.get(at, ()) for at in spots])
            column = np.where(asked, values[key, checkpoint.key], np.nan)
            found[key, checkpoint.key] = column
            if outcome.done is not None:
                read = [(at, key, checkpoint.key, float(column[at])) for at in spots if asked[at]]
                done = {**done_after(plan, read), **done}
    read_on = {look: {at: float(one) for at, one in enumerate(own) if not np.isnan(one)} for look, own in found.items()}
    to_the_end = carried(plan, read_on)
    return {look: np.array([to_the_end.get(look, {}).get(at, np.nan) for at in spots]) for look in found}


def _part(offset: int, judged: int) -> float:
    return 1.0 if judged <= 0 else min(1.5, offset / judged)


def _alike(plan: Plan, outcome: Outcome) -> Imagined:
    own = usual(plan, outcome)
    middle = float(np.mean(list(own.means.values())))
    return Imagined(outcome.key, dict.fromkeys(own.means, middle), own.spread)


def _of_groups(plan: Plan, outcome: Outcome, slots: Sequence[Slot], spread: float, rng: np.random.Generator) -> Floats:
    """What samples share with their block or whole plot (n,)."""
    between = outcome.between if outcome.between is not None else spread / 2
    shared = np.zeros(len(slots))
    for names in ([slot.block for slot in slots], [slot.plot for slot in slots]):
        if any(name is not None for name in names):
            groups = numbered(names)
            shared += (rng.standard_normal(int(groups.max()) + 1) * between)[groups]
    return shared
