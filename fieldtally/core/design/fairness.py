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

FairStanding = Literal["kept", "open", "given_up"]


@dataclass(frozen=True)
class FairFinding:
    """How an item stands.  ``by_plan``: the plan decides it, so that it can only be mended or given up; ``promised``: it can be given up
    though the plan keeps it, for people may do otherwise."""

    key: str
    title: str
    standing: FairStanding
    by_plan: bool
    says: str
    why: str
    limit: str
    reason: str
    promised: bool = False


def fairness_of(plan: Plan, known: Known | None = None) -> tuple[FairFinding, ...]:
    """Every item of the list for ``plan``, in order."""
    stands = {stand.item: stand for stand in plan.fairness}
    found = []
    for item in items_of(plan):
        judged = item.judge(plan, known or Known())
        stand = stands.get(item.key)
        standing: FairStanding = "kept" if judged.kept else "open"
        reason = ""
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
