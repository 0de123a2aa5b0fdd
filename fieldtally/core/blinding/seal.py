"""The seal: a fingerprint that fixes the plan, the seed and the key on the day the trial begins.

What is sealed is one JSON document, written with sorted names, no spaces and UTF-8 (see :func:`canonical`)::

    {"allocation":[{"block":…,"code":"742","place":1,"treatment":…}, …],
     "format":"field-tally-plan/1","plan":{…},"seed":"9f2c…"}

An amendment is sealed in a document of its own that names the seal it follows::

    {"at":"2027-03-04T09:00:00Z","changes":[…],"follows":"1c0e…","format":"field-tally-amendment/1","plan":{…},"reason":…}

Its SHA-256, in hexadecimal, is the seal.  Whoever holds the document can compute it again, and can draw the allocation
again from the plan and the seed.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from fieldtally.core.blinding.allocation import Allotted, allocate
from fieldtally.core.design.document import plan_in
from fieldtally.core.design.plan import Plan
from fieldtally.core.problems import Refused

FORMAT = "field-tally-plan/1"
AMENDMENT_FORMAT = "field-tally-amendment/1"


def sealed_document(plan: Plan, seed: str, allocation: tuple[Allotted, ...]) -> dict[str, Any]:
    """The document that is sealed."""
    return {"format": FORMAT, "plan": asdict(plan), "seed": seed, "allocation": [asdict(a) for a in allocation]}


def amended_document(plan: Plan, follows: str, reason: str, changes: tuple[str, ...], at: str) -> dict[str, Any]:
    """The document of an amendment to the plan whose seal is ``follows``; ``at`` is its moment, UTC, ISO 8601."""
    return {
        "format": AMENDMENT_FORMAT,
        "follows": follows,
        "plan": asdict(plan),
        "reason": reason,
        "changes": list(changes),
        "at": at,
    }


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
