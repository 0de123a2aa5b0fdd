"""The trial that is judged by photos: each flower head with the card beside it, fresh and after two weeks, scorers who practised, and a
few heads graded together."""

from __future__ import annotations

import io
from collections.abc import Mapping
from datetime import datetime, timedelta
from uuid import uuid4

import numpy as np
from PIL import Image

from fieldtally.core.photos.camera import Shot, marked, photo_of
from fieldtally.core.photos.colour import lab_of_hex
from fieldtally.core.photos.marks import Marks
from fieldtally.core.photos.recipe import Recipe
from fieldtally.core.photos.scenes import Scene, between, flower
from fieldtally.server.demo import practice
from fieldtally.server.demo.plans import MARIGOLD_CHART
from fieldtally.server.measuring import gauging
from fieldtally.server.measuring.models import Photo
from fieldtally.server.measuring.photos import Shown, keep_photo
from fieldtally.server.measuring.pictures import picture_in
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Sample
from fieldtally.server.training import calibrating, practising
from fieldtally.server.training.models import TrainingAnswer

SEED = practice.SEED
SWATCHES = [step.swatch for step in MARIGOLD_CHART.steps]
AFTER = {"fresh": 0.95, "sill": 3.7, "loft": 2.1, "oven": 2.9, "sand": 1.6}
"""Where on the chart each way of drying ends."""


def by_eye(treatment: Mapping[str, str], rng: np.random.Generator) -> dict[str, float]:
    """What the scorer sees of each head (by code): in halves, and a little too dark on a dull day."""
    return {
        code: float(np.clip(np.round(2 * (AFTER[treatment[code]] + 0.25 + rng.normal(0, 0.35))) / 2, 1, 5))
        for code in sorted(treatment)
    }


def _taken(shade: float, shot: Shot, rng: np.random.Generator) -> tuple[bytes, Scene]:
    scene = flower(between(SWATCHES, shade), rng, uneven=1.5).with_card()
    written = io.BytesIO()
    Image.fromarray(photo_of(scene, shot, rng)).save(written, "JPEG", quality=90)
    return written.getvalue(), scene


def measured_by_photo(
    trial: Trial,
    lead: User,
    scorer: User,
    samples: Mapping[str, Sample],
    treatment: Mapping[str, str],
    started: datetime,
) -> None:
    """Photos of every head fresh and after two weeks, of three of them twice; how they are measured, set on the first; two sets of practice
    by each scorer, and five heads graded together."""
    rng = np.random.default_rng([SEED, 6])
    fresh, later = started - timedelta(hours=4), started + timedelta(days=14, minutes=40)
    ends = {code: AFTER[treatment[code]] + float(rng.normal(0, 0.22)) for code in sorted(samples)}
    first: Photo | None = None
    marks: Marks | None = None
    for look, at, kelvin, stops in (("fresh", fresh, 5600.0, 0.1), ("day14", later, 4500.0, -0.5)):
        for i, code in enumerate(sorted(samples)):
            shade = float(np.clip(1.1 + rng.normal(0, 0.06) if look == "fresh" else ends[code], 1, 5))
            for again in range(2 if look == "day14" and i in (2, 7, 12) else 1):
                shot = Shot(
                    width=800,
                    kelvin=kelvin + float(rng.normal(0, 150)),
                    stops=stops + float(rng.normal(0, 0.12)),
                    tilt=float(rng.uniform(0, 6)),
                    tilt_to=float(rng.uniform(0, 360)),
                    turn=float(rng.normal(0, 1.5)),
                )
                sent, scene = _taken(shade, shot, np.random.default_rng([SEED, i, again]))
                moment = at + timedelta(seconds=35 * i + 12 * again)
                shown = Shown(look, samples[code].pk)
                kept = keep_photo(trial, scorer, uuid4(), shown, picture_in(sent), taken_at=moment, at=moment)
                if look == "day14" and first is None:
                    first, marks = kept, Marks(marked(scene, shot))
    _set(trial, scorer, first, marks, later + timedelta(minutes=12))
    for person, apart in ((scorer, practice.APART["scorer"]), (lead, practice.APART["lead"])):
        for number in range(practice.SETS_EACH):
            _practised(trial, person, apart, started + timedelta(days=10 + number, hours=9), number)
    _together(trial, lead, scorer, ends, later - timedelta(minutes=20))


def _set(trial: Trial, scorer: User, photo: Photo | None, marks: Marks | None, at: datetime) -> None:
    if photo is None or marks is None:
        return
    steps = tuple(lab_of_hex(swatch) for swatch in SWATCHES)
    for key, recipe in (
        ("faded", Recipe("difference", "stands_out", since_look="fresh")),
        ("shade", Recipe("shade", "stands_out", steps=steps)),
    ):
        outcome = gauging.outcome_named(trial, key)
        gauging.set_recipe(trial, scorer, outcome, photo, recipe, marks, at=at)


def _practised(trial: Trial, person: User, apart: float, at: datetime, number: int) -> None:
    rng = np.random.default_rng([SEED, number, int(100 * apart)])
    row = practising.begin_set(trial, person, practice.OUTCOME, at=at, seed=practice.seed_of(number, apart))
    _as_gauged(list(row.answers.all()))
    for i, one in enumerate(row.answers.all()):
        given = float(np.clip(np.round(2 * (one.truth + rng.normal(0.08, apart))) / 2, 1, len(SWATCHES)))
        practising.answer(row, one.place, given, at=at + timedelta(seconds=9 * i + 9))


def _as_gauged(answers: list[TrainingAnswer]) -> None:
    """Note what the gauge reads where that is known; the rest it reads behind, as it does of everybody's practice."""
    known = practice.shipped()
    for one in answers:
        one.gauged = known.get(practice.name_of(one.truth, one.seed))
    TrainingAnswer.objects.bulk_update(answers, ["gauged"])


def _together(trial: Trial, lead: User, scorer: User, ends: Mapping[str, float], at: datetime) -> None:
    rng = np.random.default_rng([SEED, 5])
    row = calibrating.begin(trial, lead, "day14", "eye", at=at, seed="marigolds together")
    codes = calibrating.codes_of(row)
    for person, kind in ((scorer, 0.3), (lead, -0.1)):
        for i, pk in enumerate(row.samples):
            value = float(np.clip(np.round(2 * (ends[codes[pk]] + kind + rng.normal(0, 0.2))) / 2, 1, 5))
            calibrating.grade(row, person, pk, value, at=at + timedelta(seconds=20 * i))
    calibrating.show(row, at=at + timedelta(minutes=4))
    agreed = "A head counts as the shade of most of its petals; dark tips are left out of it."
    calibrating.agree(row, lead, agreed, "", at=at + timedelta(minutes=9))
