"""What may not be claimed: the limits that follow from the plan, the layout and what happened."""

from __future__ import annotations

from dataclasses import dataclass

from fieldtally.core.design.fair.items import ITEMS
from fieldtally.core.design.fair.judges import Known
from fieldtally.core.design.fairness import given_up
from fieldtally.core.design.plan import Plan

NO_CONTROL = next(item.limit for item in ITEMS if item.key == "control")


@dataclass(frozen=True)
class Happened:
    """What a plan does not know: whether a scorer could know the key, samples set aside, the last checkpoint scored, how
    many predictions were written, what differed, what was amended."""

    open_rounds: int = 0
    rounds: int = 0
    set_aside: int = 0
    last_checkpoint: str | None = None
    predictions: int = 0
    afterwards: bool = False
    """Whether the plan was made from results that were there already."""
    differences: tuple[tuple[str, str], ...] = ()
    """What turned out not to be held equal, and how it differed."""
    skipped: tuple[str, ...] = ()
    """The reasons for which looks were skipped."""
    amendments: tuple[str, ...] = ()
    """The reasons for which the plan was changed after the seal."""
    doses: tuple[str, ...] = ()
    """What was given otherwise than planned, a sentence each."""
    cycles: tuple[str, ...] = ()
    """How settings of cycles differed from the plan, a sentence each."""
    accidents: tuple[str, ...] = ()
    """What happened to samples that were kept all the same, a sentence each."""
    left_out: int = 0
    """How many samples do not count from some moment on."""
    methods: tuple[str, ...] = ()
    """Which outcomes were withdrawn or split midway, and what was lost, a sentence each."""
    altered: tuple[str, ...] = ()
    """What is held otherwise than it was recorded, a sentence each."""
    told_apart: tuple[str, ...] = ()
    """Scorers who could tell treated samples from controls, a sentence each."""


def may_not_be_claimed(plan: Plan, happened: Happened) -> tuple[str, ...]:
    """Sentences, the most important first."""
    limits = [f"That the record is as it was made: {says}" for says in happened.altered]
    if happened.afterwards:
        limits.append(
            "That this was foreseen: the plan was made afterwards, from results that were there already, so nothing was sealed and "
            "another question might have been asked had they come out otherwise."
        )
        limits.append("That the scoring was blind, or the order random: nobody recorded either.")
    given = dict(given_up(plan, Known(happened.predictions)))
    if plan.control is None and NO_CONTROL not in given:
        limits.append(NO_CONTROL)
    limits += [f"{limit} Given up beforehand: {_ended(reason)}" for limit, reason in given.items()]
    limits += [
        f"That {treatment.name.strip()} works by any one of its parts: it was a whole package ({treatment.changes.strip()})."
        for treatment in plan.treatments
        if treatment.package
    ]
    limits += [
        f"That nothing but the treatment differed: {what.strip().lower()} was not held equal ({reason.strip()})."
        for what, reason in happened.differences
    ]
    limits += [f"That every sample got what was planned: {says}" for says in happened.doses]
    limits += [f"That every cycle was the same: {says}" for says in happened.cycles]
    limits += [f"That nothing else befell the samples: {says}" for says in happened.accidents]
    limits += [f"What could not be measured to the end: {says}" for says in happened.methods]
    limits += [f"That the scoring was blind in effect: {says}" for says in happened.told_apart]
    if plan.show_previous:
        limits.append("That each look was a fresh one: scorers saw what they had given before.")
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
    if happened.left_out:
        many = "1 does" if happened.left_out == 1 else f"{happened.left_out} do"
        limits.append(
            f"All samples to the end: {many} not count from an accident on; the verdict with them is told beside."
        )
    limits += [
        f"What happened at every planned look: one was skipped ({reason.strip()})." for reason in happened.skipped
    ]
    limits += [
        f"That all went as first planned: the plan was amended ({reason.strip()})." for reason in happened.amendments
    ]
    return tuple(limits)


def _ended(reason: str) -> str:
    return reason if reason.endswith((".", "!", "?")) else f"{reason}."
