"""Reading a trial pack: everything is checked before anything is used, and every bad row is named with its line."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import math
import re
import zipfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Any

from fieldtally.core.problems import Problem, Refused
from fieldtally.core.trialpack.schema import FORMAT, SCHEMAS, FieldType, TableSchema

MOST_FILES = 5_000
LARGEST_FILE, LARGEST_ALL = 400_000_000, 1_000_000_000
LARGEST_PICTURE = 30_000_000
SQUEEZED = 400
"""Text that is packed smaller than one byte in so many is no table that anyone has written."""
MOST_TOLD = 20
PICTURE = re.compile(r"^(photos|materials)/[0-9a-z._-]{1,80}$")
Value = str | int | float | bool | datetime | date | dict[str, Any] | list[Any] | None
Record = dict[str, Value]


@dataclass(frozen=True)
class TrialPack:
    """What a pack holds: the trial's moments, ``plan.json``, the rows of each table (columns by name, all that the schema names), files by
    path, and ``verdict.json`` as it was written (None: there is none)."""

    title: str
    trial: dict[str, Any]
    plan: dict[str, Any]
    tables: dict[str, list[Record]]
    files: dict[str, bytes]
    verdict: Any
    digests: dict[str, str] = field(default_factory=dict)
    """The SHA-256 of every file, by path."""


def read_pack(content: bytes) -> TrialPack:
    """The pack in ``content``.

    :raises Refused: it is no zip, too large or squeezed too far, of another format, or a cell cannot be read; each with file and line.
    """
    texts, files = _unpacked(content)
    package = _json(texts, "datapackage.json")
    if not isinstance(package, dict):
        raise Refused("The description in it is no object.", "datapackage.json")
    if package.get("format") != FORMAT:
        told = package.get("format") or "none"
        raise Refused(f"This pack is of the format {told}; only {FORMAT} can be read here.", "datapackage.json")
    problems: list[Problem] = []
    tables = {name: _table(name, texts.get(f"{name}.csv"), problems) for name in SCHEMAS}
    if problems:
        raise Refused(problems[:MOST_TOLD])
    trial = package.get("trial")
    return TrialPack(
        str(package.get("title") or ""),
        dict(trial) if isinstance(trial, dict) else {},
        _plan(texts),
        tables,
        files,
        _json(texts, "verdict.json") if "verdict.json" in texts else None,
        {path: hashlib.sha256(content).hexdigest() for path, content in {**texts, **files}.items()},
    )


def sealed_plan_in(content: bytes) -> dict[str, Any]:
    """``plan.json`` of a pack: ``{"seal": …, "sealed": {…}}``.

    :raises Refused: it is no zip, has no sealed plan, or the plan is absurdly large.
    """
    document = _plan(_unpacked(content)[0])
    if not isinstance(document.get("sealed"), dict) or "seal" not in document:
        raise Refused("The plan in it carries no seal.", "plan.json")
    return document


def is_whole(content: bytes) -> bool:
    """Whether this pack holds a whole trial, and not the part of it that somebody may see while the key is sealed."""
    return "rounds.csv" in _unpacked(content)[0]


def _plan(texts: Mapping[str, bytes]) -> dict[str, Any]:
    if "plan.json" not in texts:
        raise Refused("This pack holds no sealed plan (one for a blind scorer does not).", "plan.json")
    document = _json(texts, "plan.json")
    if not isinstance(document, dict):
        raise Refused("The plan in it carries no seal.", "plan.json")
    return document


def _unpacked(content: bytes) -> tuple[dict[str, bytes], dict[str, bytes]]:
    """The tables and documents, and the pictures, by path."""
    texts: dict[str, bytes] = {}
    files: dict[str, bytes] = {}
    known = {"datapackage.json", "plan.json", "verdict.json", *(f"{name}.csv" for name in SCHEMAS)}
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as pack:
            entries = [one for one in pack.infolist() if not one.is_dir()]
            if len(entries) > MOST_FILES:
                raise Refused(f"It holds {len(entries):,} files; a trial pack has at most {MOST_FILES:,}.")
            if sum(one.file_size for one in entries) > LARGEST_ALL:
                raise Refused("Unpacked it would be larger than any trial's pack.")
            for entry in entries:
                picture = bool(PICTURE.match(entry.filename)) and ".." not in entry.filename
                if entry.filename not in known and not picture:
                    raise Refused("This file does not belong into a trial pack.", entry.filename[:80])
                most = LARGEST_PICTURE if picture else LARGEST_FILE
                if entry.file_size > most or entry.file_size > max(1_000_000, SQUEEZED * entry.compress_size):
                    raise Refused("This file is larger than any trial's.", entry.filename)
                if entry.filename in texts or entry.filename in files:
                    raise Refused("This file is in the pack twice.", entry.filename)
                with pack.open(entry) as file:
                    data = file.read(entry.file_size + 1)
                if len(data) != entry.file_size:
                    raise Refused("This file is not as long as the pack says.", entry.filename)
                (files if picture else texts)[entry.filename] = data
    except (zipfile.BadZipFile, zipfile.LargeZipFile, EOFError, NotImplementedError, RuntimeError, OSError) as error:
        raise Refused("This is not a trial pack: it is no zip file that can be read.") from error
    except ValueError as error:
        if isinstance(error, Refused):
            raise
        raise Refused("This is not a trial pack: it is no zip file that can be read.") from error
    return texts, files


def _json(texts: Mapping[str, bytes], name: str) -> Any:
    if name not in texts:
        raise Refused("This is not a trial pack: it has no description.", name)
    try:
        return json.loads(texts[name].decode())
    except (ValueError, RecursionError) as error:
        raise Refused("This file is not JSON.", name) from error


def _table(name: str, data: bytes | None, problems: list[Problem]) -> list[Record]:
    if data is None:
        return []
    schema, file = SCHEMAS[name], f"{name}.csv"
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        problems.append(Problem(file, "This file is not UTF-8 text."))
        return []
    if "\x00" in text:
        problems.append(Problem(file, "This is not a text table."))
        return []
    reader = csv.reader(io.StringIO(text, newline=""), strict=True)
    try:
        return _rows(file, schema, reader, problems)
    except csv.Error as error:
        problems.append(Problem(f"{file}, line {reader.line_num}", f"The quotes do not close ({error})."))
        return []


def _rows(file: str, schema: TableSchema, reader: Any, problems: list[Problem]) -> list[Record]:
    header = next(reader, None)
    if header is None:
        problems.append(Problem(file, "The file is empty."))
        return []
    absent = [field for field, _ in schema.fields if field not in header]
    missing = [field for field in absent if field not in schema.added]
    if missing or len(set(header)) < len(header):
        says = f"It has no column “{missing[0]}”." if missing else "Two columns have the same name."
        problems.append(Problem(f"{file}, line 1", says))
        return []
    places = [(field, header.index(field), READERS[kind], kind) for field, kind in schema.fields if field not in absent]
    found: list[Record] = []
    seen: set[tuple[str, ...]] = set()
    key = [header.index(field) for field in schema.key if field not in absent]
    for cells in reader:
        if not any(cells):
            continue
        at = f"{file}, line {reader.line_num}"
        if len(problems) >= MOST_TOLD:
            break
        if len(cells) != len(header):
            problems.append(Problem(at, f"{len(cells)} cells, but the header has {len(header)}."))
            continue
        own = tuple(cells[i] for i in key)
        if key and own in seen:
            problems.append(Problem(at, f"{schema.key[0].capitalize()} {own[0]} is in the table twice."))
            continue
        seen.add(own)
        record: Record = dict.fromkeys(absent)
        for name, i, read, kind in places:
            cell = cells[i]
            if cell == "":
                record[name] = None
                continue
            try:
                record[name] = read(cell)
            except (ValueError, RecursionError):
                problems.append(Problem(at, f"“{cell[:40]}” in column “{name}” is no {WORDS[kind]}."))
        found.append(record)
    return found


def _text(cell: str) -> str:
    return cell[1:] if cell.startswith("'") else cell


def _number(cell: str) -> float:
    value = float(cell)
    if not math.isfinite(value):
        raise ValueError
    return value


def _integer(cell: str) -> int:
    value = int(cell)
    if abs(value) > 2**31 - 1:
        raise ValueError
    return value


def _boolean(cell: str) -> bool:
    return {"true": True, "false": False}[cell] if cell in ("true", "false") else _no()


def _no() -> bool:
    raise ValueError


def _moment(cell: str) -> datetime:
    found = datetime.fromisoformat(cell)
    if found.tzinfo is None or not 1900 <= found.year <= 2200:
        raise ValueError
    return found


def _object(cell: str) -> dict[str, Any]:
    found = json.loads(cell)
    if not isinstance(found, dict):
        raise ValueError
    return found


def _array(cell: str) -> list[Any]:
    found = json.loads(cell)
    if not isinstance(found, list):
        raise ValueError
    return found


READERS: dict[FieldType, Callable[[str], Value]] = {
    "string": _text,
    "integer": _integer,
    "number": _number,
    "datetime": _moment,
    "date": date.fromisoformat,
    "boolean": _boolean,
    "object": _object,
    "array": _array,
}
WORDS: dict[FieldType, str] = {
    "string": "text",
    "integer": "whole number",
    "number": "number",
    "datetime": "moment in UTC",
    "date": "day",
    "boolean": "true or false",
    "object": "JSON object",
    "array": "JSON list",
}
