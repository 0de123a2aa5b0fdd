"""What other stages may read of plans."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import Any
from uuid import UUID

from fieldtally.core.design.document import plan_in
from fieldtally.core.design.plan import Plan
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.models import Checkpoint, Draft, KeyEntry, Outcome, Sample, SealedPlan


@dataclass(frozen=True)
class Sealed:
    """A sealed plan: the plan itself, its seal, when and by whom (user id)."""

    plan: Plan
    seal: str
    at: datetime
    by: int


@lru_cache(maxsize=256)
def _read(trial_id: UUID, seal: str) -> Plan:
    return plan_in(json.loads(SealedPlan.objects.get(pk=trial_id, seal=seal).canonical)["plan"])


def sealed_plan(trial: Trial) -> Sealed | None:
    """The sealed plan of ``trial``, None while it is a draft.  A seal never changes, so its plan is read once."""
    row = SealedPlan.objects.defer("canonical").filter(pk=trial.pk).first()
    return None if row is None else Sealed(_read(trial.pk, row.seal), row.seal, row.at, row.by_id)


def sealed_document(trial: Trial) -> dict[str, Any]:
    """The whole sealed document with seed and allocation: only for eyes that see the key."""
    return dict(json.loads(SealedPlan.objects.get(pk=trial.pk).canonical))


def plan_of(trial: Trial) -> Plan:
    """The sealed plan, or the draft."""
    sealed = sealed_plan(trial)
    return sealed.plan if sealed else plan_in(Draft.objects.get(pk=trial.pk).document)


def plans_of(trials: list[Trial]) -> dict[UUID, Plan]:
    """The plans of many trials, in three queries at most."""
    plans = {row.pk: plan_in(row.document) for row in Draft.objects.filter(trial__in=trials, trial__sealed_at=None)}
    seals = SealedPlan.objects.filter(trial__in=trials).values_list("pk", "seal")
    plans.update({pk: _read(pk, seal) for pk, seal in seals})
    return plans


def samples_of(trial: Trial) -> list[Sample]:
    """The samples of ``trial``, block by block and place by place."""
    order = {block.key: i for i, block in enumerate(plan_of(trial).layout.blocks)}
    return sorted(Sample.objects.filter(trial=trial), key=lambda s: (order.get(s.block, 0), s.place))


def key_of(trial: Trial) -> dict[UUID, str]:
    """The key: treatment (key in the plan) by sample id.  Only for eyes that see it, and for computing."""
    return dict(KeyEntry.objects.filter(sample__trial=trial).values_list("sample_id", "treatment"))


def outcomes_of(trial: Trial) -> dict[str, int]:
    """Row ids of the outcomes of ``trial`` by key."""
    return dict(Outcome.objects.filter(trial=trial).values_list("key", "pk"))


def checkpoints_of(trial: Trial) -> dict[str, int]:
    """Row ids of the checkpoints of ``trial`` by key."""
    return dict(Checkpoint.objects.filter(trial=trial).values_list("key", "pk"))
