"""What went wrong: accidents to samples, methods that failed."""

from typing import Literal
from uuid import UUID

from ninja import Router, Schema, Status
from pydantic import AwareDatetime

from fieldtally.server.answers import ProblemsOut
from fieldtally.server.log import accidents
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of

router = Router()


class AccidentIn(Schema):
    """What happened when, to which samples (codes; none: to all), and what is to be done with them: kept and marked, excluded, or
    excluded ``from`` that moment on."""

    accident: Literal["dropped", "eaten", "disease", "weather", "mixed_up", "treatment", "other"]
    codes: list[str] = []
    effect: Literal["mark", "exclude", "from"]
    reason: str
    since: AwareDatetime


@router.post(
    "/trials/{trial_id}/accidents",
    response={204: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def accident(request: SignedIn, trial_id: UUID, body: AccidentIn) -> Status[None]:
    """Record an accident."""
    seen = sight(request, trial_id)
    seen.need("mark_accident" if body.effect == "mark" else "leave_out")
    seen.hear(plan_of(seen.trial).telling_names, reason=body.reason)
    accidents.record_accident(
        seen.trial, request.user, body.accident, body.codes, body.effect, body.reason, since=body.since
    )
    return Status(204, None)


class MethodIn(Schema):
    """Which outcome (key), what was wrong with how it is measured; ``since``: it is split there, measured in another way from then on;
    none: it is withdrawn."""

    outcome: str
    reason: str
    since: AwareDatetime | None = None


@router.post(
    "/trials/{trial_id}/methods",
    response={204: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def method(request: SignedIn, trial_id: UUID, body: MethodIn) -> Status[None]:
    """Withdraw or split an outcome whose method failed."""
    seen = sight(request, trial_id)
    seen.need("withdraw_outcome")
    seen.hear(plan_of(seen.trial).telling_names, reason=body.reason)
    accidents.give_up_method(seen.trial, request.user, body.outcome, body.reason, since=body.since)
    return Status(204, None)
