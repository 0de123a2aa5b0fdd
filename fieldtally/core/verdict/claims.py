"""What may not be claimed: the limits that follow from the plan, the layout and what happened."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from fieldtally.core.design.asked import told
from fieldtally.core.design.fair.items import ITEMS
from fieldtally.core.design.fair.judges import Known
from fieldtally.core.design.fairness import given_up
from fieldtally.core.design.later import said_of_added
from fieldtally.core.design.plan import Plan
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.scales import honest
from fieldtally.core.schedule.naming import called
from fieldtally.core.verdict.telling.names import ended, listed, lowered

MOST_LOOKS = 120
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
    slips: tuple[str, ...] = ()
    """Which looks were read beside their window, by how much, a sentence each."""
    sealed_after: str = ""
    """How long after the start the plan was sealed; empty where it was sealed before."""
    noted: tuple[str, ...] = ()
    """The looks that were taken before the seal and typed in from a notebook, by name."""
    late_starts: tuple[str, ...] = ()
    """Which samples started later than planned, by how much, a sentence each."""
    starts_tell: tuple[str, ...] = ()
    """Treatments (names) whose samples began at moments of their own, several at once."""
    unread: tuple[str, ...] = ()
    """Which treatments have no reading of what they are judged by, a sentence each."""
    withdrawn: tuple[str, ...] = ()
    """Outcomes (names) that were measured and withdrawn."""
    instruments: tuple[str, ...] = ()
    """What may not be claimed of instruments that were held against each other, a sentence each."""
    after_key: int = 0
    """How many of the samples that do not count were left out only once the key was open."""


def may_not_be_claimed(plan: Plan, happened: Happened) -> tuple[str, ...]:
    """Sentences, the most important first."""
    limits = [f"That the record is as it was made: {says}" for says in happened.altered]
    if plan.tasting:
        return (*limits, *_of_a_tasting(plan))
    limits += _what_became_of_the_plan(happened)
    if happened.afterwards:
        limits.append(
            "That this was foreseen: the plan was made afterwards, from results that were there already, so nothing was sealed and "
            "another question might have been asked had they come out otherwise."
        )
        limits.append("That the scoring was blind, or the order random: nobody recorded either.")
    if plan.agreement is not None:
        return (*limits, *_of_instruments(plan, happened))
    given = dict(given_up(plan, Known(happened.predictions)))
    if plan.control is None and NO_CONTROL not in given:
        limits.append(NO_CONTROL)
    limits += [f"{limit} Given up beforehand: {ended(reason)}" for limit, reason in given.items()]
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
    limits += _of_some(plan)
    if plan.show_previous:
        limits.append("That each look was a fresh one: scorers saw what they had given before.")
    limits.append("Why the best one works: only that this one did, here.")
    if plan.layout.kind == "blocks":
        places = ", ".join(block.name for block in plan.layout.blocks)
        limits.append(f"Other places than {places}.")
    else:
        limits.append("Other places, seasons or batches: all samples stood in one.")
    if happened.last_checkpoint:
        limits.append(f"Anything after {happened.last_checkpoint}: nobody looked later.")
    outcomes = ", ".join(lowered(outcome.name) for outcome in plan.outcomes)
    gone = [lowered(name) for name in happened.withdrawn]
    was = "was" if len(gone) == 1 else "were"
    but = (
        f"{listed(gone)} {was} measured and withdrawn, nothing else was measured"
        if gone
        else "nothing else was measured"
    )
    limits.append(f"Anything but {outcomes}: {but}, however it looked.")
    supporting = [lowered(outcome.name) for outcome in plan.outcomes if not outcome.primary]
    if supporting:
        limits.append(
            f"A winner on {', '.join(supporting)}: looked at as support only, so not guarded against chance finds."
        )
    limits += [
        f"What happened at every planned look: one was skipped ({reason.strip()})." for reason in happened.skipped
    ]
    limits += [
        f"That all went as first planned: the plan was amended ({reason.strip()})." for reason in happened.amendments
    ]
    limits += said_of_added(plan)
    return tuple(limits)


def _of_some(plan: Plan) -> Iterator[str]:
    """What was asked of some samples alone."""
    for outcome in plan.outcomes:
        if outcome.only:
            yield f"{outcome.name.strip()} of other {plan.sample.many}: it was planned for {told(plan, outcome.only)} alone."
    for checkpoint in plan.checkpoints:
        if checkpoint.only:
            seen = told(plan, checkpoint.only)
            yield f"What other {plan.sample.many} were like at {called(checkpoint)}: only {seen} were looked at then."
    for outcome in plan.outcomes:
        if outcome.done is not None:
            at = f"{honest(outcome.done.at)} {outcome.done.side}"
            yield (
                f"What became of {plan.sample.many} once {lowered(outcome.name)} was {at}: they were done, as planned, and that reading "
                "stands for their later looks."
            )


def _of_instruments(plan: Plan, happened: Happened) -> Iterator[str]:
    """What a comparison of instruments may not claim; nothing wins in it."""
    yield from (f"{limit} Given up beforehand: {ended(reason)}" for limit, reason in given_up(plan))
    yield from happened.instruments
    yield from (f"That nothing else befell the samples: {says}" for says in happened.accidents)
    yield from (f"What could not be measured to the end: {says}" for says in happened.methods)
    yield from (
        f"What happened at every planned look: one was skipped ({reason.strip()})." for reason in happened.skipped
    )
    yield from (
        f"That all went as first planned: the plan was amended ({reason.strip()})." for reason in happened.amendments
    )


def _of_a_tasting(plan: Plan) -> Iterator[str]:
    """What a tasting may not claim: it has people instead of samples, and nothing was looked at over time."""
    yield from (f"{limit} Given up beforehand: {ended(reason)}" for limit, reason in given_up(plan))
    yield "What other people notice or like: those who judged are whoever came."
    yield "Another batch or another day: all was poured from what stood there then."
    yield f"Anything but what was asked (“{plan.question.strip()}”): nothing else was."


def _what_became_of_the_plan(happened: Happened) -> list[str]:
    """What was done otherwise than planned, and so stands before everything else."""
    found = []
    if happened.sealed_after:
        seen = f", with {listed(happened.noted, MOST_LOOKS)} seen" if happened.noted else ""
        found.append(
            f"That nothing was known when the plan was sealed: that was {happened.sealed_after} after the start{seen}."
            + (" What is compared, by what and until when could still be chosen then." if seen else "")
        )
    if happened.noted:
        were = "it was" if len(happened.noted) == 1 else "they were"
        found.append(
            f"That hope did not help at {listed(happened.noted, MOST_LOOKS)}: {were} looked at before the seal by people who could know "
            "which was which, and typed in later from a notebook."
        )
    found += [f"That every look was taken when it was planned: {says}" for says in happened.slips]
    found += [f"That all samples started as planned: {says}" for says in happened.late_starts]
    if happened.starts_tell and not happened.afterwards:
        found.append(
            f"That nobody could tell which samples belong together: those of {listed(happened.starts_tell, MOST_LOOKS)} began at moments "
            "of their own, and a round shows what is later and what is over."
        )
    if happened.open_rounds:
        found.append(
            f"That hope did not help: {happened.open_rounds} of {noun('round').counted(happened.rounds)} "
            f"{'was' if happened.open_rounds == 1 else 'were'} scored by someone who had seen the key."
        )
    found += [f"Anything about it: {says}" for says in happened.unread]
    late = ""
    if happened.after_key:
        late = f", {happened.after_key} of them only once the key was open"
    if happened.set_aside:
        many = "1 was" if happened.set_aside == 1 else f"{happened.set_aside} were"
        found.append(f"All samples: {many} set aside{late}; the verdict with all of them is told beside.")
    if happened.left_out:
        many = "1 does" if happened.left_out == 1 else f"{happened.left_out} do"
        late = "" if happened.set_aside else late
        found.append(
            f"All samples to the end: {many} not count from an accident on{late}; the verdict with them is told beside."
        )
    return found
