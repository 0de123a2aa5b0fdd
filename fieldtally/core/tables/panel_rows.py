"""The answers of a panel as the rows that :mod:`.panel_answers` reads: the same numbers come out as the panel's own page tells."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence

from fieldtally.core.panels.judged import Judged, rights
from fieldtally.core.panels.methods import METHODS
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.serving import LETTERS

Row = tuple[str | int, ...]


def answer_rows(plan: PanelPlan, judged: Sequence[Judged], names: Sequence[str]) -> Iterator[Row]:
    """The header, then a row an answer (of namings, rankings and gradings a row for each thing) of those who count; things have ``names``.

    Of a grading it is the first attribute that is told.
    """
    counted = [one for one in judged if not one.left_out]
    over = ("stimulus",) if plan.stimuli else ()
    yield ("assessor", "set", *over, *_columns(plan))
    turns: Counter[str] = Counter()
    for one in counted:
        turns[one.person] += 1
        where = (plan.stimuli[one.stimulus],) if plan.stimuli else ()
        for cells in _cells(plan, one, names):
            yield (one.person, turns[one.person], *where, *cells)


def _columns(plan: PanelPlan) -> tuple[str, ...]:
    if METHODS[plan.method].discriminates:
        return ("order", "answer", "right")
    return {
        "preference": ("presented", "chosen"),
        "naming": ("presented", "chosen"),
        "ranking": ("presented", "rank"),
        "grading": ("presented", "grade"),
    }.get(plan.method, ("presented", "answer"))


def _cells(plan: PanelPlan, one: Judged, names: Sequence[str]) -> Iterator[Row]:
    called = [names[LETTERS.index(letter)] for letter in one.order]
    if METHODS[plan.method].discriminates:
        yield one.order, " ".join(str(place + 1) for place in one.answer), int(rights(plan, [one])[0])
        return
    match plan.method:
        case "preference":
            place = one.answer[0]
            yield "|".join(called), called[place] if place >= 0 else "none"
        case "naming":
            for thing, name in zip(called, one.answer, strict=True):
                yield thing, names[name]
        case "ranking":
            for rank, place in enumerate(one.answer, start=1):
                yield called[place], rank
        case "grading":
            for thing, grade in zip(called, one.grades[0] if one.grades else (), strict=False):
                yield thing, "" if grade is None else grade
        case "a-not-a":
            yield "A" if one.order == "A" else "not A", "yes" if one.answer[0] == 1 else "no"
        case _:
            yield "different" if one.order[0] != one.order[1] else "same", "yes" if one.answer[0] == 1 else "no"
