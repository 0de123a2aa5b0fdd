"""Interim looks: stopping before the end, allowed only where the plan said when, and paid for in certainty.

Whoever looks five times at a level of 5 % and stops at the first success finds one in no difference at all far more often than 5 times in
100.  So the level is shared evenly over the planned interim looks and the end (Bonferroni's inequality, which holds however the looks
depend on each other), whether they are then used or not.  An interim look tells only *stop* or *go on*: no treatment, no figure.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.design.plan import Plan, Summary
from fieldtally.core.scales import honest
from fieldtally.core.verdict.conclude import Samples, conclude


@dataclass(frozen=True)
class Looked:
    """What an interim look told: whether to ``stop``, in a sentence."""

    stop: bool
    says: str


def price(plan: Plan) -> str:
    """What the planned interim looks cost, in a sentence; empty where there are none.

    >>> from fieldtally.core.design.plan import Plan
    >>> price(Plan("x", interim=("d4",)))
    'With 1 interim look and the end, each is judged at 2.5 % instead of 5 %, used or not.'
    """
    if not plan.interim:
        return ""
    many = len(plan.interim)
    looks = "1 interim look" if many == 1 else f"{many} interim looks"
    return (
        f"With {looks} and the end, each is judged at {honest(100 * plan.level, 2)} % instead of "
        f"{honest(100 * plan.alpha, 2)} %, used or not."
    )


def cut_at(plan: Plan, checkpoint: str) -> Plan:
    """``plan`` as if ``checkpoint`` (key) were the last look: primary outcomes that are looked at by then, judged there."""
    last = next(c for c in plan.checkpoints if c.key == checkpoint)
    kept = {c.key for c in plan.checkpoints if c.baseline or c.offset <= last.offset}
    outcomes = []
    for outcome in plan.outcomes:
        looks = [c.key for c in plan.looked_at(outcome) if c.key in kept]
        if outcome.primary and outcome.compared and looks and (outcome.summary.baseline in (None, *looks)):
            at = replace(outcome.summary, checkpoint=looks[-1]) if outcome.summary else Summary(checkpoint=looks[-1])
            outcomes.append(replace(outcome, checkpoints=tuple(looks), summary=at))
    return replace(plan, outcomes=tuple(outcomes), checkpoints=tuple(c for c in plan.checkpoints if c.key in kept))


def interim_look(
    plan: Plan,
    samples: Samples,
    values: Mapping[tuple[str, str], Floats],
    checkpoint: str,
    rng: np.random.Generator,
) -> Looked:
    """Whether every primary outcome is clear by ``checkpoint``, a planned interim look, at its share of the level."""
    cut = cut_at(plan, checkpoint)
    wanted = sum(outcome.primary and outcome.compared for outcome in plan.outcomes)
    found = [one for one in conclude(cut, samples, values, rng) if one.claim]
    stop = len(found) == wanted > 0 and all(one.strength.level == "clear" for one in found)
    level = f"{honest(100 * plan.level, 2)} %"
    if stop:
        return Looked(True, f"Stop if you like: the answer is already clear at {level}.")
    return Looked(False, f"Go on: not yet clear at {level}.")
