"""Doors of the baseline: which samples are odd before they start, and taking start values over from the plan."""

from uuid import UUID

from ninja import Router, Schema

from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.rounds.baseline import odd_in_baseline, start_outcome, take_over
from fieldtally.server.rounds.queries import current_readings

router = Router()


class OddSample(Schema):
    """A sample that differs from its peers before it starts."""

    code: str
    says: str


class BaselineOut(Schema):
    """How the baseline stands: odd samples, and whether the plan's start values can be taken over as its readings."""

    odd: list[OddSample]
    may_take_over: bool


@router.get("/trials/{trial_id}/baseline", response={200: BaselineOut, 403: ProblemsOut, 404: ProblemsOut})
def baseline(request: SignedIn, trial_id: UUID) -> BaselineOut:
    """Samples too different at the start, by code."""
    seen = sight(request, trial_id)
    seen.need("see_readings")
    plan = plan_of(seen.trial)
    names = plan.telling_names
    found = start_outcome(plan)
    taken = found and current_readings(seen.trial).filter(checkpoint__key=found[0].key).exists()
    return BaselineOut(
        odd=[OddSample(code=code, says=seen.spoken(says, names)) for code, says in odd_in_baseline(seen.trial, plan)],
        may_take_over=seen.may("take_over_baseline")
        and seen.trial.sealed_at is not None
        and seen.trial.started_at is None
        and found is not None
        and not taken,
    )


class TakenOver(Schema):
    """How many readings were written."""

    readings: int


@router.post(
    "/trials/{trial_id}/baseline", response={200: TakenOver, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut}
)
def take(request: SignedIn, trial_id: UUID) -> TakenOver:
    """Write the plan's start values as the readings of the baseline."""
    seen = sight(request, trial_id)
    seen.need("take_over_baseline")
    return TakenOver(readings=take_over(seen.trial, request.user))
