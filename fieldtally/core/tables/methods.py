"""A table of methods side by side: a row a sample, a column a method; and, where it is known, what is really in each sample.

Each method has its own scale: a number in the unit that stands in its header (``Meter [g/L]``), a colour chart read at
its labels or between two of them (``100-250``), or pass and fail.
"""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Flags, Floats
from fieldtally.core.design.plan import AgreementAsked, Checkpoint, Outcome, Plan, Treatment
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.converting import converted
from fieldtally.core.quantities.numbers import folded, honest, number_in
from fieldtally.core.scales import MeasurementScale, PassFailScale
from fieldtally.core.tables.table import Table
from fieldtally.core.verdict.telling.names import listed

TRUTHS = ("truth", "true", "known", "real", "reference value")
OTHERS = ("other", "other substance", "wrong substance", "interferent")
SAMPLES = ("sample", "code", "name", "id", "no", "nr")
YES = ("yes", "y", "x", "1", "true", "other")
NOTHING = ("", "-", "–", "na", "n/a")
BLANKS = ("blank", "none", "0")
PASSED = ("pass", "passed", "ok", "good", "negative", "neg", "no", "not found", "below")
FAILED = ("fail", "failed", "bad", "positive", "pos", "yes", "found", "above", "+", "++", "+++")
HEADED = re.compile(r"\s*(?:\((?P<round>[^()]+)\)|\[(?P<square>[^][]+)\])\s*$")
BETWEEN = re.compile(r"(?:between\s+)?(?P<low>[\d.,]+)\s*(?:-|–|to|and)\s*(?P<high>[\d.,]+)", re.IGNORECASE)
MOST_TOLD, MOST_READ = 20, 40


@dataclass(frozen=True)
class MethodColumns:
    """Which columns (names) are methods, which one says what is really there, and which marks samples with another substance."""

    methods: tuple[str, ...]
    truth: str | None = None
    other: str | None = None


@dataclass(frozen=True)
class SideBySide:
    """Of a table with this ``header`` the values (n, k) of the methods (``names``, without units), all in ``unit``, NaN where one has not
    read; ``flags`` (k) says which tell no more than pass (0) or fail (1), ``between`` how many readings lie between two labels of a chart;
    the ``truth`` (n,), NaN unknown; and which hold another substance (n,)."""

    header: tuple[str, ...]
    columns: MethodColumns
    names: tuple[str, ...]
    flags: tuple[bool, ...]
    unit: str
    between: int
    values: Floats
    truth: Floats | None
    other: Flags | None


def guessed(table: Table) -> MethodColumns:
    """What the columns of ``table`` probably are, by their names: all that hold readings and are nothing else are methods."""
    truth = next((name for name in table.header if _plain(name) in TRUTHS), None)
    other = next((name for name in table.header if name.casefold() in OTHERS), None)
    left = [name for name in table.header if name not in (truth, other) and name.casefold() not in SAMPLES]
    return MethodColumns(tuple(name for name in left if _is_read(table, name)), truth, other)


def _headed(name: str) -> tuple[str, str]:
    """A header's name and the unit that stands behind it.

    >>> _headed("Meter [g/L]"), _headed("Strip")
    (('Meter', 'g/L'), ('Strip', ''))
    """
    found = HEADED.search(name)
    if found is None:
        return name.strip(), ""
    return name[: found.start()].strip(), (found["round"] or found["square"]).strip()


def _plain(name: str) -> str:
    return _headed(name)[0].casefold()


def _filled(table: Table, name: str) -> list[str]:
    at = table.column(name)
    return [row.cells[at] for row in table.rows if folded(row.cells[at]) not in NOTHING]


def _is_read(table: Table, name: str) -> bool:
    filled = _filled(table, name)
    return bool(filled) and (all(_number(cell) is not None for cell in filled) or _is_kit(filled))


def _is_kit(filled: list[str]) -> bool:
    """Whether these cells say no more than pass or fail: half of them at least are such words, and none is a number."""
    words = sum(folded(cell) in (*PASSED, *FAILED) for cell in filled)
    return 2 * words > len(filled) and all(_number(cell) is None for cell in filled)


def _number(cell: str) -> float | None:
    """A number, or the middle between two labels of a chart."""
    two = BETWEEN.fullmatch(cell.strip())
    try:
        return (number_in(two["low"]) + number_in(two["high"])) / 2 if two else number_in(cell)
    except Refused:
        return None


def side_by_side(table: Table, columns: MethodColumns, unit: str = "") -> SideBySide:
    """The values of ``table``, in ``unit`` (default: the first that a header names).

    :raises Refused: a column is missing, reads something that is no amount of the unit, or a cell is none of what its
        column holds; each with its line.
    """
    problems: list[Problem] = []
    headed = [_headed(name) for name in columns.methods]
    kits = [_is_kit(_filled(table, name)) for name in columns.methods]
    common = unit.strip() or next((own for (_, own), kit in zip(headed, kits, strict=True) if own and not kit), "")
    values = np.full((len(table.rows), len(headed)), np.nan)
    between = 0
    for k, (column, (name, own), kit) in enumerate(zip(columns.methods, headed, kits, strict=True)):
        at, times = table.column(column), 1.0 if kit else _times(own, common)
        if times is None:
            raise Refused(f"{name} reads {own}, which is no amount of {common}: the two cannot be compared.", "unit")
        for i, row in enumerate(table.rows):
            cell = row.cells[at]
            if folded(cell) in NOTHING and not (kit and folded(cell) in PASSED):
                continue
            found = (
                (1.0 if folded(cell) in FAILED else 0.0 if folded(cell) in PASSED else None) if kit else _number(cell)
            )
            if found is None:
                says = "is neither pass nor fail" if kit else "is not a number"
                problems.append(Problem(f"line {row.line}", f"“{cell}” in column “{name}” {says}."))
            else:
                values[i, k] = found * times
                between += not kit and BETWEEN.fullmatch(cell.strip()) is not None
    truth = None if columns.truth is None else _truth(table, columns.truth, common, problems)
    if problems:
        raise Refused(problems[:MOST_TOLD])
    other = None
    if columns.other is not None:
        at = table.column(columns.other)
        other = np.array([row.cells[at].casefold() in YES for row in table.rows], dtype=np.bool_)
    names = tuple(name for name, _ in headed)
    return SideBySide(table.header, columns, names, tuple(kits), common, between, values, truth, other)


def as_plan(sides: SideBySide, title: str, *, limit: float | None = None, alarm: float | None = None) -> Plan:
    """A plan that asks the same of new samples: each method an outcome on its own scale, and as many samples of each known amount, of
    another substance and of what is not known as there were rows of it.  All but the methods' names is for people to change.

    :raises Refused: more amounts are known than a plan holds things to read.
    """
    headed = dict(_headed(column) for column in sides.columns.methods)
    outcomes = tuple(
        Outcome(
            f"o{i}",
            name,
            PassFailScale() if kit else MeasurementScale(headed[name] or sides.unit),
            better="none",
            primary=False,
        )
        for i, (name, kit) in enumerate(zip(sides.names, sides.flags, strict=True), start=1)
    )
    of = f" {sides.unit}" if sides.unit else ""
    rows: Counter[tuple[float | None, bool]] = Counter()
    for i in range(len(sides.values)):
        wrong = sides.other is not None and bool(sides.other[i])
        known = None if sides.truth is None or np.isnan(sides.truth[i]) else float(sides.truth[i])
        rows[0.0 if wrong else known, wrong] += 1
    if len(rows) > MOST_READ:
        raise Refused(
            f"{len(rows)} different amounts are known; a trial holds up to {MOST_READ} things to read.", "text"
        )

    def called(holds: float | None, wrong: bool) -> str:
        if wrong:
            return "Another substance"
        return "Not known" if holds is None else "Blank" if holds == 0 else f"{honest(holds, 6)}{of}"

    treatments = tuple(
        Treatment(f"t{i}", called(holds, wrong), samples=many, holds=holds, other_substance=wrong)
        for i, ((holds, wrong), many) in enumerate(
            sorted(rows.items(), key=lambda one: (one[0][0] is None, one[0][0] or 0.0, one[0][1])), start=1
        )
    )
    return Plan(
        title=title,
        question=f"Do {listed(sides.names)} agree?",
        treatments=treatments,
        outcomes=outcomes,
        checkpoints=(Checkpoint("c1", "Reading", 60, 0, 1440),),
        agreement=AgreementAsked(sides.unit, limit, alarm),
    )


def _times(own: str, common: str) -> float | None:
    """What a reading in ``own`` is multiplied by to be one in ``common``; None where they are different things."""
    if not own or not common or own.casefold() == common.casefold():
        return 1.0
    zero, one = converted(0.0, own, common), converted(1.0, own, common)
    return None if one is None or zero != 0 else one


def _truth(table: Table, name: str, common: str, problems: list[Problem]) -> Floats:
    """What is really in each sample (n,), in the unit ``common``; what cannot be read is added to ``problems``."""
    at, own = table.column(name), _headed(name)[1]
    truth = np.full(len(table.rows), np.nan)
    for i, row in enumerate(table.rows):
        written = row.cells[at]
        if folded(written) in NOTHING:
            continue
        known = 0.0 if folded(written) in BLANKS else _amount(written, own, common)
        if known is None or known < 0:
            problems.append(Problem(f"line {row.line}", f"“{written}” is no amount that can be in a sample."))
        else:
            truth[i] = known
    return truth


def _amount(written: str, own: str, common: str) -> float | None:
    """An amount with a unit behind it, or in the unit of its column."""
    cut = re.fullmatch(r"\s*([-\u2212]?[\d.,]+)\s*(.*?)\s*", written)
    if cut is None:
        return None
    number, times = _number(cut[1]), _times(cut[2] or own, common)
    return None if number is None or times is None else number * times
