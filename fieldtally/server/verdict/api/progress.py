"""Doors of a trial whose key is sealed: how it comes along without its treatments, and the interim looks that were planned."""

from __future__ import annotations

from collections import defaultdict
from datetime import datetime
from uuid import UUID

from django.db import transaction
from django.utils import timezone
from ninja import Router, Schema

from fieldtally.core.blinding.chain import item
from fieldtally.core.design.plan import Plan
from fieldtally.core.scales import NoteScale, Scale
from fieldtally.core.verdict.interim import price
from fieldtally.server.answers import Declined, ProblemsOut
from fieldtally.server.people.chain import append
from fieldtally.server.people.models import Trial, User
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.rounds.queries import progress_of, values_by_checkpoint
from fieldtally.server.verdict.models import InterimLook
from fieldtally.server.verdict.study import study_of

router = Router()
FINISHED = ("taken", "skipped", "missed")


class SpreadAt(Schema):
    """All samples together at a look that is finished: their values in order of size, without codes."""

    checkpoint: str
    name: str
    offset: int
    values: list[float]


class SpreadOut(Schema):
    """How one outcome comes along over all samples."""

    outcome: str
    name: str
    scale: Scale
    looks: list[SpreadAt]


class InterimOut(Schema):
    """A planned interim look: whether its round is finished (``ready``), and what it told, once it was taken."""

    checkpoint: str
    name: str
    ready: bool
    taken_at: datetime | None
    taken_by: str
    stop: bool | None
    says: str


class ProgressOut(Schema):
    """How a trial comes along while its key is sealed; ``price`` is what its interim looks cost."""

    price: str
    interim: list[InterimOut]
    outcomes: list[SpreadOut]


@router.get(
    "/trials/{trial_id}/progress",
    response={200: ProgressOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut},
)
def progress(request: SignedIn, trial_id: UUID) -> ProgressOut:
    """How the trial comes along, over all samples together; and its interim looks."""
    seen = sight(request, trial_id)
    seen.need("see_progress")
    trial = seen.trial
    if trial.sealed_at is None:
        raise Declined(409, "Nothing comes along yet: the plan is not sealed.")
    plan = plan_of(trial)
    finished = _finished(trial, plan)
    return ProgressOut(
        price=price(plan), interim=_interim(trial, plan, finished), outcomes=_spread(trial, plan, finished)
    )


def _finished(trial: Trial, plan: Plan) -> set[str]:
    """Looks (keys) at which nothing more is scored: a value shown while they run would colour those that follow."""
    return {look.key for look in progress_of(trial, plan, timezone.now()) if look.standing in FINISHED}


def _interim(trial: Trial, plan: Plan, finished: set[str]) -> list[InterimOut]:
    taken = {row.checkpoint: row for row in InterimLook.objects.filter(trial=trial).select_related("by")}
    found = []
    for checkpoint in plan.in_time:
        if checkpoint.key in plan.interim:
            row = taken.get(checkpoint.key)
            found.append(
                InterimOut(
                    checkpoint=checkpoint.key,
                    name=checkpoint.name,
                    ready=checkpoint.key in finished,
                    taken_at=row.at if row else None,
                    taken_by=row.by.called if row else "",
                    stop=row.stop if row else None,
                    says=row.says if row else "",
                )
            )
    return found


def _spread(trial: Trial, plan: Plan, finished: set[str]) -> list[SpreadOut]:
    found = []
    for outcome in plan.outcomes:
        if isinstance(outcome.scale, NoteScale):
            continue
        values: dict[str, dict[str, float]] = defaultdict(dict, values_by_checkpoint(trial, outcome.key))
        looks = [
            SpreadAt(checkpoint=c.key, name=c.name, offset=c.offset, values=sorted(values[c.key].values()))
            for c in plan.looked_at(outcome)
            if c.key in finished and values[c.key]
        ]
        if looks:
            found.append(SpreadOut(outcome=outcome.key, name=outcome.name, scale=outcome.scale, looks=looks))
    return found


class InterimIn(Schema):
    """The checkpoint (key) of the interim look."""

    checkpoint: str


@router.post(
    "/trials/{trial_id}/interim",
    response={200: InterimOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def interim(request: SignedIn, trial_id: UUID, body: InterimIn) -> InterimOut:
    """Ask at a planned interim look whether the answer is clear already.  It goes on record, and tells stop or go on."""
    seen = sight(request, trial_id)
    seen.need("look_interim")
    plan = plan_of(seen.trial)
    _take(seen.trial, plan, request.user, body.checkpoint)
    return next(
        one for one in _interim(seen.trial, plan, _finished(seen.trial, plan)) if one.checkpoint == body.checkpoint
    )


def _take(trial: Trial, plan: Plan, user: User, checkpoint: str) -> None:
    if trial.started_at is None or trial.opened_at is not None:
        raise Declined(409, "An interim look is taken while the trial runs.")
    if checkpoint not in plan.interim:
        raise Declined(
            409,
            "No interim look was planned there, so none may be taken: it would cost certainty that nobody paid for.",
        )
    if checkpoint not in _finished(trial, plan):
        raise Declined(409, "This look is not scored to its end yet.")
    told = study_of(trial).data.interim(checkpoint)
    with transaction.atomic():
        locked = Trial.objects.select_for_update().get(pk=trial.pk)
        if not InterimLook.objects.filter(trial=locked, checkpoint=checkpoint).exists():
            made = InterimLook.objects.create(
                trial=locked, checkpoint=checkpoint, stop=told.stop, says=told.says, by=user, at=timezone.now()
            )
            record = {"checkpoint": checkpoint, "stop": told.stop, "says": told.says, "at": made.at}
            append(locked, "interim look", [item("interim look", record)], at=made.at)
