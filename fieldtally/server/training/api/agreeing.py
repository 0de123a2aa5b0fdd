"""How scorers agree, between each other, with themselves and over time."""

from collections.abc import Sequence
from uuid import UUID

from django.http import HttpResponse
from ninja import Router, Schema

from fieldtally.core.agreement.together import Agreement, Cloud
from fieldtally.core.scales import unit_of
from fieldtally.server.answers import ProblemsOut, as_it_is
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.training.agreement import agreements

router = Router()


class OutcomeAgreement(Schema):
    """The agreement on one outcome; ``clouds`` for each of its pairs, in their order."""

    outcome: str
    name: str
    unit: str
    found: Agreement
    clouds: Sequence[Cloud]


class AgreementOut(Schema):
    """All outcomes that somebody scored."""

    outcomes: Sequence[OutcomeAgreement]


@router.get("/trials/{trial_id}/agreement", response={200: AgreementOut, 403: ProblemsOut, 404: ProblemsOut})
def agreement(request: SignedIn, trial_id: UUID) -> HttpResponse:
    """How scorers agree.  Before the key is open for the lead alone: a scorer who knew would grade as the others do."""
    seen = sight(request, trial_id)
    seen.need("see_agreement")
    plan = plan_of(seen.trial)
    names = plan.telling_names
    whole = AgreementOut.model_construct(
        outcomes=[
            OutcomeAgreement.model_construct(
                outcome=one.outcome.key,
                name=seen.spoken(one.outcome.name, names),
                unit=unit_of(one.outcome.scale),
                found=one.found,
                clouds=one.clouds,
            )
            for one in agreements(seen.trial, plan)
        ]
    )
    return as_it_is(whole)
