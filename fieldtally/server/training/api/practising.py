"""The grading trainer: sets, their pictures, what they tell, and who is ready."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime
from uuid import UUID

from django.http import HttpResponse
from ninja import Router, Schema

from fieldtally.core.scales import unit_of
from fieldtally.core.training.between import AnchorWanted, Duel, anchors_wanted, duel
from fieldtally.core.training.learning import Given, Learned
from fieldtally.core.training.sets import SET_OF, Kind
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.models import Membership, Trial, User
from fieldtally.server.people.permissions import roles_with
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.rounds.outcomes import OutcomeOut, outcomes_out
from fieldtally.server.rounds.readiness import ready_until
from fieldtally.server.training import practising
from fieldtally.server.training.models import TrainingSet

router = Router()


class ReadyPerson(Schema):
    """A scorer and until when they are ready; None: not (yet)."""

    name: str
    until: datetime | None
    sets: int


class TrainedOutcome(Schema):
    """An outcome, how it is practised (None: not yet), whether the plan asks for it, and what this person's sets tell."""

    outcome: OutcomeOut
    kind: Kind | None
    asked: bool
    ready_until: datetime | None
    going: UUID | None
    learned: Learned | None
    people: Sequence[ReadyPerson]
    anchors: Sequence[AnchorWanted]


class TrainingOut(Schema):
    """Everything that can be practised in a trial, and how many things a set has."""

    outcomes: Sequence[TrainedOutcome]
    size: int


@router.get("/trials/{trial_id}/training", response={200: TrainingOut, 403: ProblemsOut, 404: ProblemsOut})
def training(request: SignedIn, trial_id: UUID) -> TrainingOut:
    """What can be practised, and how far this person is; the lead also sees who is ready and where photos would help."""
    seen = sight(request, trial_id)
    seen.need_role("practise")
    seen.need("see_draft")
    trial, user = seen.trial, request.user
    plan = plan_of(trial)
    scorers = [
        m.user
        for m in Membership.objects.filter(trial=trial, role__in=roles_with("score"))
        .select_related("user")
        .order_by("pk")
    ]
    told = {o.key: o for o in outcomes_out(seen, plan, plan.telling_names)}
    shown = []
    for outcome in plan.outcomes:
        if not outcome.compared:
            continue
        every = practising.answers_of(trial, outcome.key, scorers)
        going = TrainingSet.objects.filter(trial=trial, by=user, outcome=outcome.key, ended_at=None).first()
        shown.append(
            TrainedOutcome(
                outcome=told[outcome.key],
                kind=practising.practice_kind(trial, outcome),
                asked=outcome.practised,
                ready_until=ready_until(trial, user, outcome.key),
                going=going.pk if going else None,
                learned=_learned(seen, user, outcome.key),
                people=[_person(trial, one, outcome.key, every) for one in scorers]
                if seen.may("see_practice_of_all")
                else [],
                anchors=anchors_wanted(outcome.scale, {str(k): v for k, v in every.items()})
                if seen.may("see_practice_of_all")
                else [],
            )
        )
    return TrainingOut(outcomes=shown, size=SET_OF)


def _learned(seen: Sight, user: User, outcome: str) -> Learned | None:
    """What somebody's sets tell, in words that this person may read: a unit may hold the name of a treatment."""
    found = practising.learned_of(seen.trial, user, outcome)
    names = plan_of(seen.trial).telling_names
    return found and replace(
        found,
        unit=seen.spoken(found.unit, names),
        says=seen.spoken(found.says, names),
        why=seen.spoken(found.why, names),
    )


def _person(trial: Trial, user: User, outcome: str, every: dict[int, list[Given]]) -> ReadyPerson:
    own = every.get(user.pk, [])
    until = ready_until(trial, user, outcome)
    return ReadyPerson(name=user.called, until=until, sets=max((one.set for one in own), default=0))


class SetIn(Schema):
    """Which outcome (key)."""

    outcome: str


class PractisedThing(Schema):
    """One thing of a set: what was given, and once the set is finished what is true and what the gauge read."""

    place: int
    given: float | None
    truth: float | None
    gauged: float | None


class TrainingSetOut(Schema):
    """A set: its things in order; when it is finished what all sets so far tell, and eye against gauge once that has read it."""

    id: UUID
    trial: UUID
    outcome: OutcomeOut
    things: Sequence[PractisedThing]
    ended: bool
    learned: Learned | None
    ready_until: datetime | None
    duel: Duel | None


def _set_out(request: SignedIn, row: TrainingSet) -> TrainingSetOut:
    seen = sight(request, row.trial_id)
    seen.need_role("practise")
    seen.need("see_draft")
    plan = plan_of(row.trial)
    outcome = practising.outcome_in(row.trial, row.outcome)
    answers, ended = list(row.answers.all()), row.ended_at is not None
    read = [one for one in answers if one.gauged is not None and one.given is not None]
    told = None
    if ended and read:
        told = duel(
            [one.truth for one in read],
            [float(one.given or 0) for one in read],
            [float(one.gauged or 0) for one in read],
            seen.spoken(unit_of(outcome.scale), plan.telling_names),
        )
    return TrainingSetOut(
        id=row.pk,
        trial=row.trial_id,
        outcome=next(o for o in outcomes_out(seen, plan, plan.telling_names) if o.key == row.outcome),
        things=[
            PractisedThing(
                place=one.place,
                given=one.given,
                truth=one.truth if ended else None,
                gauged=one.gauged if ended else None,
            )
            for one in answers
        ],
        ended=ended,
        learned=_learned(seen, request.user, row.outcome) if ended else None,
        ready_until=ready_until(row.trial, request.user, row.outcome),
        duel=told,
    )


@router.post(
    "/trials/{trial_id}/training",
    response={200: TrainingSetOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def begin(request: SignedIn, trial_id: UUID, body: SetIn) -> TrainingSetOut:
    """Draw a set to grade, or go on with the one that is not finished."""
    seen = sight(request, trial_id)
    seen.need_role("practise")
    seen.need("see_draft")
    return _set_out(request, practising.begin_set(seen.trial, request.user, body.outcome))


@router.get("/training/{set_id}", response={200: TrainingSetOut, 403: ProblemsOut, 404: ProblemsOut})
def one_set(request: SignedIn, set_id: UUID) -> TrainingSetOut:
    """A set of one's own."""
    return _set_out(request, practising.own_set(request.user, set_id))


class GradeIn(Schema):
    """A grade for one thing of a set."""

    place: int
    given: float


@router.post(
    "/training/{set_id}/grades",
    response={200: TrainingSetOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def grade(request: SignedIn, set_id: UUID, body: GradeIn) -> TrainingSetOut:
    """Grade one thing; it is locked then."""
    row = practising.own_set(request.user, set_id)
    practising.answer(row, body.place, body.given)
    row.refresh_from_db()
    return _set_out(request, row)


@router.get("/training/{set_id}/{place}.jpg", response={200: None, 403: ProblemsOut, 404: ProblemsOut})
def picture(request: SignedIn, set_id: UUID, place: int) -> HttpResponse:
    """The picture of one thing; its name and size tell nothing."""
    row = practising.own_set(request.user, set_id)
    seen = sight(request, row.trial_id)
    seen.need_role("practise")
    seen.need("see_draft")
    answer = HttpResponse(practising.picture(row, place), content_type="image/jpeg")
    answer["Content-Disposition"] = 'inline; filename="practice.jpg"'
    answer["Cache-Control"] = "private, max-age=86400, immutable"
    return answer
