"""Where the words of a plan would tell a blind scorer what is compared."""

from __future__ import annotations

from collections.abc import Iterator

from fieldtally.core.design.plan import Plan
from fieldtally.core.problems import Problem
from fieldtally.core.scales import GradeScale
from fieldtally.server.people.sight import blacked_out


def leaks_in(plan: Plan) -> list[Problem]:
    """The texts that scorers read and that name a treatment; they are shown blacked out."""
    names = [t.name for t in plan.treatments]
    return [
        Problem(at, "This names a treatment; scorers will see it blacked out.")
        for at, text in read_by_scorers(plan)
        if blacked_out(text, names) != text
    ]


def read_by_scorers(plan: Plan) -> Iterator[tuple[str, str]]:
    """Every text of the plan that reaches a blind scorer, with its path."""
    yield "title", plan.title
    yield "question", plan.question
    yield "sample_word", plan.sample_word
    for i, block in enumerate(plan.layout.blocks):
        yield f"layout.blocks.{i}.name", block.name
        yield f"layout.blocks.{i}.note", block.note
    for i, checkpoint in enumerate(plan.checkpoints):
        yield f"checkpoints.{i}.name", checkpoint.name
    for i, outcome in enumerate(plan.outcomes):
        yield f"outcomes.{i}.name", outcome.name
        if isinstance(outcome.scale, GradeScale):
            for j, level in enumerate(outcome.scale.levels):
                yield f"outcomes.{i}.scale.levels.{j}.anchor", level.anchor
