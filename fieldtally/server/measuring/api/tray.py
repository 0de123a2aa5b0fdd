"""Photos that file themselves: dropped in a heap, dealt, filed."""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated
from uuid import UUID

from django.http import HttpResponse
from django.utils import timezone
from ninja import File, Form, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import AwareDatetime, Field

from fieldtally.core.photos.dealing import Dealt
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, ProblemsOut, missing
from fieldtally.server.hosting.store import answered
from fieldtally.server.measuring import tray
from fieldtally.server.measuring.models import TrayPhoto
from fieldtally.server.measuring.pictures import LARGEST_FILE
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.printing import qr_picture

router = Router()
Digest = Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


class DealtOut(Schema):
    """A photo in the tray: the sample (``code``; ``-``: the whole board) and look (key) that it shows as far as they are known, whether
    that is ``sure``, else what is asked (``says``) and what it may be; when it was ``taken``, by a clock put right; ``clock``: it only
    shows one; ``read``: its tag was looked for; ``group``: photos of one number were taken close after each other."""

    id: UUID
    code: str
    checkpoint: str
    sure: bool
    says: str
    taken_at: datetime | None
    clock: bool
    read: bool
    group: int
    may_be: Sequence[str]
    may_look: Sequence[str]
    width: int
    height: int


class ShiftOut(Schema):
    """How far a camera's clock is behind (negative: ahead), seconds, by its photo of a clock; ``says`` what is wrong with it."""

    seconds: float
    photos: int
    says: str


class TrayOut(Schema):
    """What waits in one's own tray; ``unread``: so many tags are not looked for yet."""

    photos: Sequence[DealtOut]
    shifts: Sequence[ShiftOut]
    unread: int


class DroppedOut(Schema):
    """Whether the photo lies in the tray now, or the same file was dropped before (``twice``)."""

    twice: bool


def _seen(request: SignedIn, trial_id: UUID) -> Sight:
    seen = sight(request, trial_id)
    seen.need("send_photo")
    return seen


def _dealt(one: Dealt, row: TrayPhoto) -> DealtOut:
    return DealtOut(
        id=row.pk,
        code=one.code,
        checkpoint=one.look,
        sure=one.sure,
        says=one.says if row.read_at else "",
        taken_at=one.taken,
        clock=one.clock,
        read=row.read_at is not None,
        group=one.group,
        may_be=one.may_be,
        may_look=one.may_look,
        width=row.width,
        height=row.height,
    )


@router.get("/trials/{trial_id}/tray", response={200: TrayOut, 403: ProblemsOut, 404: ProblemsOut})
def shown(request: SignedIn, trial_id: UUID) -> TrayOut:
    """What waits in one's own tray, in the order it was taken."""
    seen = _seen(request, trial_id)
    found = tray.tray_of(seen.trial, request.user)
    cameras = [row.camera for row in found.rows.values()]
    return TrayOut(
        photos=[_dealt(one, found.rows[UUID(one.key)]) for one in found.dealt],
        shifts=[
            ShiftOut(seconds=one.by.total_seconds(), photos=cameras.count(one.camera), says=one.says)
            for one in found.shifts
        ],
        unread=found.unread,
    )


class FilesAsked(Schema):
    """SHA-256 of files, in hexadecimal."""

    digests: Annotated[list[Digest], Field(max_length=500)]


class FilesKnown(Schema):
    """Those that were dropped before."""

    digests: Sequence[str]


@router.post("/trials/{trial_id}/tray/known", response={200: FilesKnown, 403: ProblemsOut, 404: ProblemsOut})
def known(request: SignedIn, trial_id: UUID, body: FilesAsked) -> FilesKnown:
    """Which files need not be sent: they were dropped here before."""
    seen = _seen(request, trial_id)
    return FilesKnown(digests=tray.known(seen.trial, request.user, body.digests))


class DropIn(Schema):
    """``id`` is made by the device that sends it; ``copied_at``: the moment of the file itself."""

    id: UUID
    copied_at: AwareDatetime | None = None


@router.post(
    "/trials/{trial_id}/tray",
    response={
        200: DroppedOut,
        403: ProblemsOut,
        404: ProblemsOut,
        409: ProblemsOut,
        413: ProblemsOut,
        422: ProblemsOut,
    },
)
def drop(request: SignedIn, trial_id: UUID, told: Form[DropIn], file: File[UploadedFile]) -> DroppedOut:
    """Drop a photo: checked and made anew like any other; the worker looks for its tag."""
    seen = _seen(request, trial_id)
    if (file.size or 0) > LARGEST_FILE:
        raise Declined(413, Problem("file", "This file is larger than 25 MB; take it smaller."))
    return DroppedOut(twice=tray.drop(seen.trial, request.user, told.id, file.read(), told.copied_at) is None)


class SayIn(Schema):
    """What is said of photos: their sample (``code``; ``-``: the whole board), look (key), the moment that a clock in one shows."""

    photos: Annotated[list[UUID], Field(min_length=1, max_length=500)]
    code: str = ""
    checkpoint: str = ""
    clock: AwareDatetime | None = None


@router.post("/trials/{trial_id}/tray/say", response={204: None, 403: ProblemsOut, 404: ProblemsOut, 422: ProblemsOut})
def say(request: SignedIn, trial_id: UUID, body: SayIn) -> Status[None]:
    """Deal photos by hand."""
    seen = _seen(request, trial_id)
    tray.say(
        seen.trial, request.user, body.photos, code=body.code.strip(), checkpoint=body.checkpoint, clock=body.clock
    )
    return Status(204, None)


class ThoseIn(Schema):
    """Photos of the tray."""

    photos: Annotated[list[UUID], Field(min_length=1, max_length=500)]


class FiledOut(Schema):
    """How many were filed."""

    filed: int


@router.post(
    "/trials/{trial_id}/tray/file",
    response={200: FiledOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def file_those(request: SignedIn, trial_id: UUID, body: ThoseIn) -> FiledOut:
    """File photos with their samples and looks: all of these, or none."""
    seen = _seen(request, trial_id)
    filed = tray.file_photos(seen.trial, request.user, body.photos)
    if seen.may("gauge"):
        tray.measure_filed(seen.trial, request.user, body.photos)
    return FiledOut(filed=filed)


@router.post("/trials/{trial_id}/tray/out", response={204: None, 403: ProblemsOut, 404: ProblemsOut})
def throw_out(request: SignedIn, trial_id: UUID, body: ThoseIn) -> Status[None]:
    """Throw photos out of one's own tray."""
    seen = _seen(request, trial_id)
    tray.throw_out(seen.trial, request.user, body.photos)
    return Status(204, None)


@router.get("/tray/{photo_id}.jpg", response={200: None, 403: ProblemsOut, 404: ProblemsOut})
def picture(request: SignedIn, photo_id: UUID, small: bool = False) -> HttpResponse:
    """A picture in one's own tray."""
    row = TrayPhoto.objects.filter(pk=photo_id, by=request.user, ended_at=None).first()
    if row is None:
        raise missing()
    _seen(request, row.trial_id)
    return answered(row.small if small else row.full, "image/jpeg", "photo.jpg", cache="private, max-age=3600")


@router.get("/time-code.svg", response={200: None})
def time_code(request: SignedIn) -> HttpResponse:
    """The time of this moment as a square to be photographed: it puts a camera's clock right."""
    told = f"{timezone.now():%Y-%m-%dT%H:%M:%SZ}"
    answer = HttpResponse(qr_picture(request.build_absolute_uri(f"/now/{told}")), content_type="image/svg+xml")
    answer["Cache-Control"] = "no-store"
    return answer
