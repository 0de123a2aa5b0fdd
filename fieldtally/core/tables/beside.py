"""What stands beside the values of somebody else's table: remarks, why samples were set aside, and why there is no value."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from fieldtally.core.quantities.nouns import noun
from fieldtally.core.tables.columns import BLANK, Meaning
from fieldtally.core.tables.entries import Entries, unstaged
from fieldtally.core.tables.foreign import Foreign, Rows
from fieldtally.core.tables.meaning import NO
from fieldtally.core.trialpack.reading import Record
from fieldtally.core.trialpack.schema import SCHEMAS


@dataclass(frozen=True)
class Calendar:
    """When it began, when each sample (by its place among the words) did, and when each look (as written) was taken."""

    began: datetime
    own: list[datetime]
    looks: dict[str, datetime]


@dataclass(frozen=True)
class Unread:
    """A cell that says why there is no value (``text``): ``of`` what (by part), of a sample with which treatments, and where."""

    of: dict[str, str]
    combo: tuple[str, ...]
    block: str
    text: str


@dataclass(frozen=True)
class Remark:
    """What stands beside a sample's values at a look: a ``note``, or why it was set aside (``aside``); and whether an earlier look of it
    says nothing of that (``later``)."""

    part: Literal["aside", "note"]
    sample: str
    look: str
    text: str
    later: bool = False


MOST_NOTES = 5_000


def remarks_in(table: Foreign, rows: Rows, meaning: Meaning, values: Entries) -> list[Remark]:
    """What columns of remarks, and of why samples were set aside, say of the samples."""
    if not meaning.those("aside") and not meaning.those("note"):
        return []
    at = {name: i for i, name in enumerate(table.header)}
    first: dict[int, int] = {}
    for i, line in enumerate(values.lines.tolist()):
        first.setdefault(line, i)
    found: list[Remark] = []
    for part in ("aside", "note"):
        for one in meaning.those(part):
            seen: set[str] = set()
            clean: set[str] = set()
            for line, cell in zip(rows.lines, rows.columns[at[one.name]], strict=True):
                place = first.get(line)
                if place is None:
                    continue
                of = values.told_of(place)
                if not cell or cell.casefold() in (*BLANK, *NO, "none", "0"):
                    clean.add(of["sample"])
                elif part == "note" or of["sample"] not in seen:
                    seen.add(of["sample"])
                    found.append(Remark(part, of["sample"], of["checkpoint"], cell, of["sample"] in clean))
    return found


def told_beside(
    tables: dict[str, Any],
    remarks: Sequence[Remark],
    code: dict[str, str],
    calendar: Calendar,
    made: tuple[str, datetime],
    warnings: list[str],
) -> None:
    """Notes, and samples that are set aside: altogether, or from the look on at which the table first says so."""
    by, now = made
    notes = [one for one in remarks if one.part == "note"]
    for i, one in enumerate(notes[:MOST_NOTES], start=1):
        look = unstaged(one.look)[0]
        text = f"{code.get(one.sample, one.sample)}{f', {look}' if look else ''}: {one.text}"
        note: Record = dict.fromkeys([name for name, _ in SCHEMAS["notes"].fields])
        tables["notes"].append({**note, "note": i, "text": text[:2_000], "by": by, "at": calendar.looks[one.look]})
    if len(notes) > MOST_NOTES:
        warnings.append(f"Of {len(notes):,} remarks the first {MOST_NOTES:,} were kept.")
    aside = [one for one in remarks if one.part == "aside"]
    for i, one in enumerate(aside, start=1):
        deviation: Record = dict.fromkeys([name for name, _ in SCHEMAS["deviations"].fields])
        tables["deviations"].append(
            {
                **deviation,
                "deviation": i,
                "sample": code[one.sample],
                "kind": "left_out" if one.later else "set_aside",
                "reason": one.text[:200],
                "by": by,
                "at": now,
                # Whoever kept the table knew what each sample had got.
                "after_key": True,
                "accident": "other" if one.later else None,
                "since": calendar.looks[one.look] if one.later else None,
            }
        )
    if aside:
        warnings.append(f"Set aside, for the reason that stands there: {noun('sample').counted(len(aside))}.")
