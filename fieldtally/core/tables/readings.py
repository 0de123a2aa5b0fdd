"""A long table of results, a row a reading, made ready to be compared."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Flags, Floats, Ints
from fieldtally.core.compare.events import Spans
from fieldtally.core.compare.persample import averaged
from fieldtally.core.compare.structure import Structure
from fieldtally.core.kinds import Kind
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.scales import CountScale, EventScale, PassFailScale, PercentScale, number_in
from fieldtally.core.tables.numerals import numerals
from fieldtally.core.tables.table import Row, Table

LETTERS = {
    f"{letter}{sign}": rank
    for rank, (letter, sign) in enumerate(((letter, sign) for letter in "FEDCBA" for sign in ("-", "", "+")), start=0)
}
MOST_TOLD = 20
MOST_TREATMENTS, LONGEST_NAME = 500, 200
TICK = 1e-9
"""An event that is known exactly lies within so small a share of its time."""


@dataclass(frozen=True)
class Columns:
    """Which column of the table says what; ``blocks`` may be several, crossed.

    ``factors`` in place of ``treatment``: each combination of their levels is one.  ``event`` says whether a time is that of the event
    (yes) or of a last look at which it had not come (no); ``held`` whether a sample still held at the load in ``value`` (yes) or gave way
    there (no).  ``row`` and ``column`` of a Latin square (blocks are then squares), ``plot`` the whole plot of a split plot."""

    treatment: str
    value: str
    blocks: tuple[str, ...] = ()
    pair: str | None = None
    sample: str | None = None
    checkpoint: str | None = None
    factors: tuple[str, ...] = ()
    event: str | None = None
    held: str | None = None
    row: str | None = None
    column: str | None = None
    plot: str | None = None


@dataclass(frozen=True)
class Place:
    """What samples are grouped by: the name of the column, the names of its places, and in which each sample (n,) stands."""

    by: str
    names: tuple[str, ...]
    at: Ints


@dataclass(frozen=True)
class Results:
    """The samples of one checkpoint (None: the table has none): values (n,), labels (n,) into ``treatments``, blocks (n,), ``levels``
    (n, k) of factors, ``spans`` of events and loads, the ``structure`` they were laid out in, and the ``places`` they stand in.

    ``planned``: how many samples of each treatment the table has, read or not."""

    checkpoint: str | None
    treatments: tuple[str, ...]
    values: Floats
    labels: Ints
    blocks: Ints
    levels: Ints
    spans: Spans | None
    structure: Structure
    places: tuple[Place, ...]
    planned: tuple[int, ...]
    lettered: bool = False
    """Whether grades were written as letters."""


@dataclass(frozen=True)
class _Reading:
    line: int
    sample: str
    treatment: str
    home: tuple[str, ...]
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
    _check_names(treatments, columns.treatment)
    home: dict[str, _Reading] = {}
    for reading in readings:
        home.setdefault(reading.sample, reading)
    index = {name: i for i, name in enumerate(treatments)}
    names = [
        {name: i for i, name in enumerate(dict.fromkeys(r.levels[f] for r in readings))}
        for f in range(len(columns.factors))
    ]
    planned = np.bincount([index[one.treatment] for one in home.values()], minlength=len(treatments))
    value = table.column(columns.value)
    lettered = kind == "grade" and any(row.cells[value].strip().upper() in LETTERS for row in table.rows)
    found = []
    by_checkpoint: dict[str | None, list[_Reading]] = {}
    for reading in readings:
        by_checkpoint.setdefault(reading.checkpoint, []).append(reading)
    for checkpoint, own_readings in by_checkpoint.items():
        known = [(r.sample, r.value) for r in own_readings if r.value is not None]
        # Without a column of samples each row is one of its own.
        own = dict(known) if columns.sample is None else averaged(known, kind)
        samples = [home[sample] for sample in own]
        seen = {r.sample: r.seen for r in own_readings if r.value is not None}
        values = np.array(list(own.values()), dtype=np.float64)
        labels = np.array([index[one.treatment] for one in samples], dtype=np.int64)
        levels = [[names[f][one.levels[f]] for f in range(len(names))] for one in samples]
        happened = np.array([seen[one.sample] for one in samples], dtype=np.bool_)
        structure, places = _laid_out(columns, [one.home for one in samples], labels)
        found.append(
            Results(
                checkpoint,
                treatments,
                values,
                labels,
                structure.blocks,
                np.array(levels, dtype=np.int64).reshape(len(samples), len(names)),
                _spans(values, happened) if kind in ("event", "ladder") else None,
                structure,
                places,
                tuple(planned.tolist()),
                lettered,
            )
        )
    if all(len(results.values) == 0 for results in found):
        raise Refused(f"Column “{columns.value}” holds no value at all.", "line 2")
    for name in treatments:
        if all(not (results.labels == index[name]).any() for results in found):
            warnings.append(f"{name} has no value at all: it is left out, the others are judged.")
    return found, warnings


def _check_names(treatments: Sequence[str], column: str) -> None:
    """Refuse names that cannot be told apart, and more of them than can be compared."""
    if len(treatments) < 2:
        raise Refused(f"Column “{column}” names only one treatment; a comparison needs two.", "line 2")
    if len(treatments) > MOST_TREATMENTS:
        raise Refused(
            f"Column “{column}” names {len(treatments):,} treatments; more than {MOST_TREATMENTS} cannot be compared with each other. "
            "Is it the column of the samples?"
        )
    folded: dict[str, str] = {}
    for name in treatments:
        if len(name) > LONGEST_NAME:
            raise Refused(f"A treatment's name has {len(name):,} letters (“{name[:40]}…”); {LONGEST_NAME} are enough.")
        before = folded.setdefault(" ".join(name.split()).casefold(), name)
        if before != name:
            raise Refused(
                f"“{before}” and “{name}” differ in nothing but capitals or spaces. Are they one treatment? Write them alike "
                "if they are, and otherwise call one of them something else."
            )


def _laid_out(columns: Columns, homes: Sequence[tuple[str, ...]], labels: Ints) -> tuple[Structure, tuple[Place, ...]]:
    """The structure of samples that stand in ``homes``, which name their blocks, pair, row, column and plot, as far as there are any."""

    def numbers(values: Sequence[object]) -> Ints:
        index: dict[object, int] = {}
        return np.array([index.setdefault(value, len(index)) for value in values], dtype=np.int64)

    many = len(columns.blocks)
    names = [
        *columns.blocks,
        *(["pair"] if columns.pair else []),
        *(["row", "column"] if columns.row else []),
        *(["plot"] if columns.plot else []),
    ]
    at = {name: i for i, name in enumerate(names[many:], start=many)}
    upto = many + (1 if columns.pair else 0)
    blocks = numbers([home[:upto] for home in homes])
    places = []
    for i, name in enumerate(columns.blocks):
        known = tuple(dict.fromkeys(home[i] for home in homes))
        if len(known) > 1:
            places.append(Place(name, known, np.array([known.index(home[i]) for home in homes], dtype=np.int64)))
    if columns.row:
        rows = numbers([(home[:upto], home[at["row"]]) for home in homes])
        across = numbers([(home[:upto], home[at["column"]]) for home in homes])
        return Structure("latin", rows, columns=across, squares=blocks), tuple(places)
    if columns.plot:
        plots = numbers([(home[:upto], home[at["plot"]]) for home in homes])
        return Structure("split", blocks, plots=plots, hard=_together(plots, labels)), tuple(places)
    return Structure.plain(blocks), tuple(places)


def _together(plots: Ints, labels: Ints) -> Ints:
    """For each sample a number that treatments share which stand in one whole plot: the level of what is hard to change."""
    of = {int(label): int(label) for label in np.unique(labels)}

    def root(label: int) -> int:
        while of[label] != label:
            label = of[label]
        return label

    for plot in np.unique(plots):
        own = [int(label) for label in np.unique(labels[plots == plot])]
        for other in own[1:]:
            of[root(other)] = root(own[0])
    return np.array([root(int(label)) for label in labels], dtype=np.int64)


def _spans(at: Floats, happened: Flags) -> Spans:
    """Times (loads) that are known exactly: an event there, or none up to there."""
    before = at - TICK * np.maximum(1.0, np.abs(at))
    return Spans(np.where(happened, before, at), np.where(happened, at, np.inf))


def _readings(table: Table, columns: Columns, kind: Kind) -> tuple[list[_Reading], list[str]]:
    value = table.column(columns.value)
    factors = columns.factors or (columns.treatment,)
    made_of = [table.column(name) for name in factors]
    event = None if columns.event is None else table.column(columns.event)
    held = None if columns.held is None else table.column(columns.held)
    within = (columns.pair, columns.row, columns.column, columns.plot)
    grouping = [table.column(name) for name in (*columns.blocks, *(one for one in within if one))]
    sample = None if columns.sample is None else table.column(columns.sample)
    checkpoint = None if columns.checkpoint is None else table.column(columns.checkpoint)
    written, warnings = _written(table, value, columns.value, kind)
    read = _remembered(_reader(kind))
    gaps = [(table.header[i], i) for i in (*made_of, *grouping, *([] if sample is None else [sample]))]
    readings: list[_Reading] = []
    problems: list[Problem] = []
    empty: list[int] = []
    homes: dict[str, tuple[str, tuple[str, ...]]] = {}
    for row, text in zip(table.rows, written, strict=True):
        seen = True
        problem = _gap(row, gaps) if "" in row.cells else None
        amount: float | None = None
        if text == "":
            empty.append(row.line)
        elif problem is None:
            try:
                amount = read(text)
                if event is not None:
                    seen = EventScale().parse(row.cells[event]) == 1.0
                elif held is not None:
                    seen = PassFailScale("held", "gave way").parse(row.cells[held]) == 0.0
            except Refused as refused:
                problem = refused.problems[0].says
        name = f"line {row.line}" if sample is None else row.cells[sample]
        made = row.cells[made_of[0]] if len(made_of) == 1 else " / ".join(row.cells[i] for i in made_of)
        home = (made, tuple(row.cells[i] for i in grouping))
        if problem is None and sample is not None and homes.setdefault(name, home) != home:
            before, here = (" in ".join(filter(None, (had[0], " / ".join(had[1])))) for had in (homes[name], home))
            problem = f"Sample “{name}” has {before} on an earlier line, and {here} here."
        if problem:
            problems.append(Problem(f"line {row.line}", problem))
            continue
        at = None if checkpoint is None else row.cells[checkpoint]
        levels = tuple(row.cells[i] for i in made_of) if columns.factors else ()
        readings.append(_Reading(row.line, name, home[0], home[1], at, amount, levels, seen))
    if problems:
        raise Refused(problems[:MOST_TOLD])
    if empty:
        lines = ", ".join(str(line) for line in empty[:10]) + (" …" if len(empty) > 10 else "")
        warnings.append(f"No value on line {lines}: left out.")
    return readings, warnings


def _written(table: Table, value: int, name: str, kind: Kind) -> tuple[list[str], list[str]]:
    """The cells of the values as they are to be read, and a warning where that is not as they stand."""
    cells = [row.cells[value] for row in table.rows]
    if kind in ("passfail", "grade"):
        return cells, []
    plain, warning = numerals(cells, name)
    return plain, [warning] if warning else []


def _gap(row: Row, columns: Sequence[tuple[str, int]]) -> str | None:
    return next((f"Column “{name}” is empty." for name, i in columns if row.cells[i] == ""), None)


def _remembered(read: Callable[[str], float]) -> Callable[[str], float]:
    """``read``, which reads each text once."""
    known: dict[str, float] = {}

    def again(text: str) -> float:
        if text not in known:
            known[text] = read(text)
        return known[text]

    return again


READERS: Mapping[Kind, Callable[[str], float]] = {
    "passfail": PassFailScale().parse,
    "count": CountScale().parse,
    "percent": PercentScale().parse,
}


def _reader(kind: Kind) -> Callable[[str], float]:
    if kind == "grade":
        return _grade
    if kind in ("event", "ladder"):
        return _not_below
    return READERS.get(kind, number_in)


def _not_below(text: str) -> float:
    value = number_in(text)
    if value < 0:
        raise Refused(f"“{text.strip()}” lies below 0, which no time or load does.")
    return value


def _grade(text: str) -> float:
    rank = LETTERS.get(text.strip().upper())
    return float(rank) if rank is not None else number_in(text)
