"""Writing a trial pack, and reading back what is needed to check it.

The zip holds ``datapackage.json`` (the table schemas), one CSV in UTF-8 for each table, and ``plan.json`` with the sealed
plan.  Files stand in a fixed order with a fixed date, so the same trial gives the same bytes.  A pack for somebody who may
not see the key has neither ``treatments.csv`` nor the treatment column nor ``plan.json``.
"""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from fieldtally.core.problems import Refused

FORMAT = "field-tally-pack/1"
LARGEST_PLAN = 20_000_000
FieldType = Literal["string", "integer", "number", "datetime", "boolean"]
Cell = str | int | float | bool | None


@dataclass(frozen=True)
class Sheet:
    """One table of the pack: a name, what it holds, typed fields, rows in their order, and the fields that identify a row."""

    name: str
    title: str
    fields: tuple[tuple[str, FieldType], ...]
    rows: Sequence[tuple[Cell, ...]]
    key: tuple[str, ...]

    def csv(self) -> str:
        """The table as text; cells that a spreadsheet would take for a formula are led by an apostrophe."""
        out = io.StringIO(newline="")
        writer = csv.writer(out, lineterminator="\r\n")
        writer.writerow([name for name, _ in self.fields])
        for row in self.rows:
            writer.writerow([_cell(cell) for cell in row])
        return out.getvalue()


def _cell(cell: Cell) -> str:
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "true" if cell else "false"
    if isinstance(cell, str):
        return f"'{cell}" if cell[:1] in ("=", "+", "-", "@", "\t", "\r") else cell
    return repr(cell)


def write_pack(name: str, title: str, sheets: Sequence[Sheet], documents: dict[str, Any]) -> bytes:
    """The zip: ``sheets`` as CSV, ``documents`` as JSON by file name, under the package ``name`` and ``title``."""
    package = {
        "profile": "tabular-data-package",
        "name": name,
        "title": title,
        "format": FORMAT,
        "resources": [
            {
                "name": sheet.name,
                "title": sheet.title,
                "path": f"{sheet.name}.csv",
                "profile": "tabular-data-resource",
                "encoding": "utf-8",
                "dialect": {"delimiter": ",", "lineTerminator": "\r\n"},
                "schema": {
                    "fields": [{"name": field, "type": kind} for field, kind in sheet.fields],
                    "primaryKey": list(sheet.key),
                    "missingValues": [""],
                },
            }
            for sheet in sheets
        ],
    }
    files = {"datapackage.json": json.dumps(package, ensure_ascii=False, indent=1)}
    files.update({f"{sheet.name}.csv": sheet.csv() for sheet in sheets})
    files.update({path: json.dumps(document, ensure_ascii=False, indent=1) for path, document in documents.items()})
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as pack:
        for path, text in files.items():
            pack.writestr(zipfile.ZipInfo(path, date_time=(2000, 1, 1, 0, 0, 0)), text, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def sealed_plan_in(pack: bytes) -> dict[str, Any]:
    """``plan.json`` of a pack: ``{"seal": …, "sealed": {…}}``.

    :raises Refused: it is no zip, has no sealed plan, or the plan is absurdly large.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(pack)) as files:
            if files.getinfo("plan.json").file_size > LARGEST_PLAN:
                raise Refused("Its plan is larger than any trial's.", "plan.json")
            document = json.loads(files.read("plan.json"))
    except zipfile.BadZipFile as error:
        raise Refused("This is not a trial pack: it is no zip file.") from error
    except KeyError as error:
        raise Refused("This pack holds no sealed plan (one for a blind scorer does not).", "plan.json") from error
    except ValueError as error:
        raise Refused("The plan in it is not JSON.", "plan.json") from error
    if not isinstance(document, dict) or not isinstance(document.get("sealed"), dict) or "seal" not in document:
        raise Refused("The plan in it carries no seal.", "plan.json")
    return document
