"""What may be wrong with outcomes: scales, margins, and when they are judged."""

from __future__ import annotations

from collections.abc import Iterator

from fieldtally.core.design.plan import Outcome, Plan, Proof
from fieldtally.core.design.sound.naming import key_problems, repeated
from fieldtally.core.problems import Problem
from fieldtally.core.quantities.converting import converted
from fieldtally.core.scales import (
    CountScale,
    EventScale,
    GradeScale,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    ShadeScale,
    honest,
    unit_of,
)

LONGEST_WAIT = 24 * 60
PRACTISED_ON = (GradeScale, PassFailScale, ShadeScale, PercentScale, CountScale)
"""What is judged by eye, and can be practised."""


def outcome_problems(plan: Plan) -> Iterator[Problem]:
    """Every reason why the outcomes may not be sealed as they are."""
    if not plan.outcomes:
        yield Problem("outcomes", "Say what will be looked at: at least one outcome.")
    elif plan.agreement is None and not any(outcome.primary for outcome in plan.outcomes):
        yield Problem("outcomes", "Mark at least one outcome as primary: only that one carries a claim.")
    yield from key_problems("outcomes", [outcome.key for outcome in plan.outcomes])
    for i, outcome in enumerate(plan.outcomes):
        for problem in (
            *_outcome(outcome, agree=plan.agreement is not None),
            *_margin(outcome),
            *_summary(plan, outcome),
        ):
            yield Problem(f"outcomes.{i}.{problem.at}", problem.says)
    for i, name in repeated([outcome.name for outcome in plan.outcomes]):
        yield Problem(f"outcomes.{i}.name", f"Two outcomes are called “{name}”.")


def _outcome(outcome: Outcome, *, agree: bool) -> Iterator[Problem]:
    if not outcome.name.strip():
        yield Problem("name", "This outcome has no name.")
    for problem in outcome.scale.problems():
        yield Problem(f"scale.{problem.at}", problem.says)
    if outcome.better == "target" and outcome.target is None:
        yield Problem("target", "Nearest a target: give the target.")
    if agree:
        # Nothing wins on it: it is an instrument.
        pass
    elif outcome.primary and not outcome.compared:
        yield Problem(
            "primary", "Words cannot carry a claim: take the mark off, or choose a scale that can be compared."
        )
    elif outcome.primary and outcome.better == "none":
        yield Problem("better", "A claim needs a side that is better; without one this outcome can only support.")
    if not 0 <= outcome.weight <= 100:
        yield Problem("weight", "A weight lies between 0 (left out of the tally) and 100.")
    if outcome.rare is not None and not 0 < outcome.rare < 1:
        yield Problem("rare", "A share lies between none and all: 0.01 is 1 in 100.")
    if outcome.wait is not None and not 0 < outcome.wait <= LONGEST_WAIT:
        yield Problem("wait", "A wait inside a round lasts more than 0 minutes and at most a day.")
    if outcome.practised and not isinstance(outcome.scale, PRACTISED_ON):
        yield Problem("practised", "There is nothing to practise by eye on this scale: take the mark off.")
    yield from _proof(outcome.proof)


def _proof(proof: Proof) -> Iterator[Problem]:
    if proof.known_readings and proof.known is None:
        yield Problem("proof.known", "Say what the known sample is known to be.")


def _margin(outcome: Outcome) -> Iterator[Problem]:
    for part, says in (
        ("margin", "The smallest difference that matters must be more than 0."),
        ("expected", "The lead you hope for must be more than 0."),
        ("spread", "The spread between samples treated alike must be more than 0."),
        ("between", "The spread between blocks cannot be below 0."),
    ):
        value = getattr(outcome, part)
        if value is not None and (value < 0 or (value == 0 and part != "between")):
            yield Problem(part, says)
    scale, margin = outcome.scale, outcome.margin
    if margin is None or margin <= 0 or scale.problems():
        return
    unit, given = unit_of(scale), outcome.margin_unit.strip()
    if given and given != unit:
        same = converted(margin, given, unit)
        instead = (
            f": {honest(margin, 6)} {given} is {honest(same, 6)} {unit}." if same is not None else "; give it anew."
        )
        yield Problem("margin", f"It was given in {given}, but the scale is in {unit or 'no unit'} now{instead}")
    elif isinstance(scale, PassFailScale | EventScale) and margin > 1:
        yield Problem("margin", "For pass or fail the difference is a share from 0 to 1 (0.2 is 20 in 100).")
    elif scale.ends is not None and margin > scale.ends[1] - scale.ends[0]:
        width = scale.ends[1] - scale.ends[0]
        yield Problem("margin", f"The whole scale is only {honest(width)} wide, so no difference could matter.")
    elif isinstance(scale, MeasurementScale) and scale.resolution is not None and margin < scale.resolution:
        yield Problem(
            "margin",
            f"Nobody can see {honest(margin, 4)} {unit} in steps of {honest(scale.resolution, 4)}: "
            f"{honest(scale.resolution, 4)} {unit} is the least that could matter, or read to finer steps.",
        )
    elif isinstance(scale, GradeScale) and margin < min(
        b.value - a.value for a, b in zip(scale.levels, scale.levels[1:], strict=False)
    ):
        # A mean of grades may well differ by less than a step: only far less is out of reach.
        step = min(b.value - a.value for a, b in zip(scale.levels, scale.levels[1:], strict=False))
        if margin < step / 10:
            yield Problem(
                "margin", f"The grades lie {honest(step)} apart; a difference of {honest(margin)} is lost in them."
            )


def _summary(plan: Plan, outcome: Outcome) -> Iterator[Problem]:
    known = {checkpoint.key for checkpoint in plan.checkpoints}
    for key in outcome.checkpoints:
        if key not in known:
            yield Problem("checkpoints", "It is looked at on a checkpoint that is no longer in the plan.")
            return
    looked_at = [checkpoint.key for checkpoint in plan.looked_at(outcome)]
    for part in ("checkpoint", "baseline"):
        key = getattr(outcome.summary, part)
        if key is not None and key not in looked_at:
            yield Problem(f"summary.{part}", "It is judged at a checkpoint where it is not looked at.")
    kind = outcome.summary.kind
    if kind != "value" and isinstance(outcome.scale, EventScale):
        yield Problem("summary.kind", "An event is judged by when it was seen, and by nothing else.")
    elif kind in ("area", "slope", "threshold") and len(looked_at) < 2:
        yield Problem("summary.kind", "What happens over time needs at least two checkpoints.")
    elif kind == "threshold" and outcome.summary.threshold is None:
        yield Problem("summary.threshold", "Which value has to be crossed?")
    if kind in ("change", "percent"):
        if len(looked_at) < 2:
            yield Problem("summary.kind", "A change needs two checkpoints: one before, one after.")
        elif outcome.summary.checkpoint in looked_at or outcome.summary.baseline in looked_at:
            after = outcome.summary.checkpoint or looked_at[-1]
            before = outcome.summary.baseline or looked_at[0]
            if after in looked_at and before in looked_at and looked_at.index(after) <= looked_at.index(before):
                yield Problem("summary.baseline", "The baseline must come before the checkpoint it is compared with.")
