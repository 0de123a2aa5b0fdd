"""The tables of a trial, as a person may see them."""

from __future__ import annotations

from datetime import UTC, datetime

from fieldtally.core.scales import unit_of
from fieldtally.core.trialpack.pack import Cell, Sheet
from fieldtally.core.trialpack.schema import Fields, FieldType
from fieldtally.server.log.models import Condition, Deviation
from fieldtally.server.log.queries import set_aside
from fieldtally.server.people.sight import Sight
from fieldtally.server.plan.queries import key_of, plan_of, samples_of
from fieldtally.server.rounds.models import Reading
from fieldtally.server.rounds.models.reading import ReadingSet
from fieldtally.server.rounds.queries import scorers_of
from fieldtally.server.rounds.spoken import spoken_outcome
from fieldtally.server.share.rows import ReadingRow, readings_in, to_the_second


def _moment(at: datetime) -> str:
    return at.astimezone(UTC).isoformat(timespec="seconds").replace("+00:00", "Z")


class Sheets:
    """The tables of one trial.  Without sight of the key no table names a treatment, and treatments have none."""

    def __init__(self, seen: Sight, *, with_key: bool, own_only: int | None = None) -> None:
        self.seen, self.with_key, self.own_only = seen, with_key, own_only
        self.trial = seen.trial
        self.plan = plan_of(seen.trial)
        self.names = self.plan.telling_names
        self.all_samples = samples_of(seen.trial)
        self.key = key_of(seen.trial) if with_key else {}
        self.treatment_names = {t.key: t.name for t in self.plan.treatments} if with_key else {}
        self.blocks = {b.key: seen.spoken(b.name, self.names) for b in self.plan.layout.blocks}
        self.outcome_names = {o.key: seen.spoken(o.name, self.names) for o in self.plan.outcomes}
        self.checkpoint_names = {c.key: seen.spoken(c.name, self.names) for c in self.plan.checkpoints}

    def _say(self, text: str) -> str:
        """What somebody wrote, as this person may read it: who wrote it may have known the key."""
        return self.seen.spoken(text, self.names)

    def treatments(self) -> Sheet:
        """What was compared."""
        rows = [(t.key, t.name, t.kind, t.note) for t in self.plan.treatments]
        fields: Fields = (("treatment", "string"), ("name", "string"), ("kind", "string"), ("note", "string"))
        return Sheet("treatments", "What was compared", fields, rows, ("treatment",))

    def samples(self) -> Sheet:
        """Every sample; its treatment only with the key."""
        aside = set_aside(self.trial)
        rows: list[tuple[Cell, ...]] = []
        for sample in self.all_samples:
            row: list[Cell] = [
                sample.code,
                self.blocks.get(sample.block, ""),
                sample.place,
                sample.plot,
                sample.row,
                sample.column,
            ]
            if self.with_key:
                row.append(self.key[sample.pk])
            row.append(self._say(aside[sample.pk].reason) if sample.pk in aside else None)
            rows.append(tuple(row))
        fields: list[tuple[str, FieldType]] = [
            ("sample", "string"),
            ("block", "string"),
            ("place", "integer"),
            ("plot", "integer"),
            ("row", "integer"),
            ("column", "integer"),
        ]
        if self.with_key:
            fields.append(("treatment", "string"))
        fields.append(("set_aside", "string"))
        return Sheet("samples", "Every sample", tuple(fields), rows, ("sample",))

    def outcomes(self) -> Sheet:
        """What was looked at."""
        rows = []
        for outcome in self.plan.outcomes:
            scale = spoken_outcome(self.seen, outcome, self.names).scale
            unit = unit_of(scale)
            rows.append(
                (
                    outcome.key,
                    self.outcome_names[outcome.key],
                    scale.kind,
                    unit,
                    outcome.better,
                    outcome.margin,
                    outcome.primary,
                )
            )
        fields: Fields = (
            ("outcome", "string"),
            ("name", "string"),
            ("kind", "string"),
            ("unit", "string"),
            ("better", "string"),
            ("margin", "number"),
            ("primary", "boolean"),
        )
        return Sheet("outcomes", "What was looked at", fields, rows, ("outcome",))

    def checkpoints(self) -> Sheet:
        """When it was looked at; offset and window in minutes from the start of exposure."""
        rows = [
            (c.key, self.checkpoint_names[c.key], self._say(c.stage), c.offset, c.cycle, c.before, c.after)
            for c in self.plan.in_time
        ]
        fields: Fields = (
            ("checkpoint", "string"),
            ("name", "string"),
            ("stage", "string"),
            ("offset_minutes", "integer"),
            ("cycle", "integer"),
            ("window_before_minutes", "integer"),
            ("window_after_minutes", "integer"),
        )
        return Sheet("checkpoints", "When it was looked at", fields, rows, ("checkpoint",))

    def _readings(self) -> ReadingSet:
        rows = Reading.objects.filter(trial=self.trial)
        if self.own_only is not None:
            rows = rows.filter(scorer_id=self.own_only)
        return rows.order_by("stored_at", "pk")

    def _code(self, row: ReadingRow) -> str:
        """The code a reading goes by; one under a second code goes by that one, until the key is open."""
        hidden = row.second_code if not self.seen.may("see_verdict") else None
        return hidden or row.sample

    def readings(self) -> Sheet:
        """Every reading, replaced ones among them."""
        scorers = scorers_of(self.trial)
        rows = [
            (
                str(r.pk),
                self._code(r),
                r.outcome,
                r.checkpoint,
                scorers[r.scorer],
                r.kind,
                r.value,
                self._say(r.words) or None,
                None
                if r.responses is None
                else " ".join("-" if one is None else repr(float(one)) for one in r.responses),
                self._say(r.reason),
                to_the_second(r.taken),
                to_the_second(r.stored),
                r.source,
                r.device or None,
                str(r.supersedes) if r.supersedes else None,
                r.second_code,
            )
            for r in readings_in(self._readings())
        ]
        fields: Fields = (
            ("reading", "string"),
            ("sample", "string"),
            ("outcome", "string"),
            ("checkpoint", "string"),
            ("scorer", "string"),
            ("kind", "string"),
            ("value", "number"),
            ("words", "string"),
            ("responses", "string"),
            ("reason", "string"),
            ("taken_at", "datetime"),
            ("stored_at", "datetime"),
            ("source", "string"),
            ("device", "string"),
            ("supersedes", "string"),
            ("second_code", "string"),
        )
        return Sheet("readings", "Every reading", fields, rows, ("reading",))

    def deviations(self) -> Sheet:
        """What did not go to plan."""
        rows = [
            (
                str(d.pk),
                d.sample.code if d.sample else None,
                d.kind,
                self._say(d.reason),
                d.by.called,
                _moment(d.at),
                d.after_key,
                d.about or None,
                d.accident or None,
                _moment(d.since) if d.since else None,
            )
            for d in Deviation.objects.filter(trial=self.trial).select_related("sample", "by")
        ]
        fields: Fields = (
            ("deviation", "string"),
            ("sample", "string"),
            ("kind", "string"),
            ("reason", "string"),
            ("by", "string"),
            ("at", "datetime"),
            ("after_key", "boolean"),
            ("about", "string"),
            ("accident", "string"),
            ("since", "datetime"),
        )
        return Sheet("deviations", "What did not go to plan", fields, rows, ("deviation",))

    def conditions(self) -> Sheet:
        """What it was like around the samples."""
        rows = [
            (self.blocks.get(c.place, ""), _moment(c.at), c.temperature, c.humidity, c.rain, c.light, c.device or None)
            for c in Condition.objects.filter(trial=self.trial)
        ]
        fields: Fields = (
            ("place", "string"),
            ("at", "datetime"),
            ("temperature_c", "number"),
            ("humidity_percent", "number"),
            ("rain_mm", "number"),
            ("light_lx", "number"),
            ("device", "string"),
        )
        return Sheet("conditions", "What it was like around the samples", fields, rows, ())

    def long_table(self) -> Sheet:
        """One row a reading that stands, in words, for a spreadsheet; the treatment only with the key."""
        aside = set_aside(self.trial)
        rows: list[tuple[Cell, ...]] = []
        scorers = scorers_of(self.trial)
        for r in readings_in(self._readings().newest().filter(kind="value")):
            row: list[Cell] = [self._code(r)]
            if self.with_key:
                row.append(self.treatment_names[self.key[r.sample_id]])
            row += [
                self.blocks.get(r.block, ""),
                self.checkpoint_names[r.checkpoint],
                self.outcome_names[r.outcome],
                r.value,
                scorers[r.scorer],
                to_the_second(r.taken),
                r.sample_id in aside,
            ]
            rows.append(tuple(row))
        fields: list[tuple[str, FieldType]] = [("sample", "string")]
        if self.with_key:
            fields.append(("treatment", "string"))
        fields += [
            ("block", "string"),
            ("checkpoint", "string"),
            ("outcome", "string"),
            ("value", "number"),
            ("scorer", "string"),
            ("taken_at", "datetime"),
            ("set_aside", "boolean"),
        ]
        return Sheet("readings", "Readings", tuple(fields), rows, ())

    def pack(self) -> list[Sheet]:
        """The tables of a trial pack."""
        first = [self.treatments()] if self.with_key else []
        return [
            *first,
            self.samples(),
            self.outcomes(),
            self.checkpoints(),
            self.readings(),
            self.deviations(),
            self.conditions(),
        ]
