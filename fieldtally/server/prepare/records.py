"""What other stages may read of preparing."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from fieldtally.server.people.models import Trial, User
from fieldtally.server.prepare.models import Cycle, Exposure, HeldTick, KeyLook


def first_start(trial: Trial) -> Exposure | None:
    """The exposure of the first sample of ``trial`` that came under its treatment."""
    return Exposure.objects.filter(sample__trial=trial).select_related("by").order_by("started_at").first()


def has_seen_key(trial: Trial, user: User) -> bool:
    """Whether ``user`` has looked at the key while it was sealed."""
    return KeyLook.objects.filter(trial=trial, by=user).exists()


def key_looks(trial: Trial) -> list[KeyLook]:
    """Every look at the key, in order."""
    return list(KeyLook.objects.select_related("by").filter(trial=trial).order_by("at"))


def held_ticks(trial: Trial) -> dict[str, HeldTick]:
    """What was seen to be held equal, by the entry's key."""
    return {tick.entry: tick for tick in HeldTick.objects.select_related("by").filter(trial=trial)}


def cycles_by_trial(trials: Sequence[Trial]) -> dict[UUID, list[datetime]]:
    """When each trial's cycles were counted, in order."""
    found: dict[UUID, list[datetime]] = defaultdict(list)
    for trial, at in Cycle.objects.filter(trial__in=trials).order_by("at", "pk").values_list("trial_id", "at"):
        found[trial].append(at)
    return found


def cycles_of(trial: Trial) -> list[Cycle]:
    """The cycles of ``trial`` that were counted, in order."""
    return list(Cycle.objects.select_related("by").filter(trial=trial))
