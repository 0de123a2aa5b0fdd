"""What other stages may read of plans."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import Any
from uuid import UUID

from fieldtally.core.design.document import plan_in
from fieldtally.core.design.plan import Plan
from fieldtally.core.design.soundness import problems_in
from fieldtally.core.dosing.workbench import workbench
from fieldtally.core.hazards.plan_uses import clash_problems
from fieldtally.core.problems import Problem
from fieldtally.core.schedule.calendar import Engagement, planned_start
from fieldtally.core.schedule.standing import times_of
from fieldtally.server.answers import Declined
from fieldtally.server.people.models import Trial, User
from fieldtally.server.people.queries import memberships_of
from fieldtally.server.people.sight import Sight
from fieldtally.server.plan.models import (
    Amendment,
    Checkpoint,
    Draft,
    KeyEntry,
    Outcome,
    Prediction,
    Sample,
    SealedPlan,
    Shuffle,
)


@dataclass(frozen=True)
class Sealed:
    """A sealed plan: the plan itself, its seal, when and by whom (user id)."""

    plan: Plan
    seal: str
    at: datetime
    by: int


@lru_cache(maxsize=512)
def _version(trial_id: UUID, seal: str) -> Plan:
    """The version of a plan under its ``seal``; a seal never changes, so it is read once."""
    sealed = SealedPlan.objects.filter(pk=trial_id, seal=seal).values_list("canonical", flat=True).first()
    text = sealed or Amendment.objects.values_list("canonical", flat=True).get(trial=trial_id, seal=seal)
    return plan_in(json.loads(text)["plan"])


@lru_cache(maxsize=512)
def _rows(trial_id: UUID, seal: str) -> tuple[Mapping[str, int], Mapping[str, int]]:
    """Row ids of outcomes and of checkpoints by key, in that version of the plan."""
    del seal
    outcomes = dict(Outcome.objects.filter(trial=trial_id).values_list("key", "pk"))
    return outcomes, dict(Checkpoint.objects.filter(trial=trial_id).values_list("key", "pk"))


def sealed_plan(trial: Trial) -> Sealed | None:
    """The sealed plan of ``trial``, None while it is a draft.  A seal never changes, so its plan is read once."""
    row = SealedPlan.objects.defer("canonical").filter(pk=trial.pk).first()
    return None if row is None else Sealed(_version(trial.pk, row.seal), row.seal, row.at, row.by_id)


def sealed_document(trial: Trial) -> dict[str, Any]:
    """The whole sealed document with seed and allocation: only for eyes that see the key."""
    return dict(json.loads(SealedPlan.objects.get(pk=trial.pk).canonical))


def plan_of(trial: Trial) -> Plan:
    """The plan as it stands: the newest amendment, else the sealed plan, else the draft.  Of a sealed one nothing is asked of the database
    once it has been read."""
    if trial.plan_seal:
        return _version(trial.pk, trial.plan_seal)
    return plan_in(Draft.objects.values_list("document", flat=True).get(pk=trial.pk))


def plans_of(trials: list[Trial]) -> dict[UUID, Plan]:
    """The plans of many trials as they stand."""
    plans = {trial.pk: plan_of(trial) for trial in trials if trial.plan_seal}
    rows = Draft.objects.filter(trial__in=[trial for trial in trials if not trial.plan_seal])
    return plans | {row.pk: plan_in(row.document) for row in rows}


def seals_of(trials: list[Trial]) -> dict[UUID, str]:
    """The seals of sealed trials."""
    return dict(SealedPlan.objects.filter(trial__in=trials).values_list("pk", "seal"))


@dataclass(frozen=True)
class Amended:
    """One amendment as it is told: its number, when, by whom, why, what it changed, and its seal."""

    number: int
    at: datetime
    by: str
    reason: str
    changes: tuple[str, ...]
    seal: str
    decided: datetime | None = None
    """When it was decided, where it was written down later."""


def amendments_of(trial: Trial) -> list[Amended]:
    """The amendments of ``trial``, in order."""
    found = []
    for row in Amendment.objects.filter(trial=trial).select_related("by"):
        document = json.loads(row.canonical)
        then = document.get("decided")
        found.append(
            Amended(
                row.number,
                row.at,
                row.by.called,
                document["reason"],
                tuple(document["changes"]),
                row.seal,
                datetime.fromisoformat(then) if then else None,
            )
        )
    return found


def predictions_of(trial: Trial) -> list[Prediction]:
    """Each person's newest prediction, in the order they were written; none that was taken back."""
    newest = {row.by_id: row for row in Prediction.objects.filter(trial=trial).select_related("by")}
    return sorted((row for row in newest.values() if row.text.strip()), key=lambda row: row.at)


def samples_of(trial: Trial) -> list[Sample]:
    """The samples of ``trial``, block by block and place by place."""
    order = {block.key: i for i, block in enumerate(plan_of(trial).layout.blocks)}
    return sorted(Sample.objects.filter(trial=trial), key=lambda s: (order.get(s.block, 0), s.place))


def shuffle_of(trial: Trial) -> Shuffle | None:
    """The self-blinding shuffle of ``trial``, if there was one."""
    return Shuffle.objects.filter(pk=trial.pk).select_related("by", "uncovered").first()


def is_covered(trial: Trial) -> bool:
    """Whether the key lies under covers after a shuffle by hand, so that nobody has it."""
    return Shuffle.objects.filter(pk=trial.pk, uncovered=None).exists()


def drawn_key(trial: Trial) -> dict[UUID, str]:
    """What the app drew: treatment (key in the plan) by sample id.  After a shuffle by hand that is not yet the key."""
    return dict(KeyEntry.objects.filter(sample__trial=trial).values_list("sample_id", "treatment"))


def key_of(trial: Trial) -> dict[UUID, str]:
    """The key: treatment (key in the plan) by sample id.  Only for eyes that see it, and for computing.

    After a shuffle by hand it is what was found under the covers.

    :raises Declined: 409 while it lies under covers.
    """
    drawn = drawn_key(trial)
    shuffled = shuffle_of(trial)
    if shuffled is None:
        return drawn
    if not hasattr(shuffled, "uncovered"):
        raise Declined(409, "Nobody knows who got what: the key lies under the covers.")
    found = shuffled.uncovered.found
    if shuffled.flasks:
        return {sample: found[shuffled.flasks[treatment]] for sample, treatment in drawn.items()}
    return {sample.pk: found[sample.code] for sample in Sample.objects.filter(trial=trial)}


def versions_of(trial: Trial) -> int:
    """The number of the plan's version that stands: 0 as sealed, then one more with each amendment."""
    return Amendment.objects.filter(trial=trial).count()


def flaws_in(plan: Plan) -> list[Problem]:
    """Why ``plan`` may not be sealed: what is wrong in itself, doses that cannot be worked out, and what must not meet."""
    sound = problems_in(plan)
    known = {problem.at for problem in sound}
    return [*sound, *(p for p in workbench(plan).problems if p.at not in known), *clash_problems(plan)]


def outcomes_of(trial: Trial) -> Mapping[str, int]:
    """Row ids of the outcomes of ``trial`` by key."""
    return _rows(trial.pk, trial.plan_seal)[0] if trial.plan_seal else {}


def checkpoints_of(trial: Trial) -> Mapping[str, int]:
    """Row ids of the checkpoints of ``trial`` by key."""
    return _rows(trial.pk, trial.plan_seal)[1] if trial.plan_seal else {}


def engagements_of(user: User, *, apart_from: UUID | None = None) -> list[Engagement]:
    """What ``user`` has to do in other trials: looks of those that run, and of drafts with a planned start, in the words
    that they may read."""
    memberships = [m for m in memberships_of(user) if m.trial_id != apart_from and not m.trial.opened_at]
    plans = plans_of([m.trial for m in memberships])
    found = []
    for membership in memberships:
        trial, plan = membership.trial, plans[membership.trial_id]
        started = trial.started_at or planned_start(plan)
        if started is None:
            continue
        seen, names = Sight(trial, membership), plan.telling_names
        if not seen.may("see_draft"):
            continue
        try:
            times = times_of(plan, started)
        except (OverflowError, KeyError, ValueError, OSError):
            continue
        found += [
            Engagement(seen.titled(trial.title, names), seen.spoken(c.name, names), times[c.key].due)
            for c in plan.checkpoints
        ]
    return found
