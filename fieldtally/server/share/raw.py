"""The values of single samples as a report shows them: a table on a screen, and on paper lines of letters that are all equally wide.

Setting a table of thousands of cells on paper takes minutes; lines take seconds, and never run off the page.
"""

from __future__ import annotations

from dataclasses import dataclass
from html import escape

from django.utils.safestring import SafeString, mark_safe

LETTERS_ACROSS = 112
"""So many letters of the report's small type stand on a line of A4 and of Letter."""
LINES_DOWN = 74
"""So many lines are held together; a page takes as many with the heading."""
GAP = "  "
MOST_VALUES = 60_000
"""A report tells so many values of single samples; more of them nobody reads, and the trial pack has them."""


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
        widths = [max(map(len, column)) for column in zip(self.header, *self.rows, strict=True)]
        room = LETTERS_ACROSS - sum(widths[: self.lead]) - len(GAP) * self.lead
        columns = range(self.lead, len(self.header))
        across = max(1, room // (max((widths[i] for i in columns), default=1) + len(GAP)))
        # As many parts as it takes, all about equally wide.
        parts = max(1, -(-len(columns) // across))
        groups = [columns[len(columns) * i // parts : len(columns) * (i + 1) // parts] for i in range(parts)]
        return [text for group in groups for text in self._lines([*range(self.lead), *group], widths)]

    def _lines(self, columns: list[int], widths: list[int]) -> list[str]:
        def line(row: tuple[str, ...]) -> str:
            cells = [row[i].ljust(widths[i]) if i < self.lead else row[i].rjust(widths[i]) for i in columns]
            return GAP.join(cells).rstrip()

        head = line(self.header)
        return [
            "\n".join([head, *map(line, self.rows[start : start + LINES_DOWN])])
            for start in range(0, len(self.rows), LINES_DOWN)
        ]


@dataclass(frozen=True)
class Raw:
    """The values of all samples: ``tables``, or none and only how many ``values`` there are, where they are too many to be read."""

    tables: tuple[RawTable, ...]
    values: int

    @property
    def many(self) -> str:
        """How many there are, in digits."""
        return f"{self.values:,}"
