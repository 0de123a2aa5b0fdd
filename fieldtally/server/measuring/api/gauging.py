"""The photo gauge: tried on one photo, run over all of a look, kept as readings; its card on paper."""

import base64
from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from django.http import HttpResponse
from django.utils import timezone
from ninja import Router, Schema, Status
from pydantic import Field

from fieldtally.core.agreement.eyes import eye_and_gauge, mean_by_sample
from fieldtally.core.agreement.instruments import AgainstEachOther
from fieldtally.core.photos import card
from fieldtally.core.photos.colour import hex_of, lab_of_hex
from fieldtally.core.photos.fitting import measures_for
from fieldtally.core.photos.gauge import Measured
from fieldtally.core.photos.marks import Marks
from fieldtally.core.photos.quality import Flag
from fieldtally.core.photos.recipe import MEASURES, Measure, Recipe
from fieldtally.core.photos.repeating import RepeatError, repeat_error
from fieldtally.core.photos.unlike import UNLIKE, unlike_others
from fieldtally.core.scales import ShadeScale, unit_of
from fieldtally.core.schedule.naming import called
from fieldtally.server.answers import Declined, ProblemsOut, missing
from fieldtally.server.measuring import gauging
from fieldtally.server.measuring.models import GaugedReading, GaugeRecipe, GaugeRun, Gauging, Photo
from fieldtally.server.people.models import Trial
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.printing import pdf
from fieldtally.server.rounds.models import Reading
from fieldtally.server.rounds.models.reading import Source
from fieldtally.server.rounds.queries import current_readings

router = Router()


class MeasureOut(Schema):
    """A measure, in words, and its unit as the gauge knows it."""

    key: Measure
    words: str
    unit: str


class GaugedOutcome(Schema):
    """An outcome that photos can tell; ``steps`` of its chart with their colours (as shown, and in CIELAB) where it has any."""

    key: str
    name: str
    unit: str
    measures: Sequence[MeasureOut]
    steps: Sequence[str]
    swatches: Sequence[str]
    labs: Sequence[tuple[float, float, float]]
    checkpoints: Sequence[str]


class GaugeLook(Schema):
    """A look, and how many photos of samples it has."""

    key: str
    name: str
    photos: int


class GaugeOut(Schema):
    """What the photo gauge can measure in a trial, and at which looks."""

    outcomes: Sequence[GaugedOutcome]
    looks: Sequence[GaugeLook]


def _takes_part(seen: Sight) -> None:
    seen.need_role("gauge")
    seen.need("see_draft")


@router.get("/trials/{trial_id}/gauge", response={200: GaugeOut, 403: ProblemsOut, 404: ProblemsOut})
def gauge(request: SignedIn, trial_id: UUID) -> GaugeOut:
    """Which outcomes photos can tell."""
    seen = sight(request, trial_id)
    _takes_part(seen)
    plan = plan_of(seen.trial)
    names = plan.telling_names
    shown = []
    for outcome in plan.outcomes:
        measures = measures_for(outcome.scale)
        if not measures or outcome.practised:
            continue  # What is judged by practised eyes is not measured.
        steps = outcome.scale.steps if isinstance(outcome.scale, ShadeScale) else ()
        shown.append(
            GaugedOutcome(
                key=outcome.key,
                name=seen.spoken(outcome.name, names),
                unit=seen.spoken(unit_of(outcome.scale), names),
                measures=[MeasureOut(key=one, words=MEASURES[one][0], unit=MEASURES[one][1]) for one in measures],
                steps=[seen.spoken(step.label, names) for step in steps],
                swatches=[step.swatch for step in steps],
                labs=[lab_of_hex(step.swatch) for step in steps if step.swatch],
                checkpoints=[c.key for c in plan.looked_at(outcome)],
            )
        )
    counts: dict[str, int] = {}
    rows = Photo.objects.filter(trial=seen.trial, gone=False).exclude(sample=None).exclude(checkpoint=None)
    for key in rows.values_list("checkpoint__key", flat=True):
        counts[key] = counts.get(key, 0) + 1
    looks = [
        GaugeLook(key=c.key, name=seen.spoken(called(c), names), photos=counts.get(c.key, 0)) for c in plan.in_time
    ]
    return GaugeOut(outcomes=shown, looks=looks)


class GaugingOut(Schema):
    """A photo as it was measured: ``kept`` with a reading that stands."""

    id: UUID
    value: float | None
    uncertainty: float | None
    colour: Sequence[float]
    flags: Sequence[Flag]
    marks: Marks
    box: Sequence[float]
    at: datetime
    kept: bool


class GaugePhoto(Schema):
    """A photo of a sample by its code, and what was measured in it."""

    photo: UUID
    code: str
    width: int
    height: int
    taken_at: datetime
    gauging: GaugingOut | None


class RecipeOut(Schema):
    """How an outcome is measured, and on which photo that was set."""

    id: UUID
    recipe: Recipe
    marks: Marks
    photo: UUID | None
    by: str
    at: datetime


class RunOut(Schema):
    """How far a run over all photos of a look is."""

    id: UUID
    done: int
    total: int
    ended: bool
    failed: str


class EyeOut(Schema):
    """Grades by eye of the same samples beside the gauge: of which outcome; the two against each other where they share a unit, and how
    alike they rank the samples (Spearman)."""

    outcome: str
    unit: str
    codes: Sequence[str]
    eye: Sequence[float]
    gauge: Sequence[float]
    against: AgainstEachOther | None
    rank: float | None


class GaugeTable(Schema):
    """All photos of a look for an outcome, the recipe, what runs, how well the gauge repeats, and how the eye compares;
    ``otherwise``: how many readings of this look stand that were read with other settings."""

    recipe: RecipeOut | None
    unit: str
    photos: Sequence[GaugePhoto]
    run: RunOut | None
    repeats: RepeatError | None
    otherwise: int
    eyes: Sequence[EyeOut]


def _run_out(run: GaugeRun) -> RunOut:
    ended = run.ended_at is not None or run.cancelled
    return RunOut(id=run.pk, done=run.done, total=run.total, ended=ended, failed=run.failed)


@router.get(
    "/trials/{trial_id}/gauge/{checkpoint}/{outcome}",
    response={200: GaugeTable, 403: ProblemsOut, 404: ProblemsOut, 422: ProblemsOut},
)
def table(request: SignedIn, trial_id: UUID, checkpoint: str, outcome: str) -> GaugeTable:
    """Every photo of a look by code, with what this person measured in it."""
    seen = sight(request, trial_id)
    _takes_part(seen)
    trial = seen.trial
    asked = gauging.outcome_named(trial, outcome)
    if checkpoint not in {c.key for c in plan_of(trial).checkpoints}:
        raise missing()
    row = gauging.recipe_of(trial, outcome)
    photos = gauging.photos_at(trial, checkpoint)
    found = gauging.newest(row, request.user, photos) if row else {}
    held = set(
        GaugedReading.objects.filter(
            gauging__in=[one.pk for one in found.values()], reading__in=Reading.objects.current()
        ).values_list("gauging_id", flat=True)
    )
    by_sample: dict[str, list[float]] = {}
    for photo in photos:
        one = found.get(photo.pk)
        if one is not None and one.value is not None and photo.sample is not None:
            by_sample.setdefault(photo.sample.code, []).append(one.value)
    gauged = [one for one in found.values() if one.value is not None]
    odd = {one.pk for one, unlike in zip(gauged, unlike_others([one.colour for one in gauged]), strict=True) if unlike}
    run = None
    if row is not None:
        runs = GaugeRun.objects.filter(recipe=row, by=request.user, checkpoint__key=checkpoint)
        run = runs.first()
    return GaugeTable(
        recipe=_recipe_out(row) if row else None,
        unit=seen.spoken(unit_of(asked.scale), plan_of(trial).telling_names),
        photos=[
            GaugePhoto(
                photo=photo.pk,
                code=photo.sample.code if photo.sample else "",
                width=photo.width,
                height=photo.height,
                taken_at=photo.taken_at,
                gauging=_gauging_out(found[photo.pk], found[photo.pk].pk in held, found[photo.pk].pk in odd)
                if photo.pk in found
                else None,
            )
            for photo in photos
        ],
        run=None if run is None else _run_out(run),
        repeats=repeat_error(list(by_sample.values())),
        otherwise=gauging.kept_otherwise(row, checkpoint) if row else 0,
        eyes=_eyes(seen, request.user.pk, checkpoint, outcome, mean_by_sample(by_sample)),
    )


def _recipe_out(row: GaugeRecipe) -> RecipeOut:
    return RecipeOut(
        id=row.pk,
        recipe=gauging.recipes.validate_python(row.recipe),
        marks=gauging.marks_in.validate_python(row.marks),
        photo=row.photo_id,
        by=row.by.called,
        at=row.at,
    )


def _gauging_out(row: Gauging, kept: bool, unlike: bool = False) -> GaugingOut:
    return GaugingOut(
        id=row.pk,
        value=row.value,
        uncertainty=row.uncertainty,
        colour=row.colour,
        flags=[*(Flag(**flag) for flag in row.flags), *([UNLIKE] if unlike else [])],
        marks=gauging.marks_in.validate_python(row.marks),
        box=row.box,
        at=row.at,
        kept=kept,
    )


def _eyes(seen: Sight, user: int, checkpoint: str, outcome: str, gauged: dict[str, float]) -> list[EyeOut]:
    """What was graded by eye at the same look: by this person, or by all for the lead and once the key is open."""
    plan = plan_of(seen.trial)
    unit = next(unit_of(o.scale) for o in plan.outcomes if o.key == outcome)
    rows = current_readings(seen.trial).filter(checkpoint__key=checkpoint, value__isnull=False, repeat=None)
    if not seen.may("see_all_readings"):
        rows = rows.filter(scorer=user)
    graded: dict[str, dict[str, list[float]]] = {}
    typed = rows.exclude(source=Source.DEVICE)
    for key, code, value in typed.values_list("outcome__key", "sample__code", "value"):
        if code in gauged and value is not None:
            graded.setdefault(key, {}).setdefault(code, []).append(value)
    found = []
    for other in plan.outcomes:
        shared = unit_of(other.scale)
        both = eye_and_gauge(
            graded.get(other.key, {}), gauged, seen.spoken(unit, plan.telling_names) if shared == unit else None
        )
        if both is not None:
            found.append(
                EyeOut(
                    outcome=seen.spoken(other.name, plan.telling_names),
                    unit=seen.spoken(shared, plan.telling_names),
                    codes=both.codes,
                    eye=both.eye,
                    gauge=both.gauge,
                    against=both.against,
                    rank=both.rank,
                )
            )
    return found


class TryIn(Schema):
    """A recipe and marks to be tried on a photo."""

    photo: UUID
    outcome: str
    recipe: Recipe
    marks: Marks


class TriedOut(Schema):
    """What the photo gives: ``overlay`` is laid over its ``box`` (0–1 of the photo) as a PNG in base64; ``card`` is where the card's
    corners were found (0–1 of the photo)."""

    value: float | None
    uncertainty: float | None
    unit: str
    colour: Sequence[float]
    shown: str
    spread: float
    flags: Sequence[Flag]
    nearest: int | None
    threshold: float | None
    overlay: str
    box: Sequence[float]
    card: Sequence[Sequence[float]]


def _photo(trial: Trial, pk: UUID) -> Photo:
    photo = Photo.objects.filter(trial=trial, pk=pk, gone=False).select_related("sample", "checkpoint").first()
    if photo is None or photo.sample_id is None:
        raise missing()
    return photo


def _corners(shown: gauging.Shown) -> list[list[float]]:
    if shown.card is None:
        return []
    width, height = shown.size
    return [[float(x) / width, float(y) / height] for x, y in shown.card.at(card.CORNERS)]


def _tried(found: Measured, shown: gauging.Shown, unit: str) -> TriedOut:
    return TriedOut(
        value=found.value,
        uncertainty=found.uncertainty,
        unit=unit,
        colour=found.colour,
        shown=hex_of(found.colour),
        spread=found.hue_spread,
        flags=found.flags,
        nearest=found.on_chart.nearest if found.on_chart else None,
        threshold=found.threshold,
        overlay=base64.b64encode(gauging.overlay_of(found)).decode(),
        box=gauging.box_of(found, shown),
        card=_corners(shown),
    )


@router.post(
    "/trials/{trial_id}/gauge/try",
    response={200: TriedOut, 403: ProblemsOut, 404: ProblemsOut, 422: ProblemsOut},
)
def attempt(request: SignedIn, trial_id: UUID, body: TryIn) -> TriedOut:
    """Measure one photo and keep nothing: what was counted is laid over it."""
    seen = sight(request, trial_id)
    _takes_part(seen)
    outcome = gauging.outcome_named(seen.trial, body.outcome)
    shown = gauging.Shown(_photo(seen.trial, body.photo))
    unit = seen.spoken(unit_of(outcome.scale), plan_of(seen.trial).telling_names)
    return _tried(gauging.measured(seen.trial, outcome, body.recipe, body.marks, shown, request.user), shown, unit)


class PickIn(Schema):
    """A point of a photo, 0–1, and the marks that say where its light is taken from."""

    photo: UUID
    marks: Marks
    x: Annotated[float, Field(ge=0, le=1)]
    y: Annotated[float, Field(ge=0, le=1)]


class PickedOut(Schema):
    """The colour there in daylight: in CIELAB, and as it is shown."""

    lab: tuple[float, float, float]
    shown: str


@router.post(
    "/trials/{trial_id}/gauge/pick",
    response={200: PickedOut, 403: ProblemsOut, 404: ProblemsOut, 422: ProblemsOut},
)
def pick(request: SignedIn, trial_id: UUID, body: PickIn) -> PickedOut:
    """The colour at a point of a photo."""
    seen = sight(request, trial_id)
    _takes_part(seen)
    lab, shown = gauging.picked(gauging.Shown(_photo(seen.trial, body.photo)), body.marks, body.x, body.y)
    return PickedOut(lab=lab, shown=shown)


@router.put(
    "/trials/{trial_id}/gauge/recipe",
    response={200: RecipeOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def settle(request: SignedIn, trial_id: UUID, body: TryIn) -> RecipeOut:
    """Measure the outcome in this way from now on, on every photo."""
    seen = sight(request, trial_id)
    _takes_part(seen)
    outcome = gauging.outcome_named(seen.trial, body.outcome)
    photo = _photo(seen.trial, body.photo)
    row = gauging.set_recipe(seen.trial, request.user, outcome, photo, body.recipe, body.marks)
    return _recipe_out(row)


def _recipe(request: SignedIn, trial_id: UUID, outcome: str) -> tuple[Sight, GaugeRecipe]:
    seen = sight(request, trial_id)
    _takes_part(seen)
    row = gauging.recipe_of(seen.trial, gauging.outcome_named(seen.trial, outcome).key)
    if row is None:
        raise Declined(409, "Say on one photo how it is measured first.")
    return seen, row


@router.post(
    "/trials/{trial_id}/gauge/{checkpoint}/{outcome}/run",
    response={202: RunOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def run(request: SignedIn, trial_id: UUID, checkpoint: str, outcome: str) -> Status[RunOut]:
    """Measure all photos of a look in the background; ask the look again how far it is."""
    _, row = _recipe(request, trial_id, outcome)
    return Status(202, _run_out(gauging.begin_run(row, request.user, checkpoint)))


@router.delete("/gauge-runs/{run_id}", response={204: None, 404: ProblemsOut})
def stop(request: SignedIn, run_id: UUID) -> Status[None]:
    """Stop a run at its next photo."""
    gauging.stop_run(request.user, run_id)
    return Status(204, None)


class OwnMarksIn(Schema):
    """One photo, marked by hand."""

    photo: UUID
    marks: Marks


@router.post(
    "/trials/{trial_id}/gauge-one/{outcome}",
    response={200: GaugingOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def one(request: SignedIn, trial_id: UUID, outcome: str, body: OwnMarksIn) -> GaugingOut:
    """Measure one photo with marks of its own, by the recipe of all."""
    seen, row = _recipe(request, trial_id, outcome)
    if seen.trial.opened_at is not None:
        raise Declined(409, "The key is open: nothing more is measured in this trial.")
    return _gauging_out(gauging.gauge_photo(row, request.user, _photo(seen.trial, body.photo), body.marks), False)


class GaugingsKept(Schema):
    """How many readings were written."""

    written: int


@router.post(
    "/trials/{trial_id}/gauge/{checkpoint}/{outcome}/keep",
    response={200: GaugingsKept, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def keep(request: SignedIn, trial_id: UUID, checkpoint: str, outcome: str) -> GaugingsKept:
    """Write what was measured as readings of this person's round."""
    _, row = _recipe(request, trial_id, outcome)
    return GaugingsKept(written=gauging.keep_readings(row, request.user, checkpoint, at=timezone.now()))


@router.get("/gaugings/{gauging_id}.png", response={200: None, 403: ProblemsOut, 404: ProblemsOut})
def mask(request: SignedIn, gauging_id: UUID) -> HttpResponse:
    """What was counted, to be laid over the photo."""
    row = Gauging.objects.filter(pk=gauging_id).only("trial_id", "mask", "by_id").first()
    if row is None:
        raise missing()
    seen = sight(request, row.trial_id)
    if row.by_id == request.user.pk:
        seen.need_role("gauge")
    else:
        seen.need("see_all_gaugings")
    answer = HttpResponse(bytes(row.mask), content_type="image/png")
    answer["Content-Disposition"] = 'inline; filename="counted.png"'
    answer["Cache-Control"] = "private, max-age=86400, immutable"
    return answer


@router.get("/prints/photo-card.pdf", response={200: None})
def photo_card(request: SignedIn, paper: Literal["a4", "letter"] = "a4") -> HttpResponse:
    """The card that lies beside the sample on every photo: four of them on a sheet."""
    return pdf("prints/photo-card.html", card_context(()), paper=paper, name="photo-card")


@router.get("/trials/{trial_id}/prints/photo-card.pdf", response={200: None, 403: ProblemsOut, 404: ProblemsOut})
def photo_card_with_charts(request: SignedIn, trial_id: UUID, paper: Literal["a4", "letter"] = "a4") -> HttpResponse:
    """The same, with the shade charts of the trial."""
    seen = sight(request, trial_id)
    seen.need_role("print_card")
    seen.need("see_draft")
    plan = plan_of(seen.trial)
    names = plan.telling_names
    # Outcomes on the same chart share one.
    named: dict[ShadeScale, list[str]] = {}
    for outcome in plan.outcomes:
        if isinstance(outcome.scale, ShadeScale) and all(step.swatch for step in outcome.scale.steps):
            named.setdefault(outcome.scale, []).append(seen.spoken(outcome.name, names))
    charts = [
        {
            "name": ", ".join(outcomes),
            "steps": [
                {"label": seen.spoken(step.label, names), "colour": step.swatch, "number": number}
                for number, step in enumerate(scale.steps, start=1)
            ],
        }
        for scale, outcomes in named.items()
    ]
    return pdf("prints/photo-card.html", card_context(charts), paper=paper, name="photo-card")


def card_context(charts: Sequence[object]) -> dict[str, object]:
    """All that stands on the printed card, in mm."""
    start, end, y = card.BAR
    marks = [
        {
            "x": round(x - card.MARK / 2, 2),
            "y": round(y - card.MARK / 2, 2),
            "holes": [
                {"x": round(x + dx, 2), "y": round(y + dy, 2), "r": card.SMALL_HOLE if i == 0 else card.HOLE}
                for dx, dy in (card.TWO_HOLES if i == 0 else ((0.0, 0.0),))
            ],
        }
        for i, (x, y) in enumerate(card.MARKS)
    ]
    return {
        "width": card.WIDTH,
        "height": card.HEIGHT,
        "side": card.MARK,
        "paper_colour": card.PAPER,
        "marks": marks,
        "patches": card.PATCHES,
        "bar": {
            "start": start,
            "line": y - 0.5,
            "top": y - 2.5,
            "ticks": [start + (end - start) / 5 * i - 0.3 for i in range(6)],
        },
        "charts": charts,
    }
