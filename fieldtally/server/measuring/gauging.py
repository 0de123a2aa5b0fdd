"""The photo gauge at work: a recipe set on one photo, run over all photos of a look, and kept as readings."""

from __future__ import annotations

import io
import uuid
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, replace
from datetime import datetime
from functools import cached_property
from typing import Any
from uuid import UUID

import numpy as np
from django.db import transaction
from django.utils import timezone
from django_tasks import task
from PIL import Image
from pydantic import TypeAdapter
from scipy.ndimage import binary_erosion

from fieldtally.core.design.plan import Outcome
from fieldtally.core.limits import LONGEST_DEVICE, LONGEST_REASON
from fieldtally.core.photos.colour import Pixels, hex_of, lab_of, linear_of
from fieldtally.core.photos.finding import Found
from fieldtally.core.photos.fitting import doubt_of_mean, in_unit_of, mean_of, measures_for
from fieldtally.core.photos.gauge import Base, Measured, base_of, measure
from fieldtally.core.photos.lens import find_card
from fieldtally.core.photos.lit import lit_of
from fieldtally.core.photos.marks import Marks, carried_marks
from fieldtally.core.photos.matching import found_again
from fieldtally.core.photos.quality import Flag
from fieldtally.core.photos.recipe import Recipe
from fieldtally.core.photos.unlike import unlike_others
from fieldtally.core.problems import Problem
from fieldtally.core.rounds.written import Written
from fieldtally.core.scales import ShadeScale, honest
from fieldtally.server.answers import Declined, missing
from fieldtally.server.log.queries import out_of_play
from fieldtally.server.log.services import write_note
from fieldtally.server.measuring.models import GaugedReading, GaugeRecipe, GaugeRun, Gauging, Photo, PhotoFile
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.queries import checkpoints_of, outcomes_of, plan_of
from fieldtally.server.rounds import services, writing
from fieldtally.server.rounds.models import Reading

DEVICE = "photo gauge"
PICKED_REACH = 0.006
"""Radius of the circle whose colour is picked, as a share of the photo's width."""
recipes: TypeAdapter[Recipe] = TypeAdapter(Recipe)
marks_in: TypeAdapter[Marks] = TypeAdapter(Marks)


class Shown:
    """A photo on the bench: its pixels and its card, read once."""

    def __init__(self, photo: Photo) -> None:
        self.photo = photo

    @cached_property
    def pixels(self) -> Pixels:
        """The pixels (height, width, 3).

        :raises Declined: 404, the photo was taken away.
        """
        kept = PhotoFile.objects.filter(photo=self.photo).only("full").first()
        if kept is None:
            raise missing()
        return np.asarray(Image.open(io.BytesIO(bytes(kept.full))).convert("RGB"))

    @cached_property
    def card(self) -> Found | None:
        """The card in it, where it is to be seen."""
        return find_card(self.pixels)

    @property
    def size(self) -> tuple[int, int]:
        """Width and height."""
        return self.pixels.shape[1], self.pixels.shape[0]


def outcome_named(trial: Trial, key: str) -> Outcome:
    """The outcome of that key, where the gauge can measure it.

    :raises Declined: 404 where there is none; 422 where it has to be judged.
    """
    outcome = next((o for o in plan_of(trial).outcomes if o.key == key), None)
    if outcome is None:
        raise missing()
    if not measures_for(outcome.scale):
        says = "A photo tells a share, a shade, a count, a colour, a length or an area; this outcome has to be judged."
        raise Declined(422, Problem("outcome", says))
    return outcome


def _sound(recipe: Recipe, marks: Marks, outcome: Outcome) -> None:
    problems = [Problem(f"recipe.{p.at}", p.says) for p in recipe.problems()]
    problems += [Problem(f"marks.{p.at}", p.says) for p in marks.problems()]
    if recipe.measure not in measures_for(outcome.scale):
        problems.append(Problem("recipe.measure", "This cannot be told on the scale of this outcome."))
    if problems:
        raise Declined(422, *problems)


def photos_at(trial: Trial, checkpoint: str) -> list[Photo]:
    """The photos of samples at a look (key), sample by sample as they were taken; of those in play."""
    aside = out_of_play(trial)
    rows = (
        Photo.objects.filter(trial=trial, gone=False, checkpoint__key=checkpoint)
        .exclude(sample=None)
        .select_related("sample", "checkpoint")
        .order_by("sample__code", "taken_at", "pk")
    )
    return [row for row in rows if row.sample_id not in aside]


def _base_photo(trial: Trial, recipe: Recipe, photo: Photo) -> Photo | None:
    """The photo that a difference is taken from: the first of the same sample at another look, or of another sample at this one."""
    rows = (
        Photo.objects.filter(trial=trial, gone=False).select_related("sample", "checkpoint").order_by("taken_at", "pk")
    )
    if recipe.since_look:
        return rows.filter(sample=photo.sample_id, checkpoint__key=recipe.since_look).first()
    return rows.filter(sample__code=recipe.since_sample, checkpoint=photo.checkpoint_id).exclude(pk=photo.pk).first()


def _base(trial: Trial, recipe: Recipe, marks: Marks, shown: Shown, user: User | None) -> Base | None:
    """What a difference is taken from, measured where the thing is in that photo: as it was marked there by hand, or else where the
    card and what stands out there put it."""
    if recipe.measure != "difference":
        return None
    photo = _base_photo(trial, recipe, shown.photo)
    if photo is None:
        return None
    before = Shown(photo)
    own = _marked_there(photo, user)
    says = ""
    if own is None:
        own, says = found_again(
            marks, shown.size, shown.card, before.pixels, before.card, stands_out=recipe.outline == "stands_out"
        )
    found = measure(before.pixels, replace(recipe, measure="lightness"), own, found=before.card)
    base = base_of(found, "the photo it is compared with")
    return replace(base, flags=(*base.flags, Flag("base place", says))) if says else base


def _marked_there(photo: Photo, user: User | None) -> Marks | None:
    """How this person marked a photo by hand, if they did."""
    if user is None:
        return None
    rows = Gauging.objects.filter(photo=photo, by=user, by_hand=True).order_by("-at", "-pk")
    kept = rows.values_list("marks", flat=True).first()
    return None if kept is None else marks_in.validate_python(kept)


def measured(
    trial: Trial, outcome: Outcome, recipe: Recipe, marks: Marks, shown: Shown, user: User | None = None
) -> Measured:
    """A photo measured, its value in the unit of the outcome; what ``user`` marked by hand on the photo it is compared with counts.

    :raises Declined: 422 at what is wrong with the recipe or the marks.
    """
    _sound(recipe, marks, outcome)
    found = measure(shown.pixels, recipe, marks, _base(trial, recipe, marks, shown, user), shown.card)
    if found.value is None:
        return found
    value = in_unit_of(outcome.scale, recipe.measure, found.value)
    share = value / found.value if found.value else 1.0
    scale = outcome.scale
    refusal = scale.measured_refusal(value) if isinstance(scale, ShadeScale) else scale.refusal(value)
    if refusal:
        return replace(found, value=None, uncertainty=None, flags=(*found.flags, Flag("off the scale", refusal, True)))
    unsure = None if found.uncertainty is None else found.uncertainty * abs(share or 1.0)
    return replace(found, value=value, uncertainty=unsure)


def picked(shown: Shown, marks: Marks, x: float, y: float) -> tuple[tuple[float, float, float], str]:
    """The colour around a point (0–1) in daylight: in CIELAB, and as it is shown."""
    width, height = shown.size
    reach = max(2, round(PICKED_REACH * width))
    column, row = round(x * width), round(y * height)
    cut = shown.pixels[max(0, row - reach) : row + reach + 1, max(0, column - reach) : column + reach + 1]
    if not cut.size:
        raise Declined(422, Problem("x", "This point lies outside the photo."))
    lit = lit_of(shown.pixels, marks, shown.card)
    corner = (max(0, column - reach), max(0, row - reach))
    light = lit.light(linear_of(cut), corner, 1).reshape(-1, 3).astype(np.float64).mean(axis=0)
    first, second, third = (float(v) for v in lab_of(light))
    return (first, second, third), hex_of((first, second, third))


def overlay_of(found: Measured) -> bytes:
    """What was measured, to be laid over its box of the photo (PNG): the object's edge in dashes, what was counted hatched in black and
    white, so that it shows on any colour."""
    thing = np.asarray(found.looked.thing, dtype=bool)
    tall, wide = thing.shape
    shown = np.zeros((tall, wide, 4), dtype=np.uint8)
    down, across = np.mgrid[0:tall, 0:wide]
    thick = max(1, round(max(tall, wide) / 400))
    if found.looked.counted is not None:
        counted = np.asarray(found.looked.counted, dtype=bool)
        stripe = (down + across) // (2 * thick + 1) % 3
        shown[counted & (stripe == 0)] = (255, 255, 255, 235)
        shown[counted & (stripe == 1)] = (20, 32, 27, 205)
        rim = counted & ~binary_erosion(counted, iterations=thick)
        shown[rim] = (20, 32, 27, 255)
    edge = thing & ~binary_erosion(thing, iterations=2 * thick)
    dash = (down + across) // (8 * thick) % 2 == 0
    shown[edge & dash] = (255, 255, 255, 255)
    shown[edge & ~dash] = (20, 32, 27, 255)
    written = io.BytesIO()
    Image.fromarray(shown, "RGBA").quantize(8, method=Image.Quantize.FASTOCTREE).save(written, "PNG", optimize=True)
    return written.getvalue()


def box_of(found: Measured, shown: Shown) -> list[float]:
    """The box that was worked on: left, top, right, bottom as shares of the photo."""
    width, height = shown.size
    left, top, _, _ = found.looked.box
    tall, wide = np.asarray(found.looked.thing).shape
    shrunk = found.looked.shrunk
    return [left / width, top / height, (left + wide * shrunk) / width, (top + tall * shrunk) / height]


def flags_of(found: Measured) -> list[dict[str, Any]]:
    """The flags as a document."""
    return [asdict(flag) for flag in found.flags]


def set_recipe(
    trial: Trial,
    user: User,
    outcome: Outcome,
    photo: Photo,
    recipe: Recipe,
    marks: Marks,
    *,
    at: datetime | None = None,
) -> GaugeRecipe:
    """Set how an outcome is measured from now on, as it was tried on ``photo``; the log tells it.

    :raises Declined: 409 where the trial is in no state for it; 422 at what is wrong.
    """
    if trial.state in ("draft", "opened"):
        raise Declined(409, "Photos are measured between the seal and the opening of the key.")
    _sound(recipe, marks, outcome)
    before = recipe_of(trial, outcome.key)
    document = {"recipe": recipes.dump_python(recipe, mode="json"), "marks": marks_in.dump_python(marks, mode="json")}
    if before is not None and before.recipe == document["recipe"] and before.marks == document["marks"]:
        return before
    with transaction.atomic():
        made = GaugeRecipe.objects.create(
            trial=trial,
            outcome_id=outcomes_of(trial)[outcome.key],
            photo=photo,
            by=user,
            at=at or timezone.now(),
            **document,
        )
        if before is not None and before.gaugings.filter(readings__isnull=False).exists():
            says = f"{outcome.name} is measured in photos with other settings from here on; earlier looks were measured with those before."
            write_note(trial, user, says, at=at)
    return made


def recipe_of(trial: Trial, outcome: str) -> GaugeRecipe | None:
    """How the outcome (key) is measured: the newest recipe."""
    rows = GaugeRecipe.objects.filter(trial=trial, outcome__key=outcome).select_related("photo", "outcome", "by")
    return rows.order_by("-at", "-pk").first()


def gauge_photo(
    row: GaugeRecipe,
    user: User,
    photo: Photo,
    marks: Marks | None = None,
    *,
    by_hand: bool = True,
    at: datetime | None = None,
    example: Shown | None = None,
) -> Gauging:
    """Measure one photo by a recipe and keep what was measured; ``marks`` are its own (``by_hand``, if somebody made them there),
    or else those of the recipe's photo are carried."""
    shown, first = Shown(photo), example or (Shown(row.photo) if row.photo else None)
    set_marks = marks_in.validate_python(row.marks)
    by_hand = (by_hand and marks is not None) or photo.pk == row.photo_id
    if marks is None:
        marks = set_marks if photo.pk == row.photo_id else _carried(set_marks, first, shown)
    outcome = outcome_named(row.trial, row.outcome.key)
    found = measured(row.trial, outcome, recipes.validate_python(row.recipe), marks, shown, user)
    return Gauging.objects.create(
        trial=row.trial,
        recipe=row,
        photo=photo,
        marks=marks_in.dump_python(marks, mode="json"),
        by_hand=by_hand,
        value=found.value,
        uncertainty=found.uncertainty,
        colour=list(found.colour),
        flags=flags_of(found),
        mask=overlay_of(found),
        box=box_of(found, shown),
        by=user,
        at=at or timezone.now(),
    )


def _carried(marks: Marks, first: Shown | None, shown: Shown) -> Marks:
    if first is None:
        return marks
    try:
        return carried_marks(marks, first.size, first.card, shown.size, shown.card)
    except Declined:  # The photo on which they were made is gone: they hold at the same place in the picture.
        return marks


def newest(row: GaugeRecipe, user: User, photos: Iterable[Photo]) -> dict[UUID, Gauging]:
    """The newest gauging of each photo (id) by a recipe and a person."""
    rows = Gauging.objects.filter(recipe=row, by=user, photo__in=[photo.pk for photo in photos]).defer("mask")
    return {one.photo_id: one for one in rows.order_by("at", "pk")}


def begin_run(row: GaugeRecipe, user: User, checkpoint: str, *, beside: bool = False) -> GaugeRun:
    """Measure all photos of a look in the background, instead of what the person had begun before, or ``beside`` it.

    :raises Declined: 404 where there is no such look; 409 where it has no photos of samples, or the key is open.
    """
    trial = row.trial
    look = checkpoints_of(trial).get(checkpoint)
    if look is None:
        raise missing()
    if trial.state in ("draft", "opened"):
        raise Declined(409, "Photos are measured between the seal and the opening of the key.")
    photos = photos_at(trial, checkpoint)
    if not photos:
        raise Declined(409, "There are no photos of samples at this look yet.")
    with transaction.atomic():
        before = GaugeRun.objects.filter(by=user, trial=trial, ended_at=None)
        (before.filter(recipe=row, checkpoint=look) if beside else before).update(cancelled=True)
        run = GaugeRun.objects.create(trial=trial, recipe=row, checkpoint_id=look, by=user, total=len(photos))
        transaction.on_commit(lambda: gauge_all.enqueue(str(run.pk)))
    return run


def stop_run(user: User, pk: UUID) -> None:
    """Stop a run of one's own at its next photo.  What is measured stays.

    :raises Declined: 404 where there is none.
    """
    if not GaugeRun.objects.filter(pk=pk, by=user).update(cancelled=True):
        raise missing()


@task()
def gauge_all(run_id: str) -> None:
    """Measure the photos of a run, one by one."""
    runs = GaugeRun.objects.select_related("recipe__photo", "recipe__outcome", "recipe__trial", "checkpoint", "by")
    run = runs.filter(pk=run_id).first()
    if run is None or run.cancelled or run.ended_at is not None:
        return
    failed = "Something went wrong while measuring; what was measured before it stands. Begin again."
    try:
        _gauge_each(run)
        failed = ""
    except Declined as declined:
        failed = declined.problems[0].says[:300]
    finally:
        GaugeRun.objects.filter(pk=run.pk).update(failed=failed, ended_at=timezone.now())


def _gauge_each(run: GaugeRun) -> None:
    row, example = run.recipe, Shown(run.recipe.photo) if run.recipe.photo else None
    for done, photo in enumerate(photos_at(run.trial, run.checkpoint.key), start=1):
        own = newest(row, run.by, [photo]).get(photo.pk)
        # What somebody marked by hand on this photo stays as they marked it.
        marks = marks_in.validate_python(own.marks) if own is not None and own.by_hand else None
        gauge_photo(row, run.by, photo, marks, example=example)
        going = GaugeRun.objects.filter(pk=run.pk, cancelled=False, trial__opened_at=None)
        if not going.update(done=done):
            return


def _held(by_sample: Mapping[UUID, Sequence[tuple[Photo, Gauging]]]) -> set[UUID]:
    """Of these gaugings those (ids) whose reading stands."""
    asked = [gauging.pk for own in by_sample.values() for _, gauging in own]
    rows = GaugedReading.objects.filter(gauging__in=asked, reading__in=Reading.objects.current())
    return set(rows.values_list("gauging_id", flat=True))


def _standing(trial: Trial, opened: UUID, outcome: str) -> dict[UUID, tuple[float | None, str]]:
    """By sample (id) what the gauge's reading in a round says: its value, and how it was told."""
    rows = Reading.objects.current().filter(
        trial=trial, round=opened, outcome__key=outcome, source="device", repeat=None
    )
    return {sample: (value, device) for sample, value, device in rows.values_list("sample_id", "value", "device")}


def withdraw_read_from(photo: Photo, said: str, *, at: datetime | None = None) -> int:
    """Take back the readings that were read from a photo which was taken away for the reason ``said``, each in the round of whoever
    kept it; while the key is closed.  How many."""
    trial, now = photo.trial, at or timezone.now()
    if trial.state in ("draft", "opened"):
        return 0
    rows = Reading.objects.current().filter(gauged__gauging__photo=photo).select_related("scorer", "outcome").distinct()
    by_scorer: dict[User, list[Written]] = {}
    for row in rows:
        by_scorer.setdefault(row.scorer, []).append(
            Written(
                id=uuid.uuid5(row.pk, "photo taken away"),
                round=row.round_id,
                sample=row.sample_id,
                outcome=row.outcome.key,
                kind="withdrawn",
                value=None,
                reason=f"The photo that it was read from was taken away: {said}"[:LONGEST_REASON],
                taken_at=now,
                take=row.take,
            )
        )
    for scorer, written in by_scorer.items():
        for start in range(0, len(written), writing.MOST_AT_ONCE):
            writing.write_readings(trial, scorer, written[start : start + writing.MOST_AT_ONCE], now=now)
    return sum(len(written) for written in by_scorer.values())


def kept_otherwise(row: GaugeRecipe, checkpoint: str) -> int:
    """How many readings of an outcome stand at a look (key) that were read with other settings than ``row``."""
    rows = GaugedReading.objects.filter(
        gauging__trial=row.trial,
        gauging__recipe__outcome=row.outcome,
        gauging__photo__checkpoint__key=checkpoint,
        reading__in=Reading.objects.current(),
    )
    return rows.exclude(gauging__recipe=row).values("reading").distinct().count()


def keep_readings(row: GaugeRecipe, user: User, checkpoint: str, *, at: datetime | None = None) -> int:
    """Write what was measured at a look as readings into this person's round: of several photos of a sample their mean.  How many were
    written; what is there already is not written again.

    :raises Declined: 409 where nothing was measured yet, or nothing is scored now.
    """
    trial, now = row.trial, at or timezone.now()
    photos = photos_at(trial, checkpoint)
    found = newest(row, user, photos)
    by_sample: dict[UUID, list[tuple[Photo, Gauging]]] = {}
    for photo in photos:
        one = found.get(photo.pk)
        if one is not None and one.value is not None and photo.sample_id is not None:
            by_sample.setdefault(photo.sample_id, []).append((photo, one))
    if not by_sample:
        raise Declined(409, "Nothing was measured here yet.")
    outcome = outcome_named(trial, row.outcome.key)
    recipe = recipes.validate_python(row.recipe)
    opened = services.open_round(trial, user, checkpoint, at=at)
    written, links = [], []
    held = _held(by_sample)
    standing = _standing(trial, opened.pk, outcome.key)
    odd = unlike_others([one.colour for own in by_sample.values() for _, one in own])
    unlike = {
        one.pk for one, is_odd in zip((g for own in by_sample.values() for _, g in own), odd, strict=True) if is_odd
    }
    for sample, own in by_sample.items():
        if all(one.pk in held for _, one in own):
            continue
        values = [one.value for _, one in own if one.value is not None]
        value = mean_of(recipe.measure, values)
        pk = uuid.uuid5(own[0][1].pk, "+".join(str(one.pk) for _, one in own))
        unsure = doubt_of_mean(values, [one.uncertainty or 0.0 for _, one in own])
        # Without its unit, which may hold the name of a treatment.
        told = f"{DEVICE}, ± {honest(unsure, 2)}"
        told += ", marked" if any(one.flags or one.pk in unlike for _, one in own) else ""
        if standing.get(sample) == (value, told[:LONGEST_DEVICE]):
            # What was read is what stands: it is not written again as if it had been put right.
            continue
        taken = max(photo.taken_at for photo, _ in own)
        written.append(
            Written(
                id=pk,
                round=opened.pk,
                sample=sample,
                outcome=outcome.key,
                kind="value",
                value=value,
                reason="",
                taken_at=min(taken, now),
                source="device",
                device=told[:LONGEST_DEVICE],
            )
        )
        links += [(pk, one.pk) for _, one in own]
    with transaction.atomic():
        for start in range(0, len(written), writing.MOST_AT_ONCE):
            writing.write_readings(trial, user, written[start : start + writing.MOST_AT_ONCE], now=now)
        there = set(Reading.objects.filter(pk__in=[pk for pk, _ in links]).values_list("pk", flat=True))
        GaugedReading.objects.bulk_create(
            [GaugedReading(reading_id=pk, gauging_id=gauging) for pk, gauging in links if pk in there],
            ignore_conflicts=True,
        )
    return len(written)
