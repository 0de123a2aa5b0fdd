"""The chain of a trial in its pack: written as a table, and held against all other tables when a pack is read.

The last row is no record of the trial: it is made with the pack, follows the last link, and names the SHA-256 of every other file in it.
Whoever changes a cell and leaves the chain alone is found by that; whoever makes the chain anew ends with another last link than the one
in the report and in every receipt.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Mapping, Sequence
from typing import Any, cast

from fieldtally.core.blinding.chain import (
    NOTHING,
    Entry,
    Item,
    Stood,
    allocation_faults,
    faults,
    holds,
    item,
    link_of,
)
from fieldtally.core.blinding.seal import canonical, whole_allocation
from fieldtally.core.panels.sealing import recorded_of
from fieldtally.core.problems import Problem
from fieldtally.core.trialpack.pack import Cell, Sheet, sheet_of
from fieldtally.core.trialpack.reading import TrialPack

TABLE, PACKED = "chain", "packed"


def chain_sheet(entries: Sequence[Entry], contents: Mapping[str, bytes]) -> Sheet:
    """The chain as a table, with the row that names all ``contents`` of the pack (by path)."""
    return sheet_of(TABLE, [_row(one) for one in (*entries, _packed(entries, contents))])


def _packed(entries: Sequence[Entry], contents: Mapping[str, bytes]) -> Entry:
    last = entries[-1] if entries else None
    at = str(last.document["at"]) if last else "1970-01-01T00:00:00Z"
    told = {
        "at": at,
        "before": last.link if last else NOTHING,
        "items": [f"{hashlib.sha256(content).hexdigest()} {path}" for path, content in sorted(contents.items())],
        "number": len(entries) + 1,
        "salt": "",
        "what": PACKED,
    }
    text = canonical(told)
    return Entry(text, link_of(text))


def _row(one: Entry) -> tuple[Cell, ...]:
    told = one.document
    return (told["number"], told["what"], told["at"], told["before"], told["salt"], told["items"], one.link)


def chain_in(pack: TrialPack) -> tuple[list[Entry], Entry | None]:
    """The entries of the chain in ``pack``, and the one that was made with it; none where an earlier version made it."""
    found = []
    for row in pack.tables[TABLE]:
        told = {name: row[name] for name in ("at", "before", "items", "number", "what")}
        found.append(Entry(canonical({**told, "salt": row["salt"] or ""}), str(row["link"])))
    if found and found[-1].document["what"] == PACKED:
        return found[:-1], found[-1]
    return found, None


def chain_problems(pack: TrialPack, sealed: Mapping[str, Any]) -> Iterator[Problem]:
    """What of ``pack`` is not as it was recorded and packed; ``sealed`` is its sealed document."""
    documents = [one["document"] for one in pack.plan.get("amendments") or []]
    for says in allocation_faults(whole_allocation(sealed, documents), _stood(pack), _shuffle(pack)):
        yield Problem("samples.csv", says)
    if not pack.tables[TABLE]:
        return
    entries, packed = chain_in(pack)
    if packed is None:
        yield Problem("chain.csv", "The last row, which names the files of the pack, is missing.")
        return
    for told in _of_panels(pack):
        if isinstance(told, str):
            yield Problem("judgements.csv", told)
    for says in faults(entries, _recorded(pack)):
        yield Problem("chain.csv", says)
    yield from _files(pack, entries, packed)


def _files(pack: TrialPack, entries: Sequence[Entry], packed: Entry) -> Iterator[Problem]:
    told = packed.document
    if link_of(packed.text) != packed.link or told["before"] != (entries[-1].link if entries else NOTHING):
        yield Problem("chain.csv", "The last row does not follow the chain: it was changed.")
        return
    written = sheet_of(TABLE, [_row(one) for one in (*entries, packed)]).csv().encode()
    if hashlib.sha256(written).hexdigest() != pack.digests.get(f"{TABLE}.csv"):
        yield Problem("chain.csv", "This is not as it was packed.")
    named = {path: digest for digest, _, path in (str(one).partition(" ") for one in told["items"])}
    for path, digest in pack.digests.items():
        if path != f"{TABLE}.csv" and named.pop(path, None) != digest:
            yield Problem(path, "This is not as it was packed.")
    for path in named:
        if path not in pack.digests:
            yield Problem(path, "This was packed, and is not there.")


def _stood(pack: TrialPack) -> list[Stood]:
    rows = cast(list[dict[str, Any]], pack.tables["samples"])
    return [
        Stood(
            str(row["sample"]),
            str(row["treatment"]),
            row["block"],
            row["place"],
            row["plot"],
            row["row"],
            row["column"],
            row["starts"] or 0,
        )
        for row in rows
    ]


def _shuffle(pack: TrialPack) -> dict[str, Any] | None:
    told = pack.plan.get("shuffle")
    if not isinstance(told, dict):
        return None
    return {
        "kind": told.get("kind"),
        "flasks": told.get("flasks") or {},
        "found": (told.get("uncovered") or {}).get("found"),
    }


def _recorded(pack: TrialPack) -> Iterator[Item]:
    """Everything that belongs into the chain, as the tables hold it."""
    plan = pack.plan
    yield item("seal", {"seal": plan["seal"]}, "The seal")
    for one in plan.get("amendments") or []:
        yield item("amendment", {"number": one["number"], "seal": one["seal"]}, f"Amendment {one['number']}")
    shuffled = plan.get("shuffle")
    if shuffled:
        by_hand = {"kind": shuffled["kind"], "flasks": shuffled.get("flasks"), "at": shuffled["at"]}
        yield item("shuffle", by_hand, "The shuffle by hand")
        if shuffled.get("uncovered"):
            under = shuffled["uncovered"]
            yield item("uncovered", {"found": under["found"], "at": under["at"]}, "What was found under the covers")
    for row in pack.tables["samples"]:
        if row["started_at"] is not None:
            yield item("start", row, f"The start of sample {row['sample']}")
    for row in pack.tables["readings"]:
        told = f"Reading {row['reading']} (sample {row['sample']}, {row['outcome']} at {row['checkpoint']})"
        yield item("reading", row, told)
    for row in pack.tables["deviations"]:
        yield item("deviation", row, f"Deviation {row['deviation']}")
    for row in pack.tables["key_looks"]:
        yield item("key look", row, "A look at the key")
    for row in pack.tables["interim_looks"]:
        yield item("interim look", row, f"The interim look at {row['checkpoint']}")
    yield from (one for one in _of_panels(pack) if isinstance(one, Item))
    if pack.trial.get("opened_at"):
        yield item("opening", {"at": pack.trial["opened_at"]}, "The opening of the key")


def _of_panels(pack: TrialPack) -> Iterator[Item | str]:
    """What belongs into the chain of panels, and sentences on those whose cups are not the sealed ones."""
    tables = cast(dict[str, list[dict[str, Any]]], pack.tables)
    for panel in tables["panels"]:
        seats = [one for one in tables["assessors"] if one["panel"] == panel["panel"]]
        served = [one for one in tables["judgements"] if one["panel"] == panel["panel"]]
        yield from recorded_of(panel, seats, [{**one, "stimulus": one["stimulus"] or 0} for one in served])


def receipt_of(content: bytes) -> str:
    """The link that a receipt names, or the link itself; empty where it is neither."""
    text = content.decode(errors="replace").strip()
    try:
        told = json.loads(text)
        text = str(told.get("link", "")) if isinstance(told, dict) else text
    except ValueError:
        pass
    return text.lower() if len(text) == 64 and set(text.lower()) <= set("0123456789abcdef") else ""


def held_by(pack: TrialPack, link: str) -> int | None:
    """The number of the entry of the chain in ``pack`` whose link is ``link``; None where there is none."""
    return holds(chain_in(pack)[0], link)
