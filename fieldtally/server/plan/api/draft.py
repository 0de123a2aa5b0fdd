"""The draft: begun, read, kept, sealed."""

from dataclasses import replace
from datetime import datetime
from uuid import UUID

from django.db import transaction
from ninja import Router, Schema, Status

from fieldtally.core.design import plan as plans
from fieldtally.core.design.fair.judges import Known
from fieldtally.core.design.fairness import fairness_problems
from fieldtally.core.design.plan import Plan
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, ProblemOut, ProblemsOut
from fieldtally.server.people import services as people
from fieldtally.server.people.models import Trial
from fieldtally.server.people.queries import called
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan import services
from fieldtally.server.plan.leaks import leaks_in
from fieldtally.server.plan.models import Draft
from fieldtally.server.plan.queries import Amended, amendments_of, flaws_in, plan_of, predictions_of, sealed_plan

router = Router()


class NewTrial(Schema):
    """A name to begin with, the time zone of the person, and whether it runs already (``begun``)."""

    title: str
    zone: str = "UTC"
    begun: bool = False


class BegunOut(Schema):
    """The new trial."""

    id: UUID


@router.post("/trials", response={201: BegunOut, 422: ProblemsOut})
def begin(request: SignedIn, body: NewTrial) -> Status[BegunOut]:
    """Begin a trial; who begins it leads it."""
    plan = Plan(title=body.title[:200], zone=body.zone[:64], begun=plans.Begun("") if body.begun else None)
    return Status(201, BegunOut(id=services.begin(request.user, plan).pk))


class SealOut(Schema):
    """The seal on a plan."""

    seal: str
    at: datetime
    by: str


class PlanOut(Schema):
    """The plan as this person may see it, what keeps it from being sealed, and what would tell a blind scorer too much."""

    plan: Plan
    version: int
    may_edit: bool
    saved_at: datetime
    saved_by: str
    problems: list[ProblemOut]
    leaks: list[ProblemOut]
    sealed: SealOut | None
    amendments: list[Amended]
    predictions: int
    may_amend: bool


def _plan_out(seen: Sight) -> PlanOut:
    trial: Trial = seen.trial
    plan = plan_of(trial)
    draft = Draft.objects.get(pk=trial.pk)
    sealed = sealed_plan(trial)
    predicted = len(predictions_of(trial))
    problems = [*flaws_in(plan), *fairness_problems(plan, Known(predicted, sealed is not None))]
    knows = seen.may("see_verdict") or (sealed is None and seen.may("save_plan"))
    return PlanOut(
        # What stands where is the key.
        plan=plan if knows or plan.begun is None else replace(plan, begun=replace(plan.begun, samples=())),
        version=draft.version,
        may_edit=seen.may("edit_plan"),
        saved_at=draft.saved_at,
        saved_by=called(draft.saved_by_id),
        problems=[ProblemOut(at=p.at, says=p.says) for p in problems] if sealed is None else [],
        leaks=[ProblemOut(at=p.at, says=p.says) for p in leaks_in(plan)] if sealed is None else [],
        sealed=SealOut(seal=sealed.seal, at=sealed.at, by=called(sealed.by)) if sealed else None,
        amendments=amendments_of(trial),
        predictions=predicted,
        may_amend=seen.may("amend_plan"),
    )


@router.get("/trials/{trial_id}/plan", response={200: PlanOut, 403: ProblemsOut, 404: ProblemsOut})
def read(request: SignedIn, trial_id: UUID) -> PlanOut:
    """The plan, for those who may know what is compared."""
    seen = sight(request, trial_id)
    seen.need("see_treatments")
    return _plan_out(seen)


class VersionOut(Schema):
    """Which version is the newest, and whose."""

    version: int
    saved_by: str
    sealed: bool


@router.get("/trials/{trial_id}/plan/version", response={200: VersionOut, 403: ProblemsOut, 404: ProblemsOut})
def version(request: SignedIn, trial_id: UUID) -> VersionOut:
    """Whether somebody else has changed the plan: asked every few seconds while it is open."""
    seen = sight(request, trial_id)
    seen.need("see_treatments")
    draft = Draft.objects.defer("document").select_related("saved_by").get(pk=seen.trial.pk)
    return VersionOut(version=draft.version, saved_by=draft.saved_by.called, sealed=seen.trial.sealed_at is not None)


class PlanIn(Schema):
    """A changed plan, and the version it was changed from."""

    plan: Plan
    version: int


@router.put(
    "/trials/{trial_id}/plan",
    response={200: PlanOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def save(request: SignedIn, trial_id: UUID, body: PlanIn) -> PlanOut:
    """Keep a draft; it need not be sound yet."""
    seen = sight(request, trial_id)
    seen.need("save_plan")
    services.save_draft(seen.trial, request.user, body.plan, body.version)
    return _plan_out(sight(request, trial_id))


class SealIn(Schema):
    """The version to be sealed, and whether the lead stays blind from now on."""

    version: int
    stay_blind: bool


@router.post(
    "/trials/{trial_id}/seal",
    response={200: SealOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def seal(request: SignedIn, trial_id: UUID, body: SealIn) -> SealOut:
    """Seal the plan: codes are drawn, and nothing in it changes any more."""
    seen = sight(request, trial_id)
    seen.need("seal_plan")
    if body.stay_blind and plan_of(seen.trial).begun is not None:
        raise Declined(
            422,
            Problem(
                "stay_blind", "You have written down what stands where, so you are not blind; somebody else can be."
            ),
        )
    with transaction.atomic():
        sealed = services.seal(seen.trial, request.user, body.version)
        people.settle_blindness(seen.trial, seen.membership, stays_blind=body.stay_blind)
    return SealOut(seal=sealed.seal, at=sealed.at, by=request.user.called)
