"""Outcomes in words that a blind scorer may read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from fieldtally.core.design.plan import Outcome
from fieldtally.core.scales import (
    CountScale,
    CurveScale,
    EventScale,
    GradeScale,
    LadderScale,
    MeasurementScale,
    NoteScale,
    PassFailScale,
    PercentScale,
    Scale,
    ShadeScale,
)
from fieldtally.server.people.sight import Sight


def spoken_outcome(seen: Sight, outcome: Outcome, names: Sequence[str]) -> Outcome:
    """``outcome`` with names of treatments blacked out where ``seen`` may not know them."""

    def say(text: str) -> str:
        return seen.spoken(text, names)

    scale: Scale = outcome.scale
    match scale:
        case GradeScale(levels=levels):
            scale = replace(scale, levels=tuple(replace(v, label=say(v.label), anchor=say(v.anchor)) for v in levels))
        case MeasurementScale(unit=unit) | LadderScale(unit=unit):
            scale = replace(scale, unit=say(unit))
        case CurveScale(unit=unit, step_unit=step_unit):
            scale = replace(scale, unit=say(unit), step_unit=say(step_unit))
        case CountScale(what=what) | PercentScale(what=what) | EventScale(what=what):
            scale = replace(scale, what=say(what))
        case ShadeScale(steps=steps):
            scale = replace(scale, steps=tuple(replace(step, label=say(step.label)) for step in steps))
        case NoteScale(prompt=prompt):
            scale = replace(scale, prompt=say(prompt))
        case PassFailScale(pass_word=passed, fail_word=failed):
            scale = replace(scale, pass_word=say(passed), fail_word=say(failed))
    return replace(
        outcome, name=say(outcome.name), group=say(outcome.group), wait_says=say(outcome.wait_says), scale=scale
    )
