"""Photos dropped in a heap: kept, their tags read by the worker, dealt to samples and looks, filed or thrown out."""

from __future__ import annotations

import hashlib
import io
import logging
import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from uuid import UUID
from zoneinfo import ZoneInfo

from django.db import transaction
from django.db.models import Max, QuerySet
from django.utils import timezone
from django_tasks import task
from PIL import Image

from fieldtally.core.blinding.checking import check_letter
from fieldtally.core.photos.dealing import BOARD, Dealt, Dropped, Shift, Window, dealt, shifts_of
from fieldtally.core.photos.light import Light
from fieldtally.core.photos.reading_tags import WIDEST, DigitReader, squares_in
from fieldtally.core.photos.tags import Sample as Tagged
from fieldtally.core.photos.tags import Word, clock_in, named
from fieldtally.core.problems import Problem
from fieldtally.core.schedule.standing import Times, cycle_times, times_of
from fieldtally.server.answers import Declined, missing
from fieldtally.server.hosting.store import Away
from fieldtally.server.measuring import gauging
from fieldtally.server.measuring.models import Photo, TrayPhoto
from fieldtally.server.measuring.photos import MOST_PHOTOS, Shown, keep_photo
from fieldtally.server.measuring.pictures import Picture, opened_large, picture_in, taken_in
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import checkpoints_of, plan_of
from fieldtally.server.prepare.queries import cycles_by_trial, started_samples
from fieldtally.server.rounds.queries import current_readings

log = logging.getLogger(__name__)
AT_A_TIME = 20
"""So many photos are read before other work of the worker has its turn."""
MOST_THREADS = 4
"""So many processors, at most, read one photo."""
STORE_BACK = timedelta(minutes=1)
"""Where photos lie in a store that does not answer, they are read this much later."""
MOST_FILED = 200
"""So many are filed by one request, all of them or none."""


@dataclass(frozen=True)
class Tray:
    """The photos of a person that wait: where each belongs, how far cameras are off, and how many are not read yet."""

    rows: Mapping[UUID, TrayPhoto]
    dealt: Sequence[Dealt]
    shifts: Sequence[Shift]
    unread: int


def open_rows(trial: Trial, user: User) -> QuerySet[TrayPhoto]:
    """What waits in the tray of ``user``."""
    return TrayPhoto.objects.filter(trial=trial, by=user, ended_at=None)


def known(trial: Trial, user: User, digests: Iterable[str]) -> list[str]:
    """Of these files (SHA-256) those that were dropped here before, whatever became of them."""
    rows = TrayPhoto.objects.filter(trial=trial, by=user, digest__in=list(digests))
    return list(rows.values_list("digest", flat=True))


def drop(
    trial: Trial, user: User, pk: UUID, sent: bytes, copied_at: datetime | None, *, at: datetime | None = None
) -> TrayPhoto | None:
    """Take a photo into the tray; None where the same file was dropped before.

    :raises Declined: 409 where the trial is in no state for photos or the id is taken; 422 where it is no picture, or the tray is full.
    """
    now = at or timezone.now()
    if trial.state in ("draft", "opened"):
        raise Declined(409, "Photos of samples are taken between the seal and the opening of the key.")
    digest = hashlib.sha256(sent).hexdigest()
    found = TrayPhoto.objects.filter(pk=pk).first()
    if found is not None:
        if (found.trial_id, found.by_id, found.digest) != (trial.pk, user.pk, digest):
            raise Declined(409, "This picture carries an id that is taken; it was not stored.")
        return found
    if known(trial, user, [digest]):
        return None
    if open_rows(trial, user).count() >= MOST_PHOTOS:
        raise Declined(422, Problem("file", f"The tray holds up to {MOST_PHOTOS:,} photos: file some of them first."))
    picture = picture_in(sent)
    told = taken_in(sent, ZoneInfo(plan_of(trial).zone))
    squares = squares_in(opened_large(sent, WIDEST))
    with transaction.atomic():
        row, _ = TrayPhoto.objects.get_or_create(
            trial=trial,
            by=user,
            digest=digest,
            defaults={
                "id": pk,
                "width": picture.width,
                "height": picture.height,
                "brightness": picture.light.brightness,
                "tint": [picture.light.red, picture.light.blue],
                "full": picture.full,
                "small": picture.small,
                "taken_at": told.at or copied_at,
                "copied": told.at is None and copied_at is not None,
                "camera": told.camera,
                "squares": squares,
                "shows_at": clock_in(squares),
                "stored_at": now,
            },
        )
        transaction.on_commit(lambda: read_tags.enqueue(str(trial.pk), user.pk))
    return row if row.pk == pk else None


@task(priority=-10)
def read_tags(trial_id: str, user_id: int) -> None:
    """Read the digits in photos of a tray that were not read yet: some of them, and then the next when other work is done."""
    waiting = TrayPhoto.objects.filter(trial=UUID(trial_id), by=user_id, ended_at=None, read_at=None)
    some = list(waiting.values_list("pk", flat=True)[:AT_A_TIME])
    if not some:
        return
    reader = DigitReader(min(MOST_THREADS, os.cpu_count() or 1))
    for pk in some:
        row = TrayPhoto.objects.filter(pk=pk, ended_at=None, read_at=None).only("full", "squares").first()
        if row is None:
            continue
        try:
            with Image.open(io.BytesIO(bytes(row.full))) as picture:
                words = reader.words_in(picture, again=not row.squares)
        except Away:
            # It stays unread until their store answers again.
            read_tags.using(run_after=timezone.now() + STORE_BACK).enqueue(trial_id, user_id)
            return
        except Exception:
            # One picture that cannot be read keeps no other waiting: it is dealt by hand.
            log.exception("The digits in a photo could not be read")
            words = []
        told = [[word.text[:40], round(word.sure, 3)] for word in words[:60]]
        TrayPhoto.objects.filter(pk=pk).update(words=told, read_at=timezone.now())
    if waiting.exists():
        read_tags.enqueue(trial_id, user_id)


def tray_of(trial: Trial, user: User, *, at: datetime | None = None) -> Tray:
    """What waits in the tray of ``user``, dealt."""
    rows = {row.pk: row for row in open_rows(trial, user).select_related("sample", "checkpoint").defer("full", "small")}
    samples = {str(s.pk): s for s in Sample.objects.filter(trial=trial)}
    tagged = {pk: Tagged(s.code, check_letter(s.code, str(trial.pk))) for pk, s in samples.items()}
    others = _elsewhere(trial, user) if rows else frozenset()
    dropped = [_dropped(row, tagged, others) for row in rows.values()]
    now = at or timezone.now()
    found = [
        # Another tag may still be found in what was not read yet.
        replace(one, sure=False) if _unread(rows[UUID(one.key)]) else one
        for one in dealt(dropped, _windows(trial, list(samples.values())) if rows else {}, now)
    ]
    return Tray(rows, found, tuple(shifts_of(dropped).values()), sum(row.read_at is None for row in rows.values()))


def _unread(row: TrayPhoto) -> bool:
    return row.read_at is None and row.sample_id is None and not row.board


def _elsewhere(trial: Trial, user: User) -> frozenset[str]:
    """Codes of samples in other trials under way in which ``user`` takes part: their tags lie about too."""
    others = Sample.objects.filter(trial__memberships__user=user, trial__opened_at=None).exclude(trial=trial)
    return frozenset(others.values_list("code", flat=True).distinct())


def _dropped(row: TrayPhoto, samples: Mapping[str, Tagged], elsewhere: frozenset[str]) -> Dropped:
    return Dropped(
        key=str(row.pk),
        named=named(row.squares, [Word(text, sure) for text, sure in row.words], samples, elsewhere),
        taken=row.taken_at,
        copied=row.copied,
        camera=row.camera,
        clock=row.shows_at,
        code=BOARD if row.board else row.sample.code if row.sample else "",
        look=row.checkpoint.key if row.checkpoint else "",
    )


def _windows(trial: Trial, samples: Sequence[Sample]) -> dict[str, list[Window]]:
    """When each sample (by code; the board too) is and was looked at."""
    plan, starts = plan_of(trial), started_samples(trial)
    cycles = cycles_by_trial([trial]).get(trial.pk, ())
    rows = current_readings(trial).filter(repeat=None).values_list("sample_id", "round__checkpoint__key")
    scored = {(sample, key): last for sample, key, last in rows.annotate(last=Max("taken_at")).order_by()}
    by_start: dict[datetime, dict[str, Times]] = {}

    def times(start: datetime | None) -> dict[str, Times]:
        if start is None:
            return {}
        if start not in by_start:
            found = times_of(plan, start, timedelta(0))
            turned = {c.key: cycle_times(c, cycles) for c in plan.checkpoints if c.cycle is not None}
            by_start[start] = {**found, **{key: one for key, one in turned.items() if one is not None}}
        return by_start[start]

    def windows(start: datetime | None, last: Callable[[str], datetime | None]) -> list[Window]:
        own, found = times(start), []
        for checkpoint in plan.checkpoints:
            planned, at = own.get(checkpoint.key), last(checkpoint.key)
            if planned is not None:
                found.append(Window(checkpoint.key, planned.opens, planned.closes, at))
            elif at is not None:
                found.append(Window(checkpoint.key, at, at, at))
        return found

    def of(sample: Sample) -> Callable[[str], datetime | None]:
        return lambda key: scored.get((sample.pk, key))

    by_code = {sample.code: windows(starts.get(sample.pk), of(sample)) for sample in samples}
    return by_code | {BOARD: windows(trial.started_at, lambda key: None)}


def say(
    trial: Trial,
    user: User,
    photos: Sequence[UUID],
    *,
    code: str = "",
    checkpoint: str = "",
    clock: datetime | None = None,
) -> None:
    """Say of these ``photos`` which sample (``code``; ``-``: the whole board), look (key) or moment (by the clock in it) they show.

    :raises Declined: 404 where one of them is not there; 422 where there is no such sample or look.
    """
    rows = list(_mine(trial, user, photos).only("pk", "taken_at"))
    said: dict[str, object] = {}
    if code:
        sample = None if code == BOARD else Sample.objects.filter(trial=trial, code=code).first()
        if code != BOARD and sample is None:
            raise Declined(422, Problem("code", f"There is no sample {code} in this trial."))
        said |= {"sample": sample, "board": code == BOARD}
    if checkpoint:
        look = checkpoints_of(trial).get(checkpoint)
        if look is None:
            raise Declined(422, Problem("checkpoint", "There is no such look in this trial."))
        said["checkpoint_id"] = look
    if clock is not None:
        if len(rows) != 1 or rows[0].taken_at is None:
            raise Declined(
                422, Problem("clock", "Only one photo at a time shows a clock, and its file has to tell a moment.")
            )
        if clock > timezone.now():
            raise Declined(422, Problem("clock", "This moment is still to come."))
        said["shows_at"] = clock
    if said:
        TrayPhoto.objects.filter(pk__in=[row.pk for row in rows]).update(**said)


def _mine(trial: Trial, user: User, photos: Sequence[UUID]) -> QuerySet[TrayPhoto]:
    found = open_rows(trial, user).filter(pk__in=photos)
    if found.count() != len(set(photos)):
        raise missing()
    return found


def file_photos(trial: Trial, user: User, photos: Sequence[UUID], *, at: datetime | None = None) -> int:
    """File these photos, all or none, each with its sample and look; those that only show a clock go, and may be dropped again.  How many
    were filed.

    :raises Declined: 404 where one is not there; 409 where one is not sure yet; 422 where there are too many.
    """
    now = at or timezone.now()
    if len(photos) > MOST_FILED:
        raise Declined(422, Problem("photos", f"Up to {MOST_FILED} photos at a time."))
    with transaction.atomic():
        rows = list(_mine(trial, user, photos).select_for_update(of=("self",)).order_by("pk"))
        ids = dict(Sample.objects.filter(trial=trial).values_list("code", "pk"))
        belongs = {one.key: one for one in tray_of(trial, user, at=now).dealt}
        filed = 0
        for row in rows:
            one = belongs[str(row.pk)]
            if one.clock:
                row.delete()
                continue
            if not one.sure:
                raise Declined(409, one.says or "Say first which sample and look it shows.")
            sample = None if one.code == BOARD else ids[one.code]
            light = Light(row.brightness, *row.tint)
            picture = Picture(bytes(row.full), bytes(row.small), row.width, row.height, light)
            shown = Shown(one.look, sample)
            photo = keep_photo(trial, user, row.pk, shown, picture, taken_at=one.taken or row.stored_at, at=now)
            # Its file stays known, and is not taken twice.
            TrayPhoto.objects.filter(pk=row.pk).update(full=b"", small=b"", ended_at=now, photo=photo)
            filed += 1
    return filed


def measure_filed(trial: Trial, user: User, photos: Sequence[UUID]) -> None:
    """Let the gauge run over the looks of these filed photos, with each recipe that was settled before."""
    looks = (
        Photo.objects.filter(pk__in=photos, trial=trial).exclude(sample=None).values_list("checkpoint__key", flat=True)
    )
    for outcome in plan_of(trial).outcomes:
        recipe = gauging.recipe_of(trial, outcome.key)
        if recipe is None:
            continue
        for look in sorted(set(looks)):
            gauging.begin_run(recipe, user, str(look), beside=True)


def throw_out(trial: Trial, user: User, photos: Sequence[UUID]) -> None:
    """Throw photos out of the tray; they may be dropped again.

    :raises Declined: 404 where one is not there.
    """
    _mine(trial, user, photos).delete()
