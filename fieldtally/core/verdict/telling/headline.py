"""The verdict in words a person could read out."""

from __future__ import annotations

import math
from collections.abc import Sequence

from fieldtally.core.compare.columns import Comparison, Estimate, Pair
from fieldtally.core.compare.events import EventCourse
from fieldtally.core.scales import GradeScale, Scale, unit_of
from fieldtally.core.verdict.leading import leading
from fieldtally.core.verdict.strength import Strength, StrengthLevel
from fieldtally.core.verdict.telling.figures import amount, graded, hundred, labelled, number, share, told_p, with_unit
from fieldtally.core.verdict.telling.names import listed, looks_lowered, lowered, raised

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
MOST_LISTED, ENDS_LISTED = 8, 3
MOST_OUT = 6


def luck(p: float, method: str = "exact", arrangements: int = 0) -> str:
    """What ``p`` means, as a frequency: ``once in 900 shuffles``; where not one of the ``arrangements`` drawn did as much, just that.

    >>> luck(1 / 252), luck(7 / 20001, "draws", 20000)
    ('chance alone would do this once in 252 shuffles', 'chance alone would do this once in 2,900 shuffles')
    >>> luck(1 / 20001, "draws", 20000)
    'not one of 20,000 shuffles did as much'
    """
    if p >= 0.95:
        return "nearly every shuffle does as much"
    if p > 0.5:
        return f"{round(100 * p)} shuffles in 100 do as much"
    if method != "exact" and told_p(p, method, arrangements).startswith("≤"):
        return f"not one of {arrangements:,} shuffles did as much"
    often = max(2, round(1 / p))
    if method != "exact":
        # Of draws no more digits can be told than they hold.
        often = int(float(f"{often:.1e}"))
    return f"chance alone would do this once in {often:,} shuffles"


def told(one: Estimate, comparison: Comparison, scale: Scale, *, short: bool = False) -> str:
    """What a treatment came to: its mean with the unit, its middle grade (``short``: without saying so again), the share still without the
    event."""
    column = comparison.column
    if column.timed:
        course = next((course for course in comparison.courses if course.treatment == one.treatment), None)
        if course is not None:
            return _lasting(course, one, scale, ladder=column.kind == "ladder")
    if column.kind == "grade" and isinstance(scale, GradeScale) and one.median is not None and column.of == "value":
        return f"{'' if short else 'middle grade '}{graded(one.median, scale)}"
    value = one.median if column.kind == "grade" and one.median is not None else one.estimate
    return amount(value, scale, column.of) if value is not None else "no reading"


def _lasting(course: EventCourse, one: Estimate, scale: Scale, *, ladder: bool) -> str:
    unit = unit_of(scale)

    def at(value: float) -> str:
        return with_unit(number(value, scale), unit)

    if ladder and one.estimate is not None:
        half = f"half gave way by {at(course.median)}" if course.median is not None else "fewer than half gave way"
        return f"{at(one.estimate)} held on average ({half})"
    half = f"half had it by {at(course.median)}" if course.median is not None else "half was not reached"
    return f"{share(course.left)} % still without it at {at(course.end)} ({half})" if course.n else "no reading"


def sentence(strength: Strength, comparison: Comparison, scale: Scale, outcome: str, when: str) -> str:
    """The one sentence that opens the verdict: ``outcome`` by its name, ``when`` it was looked at (``at day 10``)."""
    out = {one.treatment for one in strength.left_out}
    among = [
        one.treatment for one in comparison.treatments if one.treatment not in out or strength.level == "unreplicated"
    ]
    lead = leading(comparison, among)
    about = f"{lowered(outcome)} {looks_lowered(when)}".strip()
    if strength.level == "spoiled" or not lead.order:
        return f"No verdict on {about}: {strength.because[0].lower()}{strength.because[1:]}"
    said = _said(strength, comparison, scale, about, lead.order)
    told_of = {one.treatment for one in lead.order}
    gone = [one for one in strength.left_out if strength.level != "unreplicated" or one.treatment not in told_of]
    if gone:
        more = f"; and {len(gone) - MOST_OUT} more" if len(gone) > MOST_OUT else ""
        said += f" Left out of this: {'; '.join(f'{one.treatment}, {one.why}' for one in gone[:MOST_OUT])}{more}."
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
    upper = raised(figures) if comparison.column.kind == "grade" else figures
    if strength.contradiction:
        return f"Too close to call on {about}: nobody leads, for {strength.contradiction}. {upper}."
    if len(strength.winners) > 1:
        return f"Too close to call on {about}: {listed(strength.winners)} share the first place. {upper}."
    return f"Too close to call on {about}: {figures}."


def _figures(order: Sequence[Estimate], comparison: Comparison, scale: Scale) -> str:
    """All treatments with what they came to; of more than eight the first few and the last."""
    shown = order if len(order) <= MOST_LISTED else order[:ENDS_LISTED]
    row = ", ".join(f"{t.treatment} {told(t, comparison, scale, short=True)}" for t in shown)
    if len(order) > MOST_LISTED:
        last = order[-1]
        row += f" … and last of {len(order)} {last.treatment} {told(last, comparison, scale, short=True)}"
    grades = comparison.column.kind == "grade" and isinstance(scale, GradeScale) and comparison.column.of == "value"
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
        rest = f"{others[0].treatment} {nearest} and the {len(others) - 1} others behind that"
    else:
        rest = " and ".join(f"{t.treatment} {told(t, comparison, scale, short=True)}" for t in others)
    said = f"{first}, against {rest}"
    pair = comparison.pair(best.treatment, others[0].treatment) if others else None
    if comparison.column.kind == "grade" and pair is not None:
        chance = pair.chance if comparison.column.better == "more" else 1 - pair.chance
        said += f"; one of {pair.a} beats one of {pair.b} {_times(chance)}"
        said += _mean_says_otherwise(pair, comparison, scale, best, others[0])
    return said


def _mean_says_otherwise(pair: Pair, comparison: Comparison, scale: Scale, best: Estimate, other: Estimate) -> str:
    """Where numbered grades have their mean on the other side."""
    turn = 1 if comparison.column.better == "more" else -1
    if (
        turn * pair.difference >= 0
        or best.estimate is None
        or other.estimate is None
        or comparison.column.of != "value"
    ):
        return ""
    if not isinstance(scale, GradeScale):
        return ""
    mine, theirs = labelled(best.estimate, scale), labelled(other.estimate, scale)
    return f" (though the mean grade is {mine} against {theirs})" if mine and theirs else ""


def _times(chance: float) -> str:
    """``75 times in 100``; never 100 of 100 where it was not always."""
    return f"{hundred(chance)} times in 100" if math.isfinite(chance) else "as often as not"
