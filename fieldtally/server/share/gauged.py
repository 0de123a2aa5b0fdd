"""What was measured in photos, who is ready and what scorers graded together: into a pack, and out of one."""

from __future__ import annotations

import base64
import binascii
import uuid
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from fieldtally.core.problems import Refused
from fieldtally.core.trialpack.pack import Cell
from fieldtally.server.log.models import LogNote
from fieldtally.server.measuring.gauging import marks_in, recipes
from fieldtally.server.measuring.models import GaugedReading, GaugeRecipe, Gauging, Photo
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Checkpoint, Outcome, Sample
from fieldtally.server.training.models import Calibration, CalibrationGrade, Readiness

Rows = list[tuple[Cell, ...]]
Row = dict[str, Any]
PNG = b"\x89PNG\r\n\x1a\n"
LARGEST_MASK = 2_000_000


def _moment(at: datetime | None) -> str | None:
    return at.isoformat().replace("+00:00", "Z") if at else None


def gauge_tables(
    trial: Trial,
    names: Mapping[int, str],
    photos: Sequence[Photo],
    reading_number: Mapping[UUID, int],
    note_number: Mapping[Any, int],
) -> dict[str, Rows]:
    """The rows of the four tables, in an order that comes from their contents alone."""
    photo_number = {one.pk: i for i, one in enumerate(photos, start=1)}
    gauges = sorted(
        GaugeRecipe.objects.filter(trial=trial).select_related("outcome"),
        key=lambda g: (g.at, g.outcome.key, str(g.recipe), str(g.marks)),
    )
    gauge_number = {one.pk: i for i, one in enumerate(gauges, start=1)}
    linked: dict[UUID, list[int]] = {}
    for gauging, reading in GaugedReading.objects.filter(gauging__trial=trial).values_list("gauging_id", "reading_id"):
        linked.setdefault(gauging, []).append(reading_number[reading])
    gaugings = [one for one in Gauging.objects.filter(trial=trial) if one.photo_id in photo_number]
    gaugings.sort(key=lambda g: (g.at, gauge_number[g.recipe_id], photo_number[g.photo_id], g.value or 0.0))
    ready = Readiness.objects.filter(trial=trial).order_by("at", "outcome")
    together = Calibration.objects.filter(trial=trial).select_related("checkpoint", "outcome")
    codes = {str(pk): code for pk, code in Sample.objects.filter(trial=trial).values_list("pk", "code")}
    return {
        "gauges": [
            (
                gauge_number[g.pk],
                g.outcome.key,
                photo_number.get(g.photo_id) if g.photo_id else None,
                g.recipe,
                g.marks,
                names[g.by_id],
                _moment(g.at),
            )
            for g in gauges
        ],
        "gaugings": [
            (
                gauge_number[g.recipe_id],
                photo_number[g.photo_id],
                g.value,
                g.uncertainty,
                g.colour,
                g.flags,
                g.marks,
                g.box,
                base64.b64encode(bytes(g.mask)).decode(),
                sorted(linked.get(g.pk, [])),
                names[g.by_id],
                _moment(g.at),
                g.by_hand,
            )
            for g in gaugings
        ],
        "ready": [(r.outcome, names[r.by_id], r.off, r.bias, r.sets, _moment(r.at), _moment(r.until)) for r in ready],
        "together": [
            (
                c.checkpoint.key,
                c.outcome.key,
                [codes[pk] for pk in c.samples if pk in codes],
                _grades(c, names),
                names[c.begun_by_id],
                _moment(c.begun_at),
                _moment(c.shown_at),
                note_number.get(c.note_id) if c.note_id else None,
            )
            for c in sorted(together, key=lambda c: (c.begun_at, c.outcome.key))
        ],
    }


def _grades(row: Calibration, names: Mapping[int, str]) -> list[Any]:
    rows = row.grades.select_related("sample")
    return [
        {"sample": g.sample.code, "scorer": names[g.scorer_id], "value": g.value, "at": _moment(g.at)}
        for g in sorted(rows, key=lambda g: (g.at, g.sample.code, names[g.scorer_id]))
    ]


@dataclass(frozen=True)
class Known:
    """What a pack's rows point at, as it was brought in before them."""

    by: Callable[[str | None], User]
    photos: Mapping[int, Photo]
    readings: Mapping[int, str]
    notes: Mapping[int, LogNote]
    samples: Mapping[str, Sample]
    checkpoints: Mapping[str, Checkpoint]
    outcomes: Mapping[str, Outcome]


def bring_gauged(trial: Trial, tables: Mapping[str, Sequence[Row]], known: Known) -> None:
    """Store the rows of the four tables.

    :raises Refused: a row points at what is not there, or cannot be read.
    """
    bringing = _Importing(trial, known)
    for name, bring in (
        ("gauges", bringing.gauge),
        ("gaugings", bringing.gauging),
        ("ready", bringing.ready),
        ("together", bringing.together),
    ):
        for number, row in enumerate(tables[name], start=2):
            try:
                bring(row)
            except (KeyError, TypeError, ValueError) as error:
                says = "This row cannot be read, or points at what is not there."
                raise Refused(says, f"{name}.csv, row {number}") from error


class _Importing:
    """One trial's rows on their way in."""

    def __init__(self, trial: Trial, known: Known) -> None:
        self.trial, self.known = trial, known
        self.gauges: dict[int, GaugeRecipe] = {}

    def gauge(self, row: Row) -> None:
        self.gauges[row["gauge"]] = GaugeRecipe.objects.create(
            trial=self.trial,
            outcome=self.known.outcomes[row["outcome"]],
            photo=self.known.photos[row["photo"]] if row["photo"] else None,
            recipe=recipes.dump_python(recipes.validate_python(row["recipe"]), mode="json"),
            marks=marks_in.dump_python(marks_in.validate_python(row["marks"]), mode="json"),
            by=self.known.by(row["by"]),
            at=row["at"],
        )

    def gauging(self, row: Row) -> None:
        made = Gauging.objects.create(
            id=uuid.uuid4(),
            trial=self.trial,
            recipe=self.gauges[row["gauge"]],
            photo=self.known.photos[row["photo"]],
            marks=marks_in.dump_python(marks_in.validate_python(row["marks"]), mode="json"),
            value=row["value"],
            uncertainty=row["uncertainty"],
            colour=[float(one) for one in row["colour"]],
            flags=[
                {"key": str(one["key"]), "says": str(one["says"]), "refuses": bool(one["refuses"])}
                for one in row["flags"]
            ],
            mask=_mask(row["mask"]),
            box=[float(one) for one in row["box"]],
            by=self.known.by(row["by"]),
            at=row["at"],
            by_hand=row.get("by_hand") is not False,
        )
        links = [self.known.readings[reading] for reading in row["readings"] or []]
        GaugedReading.objects.bulk_create(GaugedReading(reading_id=pk, gauging=made) for pk in links)

    def ready(self, row: Row) -> None:
        told = {name: row[name] for name in ("outcome", "off", "bias", "sets", "at", "until")}
        Readiness.objects.create(trial=self.trial, by=self.known.by(row["by"]), **told)

    def together(self, row: Row) -> None:
        made = Calibration.objects.create(
            trial=self.trial,
            checkpoint=self.known.checkpoints[row["checkpoint"]],
            outcome=self.known.outcomes[row["outcome"]],
            samples=[str(self.known.samples[code].pk) for code in row["samples"]],
            begun_by=self.known.by(row["begun_by"]),
            begun_at=row["begun_at"],
            shown_at=row["shown_at"],
            note=self.known.notes[row["note"]] if row["note"] else None,
        )
        for one in row["grades"] or []:
            CalibrationGrade.objects.create(
                calibration=made,
                sample=self.known.samples[one["sample"]],
                scorer=self.known.by(one["scorer"]),
                value=float(one["value"]),
                at=datetime.fromisoformat(one["at"]),
            )


def _mask(text: str | None) -> bytes:
    try:
        found = base64.b64decode(text or "", validate=True)
    except binascii.Error as error:
        raise ValueError("no base64") from error
    if not found.startswith(PNG) or len(found) > LARGEST_MASK:
        raise ValueError("no PNG")
    return found
