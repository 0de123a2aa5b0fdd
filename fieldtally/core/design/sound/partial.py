"""What may be wrong with groups of treatments, kinds of samples, and with what is asked of some samples only."""

from __future__ import annotations

from collections.abc import Iterator

from fieldtally.core.design.asked import planned_for
from fieldtally.core.design.plan import Outcome, Plan, Some
from fieldtally.core.design.sound.naming import key_problems, repeated
from fieldtally.core.problems import Problem
from fieldtally.core.scales import NoteScale, honest

FEWEST_KINDS, MOST_KINDS = 2, 6


def partial_problems(plan: Plan) -> Iterator[Problem]:
    """Every reason why groups, kinds and what belongs to some samples may not be sealed as they are."""
    yield from _groups(plan)
    yield from _kinds(plan)
    for i, checkpoint in enumerate(plan.checkpoints):
        yield from _named(plan, f"checkpoints.{i}.only", checkpoint.only)
    for i, outcome in enumerate(plan.outcomes):
        yield from _named(plan, f"outcomes.{i}.only", outcome.only)
        yield from _done(f"outcomes.{i}.done", outcome)
        yield from _compared(plan, f"outcomes.{i}.only", outcome)


def _groups(plan: Plan) -> Iterator[Problem]:
    yield from key_problems("groups", [group.key for group in plan.groups])
    for i, group in enumerate(plan.groups):
        if not group.name.strip():
            yield Problem(f"groups.{i}.name", "This group has no name.")
    for i, name in repeated([group.name for group in plan.groups]):
        yield Problem(f"groups.{i}.name", f"Two groups are called “{name}”.")
    known = {group.key for group in plan.groups}
    for i, treatment in enumerate(plan.treatments):
        if treatment.group and treatment.group not in known:
            yield Problem(f"treatments.{i}.group", "It belongs to a group that is no longer in the plan.")


def _kinds(plan: Plan) -> Iterator[Problem]:
    if not plan.kinds:
        return
    if not FEWEST_KINDS <= len(plan.kinds) <= MOST_KINDS:
        yield Problem("kinds", f"Name {FEWEST_KINDS} to {MOST_KINDS} kinds of {plan.sample.one}, or none.")
    for i, name in enumerate(plan.kinds):
        if not name.strip():
            yield Problem(f"kinds.{i}", "This kind has no name.")
    for i, name in repeated(plan.kinds):
        yield Problem(f"kinds.{i}", f"Two kinds are called “{name}”.")
    for treatment in plan.treatments:
        if 0 < plan.per_treatment(treatment) < len(plan.kinds):
            yield Problem(
                "kinds",
                f"{treatment.name} has {plan.per_treatment(treatment)} {plan.sample.many}: too few for {len(plan.kinds)} kinds.",
            )
            return


def _named(plan: Plan, at: str, some: Some) -> Iterator[Problem]:
    known = {
        "treatments": {one.key for one in plan.treatments},
        "groups": {one.key for one in plan.groups},
        "blocks": {one.key for one in plan.layout.blocks} if plan.layout.in_blocks else set(),
        "kinds": set(plan.kinds),
    }
    words = {"treatments": "a treatment", "groups": "a group", "blocks": "a place", "kinds": "a kind"}
    for part, keys in known.items():
        if set(getattr(some, part)) - keys:
            yield Problem(at, f"It is kept to {words[part]} that is no longer in the plan; choose anew.")
            return


def _done(at: str, outcome: Outcome) -> Iterator[Problem]:
    if outcome.done is None:
        return
    if isinstance(outcome.scale, NoteScale):
        yield Problem(at, "Words end nothing: choose an outcome with numbers.")
        return
    ends = outcome.scale.ends
    if ends is not None and not ends[0] <= outcome.done.at <= ends[1]:
        yield Problem(at, f"The scale goes from {honest(ends[0])} to {honest(ends[1])}; nothing would reach that.")


def _compared(plan: Plan, at: str, outcome: Outcome) -> Iterator[Problem]:
    if not outcome.primary or not outcome.compared or not plan.treatments:
        return
    numbers = planned_for(plan, outcome)
    if sum(many > 0 for many in numbers) < 2 <= len(plan.treatments):
        yield Problem(at, "Fewer than two treatments would be read on it, so nothing could be compared.")
    elif plan.compare == "control" and plan.control is not None and not numbers[plan.treatments.index(plan.control)]:
        yield Problem(at, f"{plan.control.name} would not be read on it, and all others are compared with that.")
