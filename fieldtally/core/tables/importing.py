"""Somebody else's table made into a trial: its plan drawn up afterwards, each row's values as readings, and nothing called sealed or blind.

What cannot be read for sure is asked about, not guessed: dates whose day and month could be either, and rows that are there twice.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from datetime import UTC, date, datetime, time, timedelta
from itertools import pairwise
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np

from fieldtally.core.blinding.seal import FORMAT, seal_of
from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.design.plan import (
    Block,
    Checkpoint,
    Factor,
    FactorLevel,
    Layout,
    Outcome,
    Plan,
    Treatment,
)
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.numbers import LARGEST
from fieldtally.core.scales import (
    Scale,
)
from fieldtally.core.tables.beside import Calendar, Remark, Unread, remarks_in, told_beside
from fieldtally.core.tables.choices import Choices
from fieldtally.core.tables.columns import BARE_UNIT, DITTO, UNIT, ColumnMeaning, Meaning
from fieldtally.core.tables.curves import responses_in, step_of, with_curves
from fieldtally.core.tables.entries import MOST_TOLD, Entries, alike, crossed, entries_of, unstaged
from fieldtally.core.tables.figures import read_values
from fieldtally.core.tables.foreign import Foreign, Rows
from fieldtally.core.tables.looking import SLASHED, dates_in, staged_looks
from fieldtally.core.tables.meaning import (
    LIMIT,
    MOSTLY,
    unit_of_looks,
)
from fieldtally.core.tables.reading_rows import ReadingRows
from fieldtally.core.tables.seen import with_events
from fieldtally.core.trialpack.reading import Record, TrialPack
from fieldtally.core.trialpack.schema import SCHEMAS

HOUR, DAY = 60, 1440
MOST_TREATMENTS, MOST_SAMPLES, MOST_LOOKS, MOST_OUTCOMES = 60, 20_000, 200, 40
MOST_TAKES = 9
BOTH = 2
"""Columns of which each could be what is compared, and that may be so together."""


@dataclass(frozen=True)
class ImportedTable:
    """A table made into a trial, with what should be looked at; what its samples are called there, in the order of the pack, and whether
    it was told when it began."""

    pack: TrialPack
    plan: Plan
    readings: int
    warnings: tuple[str, ...]
    names: tuple[str, ...] = ()
    starts_told: bool = False


def bring(
    table: Foreign,
    meaning: Meaning,
    title: str,
    by: str,
    now: datetime,
    choices: Choices | None = None,
    zone: str = "UTC",
    *,
    seed: str,
) -> ImportedTable:
    """The trial that ``table`` tells of, by what its columns mean; readings without a scorer of their own are ``by`` whoever brings it.
    ``seed`` is kept with the plan that is drawn up.

    :raises Refused: no treatment or value column, a cell that cannot be read, or something that must be answered first (``dates``,
        ``doubled``).
    """
    chosen = choices or Choices()
    meaning = _settled(meaning, chosen)
    _sound(table, meaning)
    warnings = list(table.warnings)
    rows = _spelt_alike(table, _filled_down(table, table.rows, meaning, warnings), meaning, warnings)
    rows = _without_copies(rows, chosen, warnings)
    values, why = _without_words(entries_of(table, rows, meaning, by, warnings), chosen, warnings)
    counted = next((unit_of_looks(one.name) for one in meaning.those("checkpoint")), "days")
    began = _starts(table, rows, meaning, chosen, now)
    first = min(began.values(), default=None)
    values = with_curves(values, warnings)
    values = with_events(values, lambda written: dates_in(written, chosen), first, warnings)
    looks, days = staged_looks([word for word in values.checkpoint.words if word] or [""], chosen, counted, first)
    warnings += _of_days(days, first)
    # What was read without a look of its own was read at the end.
    values = replace(values, checkpoint=values.checkpoint.told(lambda word: word if word in looks else list(looks)[-1]))
    scales, numbers = read_values(values, warnings)
    lost = _without_any(why, values)
    plan, keys = _plan(title, meaning, values, looks, scales, (chosen, lost), zone)
    calendar = _calendar(values, looks, days, began, now, zone)
    remarks = remarks_in(table, rows, meaning, values)
    pack, many = _pack(plan, keys, values, numbers, calendar, (now, seed), warnings, (why, remarks))
    names = (*values.sample.words, *(one.of["sample"] for one in lost))
    return ImportedTable(pack, plan, many, tuple(warnings), names, bool(began))


def _settled(meaning: Meaning, chosen: Choices) -> Meaning:
    """``meaning`` with what was answered about what is compared: that column is the treatment, and the one taken for it a place.

    :raises Refused: at ``compared``: it was not answered yet.
    """
    names = list(meaning.unsure)
    parts = {one.name: one.part for one in meaning.columns}
    taken = next((name for name in names if parts.get(name) == "treatment"), None)
    if len(names) < 2 or taken is None or len(meaning.those("treatment")) > 1:
        return meaning
    if chosen.compared not in names:
        listed = " or ".join(f"“{name}”" for name in names)
        both = ", or both together" if len(names) == BOTH else ""
        raise Refused(
            [Problem("compared", f"Is it {listed} that is compared{both}? The table could be read either way.")]
        )
    if chosen.compared == taken:
        return meaning
    swapped = {
        chosen.compared: "treatment",
        taken: parts[chosen.compared] if parts[chosen.compared] == "block" else "nothing",
    }
    columns = tuple(
        ColumnMeaning(one.name, swapped[one.name]) if one.name in swapped else one for one in meaning.columns
    )
    return Meaning(columns, "")


def _sound(table: Foreign, meaning: Meaning) -> None:
    if [one.name for one in meaning.columns] != list(table.header):
        raise Refused("The columns are not those of the table any more; begin anew.", "meaning")
    _no_means(meaning)
    if not meaning.those("treatment"):
        raise Refused("Say which column names what is compared: the treatment.", "meaning")
    if not meaning.those("value"):
        raise Refused("Say which column holds what was measured.", "meaning")
    for part in ("sample", "checkpoint", "stage", "outcome", "scorer"):
        if len(meaning.those(part)) > 1:
            raise Refused(f"Only one column can be the {part}.", "meaning")
    if meaning.those("outcome") and len(meaning.those("value")) > 1:
        raise Refused("Where a column names the outcome there is one column of values.", "meaning")
    looks = Counter(
        (
            one.outcome.strip().casefold(),
            one.checkpoint.strip().casefold(),
            step_of(one.name) if one.kind == "curve" else None,
        )
        for one in meaning.those("value")
    )
    twice = next((name for name, many in looks.items() if many > 1), None)
    if twice and not meaning.those("outcome"):
        raise Refused(f"Two columns hold “{twice[0]}” at the same look; give them other names.", "meaning")


MEAN = re.compile(r"^(?:mean|average|avg|median)\b", re.I)
SPREAD = re.compile(r"^(?:n|count|sd|s\.d\.|se|s\.e\.|sem|std|stdev|variance|min|max|lower|upper|ci|95 ?%.*)\b", re.I)


def _no_means(meaning: Meaning) -> None:
    """:raises Refused: the table holds means and what they are of, and not what was read."""
    names = [one.name for one in meaning.columns if one.part == "value"]
    if len(names) > 1 and any(map(MEAN.match, names)) and all(MEAN.match(name) or SPREAD.match(name) for name in names):
        raise Refused(
            "These are means, and not what was read: nobody can tell from them how samples fared. Bring a row for each sample.",
            "meaning",
        )


def _without_copies(rows: Rows, chosen: Choices, warnings: list[str]) -> Rows:
    first = alike(rows.columns)
    copies = np.flatnonzero(first != np.arange(len(rows))).tolist()
    # Without a column that tells samples apart, rows that are alike are samples that fared alike.
    if copies and chosen.doubled == "ask":
        raise Refused(
            [
                Problem("doubled", f"{len(copies)} rows are there twice. Are they copies, or samples alike?"),
                *(
                    Problem(f"row {rows.lines[at]}", f"It is the same as row {rows.lines[first[at]]}, cell for cell.")
                    for at in copies[:MOST_TOLD]
                ),
            ]
        )
    if not copies or chosen.doubled != "leave out":
        return rows
    warnings.append(f"{len(copies)} copies of rows were left out.")
    kept = np.setdiff1d(np.arange(len(rows)), copies).tolist()
    return Rows([rows.lines[i] for i in kept], [[column[i] for i in kept] for column in rows.columns])


def _without_words(values: Entries, chosen: Choices, warnings: list[str]) -> tuple[Entries, list[Unread]]:
    """``values`` without the words that stand where a number should, as in a cell that says what befell the sample; and those words, each
    with what it belongs to.

    :raises Refused: at ``words``: nobody has said yet what becomes of them.
    """
    held = np.array([any(letter.isdigit() for letter in cell) for cell in values.cells], dtype=bool)
    # Of what lies above a limit no number is known; on a ladder it is the highest step.
    limits = {cell for cell in set(values.cells) if LIMIT.match(cell)}
    ladder = np.array([one.kind == "ladder" for one in values.columns], dtype=bool)[values.column]
    if limits:
        held &= ladder | ~np.array([cell in limits for cell in values.cells], dtype=bool)
    numbers = np.array([one.kind in ("measurement", "percent", "ladder") for one in values.columns], dtype=bool)
    mostly = np.array([bool(held[values.column == k].mean() > MOSTLY) for k in range(len(values.columns))], dtype=bool)
    odd = np.flatnonzero(~held & (numbers & mostly)[values.column]).tolist()
    if not odd:
        return values, []
    said = Counter(values.cells[i] for i in odd)
    listed = ", ".join(
        f"“{word[:40]}”" + (f" ({many} times)" if many > 1 else "") for word, many in said.most_common(5)
    )
    if chosen.words == "ask":
        raise Refused(
            [
                Problem(
                    "words",
                    f"Words stand where a value should: {listed}. Are they why there is none?{_of_limits(limits)}",
                ),
                *(Problem(f"row {values.lines[i]}", f"“{values.cells[i][:40]}” is no value.") for i in odd[:MOST_TOLD]),
            ]
        )
    warnings.append(f"Without a value for the reason that stands there: {listed}.")
    return values.without(odd), [
        Unread(
            values.told_of(i),
            values.combos[int(values.treatment[i])],
            values.block.words[int(values.block.codes[i])],
            values.cells[i],
        )
        for i in odd
    ]


def _without_any(why: Sequence[Unread], values: Entries) -> list[Unread]:
    """One for each sample that has no value at all and is a sample all the same; not where nothing of its treatment, its place, or of what
    was to be read has a value."""
    there, found = set(values.sample.words), dict[str, Unread]()
    known = (set(values.combos), set(values.block.words), set(values.outcome.words), set(values.checkpoint.words))
    for one in why:
        told = (one.combo, one.block, one.of["outcome"], one.of["checkpoint"])
        if one.of["sample"] not in there and all(word in words for word, words in zip(told, known, strict=True)):  # type: ignore[operator]
            found.setdefault(one.of["sample"], one)
    return list(found.values())


def _of_limits(limits: set[str]) -> str:
    if not limits:
        return ""
    or_held = "; or say that the column holds the highest step" if all(LIMIT_ABOVE.match(one) for one in limits) else ""
    return f" A limit is no value: left out, such a sample counts as not read{or_held}."


LIMIT_ABOVE = re.compile(r"^\s*[>≥]")


def _filled_down(table: Foreign, rows: Rows, meaning: Meaning, warnings: list[str]) -> Rows:
    """Cells that were joined over several rows stand in the first of them only."""
    columns = list(rows.columns)
    looks = [i for i, one in enumerate(meaning.columns) if one.part in ("checkpoint", "stage", "outcome")]
    for i, one in enumerate(meaning.columns):
        # Of a long table no second copy is made where nothing is empty.
        if one.part not in ("treatment", "block", "sample") or {"", *DITTO}.isdisjoint(columns[i]):
            continue
        own = ["" if cell in DITTO else cell for cell in columns[i]]
        blanks = own.count("")
        if not blanks or not own[0] or (blanks == columns[i].count("") and not _joined_over(own)):
            continue
        last, filled = "", []
        for cell in own:
            last = cell or last
            filled.append(last)
        if one.part == "sample" and not _read_once(filled, [columns[k] for k in looks]):
            continue
        columns[i] = filled
        warnings.append(f"{blanks} empty cells of “{table.header[i]}” were taken to be as the one above them.")
    return Rows(rows.lines, columns)


def _joined_over(cells: Sequence[str]) -> bool:
    """Whether empty cells are what joining left: nearly every name has some below it.  Where names come back without, an empty cell is one
    that nobody filled, or something that got nothing."""
    begins = [i for i, cell in enumerate(cells) if cell]
    alone = sum(after - at == 1 for at, after in pairwise([*begins, len(cells)]))
    return alone <= len(begins) * FEW_ALONE


FEW_ALONE = 0.2


def _spelt_alike(table: Foreign, rows: Rows, meaning: Meaning, warnings: list[str]) -> Rows:
    """``rows`` with one spelling for the names of treatments and places that differ in capitals alone: that which comes most often."""
    columns = list(rows.columns)
    for i, one in enumerate(meaning.columns):
        many = Counter(columns[i]) if one.part in ("treatment", "block") else Counter()
        best: dict[str, str] = {}
        for name, _ in many.most_common():
            best.setdefault(name.casefold(), name)
        other = [name for name in many if best[name.casefold()] != name]
        if other:
            columns[i] = [best[cell.casefold()] for cell in columns[i]]
            listed = ", ".join(f"“{name[:30]}” as “{best[name.casefold()][:30]}”" for name in other[:4])
            warnings.append(f"Names in “{table.header[i]}” that differ in capitals alone were read as one: {listed}.")
    return Rows(rows.lines, columns)


def _read_once(samples: Sequence[str], looks: Sequence[Sequence[str]]) -> bool:
    """Whether samples that were filled down are each read once at a look; without looks nothing tells."""
    return bool(looks) and len(set(zip(samples, *looks, strict=True))) == len(samples)


# When it was looked at


def _starts(table: Foreign, rows: Rows, meaning: Meaning, chosen: Choices, now: datetime) -> dict[int, date]:
    """The day on which each row's (line) sample began, by the column that says so, or else the day that was told; empty where none is
    known.

    :raises Refused: at ``start``: that is no day, or lies ahead.
    """
    found: dict[int, date] = {}
    if chosen.start:
        try:
            told = date.fromisoformat(chosen.start)
        except ValueError as error:
            raise Refused(f"“{chosen.start[:20]}” is no day, as in 2027-03-01.", "start") from error
        if told > now.date():
            raise Refused("That day lies in the future.", "start")
        found = dict.fromkeys(rows.lines, told)
    for one in meaning.those("started")[:1]:
        cells = rows.columns[table.header.index(one.name)]
        written = list(dict.fromkeys(cell for cell in cells if cell))
        if written and all(SLASHED.match(cell) for cell in written):
            days = dates_in(written, chosen) or {}
            found |= {line: days[cell] for line, cell in zip(rows.lines, cells, strict=True) if cell}
    return found


def _of_days(days: dict[str, date], first: date | None) -> list[str]:
    """What is to be said of days that nobody told."""
    if first is not None:
        return []
    if days:
        return [
            "On which day it began is not told: the day before the first look was taken for it. Say it, and times are true."
        ]
    return [
        "On which days it was is not told: times count from the start, and the last look was taken to be today. Say when it began."
    ]


def _calendar(
    values: Entries,
    looks: dict[str, tuple[str, int]],
    days: dict[str, date],
    began: dict[int, date],
    now: datetime,
    zone: str,
) -> Calendar:
    def noon(day: date) -> datetime:
        if isinstance(day, datetime):
            return min(now, day.replace(tzinfo=ZoneInfo(zone)).astimezone(UTC))
        return min(now, datetime.combine(day, time(12), ZoneInfo(zone)).astimezone(UTC))

    first = min(began.values(), default=None) or (min(days.values()) - timedelta(days=1) if days else None)
    start = noon(first) if first else now - timedelta(minutes=max(offset for _, offset in looks.values()))
    _, last = np.unique(values.sample.codes[::-1], return_index=True)
    lines = values.lines[len(values) - 1 - last].tolist()
    return Calendar(
        start,
        [noon(began[line]) if line in began else start for line in lines],
        {
            word: noon(days[word]) if word in days else min(now, start + timedelta(minutes=offset))
            for word, (_, offset) in looks.items()
        },
    )


# The plan, drawn up afterwards


@dataclass(frozen=True)
class _Keys:
    treatments: dict[tuple[str, ...], str]
    blocks: dict[str, str]
    outcomes: dict[str, str]
    looks: dict[str, str]


def _plan(
    title: str,
    meaning: Meaning,
    values: Entries,
    looks: dict[str, tuple[str, int]],
    scales: dict[str, tuple[Scale, ColumnMeaning]],
    told: tuple[Choices, Sequence[Unread]],
    zone: str,
) -> tuple[Plan, _Keys]:
    """The plan, and the keys in it; ``told``: what was answered, and samples without a value."""
    chosen, lost = told
    combos, blocks = values.combos, values.block.words
    if len(combos) < 2:
        raise Refused("Only one treatment is named; a comparison needs two.", "meaning")
    if len(combos) > MOST_TREATMENTS:
        raise Refused(f"{len(combos)} different treatments are named; is that column the treatment?", "meaning")
    samples = len(values.sample.words)
    if samples > MOST_SAMPLES:
        raise Refused(f"{samples:,} samples are more than the {MOST_SAMPLES:,} that one trial holds.", "meaning")
    _, first = np.unique(values.sample.codes, return_index=True)
    many = dict(zip(combos, np.bincount(values.treatment[first], minlength=len(combos)).tolist(), strict=True))
    for one in lost:
        many[one.combo] += 1
    in_blocks = len(blocks) > 1
    keys = _Keys(
        {combo: f"t{i}" for i, combo in enumerate(combos, start=1)},
        {block: f"b{i}" for i, block in enumerate(blocks, start=1)} if in_blocks else {},
        {name: f"o{i}" for i, name in enumerate(scales, start=1)},
        {look: f"c{i}" for i, look in enumerate(looks, start=1)},
    )
    several = len(meaning.those("treatment")) > 1
    factors = _factors(meaning, combos) if several else ()
    treatments = tuple(
        Treatment(
            key,
            " / ".join(map(_named_with, combo, meaning.those("treatment")))[:120],
            "untreated" if meaning.control and " / ".join(combo) == meaning.control else "treatment",
            max(1, round(many[combo] / (len(blocks) if in_blocks else 1))),
            levels={
                f.key: next(level.key for level in f.levels if level.name == name)
                for f, name in zip(factors, combo, strict=True)
            }
            if several
            else {},
        )
        for combo, key in keys.treatments.items()
    )
    read_at: dict[str, set[str]] = {name: set() for name in scales}
    for name, look in crossed(values.outcome, values.checkpoint)[0]:
        read_at[name].add(keys.looks[look])
    outcomes = tuple(
        Outcome(
            keys.outcomes[name],
            name,
            scale,
            better=chosen.better.get(name, column.better),
            margin=_margin(name, chosen),
            primary=i == 0,
            checkpoints=tuple(key for key in keys.looks.values() if key in read_at[name]),
        )
        for i, (name, (scale, column)) in enumerate(scales.items())
    )
    layout = (
        Layout("blocks", tuple(Block(key, name[:80]) for name, key in keys.blocks.items())) if in_blocks else Layout()
    )
    checkpoints = tuple(
        Checkpoint(keys.looks[look], name[:80], offset, stage=unstaged(look)[1][:60])
        for look, (name, offset) in looks.items()
    )
    plan = Plan(
        title=title.strip()[:200] or "A table of results",
        question=f"What does the table “{title.strip()[:120]}” show?",
        zone=zone,
        factors=factors,
        treatments=treatments,
        layout=layout,
        outcomes=outcomes,
        checkpoints=checkpoints,
    )
    return plan, keys


def _named_with(cell: str, column: ColumnMeaning) -> str:
    """A dose with the unit that the head of its column tells.

    >>> _named_with("5", ColumnMeaning("Dose (mL/L)", "treatment")), _named_with("Jute", ColumnMeaning("twine", "treatment"))
    ('5 mL/L', 'Jute')
    """
    told, bare = UNIT.search(column.name), BARE_UNIT.match(column.name)
    unit = (told[1] or told[2]) if told else bare["unit"] if bare else ""
    return f"{cell} {unit}" if unit and re.fullmatch(r"[\d.,]+", cell) else cell


def _margin(name: str, chosen: Choices) -> float | None:
    """The smallest difference that matters in an outcome; None where nobody said.

    :raises Refused: at ``margins``: it is no number above 0.
    """
    margin = chosen.margins.get(name)
    if margin is not None and not 0 < margin <= LARGEST:
        raise Refused(f"The smallest difference that matters in “{name}” is a number above 0.", "margins")
    return margin


def _factors(meaning: Meaning, combos: Sequence[tuple[str, ...]]) -> tuple[Factor, ...]:
    found = []
    for i, column in enumerate(meaning.those("treatment")):
        levels = dict.fromkeys(combo[i] for combo in combos)
        found.append(
            Factor(
                f"f{i + 1}",
                column.name[:60],
                tuple(FactorLevel(f"f{i + 1}-{k}", name) for k, name in enumerate(levels, start=1)),
            )
        )
    return tuple(found)


def _takes(values: Entries) -> Ints:
    """How often each value's sample was read at its look by its scorer, counted up to that value (n,)."""
    key = np.zeros(len(values), dtype=np.int64)
    for part in (values.sample, values.outcome, values.checkpoint, values.scorer):
        key = key * len(part.words) + part.codes
    order = np.argsort(key, kind="stable")
    sorted_key = key[order]
    begins = np.r_[True, sorted_key[1:] != sorted_key[:-1]]
    starts = np.maximum.accumulate(np.where(begins, np.arange(len(key)), 0))
    takes = np.empty(len(key), dtype=np.int64)
    takes[order] = np.arange(len(key)) - starts + 1
    return takes


def _responses(values: Entries) -> dict[int, list[float | None]]:
    """What stands behind the number of a curve, by its place among the values."""
    curves = np.array([one.kind == "curve" for one in values.columns], dtype=bool)[values.column]
    return {i: responses_in(values.cells[i]) for i in np.flatnonzero(curves).tolist()}


def _cannot(
    why: Sequence[Unread],
    keys: _Keys,
    code: dict[str, str],
    calendar: Calendar,
    now: datetime,
) -> list[Record]:
    """Rows that say why there is no value; of a sample that has none at all nothing is known to be said of."""
    empty: Record = dict.fromkeys([name for name, _ in SCHEMAS["readings"].fields])
    return [
        {
            **empty,
            "sample": code[one.of["sample"]],
            "outcome": keys.outcomes[one.of["outcome"]],
            "checkpoint": keys.looks[one.of["checkpoint"]],
            "scorer": one.of["scorer"],
            "kind": "cannot",
            "reason": one.text[:200],
            "taken_at": calendar.looks[one.of["checkpoint"]],
            "stored_at": now,
            "source": "typed",
            "take": 1,
        }
        for one in why
        if one.of["sample"] in code and one.of["outcome"] in keys.outcomes and one.of["checkpoint"] in keys.looks
    ]


def _pack(
    plan: Plan,
    keys: _Keys,
    values: Entries,
    numbers: Floats,
    calendar: Calendar,
    made: tuple[datetime, str],
    warnings: list[str],
    said: tuple[Sequence[Unread], Sequence[Remark]],
) -> tuple[TrialPack, int]:
    """The pack, and how many values are in it; ``said``: why there is no value, and what stands beside values."""
    why, remarks = said
    now, seed = made
    by = values.scorer.words[int(values.scorer.codes[0])]
    lost = _without_any(why, values)
    names = [*values.sample.words, *(one.of["sample"] for one in lost)]
    usable = all(re.fullmatch(r"[0-9A-Za-z-]{1,6}", name) for name in names)
    code = {name: name if usable else str(101 + i) for i, name in enumerate(names)}
    tables: dict[str, Any] = {name: [] for name in SCHEMAS}
    allocation = []
    place: Counter[str] = Counter()
    _, last = np.unique(values.sample.codes[::-1], return_index=True)
    scorers = values.scorer.words
    homes = [
        (
            values.block.words[int(values.block.codes[at])],
            values.combos[int(values.treatment[at])],
            scorers[int(values.scorer.codes[at])],
        )
        for at in (len(values) - 1 - last).tolist()
    ]
    homes += [(one.block, one.combo, one.of["scorer"]) for one in lost]
    own = [*calendar.own, *(calendar.began for _ in lost)]
    for name, (where, combo, scorer), started in zip(names, homes, own, strict=True):
        block = keys.blocks.get(where)
        place[block or ""] += 1
        row = {
            "sample": code[name],
            "block": block,
            "place": place[block or ""],
            "treatment": keys.treatments[combo],
        }
        allocation.append({**row, "code": row.pop("sample"), "plot": None, "row": None, "column": None, "starts": 0})
        empty: Record = dict.fromkeys([field for field, _ in SCHEMAS["samples"].fields])
        tables["samples"].append({**empty, **row, "sample": code[name], "started_at": started, "started_by": scorer})
    takes = _takes(values)
    at_look = [calendar.looks[word] for word in values.checkpoint.words]
    tables["readings"] = ReadingRows(
        [code[name] for name in names],
        [keys.outcomes[word] for word in values.outcome.words],
        [keys.looks[word] for word in values.checkpoint.words],
        scorers,
        at_look,
        now,
        np.array(
            [values.sample.codes, values.outcome.codes, values.checkpoint.codes, values.scorer.codes], dtype=np.int32
        ),
        numbers,
        np.minimum(takes, MOST_TAKES),
        _cannot(why, keys, code, calendar, now),
    )
    tables["readings"].responses = _responses(values)
    told_beside(tables, remarks, code, calendar, (by, now), warnings)
    again = int((takes == 2).sum())
    if again:
        warnings.append(f"{again} samples have several values at one look; their median counts.")
    if not usable:
        empty = dict.fromkeys([field for field, _ in SCHEMAS["notes"].fields])
        listed = "; ".join(f"{code[name]} is {name}" for name in names[:2_000])
        tables["notes"].append(
            {
                **empty,
                "note": len(tables["notes"]) + 1,
                "text": f"Samples of the table got codes: {listed}.",
                "by": by,
                "at": now,
            }
        )
    document = {"format": FORMAT, "plan": asdict(plan), "seed": seed, "allocation": allocation}
    told = now.astimezone(UTC).isoformat()
    trial = {
        "title": plan.title,
        "zone": plan.zone,
        "sealed_at": told,
        "sealed_by": by,
        "started_at": calendar.began.astimezone(UTC).isoformat(),
        "opened_at": told,
        "opened_by": by,
    }
    return TrialPack(plan.title, trial, {"seal": seal_of(document), "sealed": document}, tables, {}, None), len(values)
