"""Scorers together before a round: the same few samples, each graded alone, then shown side by side and talked over."""

from __future__ import annotations

import secrets
from datetime import datetime
from uuid import UUID

from django.db import IntegrityError, transaction
from django.utils import timezone

from fieldtally.core.problems import Problem
from fieldtally.core.randomness import Draw
from fieldtally.core.scales import NoteScale
from fieldtally.core.scales.curve import CurveScale
from fieldtally.core.training.between import SAMPLES_TOGETHER
from fieldtally.server.answers import Declined, missing
from fieldtally.server.log.queries import out_of_play
from fieldtally.server.log.services import write_note
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import checkpoints_of, outcomes_of, samples_of
from fieldtally.server.training.models import Calibration, CalibrationGrade
from fieldtally.server.training.practising import outcome_in


def begin(
    trial: Trial, user: User, checkpoint: str, outcome: str, *, at: datetime | None = None, seed: str = ""
) -> Calibration:
    """Draw five samples to grade together before the round of a look, or go on with what is begun.

    :raises Declined: 404 where there is no such look or outcome; 409 where the trial is in no state for it.
    """
    if trial.state not in ("sealed", "running"):
        raise Declined(409, "Scorers grade together between the seal and the opening of the key.")
    look, asked = checkpoints_of(trial).get(checkpoint), outcome_in(trial, outcome)
    if look is None:
        raise missing()
    if isinstance(asked.scale, NoteScale | CurveScale):
        raise Declined(422, Problem("outcome", "Words and curves are not graded together; choose another outcome."))
    going = (
        Calibration.objects.filter(trial=trial, checkpoint=look, outcome__key=outcome, note=None)
        .order_by("-begun_at")
        .first()
    )
    if going is not None:
        return going
    aside = out_of_play(trial)
    left = [sample for sample in samples_of(trial) if sample.pk not in aside]
    drawn = Draw(seed or secrets.token_hex(16), "together").shuffled(left)[:SAMPLES_TOGETHER]
    return Calibration.objects.create(
        trial=trial,
        checkpoint_id=look,
        outcome_id=outcomes_of(trial)[outcome],
        samples=[str(sample.pk) for sample in drawn],
        begun_by=user,
        begun_at=at or timezone.now(),
    )


def grade(row: Calibration, user: User, sample: UUID, value: float, *, at: datetime | None = None) -> None:
    """Give a sample a value, once, without seeing what others gave.

    :raises Declined: 404 where the sample is not among them; 409 where it is given or shown already; 422 on what is not on the scale.
    """
    if str(sample) not in row.samples:
        raise missing()
    if row.shown_at is not None:
        raise Declined(409, "All that was given is shown already; nothing is added to it.")
    refusal = outcome_in(row.trial, row.outcome.key).scale.refusal(value)
    if refusal:
        raise Declined(422, Problem("value", refusal))
    try:
        with transaction.atomic():
            CalibrationGrade.objects.create(
                calibration=row, sample_id=sample, scorer=user, value=value, at=at or timezone.now()
            )
    except IntegrityError as error:
        raise Declined(409, "You gave this sample a value already; it is locked.") from error


def finished(row: Calibration) -> list[int]:
    """Those (ids) who have given every sample a value."""
    many: dict[int, int] = {}
    for scorer in row.grades.values_list("scorer_id", flat=True):
        many[scorer] = many.get(scorer, 0) + 1
    return sorted(scorer for scorer, given in many.items() if given == len(row.samples))


def show(row: Calibration, *, at: datetime | None = None) -> None:
    """Show what all gave.

    :raises Declined: 409 before two scorers have graded all of it.
    """
    if len(finished(row)) < 2:
        raise Declined(409, "At least two scorers grade all of them first; then everybody sees what all gave.")
    if row.shown_at is None:
        row.shown_at = at or timezone.now()
        row.save(update_fields=["shown_at"])


def agree(row: Calibration, user: User, text: str, working: str, *, at: datetime | None = None) -> None:
    """Write into the log what was agreed on; that ends it.

    :raises Declined: 409 before it is shown, or where it is recorded; 422 without words.
    """
    if row.shown_at is None:
        raise Declined(409, "Look at it together first.")
    if row.note_id is not None:
        raise Declined(409, "What you agreed on is recorded already.")
    if not text.strip():
        raise Declined(422, Problem("text", "Say what you agreed on, or that you did not."))
    with transaction.atomic():
        row.note = write_note(row.trial, user, f"Scorers together: {text.strip()}", working, at=at)
        row.save(update_fields=["note"])


def codes_of(row: Calibration) -> dict[str, str]:
    """The code of each sample (id)."""
    return {str(pk): code for pk, code in Sample.objects.filter(pk__in=row.samples).values_list("pk", "code")}
