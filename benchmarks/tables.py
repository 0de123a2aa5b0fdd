"""Tables as people keep them, made up from a fixed seed, each with what it truly says; and how many are read whole at first guess.

Forty-three ways of keeping a table, each in six trades with their own words.  In one of them nothing but a question tells what is compared
from where it stood: its tables count as asked at best.
``python -m benchmarks.tables`` prints the figures.
"""

from __future__ import annotations

import io
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Literal

import numpy as np
import openpyxl

from fieldtally.core.problems import Refused
from fieldtally.core.tables.choices import Choices
from fieldtally.core.tables.foreign import read_foreign
from fieldtally.core.tables.importing import bring
from fieldtally.core.tables.meaning import guess

NOW = datetime(2027, 6, 1, 12, tzinfo=UTC)
Fate = Literal["whole", "asked", "wrong"]


@dataclass(frozen=True)
class Trade:
    """Words of one trade: what is compared is called ``header``, a sample ``unit``, a place ``place``; what is measured, and in what."""

    header: str
    names: tuple[str, str, str]
    unit: str
    place: str
    places: tuple[str, str]
    measure: str
    measured_in: str


TRADES = (
    Trade("soak", ("Plain water", "Seaweed", "Nettle tea"), "tray", "bench", ("Bench 1", "Bench 2"), "height", "cm"),
    Trade("twine", ("Hemp", "Jute", "Sisal"), "length", "site", ("Fence", "Arch"), "load", "kg"),
    Trade("Product", ("None", "Wax A", "Wax B"), "board", "room", ("Shed", "Porch"), "gloss", "GU"),
    Trade("ware", ("Alder", "Birch", "Cedar"), "item", "stand", ("Kestrel", "Heron"), "yield", "kg"),
    Trade("kiln load", ("Ash", "Celadon", "Tenmoku"), "tile", "level", ("Top", "Bottom"), "shrinkage", "%"),
    Trade("feed", ("Usual", "Meal", "Flake"), "tank", "rack", ("Upper", "Lower"), "weight", "g"),
)


@dataclass(frozen=True)
class Truth:
    """What a table says: the names compared, how many samples, in which places, at how many looks (offsets in minutes where the table tells
    them), what was measured, and how many values."""

    treatments: frozenset[str]
    samples: int
    places: frozenset[str] = frozenset()
    looks: int = 1
    offsets: tuple[int, ...] = ()
    outcomes: frozenset[str] = frozenset()
    readings: int = 0


@dataclass(frozen=True)
class Table:
    """A table and its truth; ``way`` is how it is kept."""

    way: str
    trade: str
    data: bytes
    truth: Truth


@dataclass
class Trial:
    """A trial to be written down: its samples with treatment and place, and values by look."""

    trade: Trade
    rng: np.random.Generator
    each: int = 3
    days: tuple[int, ...] = (4, 10, 21)
    samples: list[tuple[str, str, str]] = field(default_factory=list)

    def __post_init__(self) -> None:
        n = 0
        for place in self.trade.places:
            for name in self.rng.permutation([one for one in self.trade.names for _ in range(self.each)]):
                n += 1
                self.samples.append((f"{self.trade.unit[0].upper()}{n}", str(name), place))

    def value(self, name: str, day: int) -> str:
        """A value of a sample of ``name`` on ``day``."""
        level = 10 + 2 * self.trade.names.index(name) + day / 5
        return f"{level + self.rng.normal(0, 0.6):.1f}"

    def truth(self, **more: object) -> Truth:
        """The truth of a table that tells all of it."""
        known: dict[str, object] = {
            "treatments": frozenset(self.trade.names),
            "samples": len(self.samples),
            "places": frozenset(self.trade.places),
            "looks": len(self.days),
            "offsets": tuple(day * 1440 for day in self.days),
            "outcomes": frozenset({self.trade.measure}),
            "readings": len(self.samples) * len(self.days),
        }
        return Truth(**{**known, **more})  # type: ignore[arg-type]


UNTOLD = "ware"
"""The trade whose words tell nothing."""
Rows = list[list[str]]


def written(rows: Sequence[Sequence[str]], delimiter: str = ",") -> bytes:
    """A table as text."""
    return "\n".join(
        delimiter.join(f'"{cell}"' if delimiter in cell else cell for cell in row) for row in rows
    ).encode()


def workbook(sheets: dict[str, Rows]) -> bytes:
    """Sheets as a workbook; what looks like a number is one."""
    book = openpyxl.Workbook()
    book.remove(book.active)
    for name, rows in sheets.items():
        page = book.create_sheet(name)
        for row in rows:
            page.append([float(cell) if cell.replace(".", "", 1).isdigit() else cell or None for cell in row])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def long_rows(t: Trial, when: Callable[[int], str], header: str, value: str | None = None) -> Rows:
    """A row for each reading."""
    rows = [[t.trade.unit, t.trade.place, t.trade.header, header, value or t.trade.measure]]
    for day in t.days:
        rows += [[code, place, name, when(day), t.value(name, day)] for code, name, place in t.samples]
    return rows


def wide_rows(t: Trial, title: Callable[[int], str]) -> Rows:
    """A row for each sample."""
    rows = [[t.trade.unit, t.trade.place, t.trade.header, *(title(day) for day in t.days)]]
    return rows + [[code, place, name, *(t.value(name, day) for day in t.days)] for code, name, place in t.samples]


def dated(day: int, pattern: str = "%Y-%m-%d") -> str:
    """A day of the calendar, so many after the start."""
    return f"{datetime(2027, 3, 20, tzinfo=UTC) + timedelta(days=day):{pattern}}"


def _long(t: Trial) -> tuple[bytes, Truth]:
    return written(long_rows(t, str, "day")), t.truth()


def _long_semicolons(t: Trial) -> tuple[bytes, Truth]:
    rows = long_rows(t, lambda day: f"Day {day}", "when")
    return written(
        [[cell.replace(".", ",") if i == 4 else cell for i, cell in enumerate(row)] for row in rows], ";"
    ), t.truth()


def _wide(t: Trial) -> tuple[bytes, Truth]:
    return written(wide_rows(t, lambda day: f"{t.trade.measure} d{day}")), t.truth()


def _wide_units(t: Trial) -> tuple[bytes, Truth]:
    return written(wide_rows(t, lambda day: f"{t.trade.measure} day {day} ({t.trade.measured_in})"), "\t"), t.truth()


def _hours(t: Trial) -> tuple[bytes, Truth]:
    rows = long_rows(t, lambda day: str(day * 6), "hours")
    return written(rows), t.truth(offsets=tuple(day * 360 for day in t.days))


def _weeks(t: Trial) -> tuple[bytes, Truth]:
    return written(long_rows(t, str, "week")), t.truth(offsets=tuple(day * 10_080 for day in t.days))


def _iso(t: Trial) -> tuple[bytes, Truth]:
    return written(long_rows(t, dated, "date")), t.truth(offsets=())


def _slashed(t: Trial) -> tuple[bytes, Truth]:
    return written(long_rows(t, lambda day: dated(day, "%d/%m/%Y"), "date")), t.truth(offsets=())


def _numbered(t: Trial) -> tuple[bytes, Truth]:
    rows = wide_rows(t, lambda day: f"{t.trade.measure} d{day}")
    return written([["#", *rows[0]], *([str(i), *row] for i, row in enumerate(rows[1:], 1))]), t.truth()


def _treatment_last(t: Trial) -> tuple[bytes, Truth]:
    rows = wide_rows(t, lambda day: f"{t.trade.measure} d{day}")
    return written([[*row[:2], *row[3:], row[2]] for row in rows]), t.truth()


def _bare_numbers(t: Trial) -> tuple[bytes, Truth]:
    """Samples by bare numbers."""
    rows = wide_rows(t, lambda day: f"{t.trade.measure} d{day}")
    return written([row if i == 0 else [row[0][1:], *row[1:]] for i, row in enumerate(rows)]), t.truth()


def _inside(t: Trial) -> tuple[bytes, Truth]:
    """Samples numbered anew in each treatment and place."""
    seen: Counter[tuple[str, str]] = Counter()
    rows = [[t.trade.header, t.trade.place, "no.", "day", t.trade.measure]]
    numbers = []
    for _, name, place in t.samples:
        seen[name, place] += 1
        numbers.append(str(seen[name, place]))
    for day in t.days:
        rows += [
            [name, place, n, str(day), t.value(name, day)]
            for (_, name, place), n in zip(t.samples, numbers, strict=True)
        ]
    return written(rows), t.truth()


def _joined(t: Trial) -> tuple[bytes, Truth]:
    """Joined cells: the treatment stands in the first of its rows alone."""
    ordered = sorted(t.samples, key=lambda one: (one[1], one[2]))
    rows: Rows = [[t.trade.header, t.trade.place, t.trade.unit, *(f"{t.trade.measure} d{day}" for day in t.days)]]
    last = ("", "")
    for code, name, place in ordered:
        shown = (name if name != last[0] else "", place if (name, place) != last else "")
        rows.append([*shown, code, *(t.value(name, day) for day in t.days)])
        last = (name, place)
    return workbook({"Data": rows}), t.truth()


def _titled(t: Trial) -> tuple[bytes, Truth]:
    rows = wide_rows(t, lambda day: f"{t.trade.measure} d{day}")
    return workbook({"Results": [["What we saw this spring"], [], *rows], "Notes": [["x"]]}), t.truth()


def _two_headers(t: Trial) -> tuple[bytes, Truth]:
    """Two rows of headers: what, and below it when."""
    top = ["", "", "", t.trade.measure, *[""] * (len(t.days) - 1)]
    below = [t.trade.unit, t.trade.place, t.trade.header, *(f"day {day}" for day in t.days)]
    return workbook({"Data": [top, below, *wide_rows(t, str)[1:]]}), t.truth()


def _sheet_a_look(t: Trial) -> tuple[bytes, Truth]:
    head = [t.trade.unit, t.trade.place, t.trade.header, t.trade.measure]
    sheets = {f"Day {day}": [head, *([c, p, n, t.value(n, day)] for c, n, p in t.samples)] for day in t.days}
    return workbook(sheets), t.truth()


def _no_places(t: Trial) -> tuple[bytes, Truth]:
    rows = wide_rows(t, lambda day: f"{t.trade.measure} d{day}")
    return written([[row[0], *row[2:]] for row in rows]), t.truth(places=frozenset())


def _no_samples(t: Trial) -> tuple[bytes, Truth]:
    rows = wide_rows(t, lambda day: f"{t.trade.measure} d{day}")
    return written([row[1:] for row in rows]), t.truth()


def _two_outcomes(t: Trial) -> tuple[bytes, Truth]:
    rows = wide_rows(t, lambda day: f"{t.trade.measure} d{day}")
    rows = [[*row, "alive at end" if i == 0 else "yes" if t.rng.random() < 0.8 else "no"] for i, row in enumerate(rows)]
    return written(rows), t.truth(outcomes=frozenset({t.trade.measure, "alive at end"}), readings=len(t.samples) * 4)


def _counts(t: Trial) -> tuple[bytes, Truth]:
    rows = [[t.trade.unit, t.trade.place, t.trade.header, "sound ones"]]
    rows += [[code, place, name, f"{int(t.rng.integers(8, 20))}/20"] for code, name, place in t.samples]
    return written(rows), t.truth(looks=1, offsets=(), outcomes=frozenset({"sound ones"}), readings=len(t.samples))


def _scorer(t: Trial) -> tuple[bytes, Truth]:
    rows = long_rows(t, str, "day")
    return written([[*row, "observer" if i == 0 else ("Robin", "Pim")[i % 2]] for i, row in enumerate(rows)]), t.truth()


def _remarks(t: Trial) -> tuple[bytes, Truth]:
    rows = wide_rows(t, lambda day: f"{t.trade.measure} d{day}")
    return written(
        [[*row, "remarks" if i == 0 else "a bit bent" if i % 7 == 3 else ""] for i, row in enumerate(rows)]
    ), t.truth()


def _long_outcomes(t: Trial) -> tuple[bytes, Truth]:
    """A column that names what was measured."""
    rows = [[t.trade.unit, t.trade.place, t.trade.header, "day", "measure", "value"]]
    for day in t.days:
        for code, name, place in t.samples:
            rows.append([code, place, name, str(day), t.trade.measure, t.value(name, day)])
            rows.append([code, place, name, str(day), "width", f"{3 + t.rng.random():.2f}"])
    return written(rows), t.truth(outcomes=frozenset({t.trade.measure, "width"}), readings=2 * 3 * len(t.samples))


def _gaps(t: Trial) -> tuple[bytes, Truth]:
    rows = wide_rows(t, lambda day: f"{t.trade.measure} d{day}")
    rows[2][3] = "n/a"
    rows[5][4] = ""
    return written(rows), t.truth(readings=len(t.samples) * 3 - 2)


def _washes(t: Trial) -> tuple[bytes, Truth]:
    """Looks by cycles."""
    return written(long_rows(t, lambda day: f"after {day} washes", "look")), t.truth(offsets=())


def _seen(t: Trial) -> tuple[bytes, Truth]:
    """An event by the day on which it was seen, or not yet."""
    rows = [[t.trade.unit, t.trade.place, t.trade.header, "mould seen"]]
    rows += [
        [c, p, n, dated(int(t.rng.integers(3, 30))) if t.rng.random() < 0.7 else "not yet"] for c, n, p in t.samples
    ]
    days = len({row[3] for row in rows[1:]} - {"not yet"})
    readings = days * len(t.samples)
    return written(rows), t.truth(looks=days, offsets=(), outcomes=frozenset({"mould seen"}), readings=readings)


def _ladder(t: Trial) -> tuple[bytes, Truth]:
    """The highest load that was held, some above the last."""
    rows = [[t.trade.unit, t.trade.place, t.trade.header, "held (kg)"]]
    rows += [[c, p, n, "> 40" if t.rng.random() < 0.3 else str(int(t.rng.integers(2, 8)) * 5)] for c, n, p in t.samples]
    return written(rows), t.truth(looks=1, offsets=(), outcomes=frozenset({"held"}), readings=len(t.samples))


def _stages(t: Trial) -> tuple[bytes, Truth]:
    """Each look in two parts: as it was found, and after it was cleaned."""
    rows = [[t.trade.unit, t.trade.place, t.trade.header, "day", "stage", t.trade.measure]]
    for day in t.days:
        for stage in ("before cleaning", "after cleaning"):
            rows += [[code, place, name, str(day), stage, t.value(name, day)] for code, name, place in t.samples]
    offsets = tuple(day * 1440 for day in t.days for _ in range(2))
    return written(rows), t.truth(looks=6, offsets=offsets, readings=len(t.samples) * 6)


STEPS = (2, 4, 6, 8)


def _curve_rows(t: Trial, title: Callable[[int], str]) -> Rows:
    """A column a step; some break before the last."""
    rows = [[t.trade.unit, t.trade.place, t.trade.header, *(title(step) for step in STEPS)]]
    for code, name, place in t.samples:
        slope = 1.5 + 0.4 * t.trade.names.index(name)
        own = [f"{slope * step + t.rng.normal(0, 0.2):.1f}" for step in STEPS]
        rows.append([code, place, name, *own[:3], own[3] if t.rng.random() < 0.7 else ""])
    return rows


def _curve(t: Trial) -> tuple[bytes, Truth]:
    """A column a step, called by what was read."""
    rows = _curve_rows(t, lambda step: f"sag at {step} kg [mm]")
    return written(rows), t.truth(looks=1, offsets=(), outcomes=frozenset({"sag"}), readings=len(t.samples))


def _steps(t: Trial) -> tuple[bytes, Truth]:
    """A column a step, called by the step alone."""
    rows = _curve_rows(t, lambda step: f"{step} N")
    outcomes = frozenset({"Curve over N"})
    return written(rows), t.truth(looks=1, offsets=(), outcomes=outcomes, readings=len(t.samples))


def _words(t: Trial) -> tuple[bytes, Truth]:
    """Grades by their words."""
    rows = [[t.trade.unit, t.trade.place, t.trade.header, "look of it"]]
    rows += [[c, p, n, ("poor", "fair", "good")[int(t.rng.integers(3))]] for c, n, p in t.samples]
    return written(rows), t.truth(looks=1, offsets=(), outcomes=frozenset({"look of it"}), readings=len(t.samples))


def _broken(t: Trial) -> tuple[bytes, Truth]:
    """A word where a value should be: that sample is out."""
    rows = wide_rows(t, lambda day: f"{t.trade.measure} d{day}")
    rows[4][5] = "knocked over"
    return written(rows), t.truth(readings=len(t.samples) * 3 - 1)


def _worded_days(t: Trial) -> tuple[bytes, Truth]:
    rows = wide_rows(t, lambda day: dated(day, "%a %d %B %Y"))
    first = min(t.days) - 1
    return written(rows), t.truth(offsets=tuple((day - first) * 1440 for day in t.days), outcomes=frozenset({"Result"}))


def _column_a_treatment(t: Trial) -> tuple[bytes, Truth]:
    rows = [list(t.trade.names)] + [[t.value(name, 10) for name in t.trade.names] for _ in range(7)]
    return written(rows), t.truth(
        samples=21, places=frozenset(), looks=1, offsets=(), outcomes=frozenset({"value"}), readings=21
    )


def _columns_numbered(t: Trial) -> tuple[bytes, Truth]:
    names = [name for name in t.trade.names for _ in range(4)]
    rows = [["day", *(f"{name} {i % 4 + 1}" for i, name in enumerate(names))]]
    rows += [[str(day), *(t.value(name, day) for name in names)] for day in t.days]
    return written(rows), t.truth(
        samples=12, places=frozenset(), outcomes=frozenset({"value"}), readings=12 * len(t.days)
    )


def _doses(t: Trial) -> tuple[bytes, Truth]:
    doses = ("0", "5", "10", "20")
    rows = [["Dose mL/L", "nr", f"{t.trade.measure} {BARE.get(t.trade.measured_in, 'mm')}"]]
    rows += [[dose, str(i), t.value(t.trade.names[0], 4)] for dose in doses for i in range(1, 5)]
    named = frozenset(f"{dose} mL/L" for dose in doses)
    return written(rows), t.truth(treatments=named, samples=16, places=frozenset(), looks=1, offsets=(), readings=16)


BARE = {"cm": "cm", "kg": "kg", "%": "%", "g": "g"}


def _pieces(t: Trial) -> tuple[bytes, Truth]:
    rows = [["plot", t.trade.header, "plant", t.trade.measure]]
    for i in range(9):
        name = t.trade.names[i % 3]
        rows += [[f"P{i + 1}", name, str(k), t.value(name, 10)] for k in range(1, 5)]
    return written(rows), t.truth(samples=9, places=frozenset(), looks=1, offsets=(), readings=36)


def _means_below(t: Trial) -> tuple[bytes, Truth]:
    rows = wide_rows(t, lambda day: f"day {day}")
    below = [[word, "", "", *("9.9" for _ in t.days)] for word in ("Mean", "SD")]
    return written([*rows, *below]), t.truth(outcomes=frozenset({"Result"}))


def _header_again(t: Trial) -> tuple[bytes, Truth]:
    rows = long_rows(t, str, "day")
    half = 1 + len(t.samples)
    return written([*rows[:half], ["", "", "", "", ""], rows[0], *rows[half:]]), t.truth()


def _capitals(t: Trial) -> tuple[bytes, Truth]:
    rows = long_rows(t, str, "day")
    for i in range(4, len(rows), 11):
        rows[i][2] = rows[i][2].upper()
    return written(rows), t.truth()


def _by_the_clock(t: Trial) -> tuple[bytes, Truth]:
    rows = long_rows(t, lambda day: f"{day + 1:02}:30", "Time")
    return written(rows), t.truth(offsets=tuple((day - t.days[0]) * 60 for day in t.days))


def _two_units(t: Trial) -> tuple[bytes, Truth]:
    rows = [[t.trade.unit, t.trade.header, "weight"]]
    for i, (code, name, _) in enumerate(t.samples):
        grams = float(t.value(name, 10)) * 50
        rows.append([code, name, f"{grams:.0f} g" if i % 4 else f"{grams / 1000:.3f} kg"])
    return written(rows), t.truth(
        places=frozenset(), looks=1, offsets=(), outcomes=frozenset({"weight"}), readings=len(t.samples)
    )


def _left_out(t: Trial) -> tuple[bytes, Truth]:
    rows = wide_rows(t, lambda day: f"{t.trade.measure} day {day}")
    return written(
        [[*row, "Left out" if i == 0 else "fell over" if i == 3 else ""] for i, row in enumerate(rows)]
    ), t.truth()


WAYS: dict[str, Callable[[Trial], tuple[bytes, Truth]]] = {
    "a row a reading": _long,
    "semicolons and decimal commas": _long_semicolons,
    "a row a sample": _wide,
    "units in the headers": _wide_units,
    "hours": _hours,
    "weeks": _weeks,
    "ISO dates": _iso,
    "dates with strokes": _slashed,
    "row numbers": _numbered,
    "the treatment last": _treatment_last,
    "samples by bare numbers": _bare_numbers,
    "numbers inside treatments": _inside,
    "joined cells": _joined,
    "a title above": _titled,
    "two rows of headers": _two_headers,
    "a sheet a look": _sheet_a_look,
    "no places": _no_places,
    "no sample names": _no_samples,
    "two outcomes": _two_outcomes,
    "counts of so many": _counts,
    "who looked": _scorer,
    "remarks": _remarks,
    "what was measured in a column": _long_outcomes,
    "gaps": _gaps,
    "looks by cycles": _washes,
    "the day on which it was seen": _seen,
    "the highest load held": _ladder,
    "looks in stages": _stages,
    "a column a step": _curve,
    "steps alone": _steps,
    "grades in words": _words,
    "a word among values": _broken,
    "days with the month as a word": _worded_days,
    "a column a treatment": _column_a_treatment,
    "numbered columns of each treatment": _columns_numbered,
    "doses with a unit above": _doses,
    "pieces in a plot": _pieces,
    "means below": _means_below,
    "the header again": _header_again,
    "capitals or not": _capitals,
    "times of a day": _by_the_clock,
    "grams and kilograms": _two_units,
    "why it was left out": _left_out,
}


def made_up(seed: int = 1) -> list[Table]:
    """The tables."""
    found = []
    for k, (way, make) in enumerate(WAYS.items()):
        for j, trade in enumerate(TRADES):
            data, truth = make(Trial(trade, np.random.default_rng([seed, k, j])))
            found.append(Table(way, trade.header, data, truth))
    return found


def fate_of(table: Table) -> tuple[Fate, str]:
    """What became of a table at first guess, and what was asked or wrong."""
    read = read_foreign(table.data)
    asked = ""
    try:
        try:
            made = bring(read, guess(read), "A table", "Maren", NOW, seed="c0ffee")
        except Refused as refused:
            asked = refused.problems[0].says
            if refused.problems[0].at not in ("compared", "words"):
                raise
            answers = Choices(compared=table.trade, words="leave out")
            made = bring(read, guess(read), "A table", "Maren", NOW, answers, seed="c0ffee")
    except Refused as refused:
        return "asked", refused.problems[0].says
    plan, truth = made.plan, table.truth
    found = Truth(
        frozenset(one.name for one in plan.treatments),
        len(made.pack.tables["samples"]),
        frozenset(one.name for one in plan.layout.blocks) if plan.layout.kind == "blocks" else frozenset(),
        len(plan.checkpoints),
        tuple(sorted(one.offset for one in plan.checkpoints)) if truth.offsets else (),
        frozenset(one.name for one in plan.outcomes),
        made.readings,
    )
    wrong = [name for name in vars(truth) if getattr(found, name) != getattr(truth, name)]
    told = "; ".join(f"{name}: {getattr(found, name)} for {getattr(truth, name)}" for name in wrong)
    if wrong:
        return "wrong", told
    return ("asked", f"{asked} Whole after that.") if asked else ("whole", "")


def main() -> None:
    """Print how many are read whole, asked about, or wrong without a word."""
    fates = [(table, *fate_of(table)) for table in made_up()]
    many = Counter(fate for _, fate, _ in fates)
    told = [fate for table, fate, _ in fates if table.trade != UNTOLD]
    print(
        f"of {len(told)} tables that tell what is compared {told.count('whole')} were whole at first guess (aim: {4 * len(told) // 5}); "
        f"of all {len(fates)} {many['whole']} were, {many['asked']} were asked about, "
        f"{many['wrong']} were wrong without a word (aim: 0)"
    )
    for table, fate, says in fates:
        if fate != "whole":
            print(f"  {fate}: {table.way}, {table.trade}: {says[:200]}")


if __name__ == "__main__":
    main()
