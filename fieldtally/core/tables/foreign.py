"""Somebody else's table, as it comes: CSV of any delimiter and encoding, XLSX, XLS or ODS, with a title above it.

Only values are read: formulas give what they last came to, macros and links to other files are never followed.
"""

from __future__ import annotations

import csv
import io
import re
import zipfile
from array import array
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from itertools import chain, islice, zip_longest
from typing import NamedTuple, overload

from charset_normalizer import from_bytes
from python_calamine import CalamineError, CalamineWorkbook

from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.quantities.numbers import honest
from fieldtally.core.tables.columns import BARE_UNIT, BLANK, UNIT

LARGEST = 100_000_000
MOST_ROWS, MOST_COLUMNS, LONGEST_CELL = 1_000_000, 200, 2_000
UNPACKED, SQUEEZED = 400_000_000, 300
HEADER_WITHIN = 20
FIRST = 40
"""So many rows below where a header may stand are looked at to find it."""
MOST_KNOWN = 500_000
NUMERIC = re.compile(r"^[-+]?[\d.,]+$")
LINE_END = re.compile(r"\r\n|\n|\r")
DELIMITERS = ",;\t|"
TEXT_SAMPLE = 64_000


class ForeignRow(NamedTuple):
    """The cells of one row, and the number it has in the file (counted from 1)."""

    line: int
    cells: tuple[str, ...]


class Rows(Sequence[ForeignRow]):
    """The rows of a table, kept as its columns: texts that come back are there once, and a row is made when it is asked for."""

    def __init__(self, lines: Sequence[int], columns: Sequence[list[str]]) -> None:
        self.lines, self.columns = lines, columns

    def __len__(self) -> int:
        return len(self.lines)

    @overload
    def __getitem__(self, at: int) -> ForeignRow: ...
    @overload
    def __getitem__(self, at: slice) -> Rows: ...
    def __getitem__(self, at: int | slice) -> ForeignRow | Rows:
        if isinstance(at, slice):
            return Rows(self.lines[at], [column[at] for column in self.columns])
        return ForeignRow(self.lines[at], tuple([column[at] for column in self.columns]))

    def __iter__(self) -> Iterator[ForeignRow]:
        return map(ForeignRow, self.lines, zip(*self.columns, strict=True))


@dataclass(frozen=True)
class Foreign:
    """One sheet: its header, its rows, all sheets of the file, and what was noticed on the way (``warnings``)."""

    sheet: str
    sheets: tuple[str, ...]
    header: tuple[str, ...]
    rows: Rows
    warnings: tuple[str, ...]


def read_foreign(data: bytes, sheet: str = "") -> Foreign:
    """The table in ``data``; of a workbook the ``sheet`` of that name, or the one that holds most.

    :raises Refused: empty, too large, no table, quotes that do not close.
    """
    if len(data) > LARGEST:
        raise Refused(f"This file is larger than {LARGEST // 1_000_000} MB.")
    if not data.strip():
        raise Refused("The file is empty.")
    if data.startswith((b"PK\x03\x04", b"\xd0\xcf\x11\xe0")):
        return _from_workbook(data, sheet)
    if data.startswith((b"%PDF", b"\xff\xd8\xff", b"\x89PNG", b"GIF8", b"\x1f\x8b", b"7z\xbc\xaf", b"Rar!")):
        raise Refused("This is no table: bring a CSV, XLSX or ODS file.")
    text, said = _text(data)
    return _table("", ("",), _csv_rows(text), said)


def _csv_rows(text: str) -> Iterator[list[str]]:
    if "\x00" in text:
        raise Refused("This is no table: bring a CSV, XLSX or ODS file.")
    reader = csv.reader(_lines_of(text), delimiter=_delimiter(text), strict=True)
    many = 0
    try:
        for cells in reader:
            many += 1
            if many > MOST_ROWS + HEADER_WITHIN:
                raise Refused(f"This table has more than {MOST_ROWS:,} rows; bring it in parts.")
            yield cells
    except csv.Error as error:
        if "field limit" in str(error):
            raise Refused(
                f"A cell has more than {csv.field_size_limit():,} letters.", f"line {reader.line_num}"
            ) from error
        raise Refused(f"The quotes do not close ({error}).", f"line {reader.line_num}") from error


def _lines_of(text: str) -> Iterator[str]:
    """The lines of ``text`` with their ends, without a second copy of it all."""
    return io.StringIO(text, newline="") if len(text) < TEXT_SAMPLE else _cut(text)


def _cut(text: str) -> Iterator[str]:
    start = 0
    for found in LINE_END.finditer(text):
        yield text[start : found.end()]
        start = found.end()
    if start < len(text):
        yield text[start:]


def _text(data: bytes) -> tuple[str, list[str]]:
    for start, name in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(start):
            try:
                return data.decode(name), []
            except UnicodeDecodeError as error:
                raise Refused("The letters of this file cannot be read; save it as CSV in UTF-8.") from error
    try:
        return data.decode("utf-8"), []
    except UnicodeDecodeError:
        best = from_bytes(data[:TEXT_SAMPLE]).best()
        encoding = "cp1252" if best is None or best.encoding in ("cp1250", "cp1252", "latin_1") else best.encoding
        try:
            text = data.decode(encoding)
        except (UnicodeDecodeError, LookupError):
            text, encoding = data.decode("cp1252", errors="replace"), "cp1252"
        return text, [
            f"It is not in UTF-8; its letters were read as {encoding.replace('_', '-')}. Look at names with accents."
        ]


def _delimiter(text: str) -> str:
    """The one that cuts most of the first lines into the same number of cells, more than one."""
    lines = [line for line in text[:TEXT_SAMPLE].splitlines() if line.strip()][:30]
    if not lines:
        return ","

    def steady(delimiter: str) -> tuple[int, int]:
        counts = Counter(len(next(csv.reader([line], delimiter=delimiter), [])) for line in lines)
        cells, many = max(counts.items(), key=lambda one: (one[1] if one[0] > 1 else 0, one[0]))
        return (many if cells > 1 else 0, cells)

    try:
        return max(DELIMITERS, key=steady)
    except csv.Error:
        return ","


def _from_workbook(data: bytes, sheet: str) -> Foreign:
    said: list[str] = []
    if data.startswith(b"PK"):
        said += _contents_of(data)
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        names = tuple(book.sheet_names)
        if not names:
            raise Refused("There is no sheet in this workbook.")
        if sheet and sheet not in names:
            raise Refused(f"There is no sheet “{sheet}”; there are {', '.join(names[:8])}.", "sheet")
        chosen = sheet or max(names, key=lambda name: _filled(book, name))
        page = book.get_sheet_by_name(chosen)
        if page.total_height > MOST_ROWS + HEADER_WITHIN:
            raise Refused(f"This table has {page.total_height:,} rows; more than {MOST_ROWS:,} come in parts.")
        rows = ([_cell(value) for value in row] for row in page.to_python(skip_empty_area=False))
    except Refused:
        raise
    except (CalamineError, ValueError, OSError, KeyError, RuntimeError, BaseException) as error:
        if isinstance(error, KeyboardInterrupt | SystemExit | MemoryError):
            raise
        raise Refused(
            "This workbook cannot be read: it is damaged, locked with a password, or of another kind."
        ) from error
    looks = [] if sheet else _alike(book, names)
    if looks:
        said.append(f"{len(looks)} sheets are alike, so each was read as a look: {', '.join(looks[:6])}.")
        return _table("", names, _stacked(book, looks), said)
    if len(names) > 1:
        said.append(f"Of {len(names)} sheets “{chosen}” was read.")
    return _table(chosen, names, rows, said)


def _alike(book: CalamineWorkbook, names: Sequence[str]) -> list[str]:
    """The sheets that have one header, and names that tell them apart as looks do; none where there are less than two."""
    heads: dict[tuple[str, ...], list[str]] = {}
    for name in names:
        page = book.get_sheet_by_name(name)
        if page.total_height < 2 or page.total_height * len(names) > MOST_ROWS:
            continue
        first = next(iter(page.to_python(skip_empty_area=False, nrows=1)), [])
        head = tuple(_cell(value).strip() for value in first)
        if sum(map(bool, head)) > 1 and any(letter.isdigit() for letter in name):
            heads.setdefault(head, []).append(name)
    best = max(heads.values(), key=len, default=[])
    return best if len(best) > 1 else []


def _stacked(book: CalamineWorkbook, names: Sequence[str]) -> Iterator[list[str]]:
    """The rows of sheets that are alike under one header, each with the name of its sheet as its look."""
    for i, name in enumerate(names):
        for row, values in enumerate(book.get_sheet_by_name(name).to_python(skip_empty_area=False)):
            cells = [_cell(value) for value in values]
            if row == 0 and i:
                continue
            if any(cells):
                yield ["look" if row == 0 else name, *cells]


def _filled(book: CalamineWorkbook, name: str) -> int:
    page = book.get_sheet_by_name(name)
    return int(page.total_height * page.total_width) if page.total_height <= MOST_ROWS else 0


def _contents_of(data: bytes) -> list[str]:
    """What else a workbook holds; a zip that grows without end is refused."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as files:
            entries = files.infolist()
    except (zipfile.BadZipFile, OSError, ValueError) as error:
        raise Refused("This workbook cannot be read: it is damaged.") from error
    total = sum(one.file_size for one in entries)
    if total > UNPACKED or any(one.file_size > max(5_000_000, SQUEEZED * one.compress_size) for one in entries):
        raise Refused("Unpacked this workbook would be larger than any table.")
    names = [one.filename.lower() for one in entries]
    said = []
    if any(name.endswith("vbaproject.bin") or name.startswith("basic/") for name in names):
        said.append("It holds macros; they were left alone, only values were read.")
    if any("externallink" in name for name in names):
        said.append("It is linked to other files; these were not looked at, only the values kept in it.")
    return said


def _cell(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return str(int(value)) if value.is_integer() and abs(value) < 1e15 else repr(value)
    if isinstance(value, datetime):
        return value.date().isoformat() if value.time() == time(0) else value.isoformat(sep=" ", timespec="minutes")
    if isinstance(value, date | time):
        return value.isoformat()
    if isinstance(value, timedelta):
        return f"{honest(value.total_seconds() / 3600, 6)} h"
    return str(value)


def _table(sheet: str, sheets: tuple[str, ...], rows: Iterable[Sequence[str]], said: list[str]) -> Foreign:
    clean = _cleaner()
    cleaned = ([clean(cell) for cell in row] for row in rows)
    head = list(islice(cleaned, HEADER_WITHIN + FIRST))
    filled = [sum(1 for cell in row if cell) for row in head]
    if not any(many > 1 for many in filled):
        raise Refused("There is no table in it: a header and rows of at least two cells.")
    top = _header_at(head, filled)
    width = max(i + 1 for i, cell in enumerate(head[top]) if cell)
    if width > MOST_COLUMNS:
        raise Refused(f"It has {width} columns; up to {MOST_COLUMNS} can be read.")
    if top:
        said.append(f"The header was found in row {top + 1}; what stands above it was left out.")
    header = _named(_under(head, top, width))
    body = _without_summaries(_body(chain(head[top + 1 :], cleaned), top + 2, width), header, said)
    title = next((cell for cell in reversed([cell for row in head[:top] for cell in row]) if cell), "")
    turned = turned_over(header, body, title)
    if turned is not None:
        said.append(
            "Each column held one treatment, so the table was turned: a row a value, what stood above it beside it."
        )
        header, body = turned
    told = told_by_codes(header, body)
    if told is not None:
        header, body = told
        said.append(
            f"What is compared was read from the names in “{header[1]}”: {', '.join(list(dict.fromkeys(body.columns[0]))[:6])}."
        )
    return Foreign(sheet, sheets, header, body, tuple(said))


MOST_TURNED = 20_000
"""Rows of a table with a column a treatment; one that is longer is of another kind."""
COUNTS_SAMPLES = re.compile(
    r"^(?:rep|replicates?|no\.?|nr\.?|number|#|sample|pot|plot|plant|block|row|id|n|column \d+)$", re.I
)
MEASURES = re.compile(
    r"\b(?:height|length|width|weight|mass|yield|count|number|temp(?:erature)?|ph|load|score|grade|rating|loss|gain|area|volume|depth|time|"
    r"days?|weeks?|months?|hours?|min|date|before|after|start|end|mean|sd|se|total|sum|result|value|reading|check|look|wash|visit)\b",
    re.I,
)
NUMBERED = re.compile(r"^(?P<name>.*?[^\W\d_].*?)[\s_.-]*\(?(?P<number>\d{1,2})\)?$")


def turned_over(header: Sequence[str], rows: Rows, title: str = "") -> tuple[tuple[str, ...], Rows] | None:
    """A table that holds a column of numbers for each treatment, beside at most one that counts the samples, with a row a value; None where
    it is no such table.  Columns that are numbered (Salt 1, Salt 2) are samples of one treatment, each with its own row of looks.  What the
    values are is told by the ``title`` that stood above."""
    first = 1 if COUNTS_SAMPLES.match(header[0]) or MEASURES.search(header[0]) else 0
    names = list(header[first:])
    if len(names) < FEWEST_TURNED or len(rows) > MOST_TURNED:
        return None
    if any(
        MEASURES.search(name) or UNIT.search(name) or BARE_UNIT.match(name) or not re.search(r"[^\W\d_]", name)
        for name in names
    ):
        return None
    if any(name.startswith("column ") for name in names):
        return None
    cells = [[cell for cell in column if cell.casefold() not in BLANK] for column in rows.columns[first:]]
    if not all(own and all(NUMERIC.match(cell) and cell.strip(",.") for cell in own) for own in cells):
        return None
    numbered = [NUMBERED.match(name) for name in names]
    apart = [match["name"].strip() if match else name for match, name in zip(numbered, names, strict=True)]
    several = Counter(apart)
    alike = len(several) > 1 and min(several.values()) > 1
    looks = first == 1 and not COUNTS_SAMPLES.match(header[0])
    if looks and not alike:
        # One value of each treatment at a time: no two samples fared alike or otherwise.
        return None
    treatments = apart if alike else names
    at = [
        (i, k)
        for i in range(len(rows))
        for k in range(len(names))
        if rows.columns[first + k][i].casefold() not in BLANK
    ]
    own = [rows.columns[0][i] if first else str(i + 1) for i, _ in at]
    columns = [
        [treatments[k] for _, k in at],
        own if first else [],
        [names[k] if alike else f"{names[k]} {one}" for (_, k), one in zip(at, own, strict=True)],
    ]
    heads = ["treatment", header[0] if first else "", "sample"]
    if not first:
        del columns[1], heads[1]
    columns.append([rows.columns[first + k][i] for i, k in at])
    heads.append(title[:80] if title and title not in heads else "value")
    return tuple(heads), Rows([rows.lines[i] for i, _ in at], columns)


FEWEST_TURNED = 2


def told_by_codes(header: Sequence[str], rows: Rows) -> tuple[tuple[str, ...], Rows] | None:
    """A table whose only column of words names its samples by what they got and a number (PEAT-1, PEAT-2, COIR-1), with what they got
    before it; None where it is no such table."""
    if len(rows) > MOST_TURNED or "treatment" in header:
        return None
    words = [i for i, column in enumerate(rows.columns) if not all(NUMERIC.match(cell) or not cell for cell in column)]
    if len(words) != 1:
        return None
    (at,) = words
    parts = [NUMBERED.match(cell) for cell in rows.columns[at]]
    if not all(parts):
        return None
    names = [match["name"].strip(" -_") for match in parts if match]
    many = Counter(names)
    if len(many) < FEWEST_TURNED or min(many.values()) < FEWEST_TURNED:
        return None
    rest = [i for i in range(len(header)) if i != at]
    columns = [names, rows.columns[at], *(rows.columns[i] for i in rest)]
    return ("treatment", header[at], *(header[i] for i in rest)), Rows(rows.lines, columns)


def _under(rows: Sequence[Sequence[str]], top: int, width: int) -> list[str]:
    """The header in row ``top``; where a row above it holds joined names over some of its columns, with these before it.  A title stands in
    one cell, at the left."""
    below = [*rows[top], *[""] * width][:width]
    above = [*rows[top - 1], *[""] * width][:width] if top else []
    if not any(above[1:]) or any(NUMERIC.match(cell) for cell in above):
        return below
    found, over = [], ""
    for high, low in zip(above, below, strict=True):
        over = high or over
        found.append(f"{over} {low}".strip() if over else low)
    return found


def _cleaner() -> Callable[[str], str]:
    """What makes a cell of it: without line breaks and double blanks, and one text for all cells that say the same."""
    known: dict[str, str] = {}

    def clean(cell: str) -> str:
        found = known.get(cell)
        if found is None:
            found = _numeric_day(" ".join(cell.split())[:LONGEST_CELL])
            # One text for all cells that say the same; those that never come back are not remembered for ever.
            found = known.setdefault(found, found)
            if len(known) < MOST_KNOWN:
                known[cell] = found
        return found

    return clean


MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
_MONTH = r"(?P<month>jan|feb|mar|apr|may|jun|jul|aug|sept?|oct|nov|dec)[a-z]*\.?"
WORDED_DAY = re.compile(
    rf"^(?P<before>.*?)(?:(?P<day>\d{{1,2}})(?:st|nd|rd|th)?[\s.-]*{_MONTH}[\s,.-]*(?P<year>\d{{4}}|\d{{2}})|"
    rf"{_MONTH.replace('month', 'month2')}\s*(?P<day2>\d{{1,2}})(?:st|nd|rd|th)?,?\s+(?P<year2>\d{{4}}))$",
    re.I,
)
WEEKDAY = re.compile(r"\b(?:mon|tue|wed|thu|fri|sat|sun)[a-z]*[\s,.]*$", re.I)
LONGEST_DAY, SHORTEST_DAY = 60, 7


def _numeric_day(cell: str) -> str:
    """A day whose month is written as a word, in figures; anything else as it is.

    >>> _numeric_day("5 Apr 2027"), _numeric_day("Height, 19 April 27"), _numeric_day("May 3, 2027"), _numeric_day("May Queen 3")
    ('2027-04-05', 'Height, 2027-04-19', '2027-05-03', 'May Queen 3')
    """
    # Most cells are numbers, and there may be a million of them.
    if not SHORTEST_DAY <= len(cell) <= LONGEST_DAY or not cell[-1].isdecimal() or cell.lower() == cell.upper():
        return cell
    found = WORDED_DAY.match(cell)
    if found is None:
        return cell
    before = WEEKDAY.sub("", found["before"] or "")
    if (before or " ")[-1].isalnum():
        return cell
    year = int(found["year"] or found["year2"])
    try:
        day = date(
            year + 2000 if year < 100 else year,
            MONTHS.index((found["month"] or found["month2"])[:3].casefold()) + 1,
            int(found["day"] or found["day2"]),
        )
    except ValueError:
        return cell
    return f"{before}{day.isoformat()}"


SUMMARY = re.compile(
    r"^(?:means?|averages?|avg\.?|totals?|sums?|sd|s\.d\.|se|sem|std\.?(?: ?dev\.?)?|median|min(?:imum)?|max(?:imum)?|cv(?: ?%)?|lsd)\b:?$",
    re.I,
)
"""What a row is called that sums up others."""


MOST_SUMMED = 50_000
"""Rows of a table in which means are looked for; nobody sums up longer ones by hand."""


def _without_summaries(rows: Rows, header: Sequence[str], said: list[str]) -> Rows:
    """``rows`` without those that repeat the header, or hold means and sums of others (with a cell left empty); both are told."""
    if len(rows) > MOST_SUMMED:
        return rows
    labels = [column for column in rows.columns if any(SUMMARY.match(cell) for cell in set(column))]
    summed = {
        i
        for column in labels
        for i, cell in enumerate(column)
        if SUMMARY.match(cell) and any(not other[i] for other in rows.columns)
    }
    first = rows.columns[0]
    again = {
        i
        for i in range(len(rows))
        if first[i] == header[0] and all(column[i] == name for column, name in zip(rows.columns, header, strict=True))
    }
    gone = summed | again
    if not gone or len(gone) == len(rows):
        return rows
    if again:
        said.append(f"Left out: the header again, in {noun('row').counted(len(again))}.")
    if summed:
        said.append(f"Left out: {noun('row').counted(len(summed))} of means or sums, which are no samples.")
    left = [i for i in range(len(rows)) if i not in gone]
    return Rows([rows.lines[i] for i in left], [[column[i] for i in left] for column in rows.columns])


def _body(rows: Iterable[Sequence[str]], first: int, width: int) -> Rows:
    """The rows below the header, the first of which is row ``first`` of the file; empty ones are passed over."""
    columns: list[list[str]] = [[] for _ in range(width)]
    lines = array("l")
    problems = []
    for i, row in enumerate(rows, start=first):
        if not any(row):
            continue
        if len(row) > width and any(row[width:]):
            problems.append(Problem(f"row {i}", f"It has more cells than the header’s {width}."))
        lines.append(i)
        for column, cell in zip_longest(columns, row[:width], fillvalue=""):
            column.append(cell)  # type: ignore[union-attr]
    if problems:
        raise Refused(problems[:20])
    if not lines:
        raise Refused("There is a header, but no rows below it.", f"row {first}")
    if len(lines) > MOST_ROWS:
        raise Refused(f"This table has {len(lines):,} rows; more than {MOST_ROWS:,} come in parts.")
    return Rows(lines, columns)


def _header_at(rows: Sequence[Sequence[str]], filled: Sequence[int]) -> int:
    """The first row as full as any near the top, so that a title above the table does not count."""
    within = filled[:HEADER_WITHIN]
    fullest = max(within)
    for i, many in enumerate(within):
        if many >= 2 and many >= fullest - 1 and any(f > 1 for f in filled[i + 1 :]):
            return i
    return within.index(fullest)


def _named(cells: Sequence[str]) -> tuple[str, ...]:
    seen: Counter[str] = Counter()
    found = []
    for i, cell in enumerate(cells, start=1):
        name = cell[:80] or f"column {i}"
        seen[name] += 1
        found.append(name if seen[name] == 1 else f"{name} ({seen[name]})")
    return tuple(found)
