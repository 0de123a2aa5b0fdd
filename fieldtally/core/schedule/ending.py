"""Stop rules: whether a trial has come to the end that was fixed beforehand.

Judged over all samples together, never by treatment, so that it may be told while the key is sealed.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from statistics import fmean

from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.scales import EventScale, honest, unit_of

Values = Mapping[str, Mapping[str, float]]
"""For each look (key), the value of each sample (any name) that has one."""


@dataclass(frozen=True)
class EndingFinding:
    """Whether the rule is met, and how it stands in a sentence."""

    met: bool
    says: str


def ending_finding(plan: Plan, values: Values, samples: int) -> EndingFinding | None:
    """How the stop rule of ``plan`` stands; None where it simply ends at its last look.

    ``values`` are those of the rule's outcome, by look; ``samples`` is how many are watched.
    """
    outcome = next((o for o in plan.outcomes if o.key == plan.ending.outcome), None)
    if plan.ending.kind == "fixed" or outcome is None:
        return None
    looks = [values[c.key] for c in plan.looked_at(outcome) if values.get(c.key)]
    if plan.ending.kind == "levelled":
        return _levelled(outcome, looks)
    return _failed(outcome, looks, samples, 1.0 if plan.ending.kind == "all" else 0.5)


def _failed(outcome: Outcome, looks: list[Mapping[str, float]], samples: int, share: float) -> EndingFinding:
    bad = 1.0 if isinstance(outcome.scale, EventScale) else 0.0
    failed = len({name for look in looks for name, value in look.items() if value == bad})
    met = samples > 0 and failed >= share * samples
    wanted = "all" if share == 1 else "half"
    return EndingFinding(
        met,
        f"{failed} of {samples} have failed on {outcome.name}"
        + (f": the rule to end once {wanted} have is met." if met else f"; it ends once {wanted} have."),
    )


def _levelled(outcome: Outcome, looks: list[Mapping[str, float]]) -> EndingFinding:
    margin, unit = outcome.margin or 0.0, unit_of(outcome.scale)
    if len(looks) < 3:
        return EndingFinding(
            False, f"{outcome.name} has levelled off once two steps in a row change it by less than matters."
        )
    steps = []
    for before, after in ((looks[-3], looks[-2]), (looks[-2], looks[-1])):
        both = before.keys() & after.keys()
        if not both:
            return EndingFinding(False, f"The last looks at {outcome.name} share no sample.")
        steps.append(abs(fmean(after[name] - before[name] for name in sorted(both))))
    met = max(steps) < margin
    changed = (
        f"{outcome.name} changed by {honest(steps[0])} and {honest(steps[1])} {unit} over the last two steps".strip()
    )
    return EndingFinding(
        met,
        f"{changed}, less than the {honest(margin)} that matters: the rule to end is met."
        if met
        else f"{changed}; it ends once both are below {honest(margin)}.",
    )
