"""The seal and the key of a panel, as the tables hold them."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Any

from django.db import transaction
from django.utils import timezone

from fieldtally.core.blinding.chain import Item, item
from fieldtally.core.panels.sealing import recorded_of
from fieldtally.server.answers import Declined
from fieldtally.server.panels.models import Panel, Serving
from fieldtally.server.people.chain import append
from fieldtally.server.people.models import Trial, User

ANSWERED = ("answer", "confidence", "preference", "grades", "chips", "words", "given_at", "stored_at")


def served_in(panel: Panel) -> list[dict[str, Any]]:
    """Every set that was served in ``panel``, as a row of a pack."""
    names = ("session", "place", "stimulus", "order", "codes", "spilt")
    rows = Serving.objects.filter(assessor__panel=panel).values_list(
        "assessor__number", *names, *(f"judgement__{name}" for name in ANSWERED)
    )
    return [dict(zip(("assessor", *names, *ANSWERED), row, strict=True)) for row in rows.iterator(chunk_size=5_000)]


def panel_row(panel: Panel) -> dict[str, Any]:
    """What is fixed of ``panel``, as a row of a pack."""
    names = ("plan", "seed", "seal", "began_with", "begun_at", "opened_at")
    return {name: getattr(panel, name) for name in names}


def chained_of(panel: Panel) -> Iterator[Item | str]:
    """What of ``panel`` belongs into the chain of its trial, and sentences on what is not as it was sealed."""
    seats = panel.assessors.values("number", "experience", "blind", "left_out")
    yield from recorded_of(panel_row(panel), [{**one, "assessor": one["number"]} for one in seats], served_in(panel))


def panels_chained(trial: Trial) -> Iterator[Item]:
    """What of all panels of ``trial`` belongs into its chain."""
    for panel in Panel.objects.filter(trial=trial).exclude(seal=""):
        yield from (one for one in chained_of(panel) if isinstance(one, Item))


def panel_faults(trial: Trial) -> list[str]:
    """What of the panels of ``trial`` is not as it was sealed, a sentence each."""
    return [
        one
        for panel in Panel.objects.filter(trial=trial).exclude(seal="")
        for one in chained_of(panel)
        if isinstance(one, str)
    ]


def open_panel(panel: Panel, user: User, *, at: datetime | None = None) -> Panel:
    """Open the key of a closed panel: what it found may be read, and who counts is fixed.

    :raises Declined: 409 where people judge in it still, it has not begun, or its key is open.
    """
    now = at or timezone.now()
    with transaction.atomic():
        row = Panel.objects.select_for_update().select_related("trial").get(pk=panel.pk)
        if row.key_is_open:
            raise Declined(409, "The key of this panel is open already.")
        if not row.has_begun:
            raise Declined(409, "This panel has not begun: there is no key yet.")
        if row.closed_at is None:
            raise Declined(409, "Close the panel first: nobody judges once its key is open.")
        row.opened_at = now
        row.save(update_fields=["opened_at"])
        if row.seal:
            # The last one: that it began stands in the chain already.
            made = [one for one in chained_of(row) if isinstance(one, Item)]
            append(row.trial, "panel opened", made[-1:], at=now)
        if row.trial.is_tasting and row.trial.opened_at is None:
            # Of a tasting the panel is all there is: its key is the trial's.
            append(row.trial, "opening", [item("opening", {"at": now})], at=now)
            Trial.objects.filter(pk=row.trial_id).update(opened_at=now, opened_by=user)
    return row


def open_all(trial: Trial, user: User, *, at: datetime) -> None:
    """The key of ``trial`` opens, and with it those of its panels that are closed, or in which all answers are given; those in which people
    judge keep theirs."""
    for panel in Panel.objects.filter(trial=trial, closed_at=None).exclude(begun_at=None):
        waiting = Serving.objects.filter(assessor__panel=panel, spilt="", judgement=None)
        if not waiting.filter(assessor__stopped_at=None, assessor__left_out="").exists():
            Panel.objects.filter(pk=panel.pk).update(closed_at=at)
    for panel in Panel.objects.filter(trial=trial, opened_at=None).exclude(closed_at=None):
        open_panel(panel, user, at=at)
