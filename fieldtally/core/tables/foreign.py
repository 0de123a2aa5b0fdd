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
from fieldtally.core.quantities.numbers import honest

LARGEST = 100_000_000
MOST_ROWS, MOST_COLUMNS, LONGEST_CELL = 1_000_000, 200, 2_000
UNPACKED, SQUEEZED = 400_000_000, 300
HEADER_WITHIN = 20
FIRST = 40
"""So many rows below where a header may stand are looked at to find it."""
MOST_KNOWN = 500_000
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
    if len(names) > 1:
        said.append(f"Of {len(names)} sheets “{chosen}” was read.")
    return _table(chosen, names, rows, said)


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
    header = _named([*head[top], *[""] * width][:width])
    return Foreign(sheet, sheets, header, _body(chain(head[top + 1 :], cleaned), top + 2, width), tuple(said))


def _cleaner() -> Callable[[str], str]:
    """What makes a cell of it: without line breaks and double blanks, and one text for all cells that say the same."""
    known: dict[str, str] = {}

    def clean(cell: str) -> str:
        found = known.get(cell)
        if found is None:
            found = " ".join(cell.split())[:LONGEST_CELL]
            # One text for all cells that say the same; those that never come back are not remembered for ever.
            found = known.setdefault(found, found)
            if len(known) < MOST_KNOWN:
                known[cell] = found
        return found

    return clean


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
