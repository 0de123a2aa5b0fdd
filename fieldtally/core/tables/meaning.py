"""What the columns of somebody else's table mean: guessed from their names and values, for them to correct."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Literal

from fieldtally.core.problems import Refused
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.quantities.numbers import honest, number_in
from fieldtally.core.tables.columns import (
    BARE_UNIT,
    BLANK,
    DITTO,
    PLUSES,
    UNIT,
    WITH_UNIT,
    ColumnMeaning,
    Meaning,
    Part,
    ValueKind,
)
from fieldtally.core.tables.curves import as_curves
from fieldtally.core.tables.foreign import Foreign
from fieldtally.core.tables.weighing import Column, Roles, weigh

NAMES: tuple[tuple[Part, re.Pattern[str]], ...] = (
    (
        "treatment",
        re.compile(
            r"^(treat(ment)?s?|trt|doses?|dosage|rate|concentration|strength|spacing|product|variant|variety|cultivar|entry|hybrid|clone|method|group|arm|condition|recipe|material)\b",
            re.I,
        ),
    ),
    (
        "block",
        re.compile(
            r"^(blocks?|blk|bench|bed|batch|room|place|site|plot|tray|shelf|replicate|rep|location|row|rack|house|greenhouse|cage|field|"
            r"garden|zone|area|corner|position|spot|pen|barn|oven|side)\b",
            re.I,
        ),
    ),
    ("sample", re.compile(r"^(sample|pot|plant|id|code|no\.?|nr\.?|number|unit|piece|specimen|tag|subject)\b", re.I)),
    (
        "checkpoint",
        re.compile(r"^(checkpoint|day|week|date|time|hour|look|when|age|month|visit|year|season)s?\b", re.I),
    ),
    ("stage", re.compile(r"^(stage|phase|before\s*(?:/|or|and|,)?\s*after)\b", re.I)),
    ("outcome", re.compile(r"^(outcome|measure|variable|attribute|what was measured|parameter)s?\b", re.I)),
    (
        "started",
        re.compile(r"^(sown|started|start|begun|began|planted|set up|treated on|treatment date|exposed since)\b", re.I),
    ),
    (
        "scorer",
        re.compile(
            r"^(scorer|rater|judge|observer|by|person|assessor|who|initials|(?:scored|rated|judged|read|assessed|measured|graded|counted|seen)\s+by)\b",
            re.I,
        ),
    ),
    (
        "aside",
        re.compile(
            r"^(?:left out|excluded?|exclusion|set aside|discarded?|dropped|removed|rejected|void|omitted|why\b.*\b(?:out|aside|excluded)|"
            r"reason for (?:exclusion|leaving .*))(?:\s*[(:,]?\s*(?:why|because|reason)\)?)?$",
            re.I,
        ),
    ),
    ("note", re.compile(r"^(notes?|remarks?|comments?|observations?)\b", re.I)),
    ("nothing", re.compile(r"^(column \d+)\b", re.I)),
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
COUNTS_IN = re.compile(r"(?<![a-z])(hours?|hrs?|h|minutes?|min|weeks?|wks?|months?|years?|days?)(?![a-z])", re.I)
ROW_NUMBER = re.compile(r"^(#|nr?\.?|no\.?|row|line|index|entry|column \d+|unnamed.*)$", re.I)
ON_A_DAY = re.compile(r"^(?P<what>.*?)[\s_,:(-]*(?P<day>\d{1,4}[./-]\d{1,2}[./-]\d{1,4}|\d{1,2}:\d{2})\)?$")
"""A header that says on which day, or at which time of it, its values were read."""
DAY_WRITTEN = re.compile(r"^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}(?:[ T].*)?$")
CONTROLS = re.compile(
    r"^(control|untreated|none|nothing|no\b|blank|water|plain|placebo|check|usual|standard|normal|as before|bare)\b",
    re.I,
)
ZERO = re.compile(r"^0+(?:[.,]0+)?$")
"""Of doses, none."""
PLACED = re.compile(
    r"^(left|right|upper|lower|top|bottom|north|south|east|west|front|back|inside|outside|indoors|outdoors|middle|centre|near|far|sun(ny)?|"
    r"shade(d)?|window|door|bench|room|bed|row|rack|shelf|field|house)\b",
    re.I,
)
YES = ("yes", "y", "true", "pass", "passed", "alive", "ok", "seen")
NO = ("no", "n", "false", "fail", "failed", "dead", "not yet")
LETTER = re.compile(r"^[A-F][+-]?$")
OF = re.compile(r"^\s*(\d+)\s*(?:/|of|out of)\s*(\d+)\s*$", re.I)
NUMBER = re.compile(r"^[-−+]?(\d{1,3}([., ]\d{3})+([.,]\d+)?|\d+([.,]\d+)?|[.,]\d+)([eE][-+]?\d+)?$")
NEVER = ("not yet", "never", "not seen", "none seen", "not at all", "still not")
"""What stands in the place of a day on which something was seen."""
ABOVE = re.compile(r"^\s*[>≥]\s*=?\s*([\d.,]+)\s*\S*$")
LIMIT = re.compile(r"^\s*[<>≤≥]\s*=?\s*[\d.,]+\s*\S*$|^\s*[\d.,]+\s*\+$")
"""No more than a limit: above 40, below 0.5."""
REPLACED = re.compile(
    r"^\s*(?P<new>[-−+]?[\d.,]+)\s*\((?:was|before|instead of|not|corrected from|corr\.?(?: from)?)\s*(?P<old>[-−+]?[\d.,]+)\)$|"
    r"^\s*(?P<first>[-−+]?[\d.,]+)\s*(?:→|->|=>)\s*(?P<then>[-−+]?[\d.,]+)$",
    re.I,
)
"""A value that was put in the place of another."""
LASTED = re.compile(r"^\d{1,3}:[0-5]\d(?::[0-5]\d)?$")
"""How long something lasted, in hours and minutes or minutes and seconds."""
IN_ORDER: tuple[tuple[str, ...], ...] = (
    ("very poor", "poor", "fair", "good", "very good", "excellent"),
    ("very bad", "bad", "so so", "ok", "good", "very good"),
    ("none", "trace", "slight", "moderate", "strong", "severe"),
    ("none", "very low", "low", "medium", "high", "very high"),
    ("none", "weak", "medium", "strong", "very strong"),
    ("none", "few", "some", "many", "all"),
    ("dead", "dying", "weak", "fair", "healthy"),
    ("never", "rarely", "sometimes", "often", "always"),
)
"""Words of grades, each row from the least to the most."""
SHADES: tuple[tuple[str, ...], ...] = (
    (
        "white",
        "cream",
        "pale yellow",
        "light yellow",
        "yellow",
        "golden",
        "gold",
        "amber",
        "orange",
        "red",
        "brown",
        "dark brown",
        "black",
    ),
    ("straw", "gold", "amber", "copper", "brown", "dark brown", "black"),
    ("dark green", "green", "light green", "pale green", "yellow green", "yellow", "orange", "red", "dark red"),
    ("white", "pale pink", "pink", "light red", "red", "dark red", "purple", "black"),
    ("white", "light grey", "grey", "dark grey", "black"),
    ("very pale", "pale", "light", "medium", "dark", "very dark"),
)
"""Names of shades, each row from one end of a chart to the other."""
SHADED = re.compile(r"colou?r|shade|hue|tint", re.I)
FEW_LEVELS = 11
FEW_ALIKE = 3
PRICED = re.compile(r"\b(?:price|costs?)\b|[£€$]", re.I)
"""What a treatment costs is no result of it."""
MOSTLY = 0.75
FEWEST_NAMED = 3
LOOKED_AT = 2_000


def unit_of_looks(header: str) -> str:
    """The unit that a column of bare numbers counts its looks in, by its ``header``; days where that tells none.

    >>> unit_of_looks("hours"), unit_of_looks("time (h)"), unit_of_looks("Week no."), unit_of_looks("when")
    ('hours', 'h', 'week', 'days')
    """
    found = COUNTS_IN.search(header)
    return found[1].casefold() if found else "days"


def minutes_of(label: str, unit: str = "days") -> int | None:
    """The offset that a look is called by, in minutes; a bare number counts in ``unit``; None where its name tells none.

    >>> minutes_of("Day 4"), minutes_of("week 2"), minutes_of("36 h"), minutes_of("7"), minutes_of("before")
    (5760, 20160, 2160, 10080, None)
    >>> minutes_of("24", "hours"), minutes_of("90", "min")
    (1440, 90)
    """
    found = AT.match(label) or AFTER.match(label)
    if found is None:
        try:
            return round(number_in(label) * _each(unit))
        except Refused:
            return None
    return round(float(found["many"].replace(",", ".")) * _each(found["unit"]))


def _each(unit: str) -> int:
    """Minutes in a ``unit``."""
    lower = unit.lower()
    return 1 if lower.startswith("min") else MINUTES[lower[0]]


def guess(table: Foreign) -> Meaning:
    """What the columns of ``table`` probably mean."""
    first = _in_looks([_column(table, i) for i in range(len(table.header))])
    if not any(one.part == "value" for one in first):
        # Where nothing else was measured, what is the same everywhere may be the result.
        first = [
            _value(one.name, _cells(table, i), None)
            if one.part == "nothing" and _never_changes(_cells(table, i))
            else one
            for i, one in enumerate(first)
        ]
    columns, unsure = weighed(table, first if any(one.part == "value" for one in first) else _seen_on(table, first))
    if not any(one.part == "treatment" for one in columns):
        at = _by_values(table, columns)
        if at is not None:
            columns[at] = ColumnMeaning(table.header[at], "treatment")
    columns = as_curves(_one_of_each(table, _named_in_words(table, columns)))
    treatment = next((i for i, one in enumerate(columns) if one.part == "treatment"), None)
    control = ""
    if treatment is not None:
        names = dict.fromkeys(table.rows.columns[treatment])
        control = next((name for name in names if CONTROLS.match(name) or ZERO.match(name)), "")
    return Meaning(tuple(columns), control, unsure)


LASTED_TILL = re.compile(r"^(?:days?|weeks?|hours?|minutes?|time|age)\s+(?:to|until|till|before|at)\s+[^\W\d_]", re.I)
"""A header that tells how long something took, and not when it was looked at."""
SO_MANY = re.compile(r"^(?:no\.?|nr\.?|number|count)\s+of\s+", re.I)
LOOK_FIRST = re.compile(r"^(?P<look>start|end|initial|final|before|after|first|last)\s+(?P<what>[^\W\d_].*)$", re.I)
"""The same where the look is told first: start weight, end weight."""
LOOK_IN_WORDS = re.compile(
    r"^(?P<what>.*?)[\s_,:(-]*\b(?P<look>before(?:\s+\w+)?|(?:at\s+the\s+)?start|baseline|initial(?:ly)?|new|fresh|at\s+the\s+end|after|"
    r"(?:after\s+)?\d+\s*(?:wash(?:es|ings)?|firings?|uses?|cycles?|bends?|rubs?|strokes?|rounds?|km)|"
    r"(?:wash|firing|use|cycle|visit|reading|round|cut|picking|harvest|look|check)\s*(?:no\.?\s*)?\d+)\)?$",
    re.I,
)
"""A header that says at which look its values were read, without a time: before, after 5 washes, picking 2."""


BY_YEAR = re.compile(r"^(?P<what>.*?)[\s_,:(-]*(?P<look>(?:19|20)\d\d)\)?$")
OF_ALL = re.compile(r"^(?:of|out of|n|total|in all|sown|set)$", re.I)


def _of_so_many(columns: list[ColumnMeaning]) -> list[ColumnMeaning]:
    """``columns`` with counts of so many where the next column says of how many, the same in each row: rotten, of."""
    found = list(columns)
    for i, one in enumerate(columns[1:], start=1):
        before = found[i - 1]
        if one.of is not None and OF_ALL.match(one.name) and one.part == "nothing" and before.part == "value":
            found[i - 1] = replace(before, kind="count", of=one.of, unit="")
    return found


def _in_looks(columns: list[ColumnMeaning]) -> list[ColumnMeaning]:
    """``columns`` with those of values that tell of looks in words; one of them alone tells of none."""
    columns = _of_so_many(columns)
    found = {
        i: match
        for i, one in enumerate(columns)
        if one.part == "value"
        and not one.checkpoint
        and (
            (match := LOOK_IN_WORDS.match(one.name))
            or (match := LOOK_FIRST.match(BARE_UNIT.sub(r"\g<what>", UNIT.sub("", one.name).strip())))
            or (match := BY_YEAR.match(one.name))
        )
    }
    whose = Counter((match["what"] or "").strip(" _,:-(").casefold() for match in found.values())
    # One alone tells of none.
    found = {i: match for i, match in found.items() if whose[(match["what"] or "").strip(" _,:-(").casefold()] > 1}
    if not found:
        return columns
    return [
        replace(one, outcome=(found[i]["what"].strip(" _,:-(") or "Result")[:60], checkpoint=found[i]["look"])
        if i in found and not one.checkpoint
        else one
        for i, one in enumerate(columns)
    ]


def _seen_on(table: Foreign, columns: Sequence[ColumnMeaning]) -> list[ColumnMeaning]:
    """Where nothing was measured, days under a name that tells of no look are those on which something was seen."""
    return [
        _event(one.name)
        if one.part == "checkpoint"
        and all(DAY_WRITTEN.match(cell) for cell in _cells(table, i))
        and "checkpoint" not in _hints(one.name, ())
        else one
        for i, one in enumerate(columns)
    ]


def weighed(table: Foreign, columns: Sequence[ColumnMeaning]) -> tuple[list[ColumnMeaning], tuple[str, ...]]:
    """``columns`` with the treatment, sample and blocks that make most sense of the whole table (:mod:`.weighing`), and the names of those
    of which each could as well be the treatment."""
    open_to = [
        Column(
            one.name,
            # Names that differ in capitals alone are one.
            ["" if cell in DITTO else cell.casefold() for cell in table.rows.columns[i][:LOOKED_AT]],
            _hints(one.name, _cells(table, i)),
            words=not all(_like_value(cell) for cell in _cells(table, i))
            or _lettered(table.rows.columns[i][:LOOKED_AT]),
            control=any(CONTROLS.match(cell) for cell in set(_cells(table, i))),
        )
        for i, one in enumerate(columns)
    ]
    may = [
        i
        for i, one in enumerate(columns)
        if one.part in ("treatment", "block", "sample", "nothing")
        or (
            one.part == "value"
            and not one.checkpoint
            and (_repeats(open_to[i]) or _lettered(table.rows.columns[i][:LOOKED_AT]))
        )
    ]
    looks = next((i for i, one in enumerate(columns) if one.part == "checkpoint"), None)
    asked = [i for i, one in enumerate(columns) if one.part in ("outcome", "stage")]
    values = [i for i, one in enumerate(columns) if one.part == "value"]
    roles = weigh(open_to, [i for i in may if any(table.rows.columns[i])], looks, asked, values)
    if roles is None:
        return list(columns), ()
    unsure = tuple(columns[i].name for i in roles.unsure)
    return [_with_role(one, i, roles) for i, one in enumerate(columns)], unsure


def _hints(name: str, cells: Sequence[str]) -> set[str]:
    """The parts that a column's name hints at; and a place where all its cells say where something stands."""
    hints: set[str] = {part for part, pattern in NAMES if pattern.match(name)}
    return hints | {"block"} if cells and all(PLACED.match(cell) for cell in set(cells)) else hints


def _repeats(column: Column) -> bool:
    """Whether a column of numbers may name things: whole numbers without a gap, each as often as any other; or its name says so, and they
    are few."""
    many = Counter(cell for cell in column.cells if cell)
    if not all(cell.isdecimal() for cell in many):
        return False
    numbers = sorted(map(int, many))
    told = bool(column.hints & {"treatment", "block", "sample"})
    return told or (
        len(numbers) > FEWEST_NAMED - (numbers[0] == 1)
        and numbers == list(range(numbers[0], numbers[0] + len(numbers)))
        and len(set(many.values())) == 1
    )


def _lettered(cells: Sequence[str]) -> bool:
    """Whether single letters may name what is compared, and are no grades: few, and each of them as often, or nearly, as any other."""
    many = Counter(cell for cell in cells if cell)
    return (
        1 < len(many) <= FEW_LEVELS // 2
        and all(len(cell) == 1 and cell.isupper() for cell in many)
        and max(many.values()) - min(many.values()) <= 1
        and min(many.values()) > 1
    )


def _with_role(one: ColumnMeaning, i: int, roles: Roles) -> ColumnMeaning:
    if i in roles.treatment:
        return ColumnMeaning(one.name, "treatment")
    if i == roles.sample:
        return ColumnMeaning(one.name, "sample")
    if i in roles.blocks:
        return ColumnMeaning(one.name, "block")
    return ColumnMeaning(one.name, "nothing") if one.part in ("treatment", "sample", "block") else one


def _cells(table: Foreign, i: int) -> list[str]:
    return [cell for cell in table.rows.columns[i][:LOOKED_AT] if cell.casefold() not in BLANK]


def _column(table: Foreign, i: int) -> ColumnMeaning:
    name = table.header[i]
    cells = _cells(table, i)
    if not cells:
        return ColumnMeaning(name, "nothing")
    if ROW_NUMBER.match(name) and counts_rows(cells):
        return ColumnMeaning(name, "nothing")
    if i == 0 and counts_rows(cells) and len(cells) > FEW_ALIKE:
        # What counts the rows from the left names them, whatever it is called.
        return ColumnMeaning(name, "sample")
    marks = {cell for cell in table.rows.columns[i][:LOOKED_AT] if cell}
    if marks <= set(PLUSES) and any("+" in cell for cell in marks):
        told = ", ".join(mark for mark in PLUSES if mark in marks)
        return ColumnMeaning(name, "value", name[:60], "", "words", better="less", order=told)
    return _by_cells(name, cells) or _by_name(name, cells)


def _by_cells(name: str, cells: Sequence[str]) -> ColumnMeaning | None:
    """What a column is whose cells tell it: remarks, days, shades, words in order, steps; None where they do not."""
    kept = next((part for part, named in NAMES if part in ("aside", "note") and named.match(name)), None)
    if kept and not all(NUMBER.match(cell) for cell in cells):
        return ColumnMeaning(name, kept)
    never = [cell.casefold() in NEVER for cell in cells]
    if any(never) and all(no or DAY_WRITTEN.match(cell) for no, cell in zip(never, cells, strict=True)):
        return _event(name)
    if all(LASTED.match(cell) for cell in cells) and not any(
        pattern.match(name) for part, pattern in NAMES if part == "checkpoint"
    ):
        return replace(_value(name, [], None), kind="measurement")
    if all(DAY_WRITTEN.match(cell) for cell in cells):
        return ColumnMeaning(
            name, next((part for part, named in NAMES if part == "started" and named.match(name)), "checkpoint")
        )
    if SHADED.search(name) and _known_order(cells, SHADES):
        return replace(_value(name, [], None), kind="shade", name=name, of=None, unit="", better="none")
    if order_of(cells) and not any(pattern.match(name) for part, pattern in NAMES if part != "checkpoint"):
        return ColumnMeaning(name, "value", name[:60], "", "words")
    if (
        any(ABOVE.match(cell) for cell in cells)
        and all(ABOVE.match(cell) or _like_value(cell) for cell in cells)
        and _in_steps(cells)
    ):
        return replace(_value(name, [cell for cell in cells if not ABOVE.match(cell)], None), kind="ladder", name=name)
    return None


def _never_changes(cells: Sequence[str]) -> bool:
    """Whether a column holds one number above 0 in every row, as one that says of how many."""
    return len(set(cells)) == 1 and len(cells) > FEW_ALIKE and bool(NUMBER.match(cells[0])) and not ZERO.match(cells[0])


def _by_name(name: str, cells: Sequence[str]) -> ColumnMeaning:
    """What a column is by its name, or else by whether it holds values."""
    # A word among values is asked about, and takes no column with it.
    numeric = sum(_like_value(cell) for cell in cells) > MOSTLY * len(cells)
    bare = UNIT.sub("", name).strip()
    timed = AT.match(bare) or AFTER.match(bare)
    if numeric and (LASTED_TILL.match(name) or SO_MANY.match(name) or LOOK_IN_WORDS.match(name)):
        return _value(name, cells, None)
    if numeric and (on_a_day := ON_A_DAY.match(name)):
        found = _value(on_a_day["what"].strip() or "Result", cells, None)
        return replace(found, name=name, checkpoint=on_a_day["day"])
    if timed and not numeric and len(set(cells)) < FEW_LEVELS and len(set(cells)) <= len(cells) / 2:
        # Words at looks, whose order is known or asked.
        what = (timed["what"] or "").strip(" _,:-(") or "Result"
        return ColumnMeaning(name, "value", what[:60], _look_of(timed), "words")
    for part, pattern in NAMES:
        if not pattern.match(name) or (timed and numeric):
            continue
        if part == "started":
            continue
        if part in ("treatment", "outcome", "stage", "scorer") and numeric and len(set(cells)) > FEW_LEVELS:
            continue
        return ColumnMeaning(name, part)
    if numeric and not timed and _never_changes(cells):
        # What is the same in every row was not measured; it may say of how many.
        return ColumnMeaning(name, "nothing", of=int(cells[0]) if cells[0].isdecimal() else None)
    if numeric and not timed and PRICED.search(name):
        return ColumnMeaning(name, "nothing")
    if numeric:
        return _value(name, cells, timed)
    return ColumnMeaning(name, "nothing")


def _in_steps(cells: Sequence[str]) -> bool:
    """Whether values come from a few steps that come back, as a ladder's do, and not from a scale between them."""
    return len(set(cells)) <= max(FEW_LEVELS // 2, len(cells) / 2)


def _event(name: str) -> ColumnMeaning:
    return replace(_value(name, [], None), kind="event", of=None, unit="")


def order_of(cells: Iterable[str]) -> tuple[str, ...]:
    """The words in ``cells`` from the least to the most, where their order is known; empty where it is not, or there is one alone.

    >>> order_of(["good", "Poor", "fair"]), order_of(["red", "blue"])
    (('poor', 'fair', 'good'), ())
    """
    return _known_order(cells, IN_ORDER)


def ordered(column: ColumnMeaning, cells: Iterable[str]) -> tuple[str, ...]:
    """The words in ``cells`` from one end to the other: as ``column`` tells them, with those that nothing had, or as is known of them.

    >>> ordered(ColumnMeaning("Petals", "value", kind="shade", order="Cream, rose, Plum"), ["rose", "cream"])
    ('cream', 'rose', 'plum')
    >>> ordered(ColumnMeaning("Petals", "value", kind="shade"), ["Orange", "yellow"])
    ('yellow', 'orange')
    """
    told = tuple(dict.fromkeys(word for one in column.order.split(",") if (word := one.strip().casefold())))
    return told if len(told) > 1 else _known_order(cells, SHADES if column.kind == "shade" else IN_ORDER)


def _known_order(cells: Iterable[str], rows: tuple[tuple[str, ...], ...]) -> tuple[str, ...]:
    words = {cell.casefold() for cell in cells if cell}
    known = next((row for row in rows if words <= set(row)), ())
    return tuple(word for word in known if word in words) if len(words) > 1 else ()


def counts_rows(cells: Sequence[str]) -> bool:
    """Whether ``cells`` count the rows of their table, one after the other.

    >>> counts_rows(["1", "2", "3"]), counts_rows(["1", "1", "2"])
    (True, False)
    """
    return len(cells) > 1 and all(
        cell == str(i) for i, cell in enumerate(cells, start=int(cells[0]) if cells[0].isdecimal() else -1)
    )


def _like_value(cell: str) -> bool:
    folded = cell.casefold()
    if folded in YES or folded in NO or OF.match(cell) or LETTER.match(cell.upper()) or folded.endswith("%"):
        return True
    if REPLACED.match(cell) or LIMIT.match(cell) or LASTED.match(cell):
        return True
    with_unit = WITH_UNIT.match(cell)
    return bool(NUMBER.match(with_unit[1] if with_unit else cell))


def _value(name: str, cells: Sequence[str], timed: re.Match[str] | None) -> ColumnMeaning:
    kind, of = kind_of(name, cells)
    unit = ""
    told = UNIT.search(name)
    bare = None if told else BARE_UNIT.match(name)
    if told:
        unit = told[1] or told[2]
    elif bare:
        unit = bare["unit"]
    elif kind == "measurement":
        units = {found[2] for cell in cells if (found := WITH_UNIT.match(cell))}
        unit = units.pop() if len(units) == 1 else ""
    outcome, checkpoint = (
        (name[: told.start()].strip(" ,") if told else bare["what"].strip(" ,_") if bare else name),
        "",
    )
    if timed:
        outcome = (
            re.sub(r"\s+(?:after|at|on|in|by)$", "", (timed["what"] or "").strip(" _,:-("), flags=re.I) or "Result"
        )
        inner = BARE_UNIT.match(outcome) if not unit and kind == "measurement" else None
        if inner:
            outcome, unit = inner["what"].strip(" ,_"), inner["unit"]
        checkpoint = _look_of(timed)
    better: Literal["more", "less"] = (
        "less" if re.search(r"loss|weight lost|fail|damage|error|pest|mould|rot|defect|wear", name, re.I) else "more"
    )
    return ColumnMeaning(name, "value", outcome[:60], checkpoint, kind, of, unit, better)


def _look_of(timed: re.Match[str]) -> str:
    return f"{_unit_word(timed['unit'])} {honest(float(timed['many'].replace(',', '.')), 6)}"


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
    if not known:
        return "measurement", None
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
    if whole and SCALED.search(name):
        return "grade", None
    if whole and re.search(r"grade|score|rating|stars|mark|freshness|taste|appearance", name, re.I):
        return "grade", None
    if whole and not UNIT.search(name) and not BARE_UNIT.match(name) and _names_several(name):
        return "count", None
    if whole and re.search(r"count|number|sprout|germin|how many|pods|flowers|leaves|seeds", name, re.I):
        return "count", None
    return "measurement", None


SCALED = re.compile(r"(?<!\d)[01]\s*(?:-|–|to)\s*(?:[3-9]|10)(?!\d)")
"""A header that tells a scale of grades: Gloss 0-5."""
NOT_COUNTED = re.compile(
    r"(?:days|weeks|months|years|hours|minutes|seconds|grams|kilos|litres|metres|points|degrees|steps|ohms|volts|results|values)",
    re.I,
)


def _names_several(name: str) -> bool:
    """Whether a header names several of what can be counted: weeds, leaf spots."""
    word = name.rsplit(maxsplit=1)[-1] if name.split() else ""
    return (
        word.isalpha()
        and len(word) > 3
        and not NOT_COUNTED.fullmatch(word)
        and noun(word.casefold()).one != word.casefold()
    )


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


def _named_in_words(table: Foreign, columns: Sequence[ColumnMeaning]) -> list[ColumnMeaning]:
    """Where a column of a few words tells apart what is read in one sample at one look, it names what was measured."""
    parts = {
        part: [i for i, one in enumerate(columns) if one.part == part] for part in ("sample", "checkpoint", "value")
    }
    if any(one.part in ("outcome", "stage") for one in columns) or len(parts["value"]) != 1 or not parts["sample"]:
        return list(columns)
    rows = table.rows.columns
    own = list(zip(*(rows[i][:LOOKED_AT] for i in [*parts["sample"], *parts["checkpoint"]]), strict=True))
    if len(set(own)) == len(own):
        return list(columns)
    for i, one in enumerate(columns):
        words = rows[i][:LOOKED_AT]
        few = (
            one.part == "nothing" and 1 < len(set(words)) < FEW_LEVELS and not any(NUMBER.match(word) for word in words)
        )
        if few and len(set(zip(own, words, strict=True))) == len(own):
            return [ColumnMeaning(one.name, "outcome") if k == i else each for k, each in enumerate(columns)]
    return list(columns)


def _one_of_each(table: Foreign, columns: Sequence[ColumnMeaning]) -> list[ColumnMeaning]:
    """Of parts that there may be only one of the first is kept; a column of row numbers is no sample where there is a better one."""
    seen: set[str] = set()
    found = []
    for i, one in enumerate(columns):
        kept = one
        if one.part in ("sample", "checkpoint", "stage", "outcome", "scorer"):
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
