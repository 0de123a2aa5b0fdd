"""The numbers that stand in somebody else's table, and the scales they are on."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.converting import converted
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.quantities.numbers import LARGEST, honest, number_in
from fieldtally.core.scales import (
    CountScale,
    CurveScale,
    EventScale,
    GradeScale,
    LadderScale,
    Level,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    Scale,
    Shade,
    ShadeScale,
)
from fieldtally.core.tables.columns import WITH_UNIT, ColumnMeaning
from fieldtally.core.tables.curves import curve_of, responses_in
from fieldtally.core.tables.entries import MOST_TOLD, Entries, coded
from fieldtally.core.tables.meaning import ABOVE, LASTED, NO, OF, REPLACED, YES, kind_of, ordered
from fieldtally.core.tables.numerals import numerals

HOUR = 60
MOST_OUTCOMES = 40


LETTERS = [f"{letter}{sign}" for letter in "FEDCBA" for sign in ("-", "", "+")]


def read_values(values: Entries, warnings: list[str]) -> tuple[dict[str, tuple[Scale, ColumnMeaning]], Floats]:
    """The scale of each outcome, and the number of each value in order (n,)."""
    outcomes = values.outcome.words
    if len(outcomes) > MOST_OUTCOMES:
        raise Refused(f"There are {len(outcomes)} different outcomes; up to {MOST_OUTCOMES} can be told.", "meaning")
    numbers = np.zeros(len(values))
    scales: dict[str, tuple[Scale, ColumnMeaning]] = {}
    problems: list[tuple[int, Problem]] = []
    long = len(set(values.column.tolist())) == 1 and len(outcomes) > 1
    for k, outcome in enumerate(outcomes):
        places = np.flatnonzero(values.outcome.codes == k)
        # Each text is read once, however often it comes back.
        cells = coded(values.cells[i] for i in places.tolist())
        column = values.columns[int(values.column[places[0]])]
        if long:
            # One column of values for several outcomes: each has a kind of its own.
            kind, of = kind_of(outcome, cells.words)
            column = replace(column, kind=kind, of=of, unit="")
        curve = curve_of(values.columns, outcome) if column.kind == "curve" else None
        found = _slopes(cells.words, curve) if curve else _numbers(cells.words, column, warnings, outcome)
        wrong = [code for code, number in enumerate(found) if number is None]
        for i in places[np.isin(cells.codes, wrong)][:MOST_TOLD].tolist():
            name = values.columns[int(values.column[i])].name
            says = f"“{values.cells[i][:40]}” in “{name}” is no {_word(column)}."
            problems.append((i, Problem(f"row {values.lines[i]}", says)))
        if not problems:
            known = [one for one in found if one is not None]
            numbers[places] = np.array(known)[cells.codes]
            scales[outcome] = (curve or _scale(column, cells.words, known), column)
    if problems:
        raise Refused([problem for _, problem in problems[:MOST_TOLD]])
    return scales, numbers


def _word(column: ColumnMeaning) -> str:
    words = {
        "passfail": "yes or no",
        "grade": "grade",
        "count": "count",
        "percent": "percentage",
        "measurement": "number",
        "words": "grade in words whose order is known; say in which order they stand",
        "shade": "shade whose place is known; say in which order they stand",
        "event": "day, nor “not yet”",
        "curve": "curve with a slope",
        "ladder": "step that was held, or “> 40”",
    }
    return words[column.kind]


def _numbers(cells: Sequence[str], column: ColumnMeaning, warnings: list[str], outcome: str) -> list[float | None]:
    if column.kind == "passfail":
        return [
            1.0 if one.casefold() in (*YES, "1") else 0.0 if one.casefold() in (*NO, "0") else None for one in cells
        ]
    if column.kind == "event":
        return [float(one) for one in cells]
    if column.kind in ("words", "shade"):
        order, first = ordered(column, cells), 1.0 if column.kind == "shade" else 0.0
        return [first + order.index(one.casefold()) if one.casefold() in order else None for one in cells]
    if column.kind == "ladder":
        cells = [found[1] if (found := ABOVE.match(one)) else one for one in cells]
    if column.kind == "grade" and all(one.upper() in LETTERS for one in cells):
        return [float(LETTERS.index(one.upper())) for one in cells]
    cells = _as_replaced(cells, warnings)
    if column.kind == "measurement":
        cells = _as_lasted(_in_one_unit(cells, column, outcome, warnings), column)
    bare = []
    for one in cells:
        counted, with_unit = OF.match(one), WITH_UNIT.match(one)
        bare.append(counted[1] if counted and column.kind == "count" else with_unit[1] if with_unit else one)
    bare, warning = numerals([re.sub(r"(?<=\d) (?=\d{3}(?!\d))", "", one) for one in bare], outcome)
    if warning:
        warnings.append(warning)
    return [_number(one, column) for one in bare]


def _as_replaced(cells: Sequence[str], warnings: list[str]) -> list[str]:
    """``cells`` with the value that was put in the place of another, as it is written: 24.1 (was 42.1)."""
    found = {one: REPLACED.match(one) for one in cells}
    told = [one for one, match in found.items() if match]
    if told:
        listed = ", ".join(f"“{one[:30]}”" for one in told[:3])
        warnings.append(
            f"Of {noun('value').counted(len(told))} that stand in the place of others the new ones count: {listed}."
        )
    return [(match["new"] or match["then"]) if (match := found[one]) else one for one in cells]


def _in_one_unit(cells: Sequence[str], column: ColumnMeaning, outcome: str, warnings: list[str]) -> list[str]:
    """``cells`` all in the unit that most of them have, where several are told.

    :raises Refused: at ``meaning``: two of them measure other things.
    """
    found = [WITH_UNIT.match(one) for one in cells]
    told = Counter(match[2] for match in found if match)
    if len(told) < 2:
        return list(cells)
    wanted = column.unit if column.unit in told else told.most_common(1)[0][0]
    written = []
    for one, match in zip(cells, found, strict=True):
        if match is None or match[2] == wanted:
            written.append(one)
            continue
        value = converted(number_in(match[1]), match[2], wanted)
        if value is None:
            raise Refused(
                f"“{outcome}” is told in {wanted} and in {match[2]} (“{one[:30]}”); write all of it in one unit.",
                "meaning",
            )
        written.append(f"{honest(value, 9)} {wanted}")
    warnings.append(f"“{outcome}” is told in {' and '.join(told)}; all of it was turned into {wanted}.")
    return written


def _as_lasted(cells: Sequence[str], column: ColumnMeaning) -> list[str]:
    """Times that something lasted (5:20) as numbers in the unit of the column; others as they are.

    :raises Refused: at ``meaning``: nothing tells whether they are hours and minutes, or minutes and seconds.
    """
    if not all(LASTED.match(one) for one in cells) or not cells:
        return list(cells)
    head = f"{column.name} {column.unit}".casefold()
    pair = re.search(r"h\w*\s*:\s*m|m\w*\s*:\s*s", head)
    long = pair[0].startswith("h") if pair else re.search(r"\bh\b|hours?", head)
    short = pair[0].startswith("m") if pair else re.search(r"\bmin(?:utes)?\b", head)
    whole = {one.count(":") for one in cells} == {2}
    if not whole and bool(long) == bool(short):
        raise Refused(
            f"“{cells[0]}” in “{column.name}”: hours and minutes, or minutes and seconds? Say its unit: h, or min.",
            "meaning",
        )
    parts = [[int(part) for part in one.split(":")] for one in cells]
    each = HOUR
    return [honest(one[0] + one[1] / each + (one[2] / each**2 if whole else 0.0), 9) for one in parts]


def _slopes(cells: Sequence[str], scale: CurveScale) -> list[float | None]:
    """The slope of each curve; None where a response is no number, or they are too few for a slope."""
    found: list[float | None] = []
    for cell in cells:
        try:
            found.append(scale.number_of(responses_in(cell)))
        except Refused:
            found.append(None)
    return found


def _number(text: str, column: ColumnMeaning) -> float | None:
    try:
        value = number_in(text)
    except Refused:
        return None
    if abs(value) > LARGEST or (column.kind == "percent" and not 0 <= value <= 100):
        return None
    if column.kind == "count" and (
        value < 0 or not value.is_integer() or (column.of is not None and value > column.of)
    ):
        return None
    return value


def _scale(column: ColumnMeaning, cells: Sequence[str], numbers: Sequence[float]) -> Scale:
    match column.kind:
        case "passfail":
            return PassFailScale("yes", "no")
        case "count":
            return CountScale(column.of)
        case "percent":
            return PercentScale(resolution=None)
        case "event":
            return EventScale((column.outcome.strip() or column.name)[:80])
        case "words":
            return GradeScale(tuple(Level(float(i), word, word) for i, word in enumerate(ordered(column, cells))))
        case "shade":
            return ShadeScale(tuple(Shade(word) for word in ordered(column, cells)))
        case "ladder":
            return LadderScale(column.unit[:40] or "steps", tuple(sorted({*numbers} - {0.0})))
        case "grade":
            if all(one.upper() in LETTERS for one in cells):
                return GradeScale(tuple(Level(float(i), name) for i, name in enumerate(LETTERS)))
            low, high = min(0.0, *numbers), max(*numbers, 1.0)
            steps = sorted({*numbers, *(float(one) for one in range(int(low), int(high) + 1) if high - low <= 20)})
            return GradeScale(tuple(Level(one, honest(one, 6)) for one in steps))
        case _:
            return MeasurementScale(_unit_of(column, cells)[:40])


def _unit_of(column: ColumnMeaning, cells: Sequence[str]) -> str:
    """The unit of what is measured: as the column tells it, or what its times are in, or what most of its cells are written with."""
    if cells and all(LASTED.match(one) for one in cells):
        head = f"{column.name} {column.unit}".casefold()
        minutes = re.search(r"m\w*\s*:\s*s", head) or (re.search(r"\bmin", head) and not re.search(r"h\w*\s*:", head))
        return "min" if minutes and cells[0].count(":") == 1 else "h"
    if column.unit:
        return column.unit
    told = Counter(match[2] for one in cells if (match := WITH_UNIT.match(one)))
    return told.most_common(1)[0][0] if told else ""
