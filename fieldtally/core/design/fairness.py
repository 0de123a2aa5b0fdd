"""The fairness list: what makes a comparison fair, judged from the plan wherever that can be done.

Each item is kept, or knowingly given up with a reason; what is given up limits what the verdict may claim.  An item that
the plan alone decides cannot be ticked by hand, only given up.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from fieldtally.core.design.fair.items import items_of
from fieldtally.core.design.fair.judges import Known
from fieldtally.core.design.plan import Plan
from fieldtally.core.problems import Problem
from fieldtally.core.scales import GradeScale, PercentScale, ShadeScale

FairStanding = Literal["kept", "open", "given_up"]


@dataclass(frozen=True)
class FairFinding:
    """How an item stands.  ``by_plan``: the plan decides it, so that it can only be mended or given up; ``promised``: it can be given up
    though the plan keeps it, for people may do otherwise.  ``no`` and ``unknown`` are the reasons of who says no, or does not know;
    ``weight`` is how much it matters in this plan beside the others."""

    key: str
    title: str
    standing: FairStanding
    by_plan: bool
    says: str
    why: str
    limit: str
    reason: str
    promised: bool = False
    no: str = ""
    unknown: str = ""
    weight: int = 0


NOBODY_KNOWS = "nobody knows whether it is so"
WEIGHTS = {
    "control": 100,
    "replicates": 95,
    "unit": 80,
    "order": 75,
    "one_change": 60,
    "anchored": 55,
    "held_equal": 50,
    "baseline": 45,
    "method": 35,
    "procedure": 30,
    "apart": 25,
    "stop": 20,
    "prediction": 10,
}
BY_EYE = 90
BY_SCALE = 40
GIVEN_IN_SOMETHING = 85
OTHERWISE = 15


def weight_of(item: str, plan: Plan) -> int:
    """How much an item (key) matters in ``plan``, beside its others: what is asked first.  Blind scoring weighs most where an eye or a
    tongue judges, a placebo where something is given in a carrier.

    >>> weight_of("control", Plan("x")) > weight_of("prediction", Plan("x"))
    True
    """
    if item == "blind":
        eyes = any(isinstance(one.scale, GradeScale | PercentScale | ShadeScale) for one in plan.outcomes)
        return BY_EYE if eyes or not plan.outcomes else BY_SCALE
    if item == "placebo":
        return GIVEN_IN_SOMETHING if plan.carrier.strip() or any(one.doses for one in plan.treatments) else OTHERWISE
    return WEIGHTS.get(item, OTHERWISE)


def fairness_of(plan: Plan, known: Known | None = None) -> tuple[FairFinding, ...]:
    """Every item of the list for ``plan``, in order."""
    stands = {stand.item: stand for stand in plan.fairness}
    found = []
    for item in items_of(plan):
        judged = item.judge(plan, known or Known())
        stand = stands.get(item.key)
        standing: FairStanding = "kept" if judged.kept else "open"
        reason = ""
        if judged.kept is False and judged.reason:
            standing, reason = "given_up", judged.reason
        if stand is not None and (item.promised or not judged.kept):
            if not stand.kept and stand.reason.strip():
                standing, reason = "given_up", stand.reason.strip()
            elif stand.kept and judged.kept is None:
                standing, reason = "kept", stand.reason.strip()
        found.append(
            FairFinding(
                item.key,
                item.title,
                standing,
                judged.kept is not None,
                judged.says,
                item.why,
                item.limit,
                reason,
                item.promised,
                item.no,
                NOBODY_KNOWS,
                weight_of(item.key, plan),
            )
        )
    return tuple(found)


def fairness_problems(plan: Plan, known: Known | None = None) -> list[Problem]:
    """The items that are neither kept nor given up with a reason."""
    return [
        Problem(f"fairness.{one.key}", f"{one.title}: keep it, or give it up with a reason.")
        for one in fairness_of(plan, known)
        if one.standing == "open"
    ]


def given_up(plan: Plan, known: Known | None = None) -> Iterator[tuple[str, str]]:
    """What the verdict may not claim for want of fairness: a sentence, and the reason that was given."""
    for one in fairness_of(plan, known):
        if one.standing == "given_up":
            yield one.limit, one.reason
