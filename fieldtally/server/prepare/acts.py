"""What may be done in preparing: look at the key, tick what is held equal, start exposure."""

from __future__ import annotations

from datetime import datetime, timedelta

from django.db import transaction
from django.utils import timezone

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.records import plan_of, samples_of
from fieldtally.server.prepare.models import Cycle, Exposure, HeldTick, KeyLook

LONGEST_NOTE = 500


def look_at_key(trial: Trial, user: User, *, at: datetime | None = None) -> None:
    """Record that ``user`` looks at the key; while it is sealed their rounds count as open from now on."""
    if trial.state == "draft":
        raise Declined(409, "There is no key yet: seal the plan first.")
    if trial.opened_at is None:
        KeyLook.objects.create(trial=trial, by=user, at=at or timezone.now())


def start_exposure(trial: Trial, user: User, *, at: datetime | None = None) -> datetime:
    """Start the clock of every sample: now, or as much later as the plan staggers it.

    :raises Declined: 409 before the seal, or when it is running already.
    """
    now = at or timezone.now()
    with transaction.atomic():
        locked = Trial.objects.select_for_update().get(pk=trial.pk)
        if locked.state == "draft":
            raise Declined(409, "Seal the plan first: codes and layout are drawn then.")
        if locked.started_at:
            raise Declined(409, "Exposure has started already; the clock is running.")
        Exposure.objects.bulk_create(
            Exposure(sample=s, started_at=now + timedelta(minutes=s.starts), by=user) for s in samples_of(trial)
        )
        Trial.objects.filter(pk=trial.pk).update(started_at=now)
    return now


def tick_held(trial: Trial, user: User, entry: str, *, at: datetime | None = None) -> HeldTick:
    """Record that ``entry`` (key) of the held-equal sheet is as planned for all samples; once for each entry."""
    if trial.state == "draft":
        raise Declined(409, "Seal the plan first; the sheet is ticked when the samples are prepared.")
    if entry not in {one.key for one in plan_of(trial).held_equal}:
        raise Declined(422, Problem("entry", "This is not on the held-equal sheet."))
    tick, _ = HeldTick.objects.get_or_create(
        trial=trial, entry=entry, defaults={"by": user, "at": at or timezone.now()}
    )
    return tick


def count_cycle(trial: Trial, user: User, note: str, *, at: datetime | None = None) -> Cycle:
    """Record that all samples went through one more cycle."""
    if trial.state != "running":
        raise Declined(409, "Cycles are counted while the exposure runs.")
    if not plan_of(trial).cycle_word.strip():
        raise Declined(409, "This plan has no cycles.")
    if len(note) > LONGEST_NOTE:
        raise Declined(422, Problem("note", f"Settings in up to {LONGEST_NOTE} letters, please."))
    return Cycle.objects.create(trial=trial, note=note.strip(), by=user, at=at or timezone.now())
