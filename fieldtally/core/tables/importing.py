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

from fieldtally.core.blinding.seal import FORMAT, seal_of
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
from fieldtally.core.tables.foreign import Foreign, ForeignRow
from fieldtally.core.tables.meaning import BLANK, NO, OF, WITH_UNIT, YES, ColumnMeaning, Meaning, kind_of, minutes_of
from fieldtally.core.tables.numerals import numerals
from fieldtally.core.trialpack.reading import Record, TrialPack
from fieldtally.core.trialpack.schema import SCHEMAS

DAY = 1440
MOST_TOLD = 20
MOST_TREATMENTS, MOST_SAMPLES, MOST_LOOKS, MOST_OUTCOMES = 60, 20_000, 200, 40
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


@dataclass(frozen=True)
class _Value:
    line: int
    treatment: tuple[str, ...]
    block: str
    sample: str
    checkpoint: str
    scorer: str
    outcome: str
    cell: str
    column: ColumnMeaning


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
    values = _values(table, rows, meaning, by, warnings)
    looks = _looks([one for one in values if one.checkpoint] or values, chosen)
    # What was read without a look of its own was read at the end.
    values = [one if one.checkpoint in looks else replace(one, checkpoint=list(looks)[-1]) for one in values]
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


def _without_copies(table: Foreign, chosen: Choices, warnings: list[str]) -> list[ForeignRow]:
    seen: dict[tuple[str, ...], int] = {}
    copies = []
    kept = []
    for row in table.rows:
        if row.cells in seen:
            copies.append(Problem(f"row {row.line}", f"It is the same as row {seen[row.cells]}, cell for cell."))
            if chosen.doubled == "leave out":
                continue
        seen.setdefault(row.cells, row.line)
        kept.append(row)
    # Without a column that tells samples apart, rows that are alike are samples that fared alike.
    if copies and chosen.doubled == "ask":
        raise Refused(
            [
                Problem("doubled", f"{len(copies)} rows are there twice. Are they copies, or samples alike?"),
                *copies[:MOST_TOLD],
            ]
        )
    if copies and chosen.doubled == "leave out":
        warnings.append(f"{len(copies)} copies of rows were left out.")
    return kept


def _filled_down(table: Foreign, rows: list[ForeignRow], meaning: Meaning, warnings: list[str]) -> list[ForeignRow]:
    """Cells that were joined over several rows stand in the first of them only."""
    columns = [i for i, one in enumerate(meaning.columns) if one.part in ("treatment", "block")]
    for i in columns:
        blanks = sum(1 for row in rows if not row.cells[i])
        if not blanks or not rows[0].cells[i]:
            continue
        last, filled = "", []
        for row in rows:
            last = row.cells[i] or last
            filled.append(replace(row, cells=(*row.cells[:i], last, *row.cells[i + 1 :])))
        rows = filled
        warnings.append(f"{blanks} empty cells of “{table.header[i]}” were taken to be as the one above them.")
    return rows


def _values(table: Foreign, rows: Sequence[ForeignRow], meaning: Meaning, by: str, warnings: list[str]) -> list[_Value]:
    at = {name: i for i, name in enumerate(table.header)}

    parts = ("treatment", "block", "checkpoint", "outcome", "sample", "scorer")
    places = {part: [at[one.name] for one in meaning.those(part)] for part in parts}  # type: ignore[arg-type]
    measured = [(at[one.name], one) for one in meaning.those("value")]

    def cells(row: ForeignRow, part: str) -> tuple[str, ...]:
        return tuple([row.cells[i] for i in places[part]])

    problems = [
        Problem(f"row {row.line}", f"“{one.name}” is empty.")
        for row in rows
        for one in (*meaning.those("treatment"), *meaning.those("block"), *meaning.those("checkpoint"))
        if not row.cells[at[one.name]]
    ]
    if problems:
        raise Refused(problems[:MOST_TOLD])
    named = bool(meaning.those("sample"))
    several = bool(meaning.those("checkpoint") or meaning.those("outcome"))
    order: Counter[tuple[Any, ...]] = Counter()
    found = []
    for row in rows:
        treatment, block = cells(row, "treatment"), " / ".join(cells(row, "block"))
        checkpoint, outcome = "".join(cells(row, "checkpoint")), "".join(cells(row, "outcome"))
        sample = "".join(cells(row, "sample"))
        if not named or not sample:
            # Without names samples are told apart by their order inside treatment, block and look.
            place = (treatment, block, checkpoint, outcome) if several else ()
            order[place] += 1
            sample = f"{'/'.join(treatment)} {block} {order[place]}" if several else f"row {row.line}"
        scorer = "".join(cells(row, "scorer")) or by
        for i, column in measured:
            cell = row.cells[i]
            if cell.casefold() in BLANK:
                continue
            found.append(
                _Value(
                    row.line,
                    treatment,
                    block,
                    sample,
                    checkpoint or column.checkpoint.strip(),
                    scorer[:80],
                    (outcome or column.outcome.strip() or column.name)[:80],
                    cell,
                    column,
                )
            )
    if not found:
        raise Refused("No row holds a value.", "meaning")
    if not named and several:
        warnings.append("No column names the samples, so they were told apart by their order in the table.")
    homes: dict[str, tuple[tuple[str, ...], str, int]] = {}
    for value in found:
        home = homes.setdefault(value.sample, (value.treatment, value.block, value.line))
        if home[:2] != (value.treatment, value.block):
            if named and len({(v.treatment, v.block) for v in found if v.sample == value.sample}) > 1:
                return _own_numbers(found, warnings)
            raise Refused("It has another treatment or block than before.", f"row {value.line}")
    return found


def _own_numbers(found: list[_Value], warnings: list[str]) -> list[_Value]:
    """Numbers that begin anew in each treatment: samples are then named by treatment, block and number."""
    warnings.append(
        "The same sample numbers come back under other treatments, so they were read as numbers inside each."
    )
    return [replace(one, sample=f"{'/'.join(one.treatment)} {one.block} {one.sample}") for one in found]


# When it was looked at


def _looks(values: Sequence[_Value], chosen: Choices) -> dict[str, tuple[str, int]]:
    """For each look as written its name and offset in minutes, in order of time."""
    written = list(dict.fromkeys(one.checkpoint for one in values))
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


def _read(values: Sequence[_Value], warnings: list[str]) -> tuple[dict[str, tuple[Scale, ColumnMeaning]], list[float]]:
    """The scale of each outcome, and the number of each value in order."""
    by_outcome: dict[str, list[int]] = {}
    for i, one in enumerate(values):
        by_outcome.setdefault(one.outcome, []).append(i)
    if len(by_outcome) > MOST_OUTCOMES:
        raise Refused(f"There are {len(by_outcome)} different outcomes; up to {MOST_OUTCOMES} can be told.", "meaning")
    numbers = [0.0] * len(values)
    scales: dict[str, tuple[Scale, ColumnMeaning]] = {}
    problems: list[Problem] = []
    long = len({one.column.name for one in values}) == 1 and len(by_outcome) > 1
    for outcome, places in by_outcome.items():
        cells = [values[i].cell for i in places]
        column = values[places[0]].column
        if long:
            # One column of values for several outcomes: each has a kind of its own.
            kind, of = kind_of(outcome, cells)
            column = replace(column, kind=kind, of=of, unit="")
        found = _numbers(cells, column, warnings, outcome)
        for i, number in zip(places, found, strict=True):
            if number is None:
                says = f"“{values[i].cell[:40]}” in “{values[i].column.name}” is no {_word(column)}."
                problems.append(Problem(f"row {values[i].line}", says))
            else:
                numbers[i] = number
        if not problems:
            scales[outcome] = (_scale(column, cells, [numbers[i] for i in places]), column)
    if problems:
        raise Refused(problems[:MOST_TOLD])
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
    values: Sequence[_Value],
    looks: dict[str, tuple[str, int]],
    scales: dict[str, tuple[Scale, ColumnMeaning]],
    chosen: Choices,
    zone: str,
) -> tuple[Plan, _Keys]:
    combos = list(dict.fromkeys(one.treatment for one in values))
    blocks = list(dict.fromkeys(one.block for one in values))
    home = {one.sample: (one.treatment, one.block) for one in values}
    if len(combos) < 2:
        raise Refused("Only one treatment is named; a comparison needs two.", "meaning")
    if len(combos) > MOST_TREATMENTS:
        raise Refused(f"{len(combos)} different treatments are named; is that column the treatment?", "meaning")
    if len(home) > MOST_SAMPLES:
        raise Refused(f"{len(home):,} samples are more than the {MOST_SAMPLES:,} that one trial holds.", "meaning")
    many = Counter(treatment for treatment, _ in home.values())
    in_blocks = len(blocks) > 1
    keys = _Keys(
        {combo: f"t{i}" for i, combo in enumerate(combos, start=1)},
        {block: f"b{i}" for i, block in enumerate(blocks, start=1)} if in_blocks else {},
        {name: f"o{i}" for i, name in enumerate(scales, start=1)},
        {look: f"c{i}" for i, look in enumerate(looks, start=1)},
    )
    crossed = len(meaning.those("treatment")) > 1
    factors = _factors(meaning, combos) if crossed else ()
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
            if crossed
            else {},
        )
        for combo, key in keys.treatments.items()
    )
    read_at = {
        name: {looks_key for v in values if v.outcome == name for looks_key in [keys.looks[v.checkpoint]]}
        for name in scales
    }
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


def _pack(
    plan: Plan,
    keys: _Keys,
    values: Sequence[_Value],
    numbers: Sequence[float],
    looks: dict[str, tuple[str, int]],
    made: tuple[datetime, str],
    warnings: list[str],
) -> tuple[TrialPack, int]:
    now, seed = made
    home = {one.sample: one for one in values}
    names = list(home)
    usable = all(re.fullmatch(r"[0-9A-Za-z-]{1,6}", name) for name in names)
    code = {name: name if usable else str(101 + i) for i, name in enumerate(names)}
    started = now - timedelta(minutes=max(offset for _, offset in looks.values()))
    tables: dict[str, list[Record]] = {name: [] for name in SCHEMAS}
    allocation = []
    place: Counter[str] = Counter()
    for name, one in home.items():
        block = keys.blocks.get(one.block)
        place[block or ""] += 1
        row = {
            "sample": code[name],
            "block": block,
            "place": place[block or ""],
            "treatment": keys.treatments[one.treatment],
        }
        allocation.append({**row, "code": row.pop("sample"), "plot": None, "row": None, "column": None, "starts": 0})
        empty: Record = dict.fromkeys([field for field, _ in SCHEMAS["samples"].fields])
        tables["samples"].append(
            {**empty, **row, "sample": code[name], "started_at": started, "started_by": one.scorer}
        )
    takes: Counter[tuple[str, ...]] = Counter()
    for number, (one, value) in enumerate(zip(values, numbers, strict=True), start=1):
        look = (one.sample, one.outcome, one.checkpoint, one.scorer)
        takes[look] += 1
        empty = dict.fromkeys([field for field, _ in SCHEMAS["readings"].fields])
        at = started + timedelta(minutes=looks[one.checkpoint][1])
        tables["readings"].append(
            {
                **empty,
                "reading": number,
                "sample": code[one.sample],
                "outcome": keys.outcomes[one.outcome],
                "checkpoint": keys.looks[one.checkpoint],
                "scorer": one.scorer,
                "kind": "value",
                "value": value,
                "taken_at": at,
                "stored_at": now,
                "source": "typed",
                "take": min(takes[look], 9),
            }
        )
    again = sum(1 for many in takes.values() if many > 1)
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
                "by": values[0].scorer,
                "at": now,
            }
        )
    document = {"format": FORMAT, "plan": asdict(plan), "seed": seed, "allocation": allocation}
    by = values[0].scorer
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
