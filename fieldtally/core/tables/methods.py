"""A table of methods side by side: a row a sample, a column a method; and, where it is known, what is really in each sample."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Flags, Floats
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.numbers import number_in
from fieldtally.core.tables.table import Table

TRUTHS = ("truth", "true", "known", "real", "reference value")
OTHERS = ("other", "other substance", "wrong substance", "interferent")
SAMPLES = ("sample", "code", "name", "id", "no", "nr")
YES = ("yes", "y", "x", "1", "true", "other")
NOTHING = ("", "-", "–", "na", "n/a")
BLANKS = ("blank", "none", "0")
MOST_TOLD = 20


@dataclass(frozen=True)
class MethodColumns:
    """Which columns (names) are methods, which one says what is really there, and which marks samples with another substance."""

    methods: tuple[str, ...]
    truth: str | None = None
    other: str | None = None


@dataclass(frozen=True)
class SideBySide:
    """Values (n, k) of the methods, NaN where one has not read; the ``truth`` (n,), NaN unknown; and which hold another substance (n,)."""

    columns: MethodColumns
    values: Floats
    truth: Floats | None
    other: Flags | None


def guessed(table: Table) -> MethodColumns:
    """What the columns of ``table`` probably are, by their names: all that hold numbers and are nothing else are methods."""
    truth = next((name for name in table.header if name.casefold() in TRUTHS), None)
    other = next((name for name in table.header if name.casefold() in OTHERS), None)
    left = [name for name in table.header if name not in (truth, other) and name.casefold() not in SAMPLES]
    return MethodColumns(tuple(name for name in left if _numeric(table, name)), truth, other)


def _numeric(table: Table, name: str) -> bool:
    at = table.column(name)
    filled = [row.cells[at] for row in table.rows if row.cells[at].casefold() not in NOTHING]
    return bool(filled) and all(_number(cell) is not None for cell in filled)


def _number(cell: str) -> float | None:
    try:
        return number_in(cell)
    except Refused:
        return None


def side_by_side(table: Table, columns: MethodColumns) -> SideBySide:
    """The values of ``table``.

    :raises Refused: a column is missing, or a cell is neither a number nor empty; each with its line.
    """
    problems: list[Problem] = []
    at = [table.column(name) for name in columns.methods]
    truth_at = None if columns.truth is None else table.column(columns.truth)
    other_at = None if columns.other is None else table.column(columns.other)
    values = np.full((len(table.rows), len(at)), np.nan)
    truth = None if truth_at is None else np.full(len(table.rows), np.nan)
    for i, row in enumerate(table.rows):
        for k, column in enumerate(at):
            if row.cells[column].casefold() in NOTHING:
                continue
            found = _number(row.cells[column])
            if found is None:
                says = f"“{row.cells[column]}” in column “{table.header[column]}” is not a number."
                problems.append(Problem(f"line {row.line}", says))
            else:
                values[i, k] = found
        if truth is not None and truth_at is not None and row.cells[truth_at].casefold() not in NOTHING:
            written = row.cells[truth_at]
            known = 0.0 if written.casefold() in BLANKS else _number(written)
            if known is None or known < 0:
                problems.append(Problem(f"line {row.line}", f"“{written}” is no amount that can be in a sample."))
            else:
                truth[i] = known
    if problems:
        raise Refused(problems[:MOST_TOLD])
    other = None
    if other_at is not None:
        other = np.array([row.cells[other_at].casefold() in YES for row in table.rows], dtype=np.bool_)
    return SideBySide(columns, values, truth, other)
