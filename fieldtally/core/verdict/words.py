"""The verdict in words a person could read out."""

from __future__ import annotations

import math
from collections.abc import Sequence

from fieldtally.core.compare.columns import Comparison, Estimate
from fieldtally.core.compare.events import EventCourse
from fieldtally.core.scales import (
    CountScale,
    CurveScale,
    EventScale,
    GradeScale,
    LadderScale,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    Scale,
    ShadeScale,
    honest,
    unit_of,
)
from fieldtally.core.verdict.leading import leading
from fieldtally.core.verdict.strength import Strength, StrengthLevel, listed

LEVELS: dict[StrengthLevel, str] = {
    "clear": "Clear",
    "depends": "It depends",
    "leaning": "Leaning",
    "equal": "As good as equal",
    "too_close": "Too close to call",
    "unreplicated": "Unreplicated",
    "nothing": "Nothing to tell apart",
    "spoiled": "Spoiled",
    "undirected": "Told without a winner",
}
"""How sure a verdict is, in words: on the screen, in the report and wherever else a level is told."""
MOST_NAMED = 3
"""With more treatments than that, the others are counted and not named."""
MOST_LISTED, ENDS_LISTED = 12, 5


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


def grade_word(value: float, scale: GradeScale) -> str:
    """A middle grade by the label of its level, or the two that it lies between.

    >>> from fieldtally.core.scales import Level
    >>> letters = GradeScale((Level(0, "C"), Level(1, "B"), Level(2, "A")))
    >>> grade_word(2, letters), grade_word(1.5, letters)
    ('A', 'between B and A')
    """
    below = [level for level in scale.levels if level.value <= value + 1e-9]
    above = [level for level in scale.levels if level.value >= value - 1e-9]
    if not below or not above:
        return honest(value)
    return below[-1].label if below[-1].label == above[0].label else f"between {below[-1].label} and {above[0].label}"


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


def told(one: Estimate, comparison: Comparison, scale: Scale, *, short: bool = False) -> str:
    """What a treatment came to: its mean with the unit, its middle grade (``short``: without saying so again), the share still without the
    event."""
    column = comparison.column
    if column.timed:
        course = next((course for course in comparison.courses if course.treatment == one.treatment), None)
        if course is not None:
            return _lasting(course, one, scale, ladder=column.kind == "ladder")
    if column.kind == "grade" and isinstance(scale, GradeScale) and one.median is not None:
        return f"{'' if short else 'middle grade '}{grade_word(one.median, scale)}"
    return amount(one.estimate, scale) if one.estimate is not None else "no figure"


def _lasting(course: EventCourse, one: Estimate, scale: Scale, *, ladder: bool) -> str:
    unit = unit_of(scale)
    if ladder and one.estimate is not None:
        half = (
            f"half gave way by {honest(course.median)} {unit}".strip()
            if course.median is not None
            else "fewer than half gave way"
        )
        return f"{honest(one.estimate)} {unit}".strip() + f" held on average ({half})"
    left = round(course.left * course.n)
    half = (
        f"half had it by {honest(course.median)} {unit}".strip()
        if course.median is not None
        else "half was not reached"
    )
    return (
        f"{honest(100 * course.left, 2)} % still without it at {honest(course.end)} {unit} ({half})"
        if left or course.n
        else ""
    )


def sentence(strength: Strength, comparison: Comparison, scale: Scale, outcome: str, when: str) -> str:
    """The one sentence that opens the verdict: ``outcome`` by its name, ``when`` it was looked at (``at day 10``)."""
    out = {one.treatment for one in strength.left_out}
    among = [
        one.treatment for one in comparison.treatments if one.treatment not in out or strength.level == "unreplicated"
    ]
    lead = leading(comparison, among)
    about = f"{lowered(outcome)} {lowered(when)}".strip()
    if strength.level == "spoiled" or not lead.order:
        return f"No verdict on {about}: {strength.because[0].lower()}{strength.because[1:]}"
    said = _said(strength, comparison, scale, about, lead.order)
    if strength.left_out and strength.level != "unreplicated":
        said += f" Left out of this: {'; '.join(f'{one.treatment}, {one.why}' for one in strength.left_out)}."
    return said


def _said(strength: Strength, comparison: Comparison, scale: Scale, about: str, order: Sequence[Estimate]) -> str:
    best = order[0]
    figures = _figures(order, comparison, scale)
    match strength.level:
        case "clear":
            return f"{best.treatment} did best on {about}: {_against(comparison, scale, order)}."
        case "leaning":
            often = strength.because.rpartition("gives such a lead ")[2].rstrip(".")
            return (
                f"{best.treatment} seems best on {about}, but it is not sure: {_against(comparison, scale, order)}. "
                f"Chance alone gives such a lead {often}."
            )
        case "depends":
            won = [f"{one.winner} did best {_at(one.place)}" for one in strength.where if one.winner is not None]
            level = [_at(one.place) for one in strength.where if one.winner is None]
            rest = f"; {listed(level)} nobody for sure" if level else ""
            return f"It depends on the {strength.by}: {'; '.join(won)}{rest} ({about})."
        case "equal":
            return f"As good as equal on {about}: {figures}. No difference is as large as would matter."
        case "nothing":
            return f"Nothing to tell apart on {about}: {strength.because[0].lower()}{strength.because[1:]}"
        case "undirected":
            return f"Told without a winner on {about}: {figures}. Neither more nor less is better here."
        case "unreplicated":
            return f"Only what was seen on {about}: {figures}. {strength.because}"
    upper = f"{figures[0].upper()}{figures[1:]}" if comparison.column.kind == "grade" else figures
    if strength.contradiction:
        return f"Too close to call on {about}: nobody leads, for {strength.contradiction}. {upper}."
    if len(strength.winners) > 1:
        return f"Too close to call on {about}: {listed(strength.winners)} share the first place. {upper}."
    return f"Too close to call on {about}: {figures}."


def _figures(order: Sequence[Estimate], comparison: Comparison, scale: Scale) -> str:
    """All treatments with what they came to; of more than twelve the first and the last few."""
    shown = order if len(order) <= MOST_LISTED else order[:ENDS_LISTED]
    row = ", ".join(f"{t.treatment} {told(t, comparison, scale, short=True)}" for t in shown)
    if len(order) > MOST_LISTED:
        last = order[-1]
        row += f", … {last.treatment} {told(last, comparison, scale, short=True)} ({len(order)} in all)"
    grades = comparison.column.kind == "grade" and isinstance(scale, GradeScale)
    return f"middle grades {row}" if grades else row


def _at(place: str) -> str:
    """A place as the sentence names it."""
    return f"at {place}" if place else "elsewhere"


def _against(comparison: Comparison, scale: Scale, order: Sequence[Estimate]) -> str:
    """The best one's figure against those of the others, and for grades how often it beats the next."""
    best, others = order[0], list(order[1:])
    first = told(best, comparison, scale)
    if len(others) > MOST_NAMED - 1:
        nearest = told(others[0], comparison, scale, short=True)
        rest = f"{others[0].treatment} {nearest} and the {len(others) - 1} others below that"
    else:
        rest = " and ".join(f"{t.treatment} {told(t, comparison, scale, short=True)}" for t in others)
    said = f"{first}, against {rest}"
    pair = comparison.pair(best.treatment, others[0].treatment) if others else None
    if comparison.column.kind == "grade" and pair is not None:
        chance = pair.chance if comparison.column.better == "more" else 1 - pair.chance
        said += f"; one of {pair.a} beats one of {pair.b} {_times(chance)}"
        turn = 1 if comparison.column.better == "more" else -1
        if turn * pair.difference < 0 and best.estimate is not None and others[0].estimate is not None:
            said += f" (though the mean grade is {honest(best.estimate)} against {honest(others[0].estimate)})"
    return said


def _times(chance: float) -> str:
    """``75 times in 100``; never 100 of 100 where it was not always."""
    hundred = round(100 * chance)
    if 0 < chance < 1:
        hundred = min(99, max(1, hundred))
    return f"{hundred} times in 100" if math.isfinite(chance) else "as often as not"
