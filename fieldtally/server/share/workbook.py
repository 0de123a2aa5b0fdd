"""The trial as a workbook: a readable summary, then a sheet for each table."""

from __future__ import annotations

import io
import json
from collections.abc import Sequence

from openpyxl import Workbook
from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
from openpyxl.styles import Alignment, Font
from openpyxl.utils import get_column_letter

from fieldtally.core.trialpack.pack import Cell, Sheet
from fieldtally.server.share.report import WholeReport

WIDEST = 60


def workbook_of(report: WholeReport | None, title: str, sheets: Sequence[Sheet]) -> bytes:
    """XLSX bytes.  Texts are written as texts, so that none is ever taken for a formula."""
    book = Workbook()
    front = book.active
    assert front is not None
    front.title = "Summary"
    for row in _summary(report, title):
        front.append([""] * len(row))
        for column, text in enumerate(row, start=1):
            cell = front.cell(front.max_row, column)
            _write(cell, text)
            cell.alignment = Alignment(wrap_text=True, vertical="top")
    front.column_dimensions["A"].width = 26
    front.column_dimensions["B"].width = 90
    front["A1"].font = Font(bold=True, size=14)
    for sheet in sheets:
        if not sheet.rows:
            continue
        page = book.create_sheet(sheet.name[:31])
        page.freeze_panes = "A2"
        for column, (name, _) in enumerate(sheet.fields, start=1):
            cell = page.cell(1, column, name)
            cell.font = Font(bold=True)
        for line, values in enumerate(sheet.rows, start=2):
            for column, value in enumerate(values, start=1):
                if value is not None:
                    _write(page.cell(line, column), value)
        for column, (name, _) in enumerate(sheet.fields, start=1):
            longest = max([len(name), *(len(str(row[column - 1] or "")) for row in sheet.rows[:200])])
            page.column_dimensions[get_column_letter(column)].width = min(WIDEST, longest + 2)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _write(cell: object, value: Cell) -> None:
    if isinstance(value, dict | list):
        value = json.dumps(value, ensure_ascii=False)
    if isinstance(value, str):
        value = ILLEGAL_CHARACTERS_RE.sub("", value)[:32_000]
    cell.value = value  # type: ignore[attr-defined]
    if isinstance(value, str):
        cell.data_type = "s"  # type: ignore[attr-defined]


def _summary(report: WholeReport | None, title: str) -> list[tuple[str, ...]]:
    if report is None:
        return [(title,), ("The key is sealed; the verdict is told once it is open.",)]
    rows: list[tuple[str, ...]] = [(report.title,), ("Question", report.question)]
    for one in report.results:
        rows.append((one.name if one.claim else f"{one.name}, supporting", f"{one.level}. {one.sentence}"))
        rows += [("", f"{name}: {estimate} ({between}), {n} samples") for name, n, estimate, between in one.treatments]
    rows += [("May not be claimed", limit) for limit in report.limits]
    rows += [("Happened", one) for one in report.happened]
    return [*rows, ("Seal", report.seal)]
