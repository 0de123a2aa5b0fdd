"""The values of somebody else's table, each with what it belongs to, as columns of numbers: a table of a million rows takes no more room
than it must."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from fieldtally.core.compare.arrays import Ints
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.tables.columns import BLANK, PLUSES, ColumnMeaning, Meaning, Part
from fieldtally.core.tables.foreign import Foreign, Rows

MOST_TOLD = 20
LONGEST_NAME = 80


@dataclass(frozen=True)
class Coded:
    """A word for each of n things: ``words`` in the order in which they first come, and which of them each has (n,)."""

    words: list[str]
    codes: Ints

    def at(self, which: Ints) -> Coded:
        """Those of some things, in the order ``which``; of all of them as they are this is the same again."""
        if len(which) == len(self.codes) and bool((which[1:] > which[:-1]).all()):
            return self
        return first_come(self.words, self.codes[which])

    def told(self, write: Callable[[str], str]) -> Coded:
        """With words written another way; those that become the same are one."""
        again = coded([write(word) for word in self.words])
        return first_come(again.words, again.codes[self.codes])


def coded(words: Iterable[str]) -> Coded:
    """``words``, one after the other, as codes.

    >>> coded(["b", "a", "b"]).words, coded(["b", "a", "b"]).codes.tolist()
    (['b', 'a'], [0, 1, 0])
    """
    known: dict[str, int] = {}
    codes = np.fromiter((known.setdefault(word, len(known)) for word in words), dtype=np.int64)
    return Coded(list(known), codes)


def first_come(words: Sequence[str], codes: Ints) -> Coded:
    """The same with only the words that come, in the order in which they first do."""
    left, first, again = np.unique(codes, return_index=True, return_inverse=True)
    order = np.argsort(first, kind="stable")
    place = np.empty(len(order), dtype=np.int64)
    place[order] = np.arange(len(order))
    return Coded([words[code] for code in left[order].tolist()], place[again])


def crossed(*parts: Coded) -> tuple[list[tuple[str, ...]], Ints]:
    """What several words together are: the combinations in the order in which they first come, and which of them each thing has (n,)."""
    codes = np.zeros(len(parts[0].codes), dtype=np.int64)
    for part in parts:
        codes = codes * len(part.words) + part.codes
    _, first, again = np.unique(codes, return_index=True, return_inverse=True)
    order = np.argsort(first, kind="stable")
    place = np.empty(len(order), dtype=np.int64)
    place[order] = np.arange(len(order))
    combos = [tuple(part.words[part.codes[at]] for part in parts) for at in first[order].tolist()]
    return combos, place[again]


def alike(columns: Sequence[Sequence[str]]) -> Ints:
    """For each row of ``columns`` the first row that says the same, cell for cell (n,).

    >>> alike([["a", "b", "a"], ["1", "1", "1"]]).tolist()
    [0, 1, 0]
    """
    key = np.zeros(len(columns[0]), dtype=np.int64)
    for column in columns:
        own = coded(column)
        # Numbered anew after each column, so that no number grows too large.
        _, key = np.unique(key * len(own.words) + own.codes, return_inverse=True)
    _, first, again = np.unique(key, return_index=True, return_inverse=True)
    return np.asarray(first[again])


@dataclass(frozen=True)
class Entries:
    """n values in the order of the table: the line of each (n,), its ``cells``, which of the measured ``columns`` it stands in (n,), and
    what it belongs to; ``treatment`` is a combination of ``combos``."""

    lines: Ints
    cells: list[str]
    columns: list[ColumnMeaning]
    column: Ints
    combos: list[tuple[str, ...]]
    treatment: Ints
    block: Coded
    sample: Coded
    checkpoint: Coded
    scorer: Coded
    outcome: Coded

    def __len__(self) -> int:
        return len(self.cells)

    def told_of(self, at: int) -> dict[str, str]:
        """What the value at a place belongs to, in words: its sample, outcome, checkpoint and scorer."""
        parts = {name: getattr(self, name) for name in ("sample", "outcome", "checkpoint", "scorer")}
        return {name: part.words[int(part.codes[at])] for name, part in parts.items()}

    def without(self, gone: Sequence[int]) -> Entries:
        """All but those at the places ``gone``."""
        left = np.setdiff1d(np.arange(len(self)), np.asarray(gone, dtype=np.int64))
        kept, place = np.unique(self.treatment[left], return_inverse=True)
        return replace(
            self,
            lines=self.lines[left],
            cells=[self.cells[i] for i in left.tolist()],
            column=self.column[left],
            combos=[self.combos[one] for one in kept.tolist()],
            treatment=place,
            **{name: getattr(self, name).at(left) for name in ("block", "sample", "checkpoint", "scorer", "outcome")},
        )


def entries_of(table: Foreign, rows: Rows, meaning: Meaning, by: str, warnings: list[str]) -> Entries:
    """The values in ``rows``; those without a scorer of their own are ``by`` whoever brings them.

    :raises Refused: a cell that must say something is empty, no row holds a value, or a sample changes its treatment.
    """
    at = {name: i for i, name in enumerate(table.header)}
    _filled(rows, [(one, rows.columns[at[one.name]]) for part in _MUST for one in meaning.those(part)])
    one_word = {part: _joined(rows, [at[one.name] for one in meaning.those(part)]) for part in _PARTS}
    combos, treatment = crossed(*(coded(rows.columns[at[one.name]]) for one in meaning.those("treatment")))
    named = bool(meaning.those("sample"))
    several = any(meaning.those(part) for part in ("checkpoint", "stage", "outcome"))
    sample = one_word["sample"]
    if not named or "" in sample.words:
        told_apart = {**one_word, "checkpoint": staged(one_word["checkpoint"], one_word["stage"])}
        sample = _numbered(rows, combos, treatment, told_apart, several=several)
    if not named and several:
        warnings.append("No column names the samples, so they were told apart by their order in the table.")
    measured = meaning.those("value")
    table_cells = [rows.columns[at[one.name]] for one in measured]
    blank = {word for own in table_cells for word in set(own) if word.casefold() in BLANK}
    # Among pluses a minus says that there is none of it.
    gaps = [blank - set(PLUSES) if one.kind == "words" and "+" in one.order else blank for one in measured]
    held = np.array(
        [[cell not in empty for cell in own] for empty, own in zip(gaps, table_cells, strict=True)], dtype=bool
    ).T
    row, column = np.nonzero(held)
    if not len(row):
        raise Refused("No row holds a value.", "meaning")
    looks = _with_column(one_word["checkpoint"].at(row), column, [one.checkpoint.strip() for one in measured])
    looks = staged(looks, one_word["stage"].at(row))
    outcomes = _with_column(one_word["outcome"].at(row), column, [one.outcome.strip() or one.name for one in measured])
    kept, place = np.unique(treatment[row], return_inverse=True)
    found = Entries(
        lines=np.asarray(rows.lines, dtype=np.int64)[row],
        cells=[table_cells[k][i] for i, k in zip(row.tolist(), column.tolist(), strict=True)],
        columns=measured,
        column=column,
        combos=[combos[one] for one in kept.tolist()],
        treatment=place,
        block=one_word["block"].at(row),
        sample=sample.at(row),
        checkpoint=looks,
        scorer=one_word["scorer"].at(row).told(lambda word: (word or by)[:LONGEST_NAME]),
        outcome=outcomes.told(lambda word: word[:LONGEST_NAME]),
    )
    return _at_home(found, named=named, warnings=warnings)


_MUST: tuple[Part, ...] = ("treatment", "block", "checkpoint")
_PARTS: tuple[Part, ...] = ("block", "checkpoint", "stage", "outcome", "sample", "scorer")
STAGE = "\x1f"
"""Between a look and the stage of it, in the word for both."""


def staged(looks: Coded, stages: Coded) -> Coded:
    """Each look with its stage; as it is where there is none."""
    if stages.words == [""]:
        return looks
    combos, which = crossed(looks, stages)
    told = coded([f"{look}{STAGE}{stage}" if stage else look for look, stage in combos])
    return first_come(told.words, told.codes[which])


def unstaged(word: str) -> tuple[str, str]:
    """A look's own word, and its stage.

    >>> unstaged("Day 4"), unstaged(f"Day 4{STAGE}washed")
    (('Day 4', ''), ('Day 4', 'washed'))
    """
    look, _, stage = word.partition(STAGE)
    return look, stage


def _filled(rows: Rows, must: Sequence[tuple[ColumnMeaning, list[str]]]) -> None:
    """:raises Refused: a cell that must say something is empty."""
    empty = [
        (line, i) for i, (_, own) in enumerate(must) for line, cell in zip(rows.lines, own, strict=True) if not cell
    ]
    if empty:
        raise Refused([Problem(f"row {line}", _says_empty(must[i][0])) for line, i in sorted(empty)[:MOST_TOLD]])


def _says_empty(column: ColumnMeaning) -> str:
    got = column.part == "treatment"
    return f"“{column.name}” is empty; where it got nothing, write “nothing”." if got else f"“{column.name}” is empty."


def _joined(rows: Rows, places: Sequence[int]) -> Coded:
    """What the columns at ``places`` say together; nothing without any."""
    if not places:
        return Coded([""], np.zeros(len(rows), dtype=np.int64))
    if len(places) == 1:
        return coded(rows.columns[places[0]])
    return coded(" / ".join(cells) for cells in zip(*(rows.columns[i] for i in places), strict=True))


def _numbered(
    rows: Rows, combos: Sequence[tuple[str, ...]], treatment: Ints, words: dict[Part, Coded], *, several: bool
) -> Coded:
    """Without names samples are told apart by their order inside treatment, block and look."""
    given, block, look, outcome = words["sample"], words["block"], words["checkpoint"], words["outcome"]
    order: Counter[tuple[int, ...]] = Counter()
    found = []
    codes = zip(
        *(one.tolist() for one in (treatment, block.codes, look.codes, outcome.codes, given.codes)), strict=True
    )
    for line, (combo, where, when, what, own) in zip(rows.lines, codes, strict=True):
        name = given.words[own]
        if not name:
            place = (combo, where, when, what) if several else ()
            order[place] += 1
            name = f"{'/'.join(combos[combo])} {block.words[where]} {order[place]}" if several else f"row {line}"
        found.append(name)
    return coded(found)


def _with_column(words: Coded, column: Ints, own: Sequence[str]) -> Coded:
    """What the row says, or where it says nothing what its column does."""
    combos, which = crossed(words, Coded([str(i) for i in range(len(own))], column))
    told = coded([word or own[int(at)] for word, at in combos])
    return first_come(told.words, told.codes[which])


def _at_home(found: Entries, *, named: bool, warnings: list[str]) -> Entries:
    """Each sample has one treatment and block; numbers that begin anew in each treatment are told apart by it.

    :raises Refused: a sample that is told apart by its order changes its treatment or block.
    """
    home = found.treatment * len(found.block.words) + found.block.codes
    _, first = np.unique(found.sample.codes, return_index=True)
    moved = home != home[first][found.sample.codes]
    if not moved.any():
        return found
    if not named:
        raise Refused("It has another treatment or block than before.", f"row {found.lines[int(np.argmax(moved))]}")
    warnings.append(
        "The same sample numbers come back under other treatments, so they were read as numbers inside each."
    )
    whose = Coded(["/".join(combo) for combo in found.combos], found.treatment)
    combos, which = crossed(whose, found.block, found.sample)
    names = coded([" ".join(parts) for parts in combos])
    return replace(found, sample=first_come(names.words, names.codes[which]))
