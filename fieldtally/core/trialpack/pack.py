"""Writing a trial pack.

The zip holds ``datapackage.json`` (the table schemas), one CSV in UTF-8 for each table, ``plan.json`` with the sealed plan and
``verdict.json``.  Files stand in a fixed order with a fixed date, so the same trial gives the same bytes.  A pack for somebody who may not
see the key has neither ``treatments.csv`` nor the treatment column nor ``plan.json``.
"""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from fieldtally.core.trialpack.schema import FORMAT, SCHEMAS, Fields

Cell = str | int | float | bool | dict[str, Any] | list[Any] | None
PLAIN = frozenset({int, float, type(None)})
"""These a writer of CSV writes as they are."""
LED = ("=", "+", "-", "@", "\t", "\r", "'")
"""Cells that begin with one of these are led by an apostrophe, so that no spreadsheet takes them for a formula."""


@dataclass(frozen=True)
class Sheet:
    """One table of the pack: a name, what it holds, typed fields, rows in their order, and the fields that identify a row."""

    name: str
    title: str
    fields: Fields
    rows: Sequence[tuple[Cell, ...]]
    key: tuple[str, ...]

    def csv(self) -> str:
        """The table as text; cells that a spreadsheet would take for a formula are led by an apostrophe."""
        out = io.StringIO(newline="")
        writer = csv.writer(out, lineterminator="\r\n")
        writer.writerow([name for name, _ in self.fields])
        # A row at a time would be told more simply; of some tables there are millions of cells.
        writer.writerows([cell if type(cell) in PLAIN else _cell(cell) for cell in row] for row in self.rows)
        return out.getvalue()


def sheet_of(name: str, rows: Sequence[tuple[Cell, ...]], without: Sequence[str] = ()) -> Sheet:
    """The table ``name`` of a pack; ``without`` columns, which are left out of ``rows`` too."""
    schema = SCHEMAS[name]
    fields = tuple(field for field in schema.fields if field[0] not in without)
    return Sheet(name, schema.title, fields, rows, schema.key)


def guarded(text: str) -> str:
    """``text`` as a cell that no spreadsheet takes for a formula.

    >>> guarded("=1+1"), guarded("'tis"), guarded("plain")
    ("'=1+1", "''tis", 'plain')
    """
    return f"'{text}" if text.startswith(LED) else text


def _cell(cell: Cell) -> str:
    if isinstance(cell, str):
        return f"'{cell}" if cell.startswith(LED) else cell
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "true" if cell else "false"
    if isinstance(cell, dict | list):
        return json.dumps(cell, ensure_ascii=False, sort_keys=True, separators=(",", ":"))
    return repr(cell)


def write_pack(
    name: str,
    title: str,
    sheets: Sequence[Sheet],
    documents: Mapping[str, Any],
    trial: Mapping[str, Any] | None = None,
    files: Mapping[str, bytes] | None = None,
    chain: Callable[[Mapping[str, bytes]], Sheet] | None = None,
) -> bytes:
    """The zip: ``sheets`` as CSV, ``documents`` as JSON by file name, ``files`` as they are, under the package ``name`` and ``title``;
    ``trial`` holds its moments and who did what; ``chain`` makes the last table, from all that stands in the pack."""
    described = [*sheets, *([chain({})] if chain else [])]
    package = {
        "profile": "tabular-data-package",
        "name": name,
        "title": title,
        "format": FORMAT,
        **({} if trial is None else {"trial": dict(trial)}),
        "resources": [
            {
                "name": sheet.name,
                "title": sheet.title,
                "path": f"{sheet.name}.csv",
                "profile": "tabular-data-resource",
                "encoding": "utf-8",
                "dialect": {"delimiter": ",", "lineTerminator": "\r\n"},
                "schema": {
                    "fields": [
                        {"name": field, "type": kind, **({"format": "any"} if kind == "datetime" else {})}
                        for field, kind in sheet.fields
                    ],
                    **({"primaryKey": list(sheet.key)} if sheet.key else {}),
                    "missingValues": [""],
                },
            }
            for sheet in described
        ],
    }
    texts = {"datapackage.json": json.dumps(package, ensure_ascii=False, indent=1)}
    texts.update({f"{sheet.name}.csv": sheet.csv() for sheet in sheets})
    texts.update({path: json.dumps(document, ensure_ascii=False, indent=1) for path, document in documents.items()})
    contents = {path: text.encode() for path, text in texts.items()}
    contents.update(files or {})
    if chain is not None:
        made = chain(contents)
        contents[f"{made.name}.csv"] = made.csv().encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as pack:
        for path, content in contents.items():
            # Pictures are packed already.
            how = zipfile.ZIP_STORED if path.endswith((".jpg", ".png")) else zipfile.ZIP_DEFLATED
            pack.writestr(zipfile.ZipInfo(path, date_time=(2000, 1, 1, 0, 0, 0)), content, how)
    return out.getvalue()
