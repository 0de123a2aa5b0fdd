"""Scoring sheets on paper, for people without a phone; what is written there is typed in later, marked as such."""

from collections.abc import Sequence
from typing import Literal, TypeVar
from uuid import UUID

from django.http import HttpResponse
from ninja import Router

from fieldtally.core.blinding.checking import check_letter
from fieldtally.core.scales import (
    CountScale,
    CurveScale,
    EventScale,
    GradeScale,
    LadderScale,
    NoteScale,
    PassFailScale,
    Scale,
    ShadeScale,
    unit_of,
)
from fieldtally.core.schedule.naming import called
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.log.queries import Deviations
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.prepare.queries import started_samples
from fieldtally.server.printing import file_name, pdf
from fieldtally.server.rounds import services
from fieldtally.server.rounds.going import presented
from fieldtally.server.rounds.spoken import spoken_outcome

router = Router()
Column = TypeVar("Column")
UPRIGHT, TURNED = 5, 8
"""So many outcomes have room side by side on a sheet, and on one that is turned."""


def how(scale: Scale) -> str:
    """How a scale is scored by hand, in a sentence."""
    match scale:
        case GradeScale(levels=levels):
            return (
                "; ".join(f"{level.label}: {level.anchor}" if level.anchor else level.label for level in levels) + "."
            )
        case ShadeScale(steps=steps):
            return "; ".join(f"{i}: {step.label}" for i, step in enumerate(steps, start=1)) + "."
        case PassFailScale(pass_word=passed, fail_word=failed):
            return f"1: {passed}; 0: {failed}."
        case EventScale(what=what):
            return f"1: {what}; 0: not yet."
        case CountScale(of=of, what=what):
            return f"How many {what or 'there are'}{f', of {of}' if of else ''}."
        case LadderScale(unit=unit, steps=steps):
            return f"The highest step held, in {unit}: 0, {', '.join(f'{step:g}' for step in steps)}."
        case CurveScale(unit=unit, step_unit=step_unit, steps=steps):
            return f"In {unit}, at each of {', '.join(f'{step:g}' for step in steps)} {step_unit}."
        case NoteScale(prompt=prompt):
            return prompt or "In words."
        case _:
            return f"A number in {unit_of(scale)}." if unit_of(scale) else "A number."


def side_by_side(columns: Sequence[Column], most: int) -> list[Sequence[Column]]:
    """``columns`` parted over as few sheets as take ``most`` each, all about equally many; one sheet where there are none.

    >>> side_by_side("abcdefghi", 8)
    ['abcd', 'efghi']
    """
    parts = max(1, -(-len(columns) // most))
    return [columns[len(columns) * i // parts : len(columns) * (i + 1) // parts] for i in range(parts)]


@router.post(
    "/trials/{trial_id}/prints/scoring.pdf",
    response={200: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut},
)
def scoring(request: SignedIn, trial_id: UUID, checkpoint: str, paper: Literal["a4", "letter"] = "a4") -> HttpResponse:
    """The scoring sheet of a look, in the order drawn for this scorer; it begins the round that it is typed into."""
    seen = sight(request, trial_id)
    seen.need("score")
    trial = seen.trial
    opened = services.open_round(trial, request.user, checkpoint)
    plan = plan_of(trial)
    names = plan.telling_names
    look = next(c for c in plan.checkpoints if c.key == checkpoint)
    blocks = {block.key: seen.spoken(block.name, names) for block in plan.layout.blocks}
    deviations = Deviations.of(trial)
    shown = presented(opened, trial, plan, deviations, started_samples(trial))
    parts: list[dict[str, object]] = []
    for sample in sorted(shown, key=lambda one: one.blind_repeat):
        block = "Brought to you" if sample.blind_repeat else blocks.get(sample.block, "")
        if not parts or parts[-1]["block"] != block:
            parts.append({"block": block, "rows": []})
        row = {
            "code": sample.code,
            "check": check_letter(sample.code, str(trial.pk)),
            "place": sample.place or "",
            "asked": sample.asked,
        }
        parts[-1]["rows"].append(row)  # type: ignore[attr-defined]
    outcomes = [
        spoken_outcome(seen, outcome, names)
        for outcome in plan.outcomes
        if look in plan.looked_at(outcome) and outcome.key not in deviations.given_up
    ]
    columns = [{"key": o.key, "name": o.name, "unit": unit_of(o.scale), "how": how(o.scale)} for o in outcomes]
    turned = len(columns) > UPRIGHT
    context = {
        "title": seen.titled(trial.title, names),
        "look": seen.spoken(called(look), names),
        "sample_word": seen.sample_of(plan, names).one,
        "outcomes": columns,
        "parts": parts,
        "turned": turned,
        "notes": 46 if turned else 34,
        "sheets": side_by_side(columns, TURNED if turned else UPRIGHT),
    }
    return pdf("prints/scoring.html", context, paper=paper, name=file_name(trial.pk, "scoring"))
