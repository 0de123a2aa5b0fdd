"""What may be written into the log: notes, samples set aside, looks skipped, differences."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID, uuid4

from django.utils import timezone

from fieldtally.core.limits import LONGEST_NOTE
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, missing
from fieldtally.server.log.deviating import deviate
from fieldtally.server.log.models import Deviation, LogNote
from fieldtally.server.log.models.deviation import DeviationKind
from fieldtally.server.log.queries import out_of_play, skipped_checkpoints
from fieldtally.server.log.reasons import given_reason
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import plan_of


def record_difference(trial: Trial, user: User, about: str, reason: str, *, at: datetime | None = None) -> Deviation:
    """Record that the entry ``about`` (key) of the held-equal sheet was not held equal after all."""
    if trial.state == "draft":
        raise Declined(409, "Nothing is held equal yet: seal the plan first.")
    if about not in {entry.key for entry in plan_of(trial).held_equal}:
        raise Declined(422, Problem("about", "This is not on the held-equal sheet."))
    said = given_reason(reason, "Say how it differed; the verdict will tell it.")
    return deviate(
        trial=trial,
        about=about,
        kind=DeviationKind.DIFFERENCE,
        reason=said,
        by=user,
        at=at or timezone.now(),
        after_key=trial.opened_at is not None,
    )


def write_note(
    trial: Trial, user: User, text: str, working: str = "", *, at: datetime | None = None, id: UUID | None = None
) -> LogNote:
    """Write ``text`` into the log, with the ``working`` of the sum that it came from.

    :raises Declined: 409 where the ``id`` is that of another note; 422 without words or with too many.
    """
    sent = LogNote.objects.filter(pk=id).first() if id else None
    if sent is not None:
        if (sent.trial_id, sent.by_id, sent.text, sent.working) == (trial.pk, user.pk, text.strip(), working.strip()):
            return sent
        raise Declined(409, "This note carries an id that is taken; it was not stored.")
    if not text.strip():
        raise Declined(422, Problem("text", "There are no words yet."))
    if len(text) > LONGEST_NOTE or len(working) > LONGEST_NOTE:
        raise Declined(422, Problem("text", f"A note of up to {LONGEST_NOTE:,} letters, please."))
    return LogNote.objects.create(
        pk=id or uuid4(), trial=trial, text=text.strip(), working=working.strip(), by=user, at=at or timezone.now()
    )


def skip_checkpoint(trial: Trial, user: User, checkpoint: str, reason: str, *, at: datetime | None = None) -> Deviation:
    """Decide not to take the look ``checkpoint`` (key), for a ``reason``.  What is scored on it all the same still counts."""
    if trial.state in ("draft", "opened"):
        raise Declined(409, "Looks are skipped between the seal and the opening of the key.")
    if checkpoint not in {c.key for c in plan_of(trial).checkpoints}:
        raise missing()
    said = given_reason(reason, "Say why it is skipped; the verdict will tell it.")
    if (trial.pk, checkpoint) in skipped_checkpoints([trial]):
        raise Declined(409, "This look is skipped already.")
    return deviate(
        trial=trial,
        about=checkpoint,
        kind=DeviationKind.SKIPPED,
        reason=said,
        by=user,
        at=at or timezone.now(),
    )


def move_aside(
    trial: Trial, user: User, code: str, reason: str, *, back: bool = False, at: datetime | None = None
) -> Deviation:
    """Set the sample with ``code`` aside, so that the verdict is told with and without it; or put it back."""
    if trial.state == "draft":
        raise Declined(409, "There are no samples yet: seal the plan first.")
    sample = Sample.objects.filter(trial=trial, code=code.strip()).first()
    if sample is None:
        raise Declined(422, Problem("code", f"There is no sample {code.strip() or 'without a code'} in this trial."))
    said = given_reason(reason, "Say what happened; the verdict will tell it.")
    if (sample.pk in out_of_play(trial)) != back:
        raise Declined(
            409,
            Problem("code", f"Sample {sample.code} is {'not ' if back else ''}set aside{'' if back else ' already'}."),
        )
    return deviate(
        trial=trial,
        sample=sample,
        kind=DeviationKind.PUT_BACK if back else DeviationKind.SET_ASIDE,
        reason=said,
        by=user,
        at=at or timezone.now(),
        after_key=trial.opened_at is not None,
    )
