"""What comes beside and after the draft: predictions, and amendments of what is sealed."""

from datetime import datetime
from uuid import UUID

from ninja import Router, Schema

from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.models import Trial, User
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan import services
from fieldtally.server.plan.models import Prediction
from fieldtally.server.plan.queries import predictions_of

router = Router()


class PredictionIn(Schema):
    """What the person expects; empty takes it back."""

    text: str


class PredictionOut(Schema):
    """The person's own prediction, and how many people have written one."""

    text: str
    at: datetime | None
    written: int


def own_prediction(trial: Trial, user: User) -> PredictionOut:
    """What ``user`` predicted of that trial."""
    newest = Prediction.objects.filter(trial=trial, by=user).last()
    return PredictionOut(
        text=newest.text if newest else "",
        at=newest.at if newest and newest.text else None,
        written=len(predictions_of(trial)),
    )


@router.get("/trials/{trial_id}/prediction", response={200: PredictionOut, 404: ProblemsOut})
def mine(request: SignedIn, trial_id: UUID) -> PredictionOut:
    """One's own prediction; nobody reads another's before the key opens."""
    return own_prediction(sight(request, trial_id).trial, request.user)


@router.put(
    "/trials/{trial_id}/prediction",
    response={200: PredictionOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def predict(request: SignedIn, trial_id: UUID, body: PredictionIn) -> PredictionOut:
    """Write down what one expects."""
    seen = sight(request, trial_id)
    services.predict(seen.trial, request.user, body.text)
    return own_prediction(seen.trial, request.user)
