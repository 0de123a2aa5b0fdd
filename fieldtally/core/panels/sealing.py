"""The seal of a panel: what was fixed when it began, and what was there when its key opened, as records of the trial's chain."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import datetime
from typing import Any

from fieldtally.core.blinding.chain import Item, item
from fieldtally.core.blinding.seal import canonical

Row = Mapping[str, Any]
DEALT = ("assessor", "session", "place", "stimulus", "order", "codes")


def first_dealt(plan: Row, people: int, sets: Iterable[Row]) -> Iterator[Row]:
    """Those of ``sets`` that were dealt when the panel began with so many ``people``: others came late, were added, or replace what was
    spilt."""
    each = int(plan.get("sets", 1)) * max(1, len(plan.get("stimuli") or ()))
    sessions = int(plan.get("sessions", 1))
    for one in sets:
        if one["assessor"] <= people and one["session"] < sessions and one["place"] < each:
            yield one


def panel_seal(plan: Row, seed: str, dealt: Iterable[Row]) -> str:
    """The SHA-256 of a panel's plan, the seed that its sets were drawn from, and the sets: 64 hexadecimal digits.

    >>> cups = {"assessor": 1, "session": 0, "place": 0, "codes": ["204", "731", "388"]}
    >>> one = panel_seal({"title": "Crunch"}, "5e", [{**cups, "order": "ABB"}])
    >>> len(one), one == panel_seal({"title": "Crunch"}, "5e", [{**cups, "order": "BBA"}])
    (64, False)
    """
    sets = sorted([[one.get(name) or 0 for name in DEALT[:4]], one["order"], list(one["codes"])] for one in dealt)
    return hashlib.sha256(canonical({"plan": dict(plan), "seed": seed, "sets": sets}).encode()).hexdigest()


def began(seal: str, at: datetime | str, title: str = "") -> Item:
    """What the chain keeps of a panel that begins."""
    return item("panel began", {"seal": seal, "at": at}, f"The seal of the panel “{title}”")


def opened(seal: str, at: datetime | str, seats: Iterable[Row], answers: Iterable[Row], title: str = "") -> Item:
    """What the chain keeps of a panel's key that opens: who counted, and all sets that were served with their answers."""
    record = {
        "seal": seal,
        "at": at,
        "seats": sorted(item("seat", one).digest for one in seats),
        "answers": sorted(item("answer", {**one, "stimulus": one.get("stimulus") or 0}).digest for one in answers),
    }
    return item("panel opened", record, f"What was answered in the panel “{title}”")


def recorded_of(panel: Row, seats: Iterable[Row], served: Sequence[Row]) -> Iterator[Item | str]:
    """Of one panel (a row of the pack's table ``panels``) what belongs into the chain, and sentences on what is not as it was sealed.

    Answers that came in after its key was open are not in it."""
    title = str(panel["plan"].get("title", ""))
    if not panel["seal"]:
        return
    found = panel_seal(panel["plan"], panel["seed"] or "", first_dealt(panel["plan"], panel["began_with"] or 0, served))
    if found != panel["seal"]:
        yield f"The cups of the panel “{title}” are not those that were sealed."
    yield began(panel["seal"], panel["begun_at"], title)
    if panel["opened_at"]:
        kept = [
            one if one["stored_at"] is None or one["stored_at"] <= panel["opened_at"] else {**one, **UNANSWERED}
            for one in served
        ]
        yield opened(panel["seal"], panel["opened_at"], seats, kept, title)


UNANSWERED: Row = dict.fromkeys(
    ("answer", "confidence", "preference", "grades", "chips", "words", "given_at", "stored_at")
)
