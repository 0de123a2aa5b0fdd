"""The values of single samples as a report shows them: a table on a screen, and on paper lines of letters that are all equally wide.

Setting a table of thousands of cells on paper takes minutes; lines take seconds, and never run off the page.
"""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

from django.utils.safestring import SafeString, mark_safe

LETTERS_ACROSS = 112
"""So many letters of the report's small type stand on a line of A4 and of Letter."""
LINES_DOWN = 74
"""So many lines are held together; a page takes as many with the heading."""
WIDEST_LEAD = 22
"""So many letters of what tells which sample it is stand on one line; longer names go on below."""
GAP = "  "
MOST_VALUES = 60_000
"""A report tells so many values of single samples; more of them nobody reads, and the trial pack has them."""
FEW_VALUES = 2_000
"""So many are told unasked: a report of more begins with what matters, and its readings are in the workbook."""


@dataclass(frozen=True)
class RawTable:
    """Rows of samples under ``header``; the first ``lead`` columns say which sample it is."""

    title: str
    header: tuple[str, ...]
    lead: int
    rows: tuple[tuple[str, ...], ...]

    @property
    def on_screen(self) -> SafeString:
        """Head and body of a table, every text in it escaped."""
        head = "".join(f"<th>{escape(one)}</th>" for one in self.header)
        body = "".join(f"<tr><td>{'</td><td>'.join(map(escape, row))}</td></tr>" for row in self.rows)
        return mark_safe(f"<thead><tr>{head}</tr></thead><tbody>{body}</tbody>")  # noqa: S308

    @property
    def on_paper(self) -> list[str]:
        """Its columns side by side as far as a line reaches, then the next ones; each text is a part of a page with its own heading.

        >>> print(RawTable("", ("pot", "day 1"), 1, (("p1", "3.5"), ("p22", ""))).on_paper[0])
        pot  day 1
        p1     3.5
        p22
        """
        longest = [max(map(len, column)) for column in zip(self.header, *self.rows, strict=True)]
        lead = [min(width, WIDEST_LEAD) for width in longest[: self.lead]]
        room = LETTERS_ACROSS - sum(lead) - len(GAP) * self.lead
        widths = [*lead, *(min(width, room - len(GAP)) for width in longest[self.lead :])]
        columns = range(self.lead, len(self.header))
        across = max(1, room // (max((widths[i] for i in columns), default=1) + len(GAP)))
        # As many parts as it takes, all about equally wide.
        parts = max(1, -(-len(columns) // across))
        groups = [columns[len(columns) * i // parts : len(columns) * (i + 1) // parts] for i in range(parts)]
        return [text for group in groups for text in self._pages([*range(self.lead), *group], widths)]

    def _pages(self, columns: Sequence[int], widths: Sequence[int]) -> list[str]:
        head = self._lines(self.header, columns, widths)
        pages: list[list[str]] = [[]]
        for row in self.rows:
            lines = self._lines(row, columns, widths)
            if pages[-1] and len(pages[-1]) + len(lines) > LINES_DOWN - len(head):
                pages.append([])
            pages[-1] += lines
        return ["\n".join([*head, *lines]) for lines in pages]

    def _lines(self, row: Sequence[str], columns: Sequence[int], widths: Sequence[int]) -> list[str]:
        """One row; what is wider than its column goes on in the line below."""
        cells = [[row[i]] if len(row[i]) <= widths[i] else textwrap.wrap(row[i], widths[i]) for i in columns]
        lines = []
        for n in range(max(map(len, cells))):
            own = [cell[n] if n < len(cell) else "" for cell in cells]
            padded = [
                text.ljust(widths[i]) if i < self.lead else text.rjust(widths[i])
                for i, text in zip(columns, own, strict=True)
            ]
            lines.append(GAP.join(padded).rstrip())
        return lines


@dataclass(frozen=True)
class Raw:
    """The values of all samples: ``tables``, or none and only how many ``values`` there are, where they are too many to be read."""

    tables: tuple[RawTable, ...]
    values: int

    @property
    def many(self) -> str:
        """How many there are, in digits."""
        return f"{self.values:,}"
