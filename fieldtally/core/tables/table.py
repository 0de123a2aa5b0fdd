"""A table of text: a header and rows, each row with its line in the file.

UTF-8 with or without byte order mark; the delimiter is the one of comma, semicolon and tab that the header holds most of.
"""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass

from fieldtally.core.problems import Problem, Refused


@dataclass(frozen=True)
class Row:
    """The cells of one row, and the line on which it ends in the file (the header is line 1)."""

    line: int
    cells: tuple[str, ...]


@dataclass(frozen=True)
class Table:
    """``header`` names the columns; each row has as many cells."""

    header: tuple[str, ...]
    rows: tuple[Row, ...]

    def column(self, name: str) -> int:
        """The index of the column called ``name``.

        :raises Refused: there is none.
        """
        if name not in self.header:
            raise Refused(f"There is no column “{name}”; the columns are {', '.join(self.header)}.", "line 1")
        return self.header.index(name)


def read_table(data: bytes) -> Table:
    """The table in ``data``.

    :raises Refused: empty, not UTF-8, no rows, a column named twice, or rows of another length than the header, each with
        its line.
    """
    text = _text(data)
    if not text.strip():
        raise Refused("The file is empty.", "line 1")
    first = text.splitlines()[0]
    delimiter = max(",;\t", key=first.count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    rows: list[Row] = []
    try:
        for cells in reader:
            if any(cell.strip() for cell in cells):
                rows.append(Row(reader.line_num, tuple(cell.strip() for cell in cells)))
    except csv.Error as error:
        raise Refused(f"The quotes do not close ({error}).", f"line {reader.line_num}") from error
    header = rows[0].cells
    twice = sorted({name for name in header if header.count(name) > 1})
    if twice:
        raise Refused(f"Two columns are called “{twice[0]}”.", "line 1")
    if len(rows) < 2:
        raise Refused("There is a header, but no rows below it.", "line 2")
    ragged = [
        Problem(f"line {row.line}", f"{len(row.cells)} cells, but the header has {len(header)}.")
        for row in rows[1:]
        if len(row.cells) != len(header)
    ]
    if ragged:
        raise Refused(ragged)
    return Table(header, tuple(rows[1:]))


def _text(data: bytes) -> str:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data[: error.start].count(b"\n") + 1
        raise Refused(
            f"Not UTF-8 text (byte 0x{data[error.start]:02X}); save the file as “CSV UTF-8” and try again.",
            f"line {line}",
        ) from error
    if "\x00" in text:
        raise Refused("This is not a text table.", f"line {text[: text.index(chr(0))].count(chr(10)) + 1}")
    return text
