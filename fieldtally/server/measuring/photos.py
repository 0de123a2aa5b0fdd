"""Keeping photos, and taking them away again."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from fieldtally.core.problems import Problem
from fieldtally.core.scales import GradeScale, PassFailScale, ShadeScale
from fieldtally.server.answers import Declined, missing
from fieldtally.server.log.models import LogNote
from fieldtally.server.log.reasons import given_reason
from fieldtally.server.log.services import write_note
from fieldtally.server.measuring import gauging
from fieldtally.server.measuring.models import Photo, PhotoFile
from fieldtally.server.measuring.pictures import Picture
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import checkpoints_of, plan_of

LONGEST_CAPTION = 200
MOST_PHOTOS = 5_000


@dataclass(frozen=True)
class Shown:
    """What a photo shows: a sample (id; None: the whole board) at a checkpoint (key), what a ``level`` of an outcome (key) means, or
    what a note (id) of the log tells."""

    checkpoint: str = ""
    sample: UUID | None = None
    outcome: str = ""
    level: float | None = None
    note: UUID | None = None
    caption: str = ""


def keep_photo(
    trial: Trial,
    user: User,
    pk: UUID,
    shown: Shown,
    picture: Picture,
    *,
    taken_at: datetime,
    at: datetime | None = None,
) -> Photo:
    """Keep a picture, once however often it is sent under its id ``pk``.

    :raises Declined: 404 where there is no such sample, checkpoint, outcome or note; 409 where the trial is in no state for it; 422 where
        it shows nothing, or there are too many.
    """
    now = at or timezone.now()
    found = Photo.objects.filter(pk=pk).first()
    if found is not None:
        if found.trial_id != trial.pk or found.by_id != user.pk:
            raise Declined(409, "This picture carries an id that is taken; it was not stored.")
        return found
    if len(shown.caption) > LONGEST_CAPTION:
        raise Declined(422, Problem("caption", f"A caption of up to {LONGEST_CAPTION} letters, please."))
    if Photo.objects.filter(trial=trial, gone=False).count() >= MOST_PHOTOS:
        raise Declined(422, Problem("file", f"A trial keeps up to {MOST_PHOTOS:,} photos."))
    place = _place(trial, shown)
    with transaction.atomic():
        photo = Photo.objects.create(
            id=pk,
            trial=trial,
            caption=shown.caption.strip(),
            width=picture.width,
            height=picture.height,
            brightness=picture.light.brightness,
            tint=[picture.light.red, picture.light.blue],
            by=user,
            taken_at=min(max(taken_at, min(trial.created_at, trial.first_moment or now)), now),
            stored_at=now,
            **place,
        )
        PhotoFile.objects.create(photo=photo, full=picture.full, small=picture.small)
    return photo


def _place(trial: Trial, shown: Shown) -> dict[str, object]:
    if shown.outcome:
        outcome = next((o for o in plan_of(trial).outcomes if o.key == shown.outcome), None)
        if outcome is None:
            raise missing()
        if not isinstance(outcome.scale, GradeScale | PassFailScale | ShadeScale):
            raise Declined(422, Problem("outcome", "Only the levels of a scale have photos to compare with."))
        refusal = "Say which level it shows." if shown.level is None else outcome.scale.refusal(shown.level)
        if refusal:
            raise Declined(422, Problem("level", refusal))
        return {"outcome": shown.outcome, "level": shown.level}
    if shown.note is not None:
        note = LogNote.objects.filter(trial=trial, pk=shown.note).first()
        if note is None:
            raise missing()
        return {"note": note}
    if not shown.checkpoint:
        raise Declined(422, Problem("checkpoint", "Say at which look it was taken."))
    if trial.state in ("draft", "opened"):
        raise Declined(409, "Photos of samples are taken between the seal and the opening of the key.")
    checkpoint = checkpoints_of(trial).get(shown.checkpoint)
    if checkpoint is None:
        raise missing()
    if shown.sample is not None and not Sample.objects.filter(trial=trial, pk=shown.sample).exists():
        raise missing()
    return {"checkpoint_id": checkpoint, "sample_id": shown.sample}


def take_away(trial: Trial, user: User, photo: Photo, reason: str, *, at: datetime | None = None) -> None:
    """Take a photo away for a ``reason``: its bytes go, and the log says that there was one."""
    said = given_reason(reason, "Say why it is taken away; the log will tell it.")
    of = f" of {photo.sample.code}" if photo.sample else ""
    when = f", {photo.checkpoint.key and _look(trial, photo.checkpoint.key)}" if photo.checkpoint else ""
    with transaction.atomic():
        PhotoFile.objects.filter(photo=photo).delete()
        Photo.objects.filter(pk=photo.pk).update(gone=True, caption="")
        back = gauging.withdraw_read_from(photo, said, at=at)
        gone = f" What was read from it was taken back ({back} reading{'s' if back > 1 else ''})." if back else ""
        write_note(trial, user, f"A photo{of}{when} was taken away: {said}{gone}", at=at)


def _look(trial: Trial, key: str) -> str:
    return next((c.name for c in plan_of(trial).checkpoints if c.key == key), "a look")
