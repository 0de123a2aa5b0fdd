"""What may not be claimed: the limits that follow from the plan, the layout and what happened."""

from __future__ import annotations

from dataclasses import dataclass

from fieldtally.core.design.plan import Plan


@dataclass(frozen=True)
class Happened:
    """What a plan does not know: whether a scorer could know the key, samples set aside, the last checkpoint scored."""

    open_rounds: int = 0
    rounds: int = 0
    set_aside: int = 0
    last_checkpoint: str | None = None


def may_not_be_claimed(plan: Plan, happened: Happened) -> tuple[str, ...]:
    """Sentences, the most important first."""
    limits: list[str] = []
    if plan.control is None:
        limits.append(
            "That anything works at all: there was no control, so only which of these did better than the others."
        )
    if happened.open_rounds:
        limits.append(
            f"That hope did not help: {happened.open_rounds} of {happened.rounds} rounds were scored by someone who had seen the key."
        )
    limits.append("Why the best one works: only that this one did, here.")
    if plan.layout.kind == "blocks":
        places = ", ".join(block.name for block in plan.layout.blocks)
        limits.append(f"Other places than {places}.")
    else:
        limits.append("Other places, seasons or batches: all samples stood in one.")
    if happened.last_checkpoint:
        limits.append(f"Anything after {happened.last_checkpoint}: nobody looked later.")
    outcomes = ", ".join(outcome.name.lower() for outcome in plan.outcomes)
    limits.append(f"Anything but {outcomes}: nothing else was measured, however it looked.")
    supporting = [outcome.name.lower() for outcome in plan.outcomes if not outcome.primary]
    if supporting:
        limits.append(
            f"A winner on {', '.join(supporting)}: looked at as support only, so not guarded against chance finds."
        )
    if happened.set_aside:
        many = "1 was" if happened.set_aside == 1 else f"{happened.set_aside} were"
        limits.append(f"All samples: {many} set aside; the verdict with all of them is told beside.")
    return tuple(limits)
