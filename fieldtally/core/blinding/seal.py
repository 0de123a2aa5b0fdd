"""The seal: a fingerprint that fixes the plan, the seed and the key on the day the trial begins.

What is sealed is one JSON document, written with sorted names, no spaces and UTF-8 (see :func:`canonical`)::

    {"allocation":[{"block":…,"code":"742","place":1,"treatment":…}, …],
     "format":"field-tally-plan/1","plan":{…},"seed":"9f2c…"}

An amendment is sealed in a document of its own that names the seal it follows::

    {"at":"2027-03-04T09:00:00Z","changes":[…],"follows":"1c0e…","format":"field-tally-amendment/1","plan":{…},"reason":…}

One that adds samples holds their ``allocation`` and the ``seed`` it was drawn from, too.

Its SHA-256, in hexadecimal, is the seal.  Whoever holds the document can compute it again, and can draw the allocation
again from the plan and the seed.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from fieldtally.core.blinding.allocation import Allotted, allocate, allocate_added
from fieldtally.core.design.document import plan_in
from fieldtally.core.design.plan import Plan
from fieldtally.core.problems import Refused

FORMAT = "field-tally-plan/1"
AMENDMENT_FORMAT = "field-tally-amendment/1"


def sealed_document(plan: Plan, seed: str, allocation: tuple[Allotted, ...]) -> dict[str, Any]:
    """The document that is sealed."""
    return {"format": FORMAT, "plan": asdict(plan), "seed": seed, "allocation": [asdict(a) for a in allocation]}


@dataclass(frozen=True)
class More:
    """Samples that an amendment added: the seed they were drawn from, and what was drawn."""

    seed: str
    allocation: tuple[Allotted, ...]


def amended_document(
    plan: Plan,
    follows: str,
    reason: str,
    changes: tuple[str, ...],
    at: str,
    more: More | None = None,
    decided: str = "",
) -> dict[str, Any]:
    """The document of an amendment to the plan whose seal is ``follows``; ``at`` is its moment, UTC, ISO 8601; ``more`` the samples that
    it adds; ``decided``: the moment at which it was decided, where it was written down later."""
    document: dict[str, Any] = {
        "format": AMENDMENT_FORMAT,
        "follows": follows,
        "plan": asdict(plan),
        "reason": reason,
        "changes": list(changes),
        "at": at,
    }
    if decided:
        document["decided"] = decided
    if more is not None:
        document |= {"seed": more.seed, "allocation": [asdict(one) for one in more.allocation]}
    return document


def whole_allocation(sealed: Mapping[str, Any], amendments: Iterable[Mapping[str, Any]]) -> list[Mapping[str, Any]]:
    """Every sample that was drawn: by the ``sealed`` document, and by those of its ``amendments``."""
    return [*sealed["allocation"], *(one for each in amendments for one in each.get("allocation") or ())]


def added_as_drawn(sealed: Mapping[str, Any], amendments: Sequence[Mapping[str, Any]]) -> bool:
    """Whether all that the ``amendments`` (documents, in order) added to a ``sealed`` plan is what comes of drawing it again.

    :raises KeyError, ValueError: one of them cannot be read.
    """
    taken = {str(one["code"]) for one in sealed["allocation"]}
    before = {block.key for block in plan_in(sealed["plan"]).added_blocks}
    for document in amendments:
        plan = plan_in(document["plan"])
        added = [block.key for block in plan.added_blocks if block.key not in before]
        drawn: list[dict[str, Any]] = []
        for block in added:
            drawn += [asdict(one) for one in allocate_added(plan, block, str(document["seed"]), frozenset(taken))]
        if drawn != list(document.get("allocation") or ()):
            return False
        before.update(added)
        taken.update(str(one["code"]) for one in drawn)
    return True


CANONICAL = json.JSONEncoder(sort_keys=True, separators=(",", ":"), ensure_ascii=False, allow_nan=False)


def canonical(document: Mapping[str, Any]) -> str:
    """The one way to write ``document`` as JSON."""
    return CANONICAL.encode(document)


def seal_of(document: Mapping[str, Any]) -> str:
    """SHA-256 of the canonical document, 64 hexadecimal digits."""
    return hashlib.sha256(canonical(document).encode()).hexdigest()


@dataclass(frozen=True)
class Checked:
    """What came out of computing a seal again: the new one, whether it is the old one, whether the key is the drawn one."""

    seal: str
    same_seal: bool
    same_allocation: bool


def verify(document: Mapping[str, Any], seal: str) -> Checked:
    """Compute the seal of ``document`` again and draw its allocation again.

    :raises Refused: it is not a sealed plan of a format known here.
    """
    if document.get("format") != FORMAT:
        raise Refused(f"This is not a sealed plan of the format {FORMAT}.")
    try:
        plan = plan_in(document["plan"])
        drawn = [asdict(allotted) for allotted in allocate(plan, str(document["seed"]))]
    except (KeyError, ValueError) as error:
        raise Refused("The sealed plan cannot be read; something is missing from it.") from error
    again = seal_of(document)
    return Checked(again, again == seal, drawn == list(document["allocation"]))
