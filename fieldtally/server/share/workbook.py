"""The trial as a workbook: a readable summary, then a sheet for each table."""

from __future__ import annotations

import io
import json
import re
from collections.abc import Callable, Sequence
from itertools import islice

from xlsxwriter import Workbook  # type: ignore[import-untyped]

from fieldtally.core.trialpack.pack import Sheet
from fieldtally.server.share.report import WholeReport

WIDEST = 60
MOST_ROWS = 1_048_575
"""So many rows stand under the heading of a sheet; a longer table goes on in the next."""
MOST_LETTERS = 32_000
UNWRITABLE = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f]")
TOLD_EVERY = 5_000
Tell = Callable[[int, int], None]
"""Told how many rows of how many are written."""


def workbook_of(report: WholeReport | None, title: str, sheets: Sequence[Sheet], tell: Tell | None = None) -> bytes:
    """XLSX bytes.  Texts are written as texts, so that none is ever taken for a formula."""
    out = io.BytesIO()
    with Workbook(out, {"in_memory": True}) as book:
        bold, big = book.add_format({"bold": True}), book.add_format({"bold": True, "font_size": 14})
        wrapped = book.add_format({"text_wrap": True, "valign": "top"})
        front = book.add_worksheet("Summary")
        front.set_column(0, 0, 26)
        front.set_column(1, 1, 90)
        for line, row in enumerate(_summary(report, title)):
            for column, text in enumerate(row):
                front.write_string(line, column, _text(text), big if line == column == 0 else wrapped)
        total, done = sum(len(sheet.rows) for sheet in sheets), 0
        for sheet in sheets:
            for part in range(0, len(sheet.rows), MOST_ROWS):
                rows = sheet.rows[part : part + MOST_ROWS]
                name = sheet.name if not part else f"{sheet.name} {part // MOST_ROWS + 1}"
                page = book.add_worksheet(name[:31])
                page.freeze_panes(1, 0)
                for column, (field, _) in enumerate(sheet.fields):
                    page.write_string(0, column, field, bold)
                    longest = max([len(field), *(len(str(row[column] or "")) for row in islice(rows, 200))])
                    page.set_column(column, column, min(WIDEST, longest + 2))
                for line, values in enumerate(rows, start=1):
                    for column, value in enumerate(values):
                        if isinstance(value, str):
                            page.write_string(line, column, _text(value))
                        elif isinstance(value, bool):
                            page.write_boolean(line, column, value)
                        elif isinstance(value, int | float):
                            page.write_number(line, column, value)
                        elif value is not None:
                            page.write_string(line, column, _text(json.dumps(value, ensure_ascii=False)))
                    done += 1
                    if tell and done % TOLD_EVERY == 0:
                        tell(done, total)
    return out.getvalue()


def _text(text: str) -> str:
    return text if text.isprintable() and len(text) <= MOST_LETTERS else UNWRITABLE.sub("", text)[:MOST_LETTERS]


def _summary(report: WholeReport | None, title: str) -> list[tuple[str, ...]]:
    if report is None:
        return [(title,), ("The key is sealed; the verdict is told once it is open.",)]
    rows: list[tuple[str, ...]] = [(report.title,), ("Question", report.question)]
    for one in report.results:
        rows.append((one.name if one.claim else f"{one.name}, supporting", f"{one.level}. {one.sentence}"))
        rows += [("", f"{name}: {estimate} ({between}), {n} samples") for name, n, estimate, between in one.treatments]
    rows += [("Instruments" if i == 0 else "", says) for i, says in enumerate(report.instruments)]
    if not report.results:
        rows += [(name, " ".join(says)) for name, says in report.panels]
    rows += [(f"What to use: {use.title}", " ".join((*use.says, use.note)).strip()) for use in report.uses]
    if report.results:
        rows += [(f"Panel: {name}", " ".join(says)) for name, says in report.panels]
    rows += [
        (
            f"Noted on {one.treatment}",
            ", ".join(f"“{word.word}” on {word.samples}" for word in one.words)
            or "; ".join(f"{quote.sample}: {quote.words}" for quote in one.quotes),
        )
        for one in report.notes
    ]
    rows += [("May not be claimed", limit) for limit in report.limits]
    rows += [("Happened", one) for one in report.happened]
    rows += [("Cost", one) for one in report.cost]
    return [*rows, ("Seal", report.seal)]
