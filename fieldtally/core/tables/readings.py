"""A long table of results, a row a reading, made ready to be compared."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Flags, Floats, Ints
from fieldtally.core.compare.columns import Kind
from fieldtally.core.compare.events import Spans
from fieldtally.core.compare.persample import averaged
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.scales import CountScale, EventScale, PassFailScale, number_in
from fieldtally.core.tables.table import Row, Table

LETTERS = {
    f"{letter}{sign}": rank
    for rank, (letter, sign) in enumerate(((letter, sign) for letter in "FEDCBA" for sign in ("-", "", "+")), start=0)
}
MOST_TOLD = 20
TICK = 1e-9
"""An event that is known exactly lies within so small a share of its time."""


@dataclass(frozen=True)
class Columns:
    """Which column of the table says what; ``blocks`` may be several, crossed.

    ``factors`` in place of ``treatment``: each combination of their levels is one.  ``event`` says whether a time is that of the event
    (yes) or of a last look at which it had not come (no)."""

    treatment: str
    value: str
    blocks: tuple[str, ...] = ()
    pair: str | None = None
    sample: str | None = None
    checkpoint: str | None = None
    factors: tuple[str, ...] = ()
    event: str | None = None


@dataclass(frozen=True)
class Results:
    """The samples of one checkpoint (None: the table has none): values (n,), labels (n,) into ``treatments``, blocks (n,), ``levels``
    (n, k) of factors, and ``spans`` of events."""

    checkpoint: str | None
    treatments: tuple[str, ...]
    values: Floats
    labels: Ints
    blocks: Ints
    levels: Ints
    spans: Spans | None


@dataclass(frozen=True)
class _Reading:
    line: int
    sample: str
    treatment: str
    block: str
    checkpoint: str | None
    value: float | None
    levels: tuple[str, ...] = ()
    seen: bool = True


def results_in(table: Table, columns: Columns, kind: Kind) -> tuple[list[Results], list[str]]:
    """The results at each checkpoint, in order of appearance, and warnings about what was left out.

    Rows of one sample at one checkpoint are averaged (median for grades).  Treatments keep their order of appearance.

    :raises Refused: a column is missing, a cell cannot be read, or a sample has two treatments or blocks.
    """
    readings, warnings = _readings(table, columns, kind)
    treatments = tuple(dict.fromkeys(reading.treatment for reading in readings))
    if len(treatments) < 2:
        raise Refused(f"Column “{columns.treatment}” names only one treatment; a comparison needs two.", "line 2")
    block_names = {name: i for i, name in enumerate(dict.fromkeys(reading.block for reading in readings))}
    home: dict[str, _Reading] = {}
    for reading in readings:
        home.setdefault(reading.sample, reading)
    names = [list(dict.fromkeys(reading.levels[f] for reading in readings)) for f in range(len(columns.factors))]
    found = []
    for checkpoint in dict.fromkeys(reading.checkpoint for reading in readings):
        own = averaged(
            ((r.sample, r.value) for r in readings if r.checkpoint == checkpoint and r.value is not None), kind
        )
        samples = list(own)
        seen = {r.sample: r.seen for r in readings if r.checkpoint == checkpoint and r.value is not None}
        values = np.array([own[s] for s in samples], dtype=np.float64)
        levels = [[own_names.index(home[s].levels[f]) for f, own_names in enumerate(names)] for s in samples]
        found.append(
            Results(
                checkpoint,
                treatments,
                values,
                np.array([treatments.index(home[s].treatment) for s in samples], dtype=np.int64),
                np.array([block_names[home[s].block] for s in samples], dtype=np.int64),
                np.array(levels, dtype=np.int64).reshape(len(samples), len(names)),
                _spans(values, np.array([seen[s] for s in samples], dtype=np.bool_)) if kind == "event" else None,
            )
        )
    if all(len(results.values) == 0 for results in found):
        raise Refused(f"Column “{columns.value}” holds no value at all.", "line 2")
    return found, warnings


def _spans(times: Floats, seen: Flags) -> Spans:
    """Times that are known to the day: an event at its time, or none up to it."""
    before = times - TICK * np.maximum(1.0, np.abs(times))
    return Spans(np.where(seen, before, times), np.where(seen, times, np.inf))


def _readings(table: Table, columns: Columns, kind: Kind) -> tuple[list[_Reading], list[str]]:
    value = table.column(columns.value)
    factors = columns.factors or (columns.treatment,)
    made_of = [table.column(name) for name in factors]
    event = None if columns.event is None else table.column(columns.event)
    grouping = [table.column(name) for name in (*columns.blocks, *([columns.pair] if columns.pair else []))]
    sample = None if columns.sample is None else table.column(columns.sample)
    checkpoint = None if columns.checkpoint is None else table.column(columns.checkpoint)
    read = _reader(kind)
    readings: list[_Reading] = []
    problems: list[Problem] = []
    empty: list[int] = []
    homes: dict[str, tuple[str, str]] = {}
    for row in table.rows:
        seen = True
        problem = _gap(row, [(table.header[i], i) for i in (*made_of, *grouping)])
        if sample is not None and not problem:
            problem = _gap(row, [(table.header[sample], sample)])
        amount: float | None = None
        if row.cells[value] == "":
            empty.append(row.line)
        elif problem is None:
            try:
                amount = read(row.cells[value])
                seen = True if event is None else EventScale().parse(row.cells[event]) == 1.0
            except Refused as refused:
                problem = refused.problems[0].says
        name = f"line {row.line}" if sample is None else row.cells[sample]
        block = " / ".join(row.cells[i] for i in grouping)
        home = (" / ".join(row.cells[i] for i in made_of), block)
        if problem is None and homes.setdefault(name, home) != home:
            before, here = (" in ".join(filter(None, where)) for where in (homes[name], home))
            problem = f"Sample “{name}” has {before} on an earlier line, and {here} here."
        if problem:
            problems.append(Problem(f"line {row.line}", problem))
            continue
        at = None if checkpoint is None else row.cells[checkpoint]
        levels = tuple(row.cells[i] for i in made_of) if columns.factors else ()
        readings.append(_Reading(row.line, name, home[0], block, at, amount, levels, seen))
    if problems:
        raise Refused(problems[:MOST_TOLD])
    if empty:
        lines = ", ".join(str(line) for line in empty[:10]) + (" …" if len(empty) > 10 else "")
        return readings, [f"No value on line {lines}: left out."]
    return readings, []


def _gap(row: Row, columns: list[tuple[str, int]]) -> str | None:
    return next((f"Column “{name}” is empty." for name, i in columns if row.cells[i] == ""), None)


def _reader(kind: Kind) -> Callable[[str], float]:
    match kind:
        case "passfail":
            return PassFailScale().parse
        case "count":
            return CountScale().parse
        case "grade":
            return _grade
        case _:
            return number_in


def _grade(text: str) -> float:
    rank = LETTERS.get(text.strip().upper())
    return float(rank) if rank is not None else number_in(text)
