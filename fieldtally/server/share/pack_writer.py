"""A whole trial as the tables of a pack, for somebody who may see its key."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any, TypeVar
from uuid import UUID

from django.db.models import Model

from fieldtally.core.scales import unit_of
from fieldtally.core.trialpack.chained import chain_sheet
from fieldtally.core.trialpack.pack import Cell, Sheet, sheet_of
from fieldtally.core.verdict.study import Concluded
from fieldtally.server.log.models import Condition, Deviation, LogNote
from fieldtally.server.log.queries import set_aside
from fieldtally.server.measuring.models import GaugeRecipe, Gauging, Photo, PhotoFile
from fieldtally.server.panels.models import Assessor, Material, Panel, Serving
from fieldtally.server.people.chain import entries_of
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Amendment, Prediction, SealedPlan
from fieldtally.server.plan.queries import key_of, plan_of, samples_of, shuffle_of
from fieldtally.server.prepare.models import Application, Cycle, Exposure, HeldTick, KeyLook, MixTick, Pack
from fieldtally.server.rounds.models import Guess, Reading, Repeat, Round
from fieldtally.server.rounds.queries import rounds_of
from fieldtally.server.share.gauged import gauge_tables
from fieldtally.server.share.rows import readings_in, written
from fieldtally.server.training.models import Calibration, CalibrationGrade, Readiness
from fieldtally.server.verdict.models import InterimLook
from fieldtally.server.verdict.results import concluded

Row = TypeVar("Row", bound=Model)
WHO: tuple[tuple[type[Model], str, str], ...] = (
    (Round, "scorer", "trial"),
    (Reading, "scorer", "trial"),
    (Guess, "scorer", "trial"),
    (Deviation, "by", "trial"),
    (Condition, "by", "trial"),
    (Panel, "by", "trial"),
    (KeyLook, "by", "trial"),
    (Prediction, "by", "trial"),
    (Application, "by", "trial"),
    (Cycle, "by", "trial"),
    (Pack, "by", "trial"),
    (HeldTick, "by", "trial"),
    (MixTick, "by", "trial"),
    (LogNote, "by", "trial"),
    (Photo, "by", "trial"),
    (GaugeRecipe, "by", "trial"),
    (Gauging, "by", "trial"),
    (Readiness, "by", "trial"),
    (Calibration, "begun_by", "trial"),
    (CalibrationGrade, "scorer", "calibration__trial"),
    (InterimLook, "by", "trial"),
    (Amendment, "by", "trial"),
    (SealedPlan, "by", "trial"),
    (Exposure, "by", "sample__trial"),
)
"""Everything that somebody did in a trial, scorers first."""


def moment(at: datetime | None) -> str | None:
    """A moment in UTC, ISO 8601, to the microsecond where it has any."""
    return None if at is None else at.astimezone(UTC).isoformat().replace("+00:00", "Z")


def names_of(trial: Trial) -> dict[int, str]:
    """What each person of the trial is called in its pack; where two are called alike, with a number, scorers first."""
    order: dict[int, None] = {}
    for model, field, path in WHO:
        found = model.objects.filter(**{path: trial}).values_list(f"{field}_id", flat=True).distinct()  # type: ignore[attr-defined]
        order.update(dict.fromkeys(sorted(found)))
    order.update(dict.fromkeys(pk for pk in (trial.opened_by_id,) if pk))
    shuffled = shuffle_of(trial)
    if shuffled is not None:
        order[shuffled.by_id] = None
        if hasattr(shuffled, "uncovered"):
            order[shuffled.uncovered.by_id] = None
    users = User.objects.in_bulk(list(order))
    seen: dict[str, int] = defaultdict(int)
    named = {}
    for pk in order:
        name = users[pk].called
        seen[name] += 1
        named[pk] = name if seen[name] == 1 else f"{name} ({seen[name]})"
    return named


def _in_order(rows: Iterable[Row], key: Callable[[Row], tuple[Any, ...]]) -> list[Row]:
    """Rows in an order that their contents alone decide, what replaces another behind it."""
    found = list(rows)
    before = {row.pk: pk for row in found if (pk := getattr(row, "supersedes_id", None)) is not None}
    return sorted(
        found,
        key=lambda row: (getattr(row, "stored_at", None) or row.at, _depth(before, row.pk), *key(row)),  # type: ignore[attr-defined]
    )


def _depth(before: Mapping[UUID, UUID], pk: UUID) -> int:
    """How many others the row ``pk`` replaces, one after the other."""
    steps = 0
    while (earlier := before.get(pk)) is not None:
        pk, steps = earlier, steps + 1
    return steps


class Outgoing:
    """The tables, documents and files of one trial whose key is not to be kept from the reader."""

    def __init__(self, trial: Trial) -> None:
        self.trial, self.open = trial, trial.state == "opened"
        self.plan = plan_of(trial)
        self.names = names_of(trial)
        self.notes = list(LogNote.objects.filter(trial=trial))
        self.notes.sort(key=lambda one: (one.at, one.text, one.working))
        self.note_number = {one.pk: i for i, one in enumerate(self.notes, start=1)}
        # What is told of a panel is there once its own key is open.
        read = Panel.objects.filter(trial=trial).exclude(opened_at=None)
        self.panels = sorted(read, key=lambda one: (one.created_at, str(one.plan)))
        self.photos = [one for one in self._photos() if not one.gone]
        self.reading_number: dict[UUID, int] = {}

    # What the plan says

    def _treatments(self) -> list[tuple[Cell, ...]]:
        return [(t.key, t.name, t.kind, t.samples, t.note) for t in self.plan.treatments]

    def _outcomes(self) -> list[tuple[Cell, ...]]:
        return [
            (o.key, o.name, o.scale.kind, unit_of(o.scale), o.better, _float(o.margin), o.primary)
            for o in self.plan.outcomes
        ]

    def _checkpoints(self) -> list[tuple[Cell, ...]]:
        return [(c.key, c.name, c.stage, c.offset, c.cycle, c.before, c.after) for c in self.plan.in_time]

    def _costs(self) -> list[tuple[Cell, ...]]:
        found: list[tuple[Cell, ...]] = [
            (t.key, "one sample", _float(t.cost), self.plan.money) for t in self.plan.treatments if t.cost is not None
        ]
        if self.plan.sample_cost is not None:
            found.append((None, "one sample, apart from its treatment", _float(self.plan.sample_cost), self.plan.money))
        found += [
            (None, f"a pack of {one.name} ({one.pack})", _float(one.price), self.plan.money)
            for one in self.plan.products
            if one.price is not None
        ]
        return found

    # What happened

    def _samples(self) -> list[tuple[Cell, ...]]:
        key, aside = key_of(self.trial), set_aside(self.trial)
        began = {row.sample_id: row for row in Exposure.objects.filter(sample__trial=self.trial)}
        rows: list[tuple[Cell, ...]] = []
        for s in samples_of(self.trial):
            start = began.get(s.pk)
            rows.append(
                (
                    s.code,
                    s.block or None,
                    s.place,
                    s.plot,
                    s.row,
                    s.column,
                    s.starts,
                    key[s.pk],
                    moment(start.started_at if start else None),
                    self.names[start.by_id] if start else None,
                    aside[s.pk].reason if s.pk in aside else None,
                )
            )
        return rows

    def _rounds(self) -> list[tuple[Cell, ...]]:
        blinding = {(one.checkpoint, one.scorer): one.blinding for one in rounds_of(self.trial)}
        rows = Round.objects.filter(trial=self.trial).select_related("checkpoint", "scorer")
        found: list[tuple[Cell, ...]] = [
            (
                one.checkpoint.key,
                self.names[one.scorer_id],
                moment(one.opened_at),
                blinding.get((one.checkpoint.key, one.scorer.called)),
                one.looked_by or None,
            )
            for one in rows
        ]
        return sorted(found, key=lambda row: (str(row[2]), str(row[0]), str(row[1])))

    def _second_codes(self) -> list[tuple[Cell, ...]]:
        rows = Repeat.objects.filter(trial=self.trial).values_list("code", "checkpoint__key", "sample__code")
        return sorted(rows)

    def _readings(self) -> list[tuple[Cell, ...]]:
        rows = list(readings_in(Reading.objects.filter(trial=self.trial)))
        before = {row.pk: row.supersedes for row in rows if row.supersedes}
        rows.sort(
            key=lambda r: (
                r.stored,
                _depth(before, r.pk),
                r.checkpoint,
                r.sample,
                r.outcome,
                self.names[r.scorer],
                r.take,
                r.second_code or "",
                r.kind,
                r.value or 0.0,
                r.words,
            )
        )
        number = self.reading_number = {one.pk: i for i, one in enumerate(rows, start=1)}
        return [
            (
                number[r.pk],
                r.sample,
                r.outcome,
                r.checkpoint,
                self.names[r.scorer],
                r.kind,
                r.value,
                r.words or None,
                None if r.responses is None else [None if one is None else float(one) for one in r.responses],
                r.reason or None,
                written(r.taken),
                written(r.stored),
                r.source,
                r.device or None,
                r.take,
                number.get(r.supersedes) if r.supersedes else None,
                r.second_code,
            )
            for r in rows
        ]

    def _deviations(self) -> list[tuple[Cell, ...]]:
        rows = list(Deviation.objects.filter(trial=self.trial).select_related("sample"))
        rows.sort(key=lambda d: (d.at, d.sample.code if d.sample else "", d.kind, d.about, d.reason))
        events: dict[UUID, int] = {}
        return [
            (
                i,
                d.sample.code if d.sample else None,
                d.kind,
                d.reason or None,
                self.names[d.by_id],
                moment(d.at),
                d.after_key,
                d.about or None,
                d.accident or None,
                events.setdefault(d.event, len(events) + 1) if d.event else None,
                moment(d.since),
            )
            for i, d in enumerate(rows, start=1)
        ]

    def _conditions(self) -> list[tuple[Cell, ...]]:
        found: list[tuple[Cell, ...]] = [
            (
                c.place or None,
                moment(c.at),
                _float(c.temperature),
                _float(c.humidity),
                _float(c.rain),
                _float(c.light),
                c.device or None,
                self.names[c.by_id],
                moment(c.stored_at),
            )
            for c in Condition.objects.filter(trial=self.trial)
        ]
        return sorted(found, key=lambda row: (str(row[1]), *map(str, row)))

    def _panels(self) -> list[tuple[Cell, ...]]:
        return [
            (
                i,
                str(p.plan.get("title", "")),
                p.plan,
                p.version,
                p.seed or None,
                self.names[p.by_id],
                moment(p.created_at),
                moment(p.begun_at),
                moment(p.closed_at),
                p.closed_because or None,
                p.added_sessions,
                p.seal or None,
                p.began_with,
                moment(p.opened_at),
            )
            for i, p in enumerate(self.panels, start=1)
        ]

    def _assessors(self) -> list[tuple[Cell, ...]]:
        number = {one.pk: i for i, one in enumerate(self.panels, start=1)}
        found: list[tuple[Cell, ...]] = [
            (
                number[a.panel_id],
                a.number,
                a.experience,
                a.blind,
                a.left_out or None,
                moment(a.consented_at),
                moment(a.stopped_at),
            )
            for a in Assessor.objects.filter(panel__in=self.panels)
        ]
        return sorted(found, key=lambda row: (row[0], row[1]))

    def _judgements(self) -> list[tuple[Cell, ...]]:
        number = {one.pk: i for i, one in enumerate(self.panels, start=1)}
        rows = Serving.objects.filter(assessor__panel__in=self.panels).select_related("assessor", "judgement")
        found: list[tuple[Cell, ...]] = []
        for s in rows:
            j = getattr(s, "judgement", None)
            answer: tuple[Cell, ...] = (None,) * 8
            if j is not None:
                answer = (
                    j.answer,
                    j.confidence,
                    j.preference,
                    j.grades,
                    j.chips,
                    j.words or None,
                    moment(j.given_at),
                    moment(j.stored_at),
                )
            found.append(
                (
                    number[s.assessor.panel_id],
                    s.assessor.number,
                    s.session,
                    s.place,
                    s.order,
                    s.codes,
                    s.spilt or None,
                    *answer,
                    s.stimulus,
                )
            )
        return sorted(found, key=lambda row: row[:4])

    def _key_looks(self) -> list[tuple[Cell, ...]]:
        rows = KeyLook.objects.filter(trial=self.trial)
        return sorted(((self.names[one.by_id], moment(one.at)) for one in rows), key=lambda row: (str(row[1]), row[0]))

    def _predictions(self) -> list[tuple[Cell, ...]]:
        rows = Prediction.objects.filter(trial=self.trial).order_by("at", "id")
        return [(self.names[one.by_id], one.text or None, moment(one.at)) for one in rows]

    def _guesses(self) -> list[tuple[Cell, ...]]:
        rows = Guess.objects.filter(trial=self.trial).select_related("sample")
        found = ((one.sample.code, self.names[one.scorer_id], one.belief, moment(one.at)) for one in rows)
        return sorted(found, key=lambda row: (str(row[3]), *row[:3]))

    def _applications(self) -> list[tuple[Cell, ...]]:
        rows = Application.objects.filter(trial=self.trial).select_related("sample")
        ordered = _in_order(rows, lambda a: (a.sample.code, a.dose, a.at, a.note))
        number = {one.pk: i for i, one in enumerate(ordered, start=1)}
        return [
            (
                number[a.pk],
                a.sample.code,
                a.dose or None,
                _float(a.planned),
                _float(a.given),
                a.unit or None,
                a.written or None,
                a.version,
                a.note or None,
                number.get(a.supersedes_id) if a.supersedes_id else None,
                self.names[a.by_id],
                moment(a.at),
                moment(a.stored_at),
            )
            for a in ordered
        ]

    def _cycles(self) -> list[tuple[Cell, ...]]:
        rows = Cycle.objects.filter(trial=self.trial).order_by("at", "id")
        return [(one.note or None, one.set_to, self.names[one.by_id], moment(one.at)) for one in rows]

    def _lots(self) -> list[tuple[Cell, ...]]:
        rows = Pack.objects.filter(trial=self.trial).order_by("at", "pk")
        return [
            (
                one.product,
                one.lot or None,
                one.expires.isoformat() if one.expires else None,
                one.opened.isoformat() if one.opened else None,
                self.names[one.by_id],
                moment(one.at),
            )
            for one in rows
        ]

    def _held(self) -> list[tuple[Cell, ...]]:
        rows = HeldTick.objects.filter(trial=self.trial).order_by("at", "entry")
        return [(one.entry, self.names[one.by_id], moment(one.at)) for one in rows]

    def _mixed(self) -> list[tuple[Cell, ...]]:
        rows = MixTick.objects.filter(trial=self.trial).order_by("at", "step", "version")
        return [
            (one.step, one.says, one.version, one.acknowledged, self.names[one.by_id], moment(one.at)) for one in rows
        ]

    def _notes(self) -> list[tuple[Cell, ...]]:
        return [
            (i, one.text, one.working or None, self.names[one.by_id], moment(one.at))
            for i, one in enumerate(self.notes, start=1)
        ]

    def _photos(self) -> list[Photo]:
        rows = Photo.objects.filter(trial=self.trial).select_related("sample", "checkpoint")
        return sorted(
            rows,
            key=lambda p: (
                p.stored_at,
                p.checkpoint.key if p.checkpoint else "",
                p.sample.code if p.sample else "",
                p.outcome,
                p.level or 0.0,
                p.caption,
                p.taken_at,
                p.brightness,
            ),
        )

    def _photo_rows(self) -> list[tuple[Cell, ...]]:
        return [
            (
                i,
                f"photos/{i:04d}.jpg",
                p.checkpoint.key if p.checkpoint else None,
                p.sample.code if p.sample else None,
                p.outcome or None,
                _float(p.level),
                self.note_number.get(p.note_id) if p.note_id else None,
                p.caption or None,
                p.width,
                p.height,
                p.brightness,
                p.tint,
                self.names[p.by_id],
                moment(p.taken_at),
                moment(p.stored_at),
            )
            for i, p in enumerate(self.photos, start=1)
        ]

    def _materials(self) -> list[tuple[Cell, ...]]:
        return [
            (panel, one.thing, one.name or None, path, _float(one.seconds), one.stimulus)
            for panel, one, path in self._material_files()
        ]

    def _material_files(self) -> list[tuple[int, Material, str]]:
        number = {one.pk: i for i, one in enumerate(self.panels, start=1)}
        rows = Material.objects.filter(panel__in=self.panels)
        ordered = sorted(rows, key=lambda one: (number[one.panel_id], one.thing, one.stimulus))
        return [(number[one.panel_id], one, f"materials/{i:03d}.bin") for i, one in enumerate(ordered, start=1)]

    def _interim(self) -> list[tuple[Cell, ...]]:
        rows = InterimLook.objects.filter(trial=self.trial).order_by("at", "checkpoint")
        return [(one.checkpoint, one.stop, one.says, self.names[one.by_id], moment(one.at)) for one in rows]

    # All of it

    def sheets(self) -> list[Sheet]:
        """The tables.  What people foresaw and guessed, and the keys of panels, are in them once the key of the trial is open."""
        tables: dict[str, Sequence[tuple[Cell, ...]]] = {
            "treatments": self._treatments(),
            "samples": [] if self.trial.state == "draft" else self._samples(),
            "outcomes": self._outcomes(),
            "checkpoints": self._checkpoints(),
            "rounds": self._rounds(),
            "second_codes": self._second_codes(),
            "readings": self._readings(),
            "deviations": self._deviations(),
            "conditions": self._conditions(),
            "costs": self._costs(),
            "panels": self._panels() if self.open else [],
            "assessors": self._assessors() if self.open else [],
            "judgements": self._judgements() if self.open else [],
            "materials": self._materials() if self.open else [],
            "key_looks": self._key_looks(),
            "predictions": self._predictions() if self.open else [],
            "guesses": self._guesses() if self.open else [],
            "applications": self._applications(),
            "cycles": self._cycles(),
            "lots": self._lots(),
            "held": self._held(),
            "mixed": self._mixed(),
            "notes": self._notes(),
            "photos": self._photo_rows(),
            **gauge_tables(self.trial, self.names, self.photos, self.reading_number, self.note_number),
            "interim_looks": self._interim(),
        }
        return [sheet_of(name, rows) for name, rows in tables.items()]

    def documents(self) -> dict[str, Any]:
        """``plan.json``, and ``verdict.json`` once there is one."""
        if self.trial.state == "draft":
            return {"plan.json": {"draft": asdict(self.plan)}}
        sealed = SealedPlan.objects.get(pk=self.trial.pk)
        plan: dict[str, Any] = {
            "seal": sealed.seal,
            "sealed": json.loads(sealed.canonical),
            "amendments": [
                {
                    "number": one.number,
                    "seal": one.seal,
                    "by": self.names[one.by_id],
                    "at": moment(one.at),
                    "document": json.loads(one.canonical),
                }
                for one in Amendment.objects.filter(trial=self.trial)
            ],
        }
        shuffled = shuffle_of(self.trial)
        if shuffled is not None:
            plan["shuffle"] = {
                "kind": shuffled.kind,
                "flasks": shuffled.flasks,
                "by": self.names[shuffled.by_id],
                "at": moment(shuffled.at),
            }
            if hasattr(shuffled, "uncovered"):
                found = shuffled.uncovered
                plan["shuffle"]["uncovered"] = {
                    "found": found.found,
                    "by": self.names[found.by_id],
                    "at": moment(found.at),
                }
        found_verdict = {}
        if self.open:
            found_verdict = {"verdict.json": verdict_document(concluded(self.trial))}
        return {"plan.json": plan, **found_verdict}

    def moments(self) -> dict[str, Any]:
        """The trial's moments, and who sealed it and opened its key."""
        trial = self.trial
        sealed = SealedPlan.objects.filter(pk=trial.pk).first()
        return {
            "title": trial.title,
            "zone": trial.zone,
            "origin": trial.origin,
            "sealed_at": moment(trial.sealed_at),
            "sealed_by": self.names[sealed.by_id] if sealed else None,
            "started_at": moment(trial.started_at),
            "opened_at": moment(trial.opened_at),
            "opened_by": self.names[trial.opened_by_id] if trial.opened_by_id else None,
        }

    def chain(self) -> Callable[[Mapping[str, bytes]], Sheet] | None:
        """What makes the table of the trial's chain; none for a draft, which has none."""
        entries = entries_of(self.trial)
        return None if self.trial.state == "draft" else lambda contents: chain_sheet(entries, contents)

    def files(self) -> dict[str, bytes]:
        """Photos, and what was put before panels, by path."""
        full = dict(PhotoFile.objects.filter(photo__in=[one.pk for one in self.photos]).values_list("photo_id", "full"))
        found = {f"photos/{i:04d}.jpg": bytes(full[one.pk]) for i, one in enumerate(self.photos, start=1)}
        if self.open:
            found.update({path: bytes(one.content) for _, one, path in self._material_files()})
        return found


def verdict_document(done: Concluded) -> dict[str, Any]:
    """The verdict as plain JSON values."""
    return {
        "format": "field-tally-verdict/1",
        "findings": [asdict(one) for one in done.findings],
        "with_all": [asdict(one) for one in done.with_all],
        "without_odd": [asdict(one) for one in done.without_odd],
        "by_scorer": {name: [asdict(one) for one in own] for name, own in done.by_scorer.items()},
        "behind": [asdict(one) for one in done.behind],
        "tally": asdict(done.tally) if done.tally else None,
        **({"instruments": asdict(done.instruments)} if done.instruments else {}),
    }


def _float(value: float | None) -> float | None:
    return None if value is None else float(value)
