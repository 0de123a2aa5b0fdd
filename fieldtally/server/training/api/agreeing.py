"""How scorers agree, between each other, with themselves and over time."""

from collections.abc import Sequence
from uuid import UUID

import numpy as np
from ninja import Router, Schema

from fieldtally.core.agreement.together import Agreement, Scored, agreement_of
from fieldtally.core.scales import GradeScale, PassFailScale, unit_of
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.models import Trial
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.rounds.queries import current_readings

router = Router()
SEED = 20_270_301


class TwoValues(Schema):
    """Two values of one sample at one look, by two scorers of a pair."""

    first: float
    second: float


class OutcomeAgreement(Schema):
    """The agreement on one outcome; ``dots`` for each of its pairs, in their order."""

    outcome: str
    name: str
    unit: str
    found: Agreement
    dots: Sequence[Sequence[TwoValues]]


class AgreementOut(Schema):
    """All outcomes that somebody scored."""

    outcomes: Sequence[OutcomeAgreement]


def _scored(trial: Trial, looks: dict[str, int]) -> dict[str, list[Scored]]:
    found: dict[str, list[Scored]] = {}
    rows = current_readings(trial).filter(value__isnull=False).select_related("scorer")
    for r in rows.select_related("outcome", "checkpoint").order_by("stored_at", "pk"):
        if r.checkpoint.key in looks:
            one = Scored(
                r.scorer.called,
                looks[r.checkpoint.key],
                str(r.sample_id),
                float(r.value or 0.0),
                r.take,
                r.repeat_id is not None,
            )
            found.setdefault(r.outcome.key, []).append(one)
    return found


@router.get("/trials/{trial_id}/agreement", response={200: AgreementOut, 403: ProblemsOut, 404: ProblemsOut})
def agreement(request: SignedIn, trial_id: UUID) -> AgreementOut:
    """How scorers agree.  Before the key is open for the lead alone: a scorer who knew would grade as the others do."""
    seen = sight(request, trial_id)
    seen.need("see_agreement")
    plan = plan_of(seen.trial)
    names = plan.telling_names
    scored = _scored(seen.trial, {c.key: i for i, c in enumerate(plan.in_time)}) if seen.trial.sealed_at else {}
    shown = []
    for outcome in plan.outcomes:
        own = scored.get(outcome.key, [])
        if not own:
            continue
        graded = isinstance(outcome.scale, GradeScale | PassFailScale)
        unit = unit_of(outcome.scale)
        found = agreement_of(own, "kappa" if graded else "icc", outcome.margin, unit, np.random.default_rng(SEED))
        at = {(o.scorer, o.look, o.sample): o.value for o in own if o.take == 1}
        dots = [
            [
                TwoValues(first=value, second=at[pair.second, look, sample])
                for (scorer, look, sample), value in at.items()
                if scorer == pair.first and (pair.second, look, sample) in at
            ]
            for pair in found.pairs
        ]
        shown.append(
            OutcomeAgreement(
                outcome=outcome.key, name=seen.spoken(outcome.name, names), unit=unit, found=found, dots=dots
            )
        )
    return AgreementOut(outcomes=shown)
