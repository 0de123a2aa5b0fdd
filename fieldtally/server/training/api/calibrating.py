"""Scorers together before a round."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from ninja import Router, Schema

from fieldtally.core.scales import honest, unit_of
from fieldtally.core.schedule.naming import called
from fieldtally.core.training.between import Together, together
from fieldtally.server.answers import ProblemsOut, missing
from fieldtally.server.people.models import User
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.rounds.outcomes import OutcomeOut, outcomes_out
from fieldtally.server.training import calibrating
from fieldtally.server.training.models import Calibration
from fieldtally.server.training.practising import outcome_in

router = Router()


class TogetherSample(Schema):
    """A sample by its code, and what this person gave it."""

    id: UUID
    code: str
    mine: float | None


class TogetherGrade(Schema):
    """What one scorer gave one sample (code)."""

    scorer: str
    code: str
    value: float


class CalibrationOut(Schema):
    """Samples that scorers grade together: before it is shown each sees only their own, and who is finished."""

    id: UUID
    checkpoint: str
    look: str
    outcome: OutcomeOut
    samples: Sequence[TogetherSample]
    finished: Sequence[str]
    shown: bool
    grades: Sequence[TogetherGrade]
    told: Together | None
    agreed: str
    begun_at: datetime


class CalibrationsOut(Schema):
    """All of a trial, newest first, and what can be graded together."""

    calibrations: Sequence[CalibrationOut]
    outcomes: Sequence[OutcomeOut]


def _out(seen: Sight, user: User, row: Calibration) -> CalibrationOut:
    plan = plan_of(seen.trial)
    names = plan.telling_names
    codes = calibrating.codes_of(row)
    grades = list(row.grades.select_related("scorer", "sample").order_by("at", "pk"))
    mine = {str(g.sample_id): g.value for g in grades if g.scorer_id == user.pk}
    called_by = {g.scorer_id: g.scorer.called for g in grades}
    outcome = next(o for o in outcomes_out(seen, plan, names) if o.key == row.outcome.key)
    shown = row.shown_at is not None
    look = next((c for c in plan.checkpoints if c.key == row.checkpoint.key), None)
    by_scorer: dict[str, dict[str, float]] = {}
    for g in grades:
        by_scorer.setdefault(g.scorer.called, {})[g.sample.code] = g.value
    return CalibrationOut(
        id=row.pk,
        checkpoint=row.checkpoint.key,
        look=seen.spoken(called(look), names) if look else "",
        outcome=outcome,
        samples=[TogetherSample(id=pk, code=codes[pk], mine=mine.get(pk)) for pk in row.samples if pk in codes],
        finished=[called_by[pk] for pk in calibrating.finished(row)],
        shown=shown,
        grades=[TogetherGrade(scorer=g.scorer.called, code=g.sample.code, value=g.value) for g in grades]
        if shown
        else [],
        told=together(by_scorer, seen.spoken(unit_of(outcome_in(seen.trial, row.outcome.key).scale), names))
        if shown
        else None,
        agreed=seen.spoken(row.note.text, names) if row.note else "",
        begun_at=row.begun_at,
    )


@router.get("/trials/{trial_id}/together", response={200: CalibrationsOut, 403: ProblemsOut, 404: ProblemsOut})
def all_of(request: SignedIn, trial_id: UUID) -> CalibrationsOut:
    """What scorers graded together."""
    seen = sight(request, trial_id)
    seen.need_role("grade_together")
    seen.need("see_draft")
    plan = plan_of(seen.trial)
    rows = Calibration.objects.filter(trial=seen.trial).select_related("checkpoint", "outcome", "note")
    return CalibrationsOut(
        calibrations=[_out(seen, request.user, row) for row in rows.order_by("-begun_at")[:40]],
        outcomes=[o for o in outcomes_out(seen, plan, plan.telling_names) if o.scale.kind not in ("note", "curve")],
    )


class ScorersTogetherIn(Schema):
    """At which look, and which outcome (keys)."""

    checkpoint: str
    outcome: str


@router.post(
    "/trials/{trial_id}/together",
    response={200: CalibrationOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def begin(request: SignedIn, trial_id: UUID, body: ScorersTogetherIn) -> CalibrationOut:
    """Draw samples to grade together, or go on with those that are drawn."""
    seen = sight(request, trial_id)
    seen.need_role("grade_together")
    seen.need("see_draft")
    return _out(seen, request.user, calibrating.begin(seen.trial, request.user, body.checkpoint, body.outcome))


def _row(request: SignedIn, pk: UUID) -> tuple[Sight, Calibration]:
    rows = Calibration.objects.select_related("checkpoint", "outcome", "note", "trial")
    row = rows.filter(pk=pk).first()
    if row is None:
        raise missing()
    seen = sight(request, row.trial_id)
    seen.need_role("grade_together")
    seen.need("see_draft")
    return seen, row


class TogetherGradeIn(Schema):
    """A value for one of the samples (id)."""

    sample: UUID
    value: float


@router.post(
    "/together/{calibration_id}/grades",
    response={200: CalibrationOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def give(request: SignedIn, calibration_id: UUID, body: TogetherGradeIn) -> CalibrationOut:
    """Grade one of the samples, without seeing what others gave."""
    seen, row = _row(request, calibration_id)
    calibrating.grade(row, request.user, body.sample, body.value)
    return _out(seen, request.user, row)


@router.post(
    "/together/{calibration_id}/show",
    response={200: CalibrationOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut},
)
def show(request: SignedIn, calibration_id: UUID) -> CalibrationOut:
    """Show what all gave, once two have graded all of it."""
    seen, row = _row(request, calibration_id)
    calibrating.show(row)
    return _out(seen, request.user, row)


class AgreedIn(Schema):
    """What was agreed on."""

    text: str


@router.post(
    "/together/{calibration_id}/agreed",
    response={200: CalibrationOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def agreed(request: SignedIn, calibration_id: UUID, body: AgreedIn) -> CalibrationOut:
    """Write what was agreed on into the log."""
    seen, row = _row(request, calibration_id)
    grades = row.grades.select_related("scorer", "sample").order_by("sample__code", "at")
    working = "; ".join(f"{g.sample.code} {g.scorer.called}: {honest(g.value)}" for g in grades)
    calibrating.agree(row, request.user, body.text, working)
    return _out(seen, request.user, row)
