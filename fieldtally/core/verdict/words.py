"""The verdict in words a person could read out."""

from __future__ import annotations

from fieldtally.core.compare.columns import Comparison
from fieldtally.core.scales import (
    CountScale,
    CurveScale,
    EventScale,
    LadderScale,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    Scale,
    ShadeScale,
    honest,
    unit_of,
)
from fieldtally.core.verdict.strength import Strength, ranked


def amount(value: float, scale: Scale) -> str:
    """``value`` of an estimate on ``scale``, with its unit: ``17.1 of 20``, ``34 mL``, ``62 %``, ``3.4``."""
    match scale:
        case PassFailScale() | EventScale():
            return f"{honest(100 * value, 2)} %"
        case CountScale(of=int() as of):
            return f"{honest(value)} of {of}"
        case ShadeScale():
            return f"step {honest(value)}"
        case MeasurementScale() | PercentScale() | LadderScale() | CurveScale():
            return f"{honest(value)} {unit_of(scale)}".strip()
        case _:
            return honest(value)


def lowered(name: str) -> str:
    """``name`` as it stands inside a sentence: each word that is capitalised, but no abbreviation, in small letters.

    >>> lowered("Seeds sprouted"), lowered("at Day 10"), lowered("pH of CO2")
    ('seeds sprouted', 'at day 10', 'pH of CO2')
    """
    return " ".join(word.lower() if word[:1].isupper() and word[1:].islower() else word for word in name.split(" "))


def luck(p: float) -> str:
    """What ``p`` means, as a frequency: ``once in 900 shuffles``."""
    if p >= 0.95:
        return "nearly every shuffle does as much"
    if p > 0.5:
        return f"{round(100 * p)} shuffles in 100 do as much"
    return f"chance alone would do this once in {max(2, round(1 / p)):,} shuffles"


def sentence(strength: Strength, comparison: Comparison, scale: Scale, outcome: str, when: str) -> str:
    """The one sentence that opens the verdict: ``outcome`` by its name, ``when`` it was looked at (``at day 10``)."""
    order = ranked(comparison)
    about = f"{lowered(outcome)} {lowered(when)}".strip()
    if strength.level == "spoiled" or not order:
        return f"No verdict on {about}: {strength.because[0].lower()}{strength.because[1:]}"
    best = order[0]
    figures = ", ".join(f"{t.treatment} {amount(t.estimate, scale)}" for t in order if t.estimate is not None)
    first = amount(best.estimate, scale) if best.estimate is not None else ""
    rest = " and ".join(f"{t.treatment} {amount(t.estimate, scale)}" for t in order[1:] if t.estimate is not None)
    if len(order) > 3:
        second = order[1]
        rest = f"{second.treatment} {amount(second.estimate or 0.0, scale)} and the {len(order) - 2} others below that"
    match strength.level:
        case "clear":
            return f"{best.treatment} did best on {about}: {first}, against {rest}."
        case "leaning":
            return f"{best.treatment} seems best on {about}, but it is not sure: {first}, against {rest}."
        case "equal":
            return f"As good as equal on {about}: {figures}. No difference is as large as would matter."
        case "undirected":
            return f"Told without a winner on {about}: {figures}. Neither more nor less is better here."
        case "unreplicated":
            return f"Only one sample each, so only what was seen on {about}: {figures}."
        case _:
            return f"Too close to call on {about}: {figures}."
