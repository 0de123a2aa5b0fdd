"""Doors of the share stage."""

from uuid import UUID

from django.contrib.auth import logout
from django.http import HttpResponse
from ninja import Router, Schema, Status
from ninja.security import SessionAuth

from fieldtally.core.outlook.advice import with_samples
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, ProblemsOut
from fieldtally.server.people.models import Membership, Trial
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.plan.services import begin_again
from fieldtally.server.share.again import found_by, weaknesses_of
from fieldtally.server.share.api.files import fetched
from fieldtally.server.share.erasing import erase, own_trials
from fieldtally.server.share.making import Wanted

router = Router()
MOST_SAMPLES = 1_000


@router.get(
    "/trials/{trial_id}/readings.csv",
    response={200: None, 303: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut},
)
def readings(request: SignedIn, trial_id: UUID) -> HttpResponse:
    """The readings as one long table, a row a reading; of a large trial the way to where it will be."""
    return fetched(request, trial_id, Wanted("readings"))


@router.get(
    "/trials/{trial_id}/pack.zip",
    response={200: None, 303: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut},
)
def pack(request: SignedIn, trial_id: UUID) -> HttpResponse:
    """The trial pack; of a large trial the way to where it will be."""
    return fetched(request, trial_id, Wanted("pack"))


class AgainIn(Schema):
    """How many samples of each treatment the next trial is to have, as the plan counts them (None: as many as now); and which treatments
    (keys) it follows up (none: it asks all of them again)."""

    samples: int | None = None
    only: list[str] = []


class AgainOut(Schema):
    """The new draft."""

    id: UUID


@router.post("/trials/{trial_id}/again", response={201: AgainOut, 403: ProblemsOut, 404: ProblemsOut, 422: ProblemsOut})
def again(request: SignedIn, trial_id: UUID, body: AgainIn) -> Status[AgainOut]:
    """Begin the next trial from this one's plan, with what was weak about it, and with as many samples as would settle it."""
    seen = sight(request, trial_id)
    seen.need("begin_next")
    if body.samples is not None and not 1 <= body.samples <= MOST_SAMPLES:
        raise Declined(422, Problem("samples", f"From 1 to {MOST_SAMPLES} samples of each treatment, please."))
    plan = plan_of(seen.trial)
    if body.samples is not None:
        plan = with_samples(plan, body.samples)
    begun = begin_again(request.user, plan, weaknesses_of(seen.trial), found_by(seen.trial), body.only)
    return Status(201, AgainOut(id=begun.pk))


class LeavingOut(Schema):
    """What goes with the account: trials that are the person's alone (titles), and in how many others they stay under no name."""

    alone: list[str]
    shared: int
    held: list[str]
    """Trials that nobody is left in and that stay all the same, because others scored in them."""


@router.get("/account/leaving", response=LeavingOut)
def leaving(request: SignedIn) -> LeavingOut:
    """What would go with the account."""
    alone = own_trials(request.user)
    mine = Trial.objects.filter(memberships__user=request.user).exclude(pk__in=[trial.pk for trial in alone])
    others = set(
        Membership.objects.filter(trial__in=mine).exclude(user=request.user).values_list("trial_id", flat=True)
    )
    return LeavingOut(
        alone=sorted(trial.title for trial in alone),
        shared=len(others),
        held=sorted(trial.title for trial in mine if trial.pk not in others),
    )


class LeaveIn(Schema):
    """The account's own e-mail address, typed."""

    email: str


@router.post("/account/leave", response={204: None, 409: ProblemsOut, 422: ProblemsOut}, auth=SessionAuth())
def leave(request: SignedIn, body: LeaveIn) -> Status[None]:
    """Erase the account and what is theirs alone.  There is no way back."""
    erase(request.user, body.email)
    logout(request)
    return Status(204, None)
