"""What may be wrong with checkpoints and with the rule that ends the trial."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from fieldtally.core.design.plan import Checkpoint, Plan
from fieldtally.core.design.sound.naming import key_problems, repeated
from fieldtally.core.problems import Problem
from fieldtally.core.scales import EventScale, PassFailScale

DAY = 24 * 60
LONGEST_OFFSET = DAY * 366 * 20


def checkpoint_problems(plan: Plan) -> Iterator[Problem]:
    """Every reason why the checkpoints may not be sealed as they are."""
    if not plan.checkpoints:
        yield Problem("checkpoints", "Say when you will look: at least one checkpoint.")
    elif all(checkpoint.baseline for checkpoint in plan.checkpoints):
        yield Problem("checkpoints", "A baseline alone shows nothing of the treatments: add a look after the start.")
    yield from key_problems("checkpoints", [checkpoint.key for checkpoint in plan.checkpoints])
    for i, checkpoint in enumerate(plan.checkpoints):
        for problem in _one(plan, checkpoint):
            yield Problem(f"checkpoints.{i}.{problem.at}", problem.says)
    for i, name in repeated([f"{checkpoint.name} {checkpoint.stage}" for checkpoint in plan.checkpoints]):
        yield Problem(f"checkpoints.{i}.name", f"Two checkpoints are called “{name.strip()}”.")
    yield from _together(plan)
    yield from _interim(plan)
    yield from _stop(plan)


def _one(plan: Plan, checkpoint: Checkpoint) -> Iterator[Problem]:
    if not checkpoint.name.strip():
        yield Problem("name", "This checkpoint has no name.")
    if checkpoint.offset < 0:
        yield Problem("offset", "A checkpoint cannot come before the start of exposure.")
    elif checkpoint.offset > LONGEST_OFFSET:
        yield Problem("offset", "That is more than twenty years after the start.")
    elif checkpoint.baseline and checkpoint.offset:
        yield Problem("offset", "A baseline is taken before the start of exposure, so it has no time after it.")
    if checkpoint.clock is not None:
        if not 0 <= checkpoint.clock < DAY:
            yield Problem("clock", "An hour of the day lies between 00:00 and 23:59.")
        elif checkpoint.cycle is not None or checkpoint.baseline or checkpoint.offset < DAY or checkpoint.offset % DAY:
            days = max(1, round(checkpoint.offset / DAY))
            yield Problem("clock", f"An hour of the day goes with whole days after the start: {days} would work.")
    if checkpoint.cycle is not None:
        if checkpoint.cycle < 1:
            yield Problem("cycle", "It comes after one cycle at the earliest.")
        if not plan.cycle_word.strip():
            yield Problem("cycle", "Say what a cycle is (a wash, a firing, a use).")
    if checkpoint.before < 0 or checkpoint.after < 0:
        yield Problem("after", "A window cannot be shorter than nothing.")
    if max(checkpoint.before, checkpoint.after) > LONGEST_OFFSET:
        yield Problem("after", "A window cannot be longer than twenty years.")


def _together(plan: Plan) -> Iterator[Problem]:
    """Looks at the same time, windows that overlap, cycles that run against the time."""
    index = {checkpoint.key: i for i, checkpoint in enumerate(plan.checkpoints)}
    timed = [c for c in plan.in_time if c.offset >= 0 and not c.baseline and not c.unplanned]
    for earlier, later in itertools.pairwise(timed):
        i = index[later.key]
        if later.offset == earlier.offset:
            if not (earlier.stage.strip() and later.stage.strip()):
                yield Problem(
                    f"checkpoints.{i}.offset",
                    f"It falls at the same time as “{earlier.name.strip()}”: give both a stage (before cleaning, after "
                    "cleaning), or another time.",
                )
        elif (
            earlier.cycle is None
            and later.cycle is None
            and later.offset - later.before < earlier.offset + earlier.after
        ):
            room = later.offset - earlier.offset - earlier.after
            instead = f" At most {room} min before would do." if room > 0 else ""
            yield Problem(
                f"checkpoints.{i}.before",
                f"Its window opens before that of “{earlier.name}” has closed: one look would count for two.{instead}",
            )
        if earlier.cycle is not None and later.cycle is not None and later.cycle < earlier.cycle:
            yield Problem(
                f"checkpoints.{i}.cycle", f"It comes later than “{earlier.name.strip()}” but after fewer cycles."
            )


def _interim(plan: Plan) -> Iterator[Problem]:
    """Interim looks come at checkpoints after the start and before the last one, each once."""
    ends = [c.offset for c in plan.checkpoints if not c.unplanned]
    by_key = {c.key: c for c in plan.checkpoints}
    if len(set(plan.interim)) < len(plan.interim):
        yield Problem("interim", "One of the interim looks is named twice.")
    for key in plan.interim:
        one = by_key.get(key)
        if one is None:
            yield Problem("interim", "An interim look is planned at a checkpoint that is no more in the plan.")
        elif one.baseline or one.unplanned or one.offset >= max(ends):
            yield Problem(
                "interim",
                f"“{one.name}” can be no interim look: it has to come after the start and before the last look.",
            )


def _stop(plan: Plan) -> Iterator[Problem]:
    if plan.ending.kind == "fixed":
        return
    outcome = next((o for o in plan.outcomes if o.key == plan.ending.outcome), None)
    if outcome is None:
        yield Problem("ending.outcome", "Say on which outcome the end is judged.")
    elif plan.ending.kind == "levelled" and outcome.margin is None:
        yield Problem(
            "ending.outcome", f"Levelled off means: changes by less than matters. Give {outcome.name} a margin."
        )
    elif plan.ending.kind in ("all", "half") and not isinstance(outcome.scale, EventScale | PassFailScale):
        yield Problem("ending.outcome", f"{outcome.name} cannot fail: choose an event, or pass or fail.")
    elif plan.ending.kind == "levelled" and len(plan.looked_at(outcome)) < 3:
        yield Problem("ending.outcome", "To see that it has levelled off takes three looks or more.")
