"""Where the words of a plan, or its starts, would tell a blind scorer what is compared."""

from __future__ import annotations

from collections.abc import Iterator

from fieldtally.core.design.plan import Plan
from fieldtally.core.design.starts import given_away
from fieldtally.core.problems import Problem
from fieldtally.core.scales import (
    CountScale,
    EventScale,
    GradeScale,
    NoteScale,
    PassFailScale,
    PercentScale,
    Scale,
    ShadeScale,
)
from fieldtally.server.people.sight import blacked_out

STARTS = "begun.samples"


def leaks_in(plan: Plan) -> list[Problem]:
    """The texts that scorers read and that name a treatment, which are shown blacked out; and starts that go by treatment, which cannot
    be hidden."""
    names = plan.telling_names
    told = [t.name for t in plan.treatments if t.key in given_away(plan)]
    return [
        Problem(at, "This names a treatment; scorers will see it blacked out.")
        for at, text in read_by_scorers(plan)
        if blacked_out(text, names) != text
    ] + [
        Problem(
            STARTS,
            f"{name}: its samples began at a moment of their own. A round says which samples are later and which are over, and so shows "
            "who scores that they belong together. It cannot be hidden, and the verdict will say so.",
        )
        for name in told
    ]


def read_by_scorers(plan: Plan) -> Iterator[tuple[str, str]]:
    """Every text of the plan that reaches a blind scorer, with its path."""
    yield "title", plan.title
    yield "question", plan.question
    yield "sample_word", plan.sample_word
    yield "sample_words", plan.sample_words
    for i, kind in enumerate(plan.kinds):
        yield f"kinds.{i}", kind
    for i, block in enumerate(plan.layout.blocks):
        yield f"layout.blocks.{i}.name", block.name
        yield f"layout.blocks.{i}.note", block.note
    for i, checkpoint in enumerate(plan.checkpoints):
        yield f"checkpoints.{i}.name", checkpoint.name
        yield f"checkpoints.{i}.stage", checkpoint.stage
    for i, outcome in enumerate(plan.outcomes):
        yield f"outcomes.{i}.name", outcome.name
        yield f"outcomes.{i}.group", outcome.group
        yield from _of_scale(f"outcomes.{i}.scale", outcome.scale)


def _of_scale(at: str, scale: Scale) -> Iterator[tuple[str, str]]:
    match scale:
        case GradeScale(levels=levels):
            for j, level in enumerate(levels):
                yield f"{at}.levels.{j}.anchor", level.anchor
        case ShadeScale(steps=steps):
            for j, step in enumerate(steps):
                yield f"{at}.steps.{j}.label", step.label
        case CountScale(what=what) | PercentScale(what=what) | EventScale(what=what):
            yield f"{at}.what", what
        case NoteScale(prompt=prompt):
            yield f"{at}.prompt", prompt
        case PassFailScale(pass_word=passed, fail_word=failed):
            yield f"{at}.pass_word", passed
            yield f"{at}.fail_word", failed
        case _:
            return
