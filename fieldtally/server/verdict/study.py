"""A trial's records as the core wants them, and the verdict computed from them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from uuid import UUID

from fieldtally.core.design.plan import Plan
from fieldtally.core.verdict.study import CountedReading, Decisions, Placed, StudyData, study_in
from fieldtally.server.log.models import Deviation
from fieldtally.server.log.queries import given_up_outcomes, left_out, set_aside, split_outcomes
from fieldtally.server.moments import Epoch
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import checkpoints_of, key_of, outcomes_of, plan_of, samples_of, sealed_document
from fieldtally.server.prepare.queries import started_samples
from fieldtally.server.rounds.models import Repeat
from fieldtally.server.rounds.models.reading import Kind
from fieldtally.server.rounds.queries import current_readings, rounds_of, scorers_of


@dataclass(frozen=True)
class Study:
    """The core's study of a trial, with its samples in the same order and the deviations that say why some are left out."""

    data: StudyData
    samples: list[Sample]
    aside: dict[UUID, Deviation]
    left_out: dict[UUID, Deviation]

    @property
    def plan(self) -> Plan:
        """The plan without the outcomes that were withdrawn."""
        return self.data.plan


def study_of(trial: Trial) -> Study:
    """The study of a sealed trial.  It knows the key: what comes of it is for eyes that may see that, or tells no treatment."""
    key, samples = key_of(trial), samples_of(trial)
    aside, out = set_aside(trial), left_out(trial)
    codes = {sample.pk: sample.code for sample in samples}
    decisions = Decisions(
        aside=frozenset(codes[pk] for pk in aside),
        left_out={codes[pk]: _since(one) for pk, one in out.items()},
        withdrawn=frozenset(given_up_outcomes(trial)),
        split={outcome: _since(one) for outcome, one in split_outcomes(trial).items()},
    )
    placed = [Placed(s.code, key[s.pk], s.block or None, s.plot, s.row, s.column) for s in samples]
    names = scorers_of(trial)
    seen_by = {(one.checkpoint, names[one.scorer_id]) for one in rounds_of(trial) if one.blinding == "open"}
    starts = {} if trial.origin == "table" else {codes[pk]: at for pk, at in started_samples(trial).items()}
    seed = sealed_document(trial)["seed"]
    data = study_in(plan_of(trial), seed, placed, _stands(trial), decisions, seen_by, starts)
    return Study(data, samples, aside, out)


def _since(deviation: Deviation) -> datetime:
    return deviation.since or deviation.at


def _stands(trial: Trial) -> list[CountedReading]:
    rows = current_readings(trial).filter(kind=Kind.VALUE, value__isnull=False).order_by("take", "stored_at", "pk")
    # Numbers and keys alone: names are looked up here, and a moment as seconds is read ten times as fast as a timestamp.
    fields = ("outcome_id", "checkpoint_id", "sample_id", "scorer_id", "repeat_id", "value")
    outcomes, looks = ({pk: key for key, pk in of(trial).items()} for of in (outcomes_of, checkpoints_of))
    names = scorers_of(trial)
    codes = {sample.pk: sample.code for sample in samples_of(trial)}
    seconds = dict(Repeat.objects.filter(trial=trial).values_list("pk", "code"))
    return [
        CountedReading(
            (outcomes[outcome], looks[look]),
            codes[sample],
            names[scorer],
            None if again is None else seconds[again],
            value,
            datetime.fromtimestamp(at, UTC),
            None if responses is None else tuple(responses),
        )
        for outcome, look, sample, scorer, again, value, at, responses in rows.values_list(
            *fields, Epoch("taken_at"), "responses"
        )
    ]
