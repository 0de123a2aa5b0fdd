"""What the columns of somebody else's table mean: guessed from their names and values, for them to correct."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from fieldtally.core.problems import Refused
from fieldtally.core.quantities.numbers import honest, number_in
from fieldtally.core.tables.foreign import Foreign

Part = Literal["treatment", "block", "sample", "checkpoint", "outcome", "value", "scorer", "nothing"]
ValueKind = Literal["measurement", "count", "grade", "passfail", "percent"]
NAMES: tuple[tuple[Part, re.Pattern[str]], ...] = (
    (
        "treatment",
        re.compile(
            r"^(treat(ment)?s?|trt|product|variant|variety|method|group|arm|condition|recipe|material|what)\b", re.I
        ),
    ),
    (
        "block",
        re.compile(r"^(block|bench|bed|batch|room|place|site|plot|tray|shelf|replicate|rep|location|row)\b", re.I),
    ),
    ("sample", re.compile(r"^(sample|pot|plant|id|code|no\.?|nr\.?|number|unit|piece|specimen|tag|subject)\b", re.I)),
    ("checkpoint", re.compile(r"^(checkpoint|day|week|date|time|hour|look|when|age|month|visit)s?\b", re.I)),
    ("outcome", re.compile(r"^(outcome|measure|variable|attribute|what was measured|parameter)s?\b", re.I)),
    ("scorer", re.compile(r"^(scorer|rater|judge|observer|by|person|assessor|who)\b", re.I)),
    ("nothing", re.compile(r"^(notes?|remarks?|comments?|column \d+)\b", re.I)),
)
AT = re.compile(
    r"^(?P<what>.*?)[\s_,:.\-(]*(?<![a-zA-Z])(?P<unit>day|days|d|week|weeks|wk|w|hour|hours|h|hr|min|minute|month|months|year|years|t)\s*[\s_.\-]?"
    r"(?P<many>\d+(?:[.,]\d+)?)\)?$",
    re.I,
)
AFTER = re.compile(
    r"^(?P<what>.*?)[\s_,:.\-(]*(?<![\w.])(?P<many>\d+(?:[.,]\d+)?)\s*(?P<unit>days?|d|weeks?|wk|hours?|h|min|months?)\)?$",
    re.I,
)
MINUTES = {"d": 1440, "w": 10_080, "h": 60, "m": 43_200, "y": 525_600, "t": 1440}
UNIT = re.compile(r"[\[(]\s*([^\])]{1,12})\s*[\])]\s*$|,\s*([a-zA-Z%°µ/²³]{1,8})$")
CONTROLS = re.compile(r"^(control|untreated|none|nothing|no\b|blank|water|plain|placebo|check)", re.I)
YES = ("yes", "y", "true", "pass", "passed", "alive", "ok", "seen")
NO = ("no", "n", "false", "fail", "failed", "dead", "not yet")
LETTER = re.compile(r"^[A-F][+-]?$")
OF = re.compile(r"^\s*(\d+)\s*(?:/|of|out of)\s*(\d+)\s*$", re.I)
WITH_UNIT = re.compile(r"^\s*([-−+]?[\d.,]+)\s*([^\d\s.,]{1,8})\s*$")
NUMBER = re.compile(r"^[-−+]?(\d{1,3}([.,]\d{3})+([.,]\d+)?|\d+([.,]\d+)?|[.,]\d+)([eE][-+]?\d+)?$")
BLANK = ("", "-", "–", "na", "n/a", "nan", "null", "none", ".", "?", "missing")
FEW_LEVELS = 11
LOOKED_AT = 2_000


@dataclass(frozen=True)
class ColumnMeaning:
    """What a column (name) is: one ``part``.  Of values also their outcome, the look (``checkpoint``, empty: the only one, or the one
    in the checkpoint column), what ``kind`` they are, of how many (counts), their unit, and which side is better."""

    name: str
    part: Part
    outcome: str = ""
    checkpoint: str = ""
    kind: ValueKind = "measurement"
    of: int | None = None
    unit: str = ""
    better: Literal["more", "less", "none"] = "more"


@dataclass(frozen=True)
class Meaning:
    """All columns, and which treatment (as written; empty: none) is the control."""

    columns: tuple[ColumnMeaning, ...]
    control: str = ""

    def those(self, part: Part) -> list[ColumnMeaning]:
        """The columns that are ``part``."""
        return [one for one in self.columns if one.part == part]


def minutes_of(label: str) -> int | None:
    """The offset that a look is called by, in minutes; None where its name tells none.

    >>> minutes_of("Day 4"), minutes_of("week 2"), minutes_of("36 h"), minutes_of("7"), minutes_of("before")
    (5760, 20160, 2160, 10080, None)
    """
    found = AT.match(label) or AFTER.match(label)
    if found is None:
        try:
            return round(number_in(label) * 1440)
        except Refused:
            return None
    unit = found["unit"].lower()
    each = 1 if unit.startswith("min") else MINUTES[unit[0]]
    return round(float(found["many"].replace(",", ".")) * each)


def guess(table: Foreign) -> Meaning:
    """What the columns of ``table`` probably mean."""
    columns = [_column(table, i) for i in range(len(table.header))]
    if not any(one.part == "treatment" for one in columns):
        at = _by_values(table, columns)
        if at is not None:
            columns[at] = ColumnMeaning(table.header[at], "treatment")
    columns = _one_of_each(table, columns)
    treatment = next((i for i, one in enumerate(columns) if one.part == "treatment"), None)
    control = ""
    if treatment is not None:
        names = dict.fromkeys(table.rows.columns[treatment])
        control = next((name for name in names if CONTROLS.match(name)), "")
    return Meaning(tuple(columns), control)


def _cells(table: Foreign, i: int) -> list[str]:
    return [cell for cell in table.rows.columns[i][:LOOKED_AT] if cell.casefold() not in BLANK]


def _column(table: Foreign, i: int) -> ColumnMeaning:
    name = table.header[i]
    cells = _cells(table, i)
    if not cells:
        return ColumnMeaning(name, "nothing")
    numeric = all(_like_value(cell) for cell in cells)
    bare = UNIT.sub("", name).strip()
    timed = AT.match(bare) or AFTER.match(bare)
    for part, pattern in NAMES:
        if not pattern.match(name) or (timed and numeric):
            continue
        if part in ("treatment", "outcome", "scorer") and numeric and len(set(cells)) > FEW_LEVELS:
            continue
        return ColumnMeaning(name, part)
    if numeric:
        return _value(name, cells, timed)
    return ColumnMeaning(name, "nothing")


def _like_value(cell: str) -> bool:
    folded = cell.casefold()
    if folded in YES or folded in NO or OF.match(cell) or LETTER.match(cell.upper()) or folded.endswith("%"):
        return True
    with_unit = WITH_UNIT.match(cell)
    return bool(NUMBER.match(with_unit[1] if with_unit else cell))


def _value(name: str, cells: Sequence[str], timed: re.Match[str] | None) -> ColumnMeaning:
    kind, of = kind_of(name, cells)
    unit = ""
    told = UNIT.search(name)
    if told:
        unit = told[1] or told[2]
    elif kind == "measurement":
        units = {found[2] for cell in cells if (found := WITH_UNIT.match(cell))}
        unit = units.pop() if len(units) == 1 else ""
    outcome, checkpoint = (name[: told.start()].strip(" ,") if told else name), ""
    if timed:
        outcome = (timed["what"] or "").strip(" _,:-(") or "Result"
        checkpoint = f"{_unit_word(timed['unit'])} {honest(float(timed['many'].replace(',', '.')), 6)}"
    better: Literal["more", "less"] = (
        "less" if re.search(r"loss|weight lost|fail|damage|error|pest|mould|rot|defect|wear", name, re.I) else "more"
    )
    return ColumnMeaning(name, "value", outcome[:60], checkpoint, kind, of, unit, better)


def _unit_word(unit: str) -> str:
    lower = unit.lower()
    if lower.startswith("min"):
        return "Minute"
    return {"d": "Day", "w": "Week", "h": "Hour", "m": "Month", "y": "Year", "t": "Day"}[lower[0]]


def kind_of(name: str, cells: Iterable[str]) -> tuple[ValueKind, int | None]:
    """The kind of values in ``cells``, and of how many where they are counts of so many.

    >>> kind_of("sprouted", ["17/20", "12/20"]), kind_of("ok", ["yes", "no"]), kind_of("cm", ["1.5", "2"])
    (('count', 20), ('passfail', None), ('measurement', None))
    """
    known = [cell.casefold() for cell in cells]
    counted = [OF.match(cell) for cell in known]
    if all(counted):
        totals = {int(one[2]) for one in counted if one}
        return "count", totals.pop() if len(totals) == 1 else None
    if all(cell in YES or cell in NO for cell in known) or (set(known) <= {"0", "1"} and len(set(known)) > 1):
        return "passfail", None
    if all(LETTER.match(cell.upper()) for cell in known):
        return "grade", None
    if any(cell.endswith("%") for cell in known) or re.search(r"%|per ?cent|share|cover", name, re.I):
        return "percent", None
    numbers = [_plain(cell) for cell in known]
    whole = all(number is not None and number.is_integer() and number >= 0 for number in numbers)
    if whole and re.search(r"grade|score|rating|stars|mark|freshness|taste|appearance", name, re.I):
        return "grade", None
    if whole and re.search(r"count|number|sprout|germin|how many|pods|flowers|leaves|seeds", name, re.I):
        return "count", None
    return "measurement", None


def _plain(cell: str) -> float | None:
    found = WITH_UNIT.match(cell)
    try:
        return number_in(found[1] if found else cell)
    except Refused:
        return None


def _by_values(table: Foreign, columns: Sequence[ColumnMeaning]) -> int | None:
    """A column of words that come back, where none is called a treatment."""
    best: tuple[int, int] | None = None
    for i, one in enumerate(columns):
        cells = _cells(table, i)
        levels = len(set(cells))
        if one.part == "nothing" and cells and 2 <= levels <= 40 and levels <= len(cells) / 2:
            best = min(best, (levels, i)) if best else (levels, i)
    return None if best is None else best[1]


def _one_of_each(table: Foreign, columns: Sequence[ColumnMeaning]) -> list[ColumnMeaning]:
    """Of parts that there may be only one of the first is kept; a column of row numbers is no sample where there is a better one."""
    seen: set[str] = set()
    found = []
    for i, one in enumerate(columns):
        kept = one
        if one.part in ("sample", "checkpoint", "outcome", "scorer"):
            if one.part in seen:
                cells = _cells(table, i)
                kept = (
                    _value(one.name, cells, None)
                    if all(_like_value(c) for c in cells)
                    else ColumnMeaning(one.name, "nothing")
                )
            seen.add(one.part)
        found.append(kept)
    return found
