"""Somebody else's table made into a trial: its plan drawn up afterwards, each row's values as readings, and nothing called sealed or blind.

What cannot be read for sure is asked about, not guessed: dates whose day and month could be either, and rows that are there twice.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import asdict, dataclass, field, replace
from datetime import UTC, date, datetime, timedelta
from typing import Any, Literal

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
from fieldtally.core.quantities.numbers import LARGEST, honest, number_in
from fieldtally.core.scales import CountScale, GradeScale, Level, MeasurementScale, PassFailScale, PercentScale, Scale
from fieldtally.core.tables.entries import MOST_TOLD, Entries, alike, coded, crossed, entries_of
from fieldtally.core.tables.foreign import Foreign, Rows
from fieldtally.core.tables.meaning import NO, OF, WITH_UNIT, YES, ColumnMeaning, Meaning, kind_of, minutes_of
from fieldtally.core.tables.numerals import numerals
from fieldtally.core.tables.reading_rows import ReadingRows
from fieldtally.core.trialpack.reading import Record, TrialPack
from fieldtally.core.trialpack.schema import SCHEMAS

DAY = 1440
MOST_TREATMENTS, MOST_SAMPLES, MOST_LOOKS, MOST_OUTCOMES = 60, 20_000, 200, 40
MOST_TAKES = 9
LETTERS = [f"{letter}{sign}" for letter in "FEDCBA" for sign in ("-", "", "+")]
SLASHED = re.compile(r"^(\d{1,4})[./-](\d{1,2})[./-](\d{1,4})(?:[ T].*)?$")


@dataclass(frozen=True)
class Choices:
    """What was asked and answered: whether ``dates`` with strokes begin with the day, and what becomes of rows that are there twice."""

    dates: Literal["ask", "day first", "month first"] = "ask"
    doubled: Literal["ask", "leave out", "keep"] = "ask"
    better: dict[str, Literal["more", "less", "none"]] = field(default_factory=dict)


@dataclass(frozen=True)
class ImportedTable:
    """A table made into a trial, with what should be looked at."""

    pack: TrialPack
    plan: Plan
    readings: int
    warnings: tuple[str, ...]


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
    _sound(table, meaning)
    warnings = list(table.warnings)
    rows = _without_copies(table, chosen, warnings)
    rows = _filled_down(table, rows, meaning, warnings)
    values = entries_of(table, rows, meaning, by, warnings)
    looks = _looks([word for word in values.checkpoint.words if word] or [""], chosen)
    # What was read without a look of its own was read at the end.
    values = replace(values, checkpoint=values.checkpoint.told(lambda word: word if word in looks else list(looks)[-1]))
    scales, numbers = _read(values, warnings)
    plan, keys = _plan(title, meaning, values, looks, scales, chosen, zone)
    pack, many = _pack(plan, keys, values, numbers, looks, (now, seed), warnings)
    return ImportedTable(pack, plan, many, tuple(warnings))


def _sound(table: Foreign, meaning: Meaning) -> None:
    if [one.name for one in meaning.columns] != list(table.header):
        raise Refused("The columns are not those of the table any more; begin anew.", "meaning")
    if not meaning.those("treatment"):
        raise Refused("Say which column names what is compared: the treatment.", "meaning")
    if not meaning.those("value"):
        raise Refused("Say which column holds what was measured.", "meaning")
    for part in ("sample", "checkpoint", "outcome", "scorer"):
        if len(meaning.those(part)) > 1:
            raise Refused(f"Only one column can be the {part}.", "meaning")
    if meaning.those("outcome") and len(meaning.those("value")) > 1:
        raise Refused("Where a column names the outcome there is one column of values.", "meaning")
    looks = Counter(
        (one.outcome.strip().casefold(), one.checkpoint.strip().casefold()) for one in meaning.those("value")
    )
    twice = next((name for name, many in looks.items() if many > 1), None)
    if twice and not meaning.those("outcome"):
        raise Refused(f"Two columns hold “{twice[0]}” at the same look; give them other names.", "meaning")


def _without_copies(table: Foreign, chosen: Choices, warnings: list[str]) -> Rows:
    rows = table.rows
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


def _filled_down(table: Foreign, rows: Rows, meaning: Meaning, warnings: list[str]) -> Rows:
    """Cells that were joined over several rows stand in the first of them only."""
    columns = list(rows.columns)
    for i, one in enumerate(meaning.columns):
        blanks = columns[i].count("") if one.part in ("treatment", "block") else 0
        if not blanks or not columns[i][0]:
            continue
        last, filled = "", []
        for cell in columns[i]:
            last = cell or last
            filled.append(last)
        columns[i] = filled
        warnings.append(f"{blanks} empty cells of “{table.header[i]}” were taken to be as the one above them.")
    return Rows(rows.lines, columns)


# When it was looked at


def _looks(written: list[str], chosen: Choices) -> dict[str, tuple[str, int]]:
    """For each look as written its name and offset in minutes, in order of time."""
    if written == [""]:
        return {"": ("The look", DAY)}
    if len(written) > MOST_LOOKS:
        raise Refused(f"There are {len(written)} different looks; is that column one of looks?", "meaning")
    days = _dates(written, chosen) if all(SLASHED.match(one) for one in written) else None
    if days is not None:
        first = min(days.values())
        found = {one: (day.isoformat(), ((day - first).days + 1) * DAY) for one, day in days.items()}
    else:
        offsets = {one: minutes_of(one) for one in written}
        if all(one is not None for one in offsets.values()) and len(set(offsets.values())) == len(written):
            shift = min(one for one in offsets.values() if one is not None)
            shift = -shift if shift < 0 else 0
            found = {one: (_look_name(one), (offsets[one] or 0) + shift) for one in written}
        else:
            found = {one: (one or "The look", (i + 1) * DAY) for i, one in enumerate(written)}
    return dict(sorted(found.items(), key=lambda one: one[1][1]))


def _look_name(written: str) -> str:
    return f"Day {written}" if re.fullmatch(r"[\d.,]+", written) else written


def _dates(written: Sequence[str], chosen: Choices) -> dict[str, date] | None:
    """Days as they are written; asked about where day and month could be either."""
    parts = {one: tuple(int(part) for part in SLASHED.match(one).groups()) for one in written}  # type: ignore[union-attr]
    if all(first > 31 for first, _, _ in parts.values()):
        order = "year first"
    elif any(first > 31 for first, _, _ in parts.values()):
        raise Refused("Dates are written in two ways here: some begin with the year. Make them alike.", "dates")
    else:
        day_first = any(first > 12 for first, _, _ in parts.values())
        month_first = any(second > 12 for _, second, _ in parts.values())
        if day_first and month_first:
            odd = [one for one, part in parts.items() if part[1] > 12]
            raise Refused(f"Dates are written in two ways here, such as “{odd[0]}”. Make them alike.", "dates")
        if day_first or month_first:
            order = "day first" if day_first else "month first"
        elif chosen.dates == "ask":
            raise Refused(f"Does “{written[0]}” begin with the day or with the month?", "dates")
        else:
            order = chosen.dates
    found = {}
    for one, (first, second, third) in parts.items():
        year, month, day = {
            "year first": (first, second, third),
            "day first": (third, second, first),
            "month first": (third, first, second),
        }[order]
        try:
            found[one] = date(year + 2000 if year < 100 else year, month, day)
        except ValueError as error:
            raise Refused(f"“{one}” is no day.", "dates") from error
    return found


# What was measured


def _read(values: Entries, warnings: list[str]) -> tuple[dict[str, tuple[Scale, ColumnMeaning]], Floats]:
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
        found = _numbers(cells.words, column, warnings, outcome)
        wrong = [code for code, number in enumerate(found) if number is None]
        for i in places[np.isin(cells.codes, wrong)][:MOST_TOLD].tolist():
            name = values.columns[int(values.column[i])].name
            says = f"“{values.cells[i][:40]}” in “{name}” is no {_word(column)}."
            problems.append((i, Problem(f"row {values.lines[i]}", says)))
        if not problems:
            known = [one for one in found if one is not None]
            numbers[places] = np.array(known)[cells.codes]
            scales[outcome] = (_scale(column, cells.words, known), column)
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
    }
    return words[column.kind]


def _numbers(cells: Sequence[str], column: ColumnMeaning, warnings: list[str], outcome: str) -> list[float | None]:
    if column.kind == "passfail":
        return [
            1.0 if one.casefold() in (*YES, "1") else 0.0 if one.casefold() in (*NO, "0") else None for one in cells
        ]
    if column.kind == "grade" and all(one.upper() in LETTERS for one in cells):
        return [float(LETTERS.index(one.upper())) for one in cells]
    bare = []
    for one in cells:
        counted, with_unit = OF.match(one), WITH_UNIT.match(one)
        bare.append(counted[1] if counted and column.kind == "count" else with_unit[1] if with_unit else one)
    bare, warning = numerals(bare, outcome)
    if warning:
        warnings.append(warning)
    return [_number(one, column) for one in bare]


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
        case "grade":
            if all(one.upper() in LETTERS for one in cells):
                return GradeScale(tuple(Level(float(i), name) for i, name in enumerate(LETTERS)))
            low, high = min(0.0, *numbers), max(*numbers, 1.0)
            steps = sorted({*numbers, *(float(one) for one in range(int(low), int(high) + 1) if high - low <= 20)})
            return GradeScale(tuple(Level(one, honest(one, 6)) for one in steps))
        case _:
            return MeasurementScale(column.unit[:40])


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
    chosen: Choices,
    zone: str,
) -> tuple[Plan, _Keys]:
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
            " / ".join(combo)[:120],
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
            primary=i == 0,
            checkpoints=tuple(key for key in keys.looks.values() if key in read_at[name]),
        )
        for i, (name, (scale, column)) in enumerate(scales.items())
    )
    layout = (
        Layout("blocks", tuple(Block(key, name[:80]) for name, key in keys.blocks.items())) if in_blocks else Layout()
    )
    checkpoints = tuple(Checkpoint(keys.looks[look], name[:80], offset) for look, (name, offset) in looks.items())
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


def _pack(
    plan: Plan,
    keys: _Keys,
    values: Entries,
    numbers: Floats,
    looks: dict[str, tuple[str, int]],
    made: tuple[datetime, str],
    warnings: list[str],
) -> tuple[TrialPack, int]:
    now, seed = made
    by = values.scorer.words[int(values.scorer.codes[0])]
    names = values.sample.words
    usable = all(re.fullmatch(r"[0-9A-Za-z-]{1,6}", name) for name in names)
    code = {name: name if usable else str(101 + i) for i, name in enumerate(names)}
    started = now - timedelta(minutes=max(offset for _, offset in looks.values()))
    tables: dict[str, Any] = {name: [] for name in SCHEMAS}
    allocation = []
    place: Counter[str] = Counter()
    _, last = np.unique(values.sample.codes[::-1], return_index=True)
    scorers = values.scorer.words
    for name, at in zip(names, (len(values) - 1 - last).tolist(), strict=True):
        block = keys.blocks.get(values.block.words[int(values.block.codes[at])])
        place[block or ""] += 1
        row = {
            "sample": code[name],
            "block": block,
            "place": place[block or ""],
            "treatment": keys.treatments[values.combos[int(values.treatment[at])]],
        }
        allocation.append({**row, "code": row.pop("sample"), "plot": None, "row": None, "column": None, "starts": 0})
        empty: Record = dict.fromkeys([field for field, _ in SCHEMAS["samples"].fields])
        scorer = scorers[int(values.scorer.codes[at])]
        tables["samples"].append({**empty, **row, "sample": code[name], "started_at": started, "started_by": scorer})
    takes = _takes(values)
    at_look = [started + timedelta(minutes=looks[word][1]) for word in values.checkpoint.words]
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
    )
    again = int((takes == 2).sum())
    if again:
        warnings.append(f"{again} samples have several values at one look; their median counts.")
    if not usable:
        empty = dict.fromkeys([field for field, _ in SCHEMAS["notes"].fields])
        listed = "; ".join(f"{code[name]} is {name}" for name in names[:2_000])
        tables["notes"].append(
            {
                **empty,
                "note": 1,
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
        "started_at": started.astimezone(UTC).isoformat(),
        "opened_at": told,
        "opened_by": by,
    }
    return TrialPack(plan.title, trial, {"seal": seal_of(document), "sealed": document}, tables, {}, None), len(values)
