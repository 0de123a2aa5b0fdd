"""The chain of a trial: what was recorded, in the order in which it was, each entry naming the one before.

What is told of as *recorded* is a seal, an amendment, a shuffle by hand and what stood under its covers, a start, a reading (a correction
is one more), a deviation (an exclusion is one), a look at the key, an interim look, the seal of a panel, what was answered in it when its
key opened, and the opening of the key.  Each has a *digest*: the
SHA-256 of its canonical document (:func:`~.seal.canonical`).  An entry lists the digests of what one act recorded::

    {"at":"2027-03-04T09:00:00Z","before":"1c0e…","items":["9f2c…",…],"number":7,"salt":"…","what":"readings"}

and its *link* is the SHA-256 of that.  The salt keeps somebody who holds a link from trying out what it may have been made of.  The last
link stands for all of it: who took note of it as a *receipt* can prove later that nothing before it was changed, left out or put in.

An entry ``erased`` says that somebody's account was; their values stay.  Entries ``taken over`` begin the chain of a trial that was
recorded before there were chains, or came from a table: what came before it cannot be proved.
"""

from __future__ import annotations

import hashlib
import json
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any, Literal

from fieldtally.core.blinding.seal import canonical

What = Literal[
    "seal",
    "amendment",
    "shuffle",
    "uncovered",
    "start",
    "readings",
    "deviation",
    "key look",
    "interim look",
    "panel began",
    "panel opened",
    "opening",
    "erased",
    "taken over",
]
PLAIN = (str, int, float, bool)
NOTHING = "0" * 64
"""What the first entry names as the one before."""
CUT = 20
"""How many differences are told one by one."""


@lru_cache(maxsize=4_096)
def moment(at: datetime) -> str:
    """A moment as it is recorded: UTC, ISO 8601.

    >>> moment(datetime(2027, 3, 4, 9, 0, tzinfo=UTC))
    '2027-03-04T09:00:00Z'
    """
    return at.astimezone(UTC).isoformat().replace("+00:00", "Z")


def digest(kind: str, record: Mapping[str, Any]) -> str:
    """The digest of one record of a ``kind``: empty texts and what is missing are the same, moments are in UTC, numbers of readings are
    floats.

    >>> digest("key look", {"at": "2027-03-04T09:00:00Z", "note": ""}) == digest("key look", {"at": "2027-03-04T09:00:00Z", "note": None})
    True
    """
    told = {
        name: value if type(value) in PLAIN else _plain(value)
        for name, value in record.items()
        if value is not None and value != ""
    }
    return hashlib.sha256(canonical({"kind": kind, **told}).encode()).hexdigest()


def _plain(value: Any) -> Any:
    if isinstance(value, datetime):
        return moment(value)
    if isinstance(value, list | tuple):
        return [_plain(one) for one in value]
    return value


@dataclass(frozen=True)
class Item:
    """Something recorded that the tables hold: its digest, and what it is called where it is told of."""

    digest: str
    told: str


@dataclass(frozen=True)
class Entry:
    """One entry: its canonical text and its link."""

    text: str
    link: str

    @property
    def document(self) -> dict[str, Any]:
        """What it says."""
        found = json.loads(self.text)
        return found if isinstance(found, dict) else {}


def numbered(number: int, before: str, what: What, items: Sequence[str], at: datetime, salt: str) -> Entry:
    """Entry ``number`` after the link ``before``."""
    document = {
        "at": moment(at),
        "before": before,
        "items": list(items),
        "number": number,
        "salt": salt,
        "what": what,
    }
    text = canonical(document)
    return Entry(text, link_of(text))


def link_of(text: str) -> str:
    """The link of an entry's canonical text, 64 hexadecimal digits."""
    return hashlib.sha256(text.encode()).hexdigest()


def faults(entries: Sequence[Entry], recorded: Iterable[Item]) -> list[str]:
    """What was changed: entries that do not follow one another, and records that differ from those that were chained.  Empty: nothing.

    A sentence each, the first twenty, and how many more there are.
    """
    found = list(_broken(entries))
    if found:
        return found
    chained = Counter(one for each in entries for one in each.document["items"])
    for item in recorded:
        if chained[item.digest] > 0:
            chained[item.digest] -= 1
        else:
            found.append(f"{item.told} is not as it was recorded.")
    # What was changed is missing as it was before; more than that was taken out.  A pack holds panels only once their keys are open.
    for each in entries:
        if each.document["what"] == "panel began":
            chained.subtract(each.document["items"])
    gone = +chained
    many = sum(gone.values()) - len(found)
    if many > 0:
        when = sorted({_when(each) for each in entries if any(one in gone for one in each.document["items"])})
        told = f"recorded {', '.join(when[:3])}{' and later' if len(when) > 3 else ''}"
        found.append(f"{many} of what was {told} {'is' if many == 1 else 'are'} not there any more.")
    if len(found) > CUT:
        found = [*found[:CUT], f"And {len(found) - CUT} more."]
    return found


def _when(each: Entry) -> str:
    document = each.document
    return f"as entry {document['number']} ({document['what']}, {str(document['at'])[:16].replace('T', ' ')} UTC)"


def _broken(entries: Sequence[Entry]) -> Iterable[str]:
    before = NOTHING
    for number, each in enumerate(entries, start=1):
        try:
            document = each.document
            sound = (
                canonical(document) == each.text
                and set(document) == {"at", "before", "items", "number", "salt", "what"}
                and all(isinstance(one, str) for one in document["items"])
            )
        except (ValueError, TypeError, RecursionError):
            sound = False
        if not sound or link_of(each.text) != each.link:
            yield f"Entry {number} of the chain was changed."
            return
        if document["before"] != before or document["number"] != number:
            yield f"Entry {number} of the chain does not follow the one before it: something was taken out, put in or exchanged."
            return
        before = each.link


def holds(entries: Sequence[Entry], link: str) -> int | None:
    """The number of the entry whose link is ``link`` (of a receipt, say); None where none is."""
    return next((number for number, each in enumerate(entries, start=1) if each.link == link), None)


RECORDS: dict[str, tuple[str, ...]] = {
    "seal": ("seal",),
    "amendment": ("number", "seal"),
    "shuffle": ("kind", "flasks", "at"),
    "uncovered": ("found", "at"),
    "start": ("sample", "started_at"),
    "reading": (
        "sample",
        "outcome",
        "checkpoint",
        "kind",
        "value",
        "words",
        "responses",
        "reason",
        "taken_at",
        "stored_at",
        "source",
        "device",
        "take",
        "second_code",
    ),
    "deviation": ("sample", "kind", "reason", "at", "after_key", "about", "accident", "since"),
    "key look": ("at",),
    "interim look": ("checkpoint", "stop", "says", "at"),
    "panel began": ("seal", "at"),
    "panel opened": ("seal", "at", "seats", "answers"),
    "seat": ("assessor", "experience", "blind", "left_out"),
    "answer": (
        "assessor",
        "session",
        "place",
        "stimulus",
        "order",
        "codes",
        "spilt",
        "answer",
        "confidence",
        "preference",
        "grades",
        "chips",
        "words",
        "given_at",
        "stored_at",
    ),
    "opening": ("at",),
}
"""What of each kind of record its digest is made of, named as in a trial pack.  Names of people, which may change, are not in it."""


def item(kind: str, record: Mapping[str, Any], told: str = "") -> Item:
    """A record of a ``kind`` with its digest; what its kind does not name is passed over."""
    return Item(digest(kind, {name: record[name] for name in RECORDS[kind]}), told or kind.capitalize())


@dataclass(frozen=True)
class Stood:
    """Where a sample stands by the tables, and with what: as the sealed allocation has it."""

    code: str
    treatment: str
    block: str | None
    place: int
    plot: int | None
    row: int | None
    column: int | None
    starts: int


def allocation_faults(
    sealed: Sequence[Mapping[str, Any]], stood: Sequence[Stood], shuffle: Mapping[str, Any] | None = None
) -> list[str]:
    """Where samples do not stand as the ``sealed`` allocation has them; a sentence each that names no treatment.

    After a ``shuffle`` by hand (``kind``, ``flasks``, ``found`` under the covers, None while they are on) the treatments are those found.
    """
    wanted = {str(one["code"]): one for one in sealed}
    found = []
    for one in stood:
        drawn = wanted.pop(one.code, None)
        if drawn is None:
            found.append(f"Sample {one.code} was not drawn when the plan was sealed.")
            continue
        treatment = _treatment(drawn, one.code, shuffle)
        if treatment is not None and one.treatment != treatment:
            found.append(f"Sample {one.code} does not stand with the treatment that it was drawn for.")
        for name, was in (("block", drawn.get("block") or None), ("place", drawn.get("place"))):
            if (getattr(one, name) or None) != was:
                found.append(f"Sample {one.code} does not stand in the {name} that it was drawn for.")
        if any(
            getattr(one, name) != drawn.get(name, 0 if name == "starts" else None)
            for name in ("plot", "row", "column", "starts")
        ):
            found.append(f"Sample {one.code} does not stand where it was drawn to.")
    found += [f"Sample {code}, which was drawn when the plan was sealed, is not there." for code in sorted(wanted)]
    return [*found[:CUT], f"And {len(found) - CUT} more."] if len(found) > CUT else found


def _treatment(drawn: Mapping[str, Any], code: str, shuffle: Mapping[str, Any] | None) -> str | None:
    """The treatment that a sample has by its records; None while covers lie over it."""
    if shuffle is None:
        return str(drawn["treatment"])
    under = shuffle.get("found")
    if not under:
        return None
    at = shuffle["flasks"].get(drawn["treatment"]) if shuffle["kind"] == "flasks" else code
    return str(under.get(at))
