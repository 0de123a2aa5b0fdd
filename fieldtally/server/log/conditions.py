"""Noting conditions: typed, or read from the weather station."""

from __future__ import annotations

import math
from collections.abc import Mapping
from datetime import datetime, timedelta
from uuid import UUID, uuid4

from django.utils import timezone

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.devices.registry import station
from fieldtally.server.devices.weather import weather_now
from fieldtally.server.log.models import Condition
from fieldtally.server.people.models import Membership, Role, Trial, User
from fieldtally.server.plan.queries import plan_of

PLAUSIBLE: dict[str, tuple[float, float, str]] = {
    "temperature": (-60, 70, "°C"),
    "humidity": (0, 100, "%"),
    "rain": (0, 500, "mm"),
    "light": (0, 200_000, "lx"),
}
"""What is measured, between which ends it can lie, and its unit."""
A_YEAR = timedelta(days=366)
NOT_AGAIN_FOR = timedelta(minutes=55)
BY_ITSELF_AFTER = timedelta(hours=6)
"""How long after the last note the station is read without anybody asking."""


def note_conditions(
    trial: Trial,
    user: User,
    place: str,
    values: Mapping[str, float | None],
    *,
    at: datetime | None = None,
    id: UUID | None = None,
) -> Condition:
    """Note conditions that somebody read themselves; sent again under their ``id`` they are stored once.

    :raises Declined: 409 before the seal, or where the ``id`` is that of others; 422
        at a place that is not in the plan, at values that cannot be, or without any.
    """
    now = timezone.now()
    if trial.state == "draft":
        raise Declined(409, "Seal the plan first; conditions are noted while the trial runs.")
    if place and place not in {block.key for block in plan_of(trial).layout.blocks}:
        raise Declined(422, Problem("place", "There is no such place in this trial."))
    if at is not None and trial.first_moment is not None and at < trial.first_moment - A_YEAR:
        raise Declined(422, Problem("at", "That was more than a year before anything began here."))
    if all(value is None for value in values.values()):
        raise Declined(422, Problem("temperature", "Note at least one of them."))
    problems = []
    for name, (low, high, unit) in PLAUSIBLE.items():
        value = values.get(name)
        if value is not None and not (math.isfinite(value) and low <= value <= high):
            problems.append(Problem(name, f"That cannot be: it lies between {low:,} and {high:,} {unit}."))
    if problems:
        raise Declined(422, *problems)
    told = {name: values.get(name) for name in PLAUSIBLE}
    sent = Condition.objects.filter(pk=id).first() if id else None
    if sent is not None:
        if (sent.trial_id, sent.by_id, sent.place, {name: getattr(sent, name) for name in PLAUSIBLE}) == (
            trial.pk,
            user.pk,
            place,
            told,
        ):
            return sent
        raise Declined(409, "These conditions carry an id that is taken; they were not stored.")
    return Condition.objects.create(
        pk=id or uuid4(), trial=trial, place=place, by=user, at=min(at or now, now), stored_at=now, **told
    )


def read_station(trial: Trial, user: User, *, at: datetime | None = None) -> Condition | None:
    """Note what the weather station says, at most about once an hour; None where there is nothing new, or nothing answers."""
    now = at or timezone.now()
    device = station()
    if device is None or trial.state != "running":
        return None
    if Condition.objects.filter(trial=trial, at__gt=now - NOT_AGAIN_FOR).exclude(device="").exists():
        return None
    told = weather_now()
    if told is None:
        return None
    return Condition.objects.create(
        trial=trial,
        temperature=told.temperature,
        humidity=told.humidity,
        rain=told.rain,
        light=told.light,
        device=device.name,
        by=user,
        at=now,
        stored_at=now,
    )


def read_for_all(now: datetime) -> int:
    """Note what the weather station says in every running trial that has had no note from it for some hours, in the name of its
    lead; in how many.  Nothing where there is no station, or it does not answer."""
    if station() is None or weather_now() is None:
        return 0
    recent = Condition.objects.filter(at__gt=now - BY_ITSELF_AFTER).exclude(device="").values("trial")
    running = Trial.objects.filter(started_at__lte=now, opened_at=None, is_tasting=False).exclude(pk__in=recent)
    noted = 0
    for trial in running.exclude(plan_seal=None):
        lead = Membership.objects.filter(trial=trial, role=Role.LEAD).select_related("user").order_by("pk").first()
        if lead is not None and read_station(trial, lead.user, at=now) is not None:
            noted += 1
    return noted
