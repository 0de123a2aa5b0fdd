"""Practising to grade: sets drawn, pictures shown, answers locked, and who has shown that they are ready."""

from __future__ import annotations

import io
import secrets
from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from uuid import UUID

import numpy as np
from django.db import transaction
from django.utils import timezone
from django_tasks import task
from PIL import Image, ImageOps

from fieldtally.core.design.plan import Outcome
from fieldtally.core.photos.camera import Shot
from fieldtally.core.photos.colour import Pixels
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.scales import Scale
from fieldtally.core.training.gauged import gauged_value
from fieldtally.core.training.learning import KEPT_DAYS, Given, Learned, learned
from fieldtally.core.training.sets import Item, Kind, drawn_set, kind_for, picture_of
from fieldtally.server.answers import Declined, missing
from fieldtally.server.measuring.models import Photo, PhotoFile
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.rounds.readiness import ready_until
from fieldtally.server.training.models import Readiness, TrainingAnswer, TrainingSet

MOST_SETS = 200
NOT_AGAIN_FOR = timedelta(days=30)
"""A photo is no practice for who remembers it."""
SHOWN_WIDTH = Shot().width // 2
SEED = 11


def outcome_in(trial: Trial, key: str) -> Outcome:
    """The outcome of that key.

    :raises Declined: 404 where there is none.
    """
    found = next((o for o in plan_of(trial).outcomes if o.key == key), None)
    if found is None:
        raise missing()
    return found


def anchors_of(trial: Trial, outcome: str) -> dict[UUID, float]:
    """The level of each photo that shows what a level of the outcome (key) means."""
    rows = Photo.objects.filter(trial=trial, outcome=outcome, gone=False, level__isnull=False)
    return {pk: level for pk, level in rows.values_list("pk", "level") if level is not None}


def practice_kind(trial: Trial, outcome: Outcome) -> Kind | None:
    """How an outcome is practised in this trial; None where it cannot be yet."""
    return kind_for(outcome.scale, list(anchors_of(trial, outcome.key).values()))


def begin_set(
    trial: Trial, user: User, key: str, *, at: datetime | None = None, seed: int | None = None
) -> TrainingSet:
    """Draw a set, or go on with the one that is not finished.

    :raises Declined: 404 where there is no such outcome; 409 where too many are kept; 422 where it cannot be practised yet.
    """
    outcome = outcome_in(trial, key)
    going = TrainingSet.objects.filter(trial=trial, by=user, outcome=key, ended_at=None).first()
    if going is not None:
        return going
    if TrainingSet.objects.filter(trial=trial, by=user).count() >= MOST_SETS:
        raise Declined(409, f"Up to {MOST_SETS} sets are kept in a trial.")
    rng = np.random.default_rng(seed if seed is not None else secrets.randbits(64))
    now = at or timezone.now()
    anchors = anchors_of(trial, key)
    lately = _seen_lately(trial, user, key, now)
    photos = {str(pk): level for pk, level in anchors.items() if pk not in lately}
    if kind_for(outcome.scale, list(anchors.values())) == "photos" != kind_for(outcome.scale, list(photos.values())):
        free = _free_again(outcome.scale, anchors, lately)
        raise Declined(
            422,
            f"You have seen these photos within a month, and none is shown twice in one: more photos of the levels, or practise again from "
            f"{free:%-d %B} on.",
        )
    try:
        items = drawn_set(outcome.scale, rng, photos)
    except Refused as refused:
        raise Declined(422, *refused.problems) from refused
    with transaction.atomic():
        made = TrainingSet.objects.create(trial=trial, by=user, outcome=key, begun_at=now)
        TrainingAnswer.objects.bulk_create(
            TrainingAnswer(set=made, place=i, truth=item.truth, seed=item.seed, photo_id=item.photo or None)
            for i, item in enumerate(items)
        )
    return made


def _free_again(scale: Scale, anchors: Mapping[UUID, float], lately: Mapping[UUID, datetime]) -> datetime:
    """When so many of the photos were not seen for a month that they make a set."""
    for begun in sorted(lately.values()):
        free = [level for pk, level in anchors.items() if pk not in lately or lately[pk] <= begun]
        if kind_for(scale, free) == "photos":
            return begun + NOT_AGAIN_FOR
    return max(lately.values()) + NOT_AGAIN_FOR


def _seen_lately(trial: Trial, user: User, outcome: str, now: datetime) -> dict[UUID, datetime]:
    """The photos (ids) that were in this person's sets of an outcome within a month, and when last."""
    rows = TrainingAnswer.objects.filter(
        set__trial=trial, set__by=user, set__outcome=outcome, set__begun_at__gt=now - NOT_AGAIN_FOR, photo__isnull=False
    )
    return {
        pk: begun
        for pk, begun in rows.order_by("set__begun_at").values_list("photo_id", "set__begun_at")
        if pk is not None
    }


def own_set(user: User, pk: UUID) -> TrainingSet:
    """The set of that id, if it is the person's own.

    :raises Declined: 404 else.
    """
    found = TrainingSet.objects.select_related("trial").filter(pk=pk, by=user).first()
    if found is None:
        raise missing()
    return found


def picture(row: TrainingSet, place: int) -> bytes:
    """The picture of one thing of a set (JPEG).

    :raises Declined: 404 where there is none, or it was taken away.
    """
    one = row.answers.filter(place=place).first()
    if one is None:
        raise missing()
    if one.photo_id is None:
        return _jpeg(Image.fromarray(pixels_of(outcome_in(row.trial, row.outcome).scale, one)))
    kept = PhotoFile.objects.filter(photo=one.photo_id).first()
    if kept is None:
        raise missing()
    shown = Image.open(io.BytesIO(bytes(kept.full))).convert("RGB")
    shown.thumbnail((SHOWN_WIDTH, SHOWN_WIDTH))
    # Turned over now and then, so that not the picture is learned by heart but what is on it.
    return _jpeg(ImageOps.mirror(shown) if one.seed % 2 else shown)


def pixels_of(scale: Scale, one: TrainingAnswer) -> Pixels:
    """The rendered picture of one thing."""
    return picture_of(scale, Item(one.truth, one.seed), SHOWN_WIDTH)


def _jpeg(shown: Image.Image) -> bytes:
    written = io.BytesIO()
    shown.save(written, "JPEG", quality=85)
    return written.getvalue()


def answer(row: TrainingSet, place: int, given: float, *, at: datetime | None = None) -> None:
    """Give a grade to one thing of a set; it is locked then.  The last one ends the set, and may make its person ready.

    :raises Declined: 404 where there is no such thing; 409 where it is graded; 422 on a value that is not on the scale.
    """
    now = at or timezone.now()
    scale = outcome_in(row.trial, row.outcome).scale
    refusal = scale.refusal(given)
    if refusal:
        raise Declined(422, Problem("given", refusal))
    with transaction.atomic():
        one = row.answers.select_for_update().filter(place=place).first()
        if one is None:
            raise missing()
        if one.given is not None:
            raise Declined(409, "A grade, once given, is locked.")
        one.given, one.answered_at = given, now
        one.save(update_fields=["given", "answered_at"])
        if not row.answers.filter(given=None).exists():
            TrainingSet.objects.filter(pk=row.pk).update(ended_at=now)
            _see_who_is_ready(row, now)
            transaction.on_commit(lambda: gauge_set.enqueue(str(row.pk)))


def _see_who_is_ready(row: TrainingSet, now: datetime) -> None:
    found = learned_of(row.trial, row.by, row.outcome)
    taken_back = found is not None and found.taken_back and ready_until(row.trial, row.by, row.outcome, now) is not None
    if found is None or not (found.ready or taken_back):
        return
    last = found.sets[-1]
    until = now if taken_back else now + timedelta(days=KEPT_DAYS)
    Readiness.objects.create(
        trial=row.trial,
        outcome=row.outcome,
        by=row.by,
        off=last.off,
        bias=found.bias,
        sets=len(found.sets),
        at=now,
        until=until,
    )


@task(priority=-10)
def gauge_set(set_id: str) -> None:
    """Let the photo gauge read the pictures of a finished set, for the duel with the eye."""
    row = TrainingSet.objects.select_related("trial").filter(pk=set_id).first()
    if row is None:
        return
    scale = outcome_in(row.trial, row.outcome).scale
    read = list(row.answers.filter(photo=None, gauged=None))
    for one in read:
        one.gauged = gauged_value(scale, Item(one.truth, one.seed), pixels_of(scale, one))
    # All at once: a duel over the first few would be told as if it were the whole.
    TrainingAnswer.objects.bulk_update(read, ["gauged"])


def answers_of(trial: Trial, outcome: str, users: Iterable[User] | None = None) -> dict[int, list[Given]]:
    """What was given in finished sets, by person (id); sets are numbered from 1 for each."""
    rows = TrainingAnswer.objects.filter(set__trial=trial, set__outcome=outcome, set__ended_at__isnull=False)
    if users is not None:
        rows = rows.filter(set__by__in=list(users))
    found: dict[int, list[Given]] = {}
    numbers: dict[int, dict[UUID, int]] = {}
    for one in rows.select_related("set").order_by("set__begun_at", "set__pk", "place"):
        own = numbers.setdefault(one.set.by_id, {})
        number = own.setdefault(one.set_id, len(own) + 1)
        found.setdefault(one.set.by_id, []).append(Given(one.truth, float(one.given or 0.0), number, one.place))
    return found


def learned_of(trial: Trial, user: User, outcome: str) -> Learned | None:
    """What a person's sets tell so far; None before the first is finished."""
    own = answers_of(trial, outcome, [user]).get(user.pk)
    return None if not own else learned(outcome_in(trial, outcome).scale, own, np.random.default_rng(SEED))
