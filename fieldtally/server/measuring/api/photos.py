"""Photos: sent, listed, looked at, compared."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from django.http import HttpResponse
from ninja import File, Form, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import AwareDatetime

from fieldtally.core.photos.light import Light, plainly_different
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, ProblemsOut, missing
from fieldtally.server.hosting.store import answered
from fieldtally.server.measuring.models import Photo, PhotoFile
from fieldtally.server.measuring.photos import Shown, keep_photo, take_away
from fieldtally.server.measuring.pictures import LARGEST_FILE, picture_in
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of

router = Router()
FOR_A_DAY = "private, max-age=86400, immutable"


class PhotoOut(Schema):
    """A photo: what it shows, its size in pixels, by whom and when; ``mine``: it may be taken away by who asks."""

    id: UUID
    checkpoint: str
    sample: UUID | None
    code: str
    outcome: str
    level: float | None
    note: UUID | None
    caption: str
    width: int
    height: int
    by: str
    taken_at: datetime
    mine: bool


class PhotosOut(Schema):
    """All photos of a trial, in the order they came."""

    photos: Sequence[PhotoOut]


def _looks(seen: Sight) -> bool:
    return seen.may("see_photos")


def photo_out(seen: Sight, photo: Photo, names: list[str], user: int) -> PhotoOut:
    """A photo as it is told; its sample and checkpoint are read along."""
    return PhotoOut(
        id=photo.pk,
        checkpoint=photo.checkpoint.key if photo.checkpoint else "",
        sample=photo.sample_id,
        code=photo.sample.code if photo.sample else "",
        outcome=photo.outcome,
        level=photo.level,
        note=photo.note_id,
        caption=seen.spoken(photo.caption, names),
        width=photo.width,
        height=photo.height,
        by=photo.by.called,
        taken_at=photo.taken_at,
        mine=seen.may("remove_any_photo") or photo.by_id == user,
    )


@router.get("/trials/{trial_id}/photos", response={200: PhotosOut, 403: ProblemsOut, 404: ProblemsOut})
def photos(request: SignedIn, trial_id: UUID) -> PhotosOut:
    """Every photo of the trial, by code."""
    seen = sight(request, trial_id)
    seen.need("see_photos")
    names = plan_of(seen.trial).telling_names
    rows = Photo.objects.filter(trial=seen.trial, gone=False).select_related("checkpoint", "sample", "by")
    return PhotosOut(photos=[photo_out(seen, row, names, request.user.pk) for row in rows])


class PhotoIn(Schema):
    """What the picture shows; ``id`` is made by the device that sends it."""

    id: UUID
    taken_at: AwareDatetime
    checkpoint: str = ""
    sample: UUID | None = None
    outcome: str = ""
    level: float | None = None
    note: UUID | None = None
    caption: str = ""


@router.post(
    "/trials/{trial_id}/photos",
    response={200: PhotoOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 413: ProblemsOut, 422: ProblemsOut},
)
def send(request: SignedIn, trial_id: UUID, shown: Form[PhotoIn], file: File[UploadedFile]) -> PhotoOut:
    """Keep a picture: checked, turned upright, bounded, and without where, when and with what it was taken."""
    seen = sight(request, trial_id)
    if shown.outcome:
        seen.need("anchor_level")
    seen.need("send_photo")
    if (file.size or 0) > LARGEST_FILE:
        raise Declined(413, Problem("file", "This file is larger than 25 MB; take it smaller."))
    picture = picture_in(file.read())
    seen.hear(plan_of(seen.trial).telling_names, caption=shown.caption)
    what = Shown(shown.checkpoint, shown.sample, shown.outcome, shown.level, shown.note, shown.caption)
    photo = keep_photo(seen.trial, request.user, shown.id, what, picture, taken_at=shown.taken_at)
    return photo_out(seen, photo, plan_of(seen.trial).telling_names, request.user.pk)


class AwayIn(Schema):
    """Why."""

    reason: str


def _photo(request: SignedIn, photo_id: UUID) -> tuple[Sight, Photo]:
    photo = Photo.objects.filter(pk=photo_id, gone=False).select_related("sample", "checkpoint", "trial").first()
    if photo is None:
        raise missing()
    return sight(request, photo.trial_id), photo


@router.post(
    "/photos/{photo_id}/away",
    response={204: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def away(request: SignedIn, photo_id: UUID, body: AwayIn) -> Status[None]:
    """Take a photo away; the log says so."""
    seen, photo = _photo(request, photo_id)
    seen.need("see_photos")
    if photo.by_id != request.user.pk:
        seen.need("remove_any_photo")
    seen.hear(plan_of(seen.trial).telling_names, reason=body.reason)
    take_away(seen.trial, request.user, photo, body.reason)
    return Status(204, None)


@router.get("/photos/{photo_id}.jpg", response={200: None, 403: ProblemsOut, 404: ProblemsOut})
def picture(request: SignedIn, photo_id: UUID, small: bool = False) -> HttpResponse:
    """The picture itself, or the ``small`` one.  Its name says nothing."""
    seen, photo = _photo(request, photo_id)
    seen.need("see_photos")
    kept = PhotoFile.objects.filter(photo=photo).only("small" if small else "full").first()
    if kept is None:
        raise missing()
    return answered(kept.small if small else kept.full, "image/jpeg", "photo.jpg", cache=FOR_A_DAY)


class CompareOut(Schema):
    """What stands in the way of comparing two photos by eye; empty where nothing does."""

    says: str


@router.get("/photos/{photo_id}/against/{other_id}", response={200: CompareOut, 403: ProblemsOut, 404: ProblemsOut})
def against(request: SignedIn, photo_id: UUID, other_id: UUID) -> CompareOut:
    """Whether two photos were taken in light alike enough to compare them."""
    (seen, one), (also, other) = _photo(request, photo_id), _photo(request, other_id)
    seen.need("see_photos")
    also.need("see_photos")
    lights = [Light(photo.brightness, *photo.tint) for photo in (one, other)]
    return CompareOut(says=plainly_different(*lights))
