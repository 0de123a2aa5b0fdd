"""What other stages may read of rounds."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.db.models import Count, F, Func, Max, QuerySet, TextField

from fieldtally.core.design.plan import Checkpoint, Plan
from fieldtally.core.schedule.standing import Standing, Times, standing_at, times_of
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.models import Sample
from fieldtally.server.prepare.records import key_looks
from fieldtally.server.rounds.models import Deviation, Reading, Round
from fieldtally.server.rounds.models.deviation import DeviationKind
from fieldtally.server.rounds.models.reading import Kind


def current_readings(*trials: Trial) -> QuerySet[Reading]:
    """The readings of ``trials`` that nothing supersedes and nobody took back."""
    return Reading.objects.filter(trial__in=trials, superseded_by=None).exclude(kind=Kind.WITHDRAWN)


def set_aside(*trials: Trial) -> dict[UUID, Deviation]:
    """The samples of ``trials`` that are set aside, by id, with the deviation that says why."""
    newest: dict[UUID, Deviation] = {}
    for deviation in Deviation.objects.filter(trial__in=trials).order_by("at"):
        newest[deviation.sample_id] = deviation
    return {pk: deviation for pk, deviation in newest.items() if deviation.kind == DeviationKind.SET_ASIDE}


@dataclass(frozen=True)
class Look:
    """How a checkpoint stands: its times (None before exposure), readings done of those expected, and who began when."""

    key: str
    standing: Standing
    times: Times | None
    done: int
    expected: int
    last_taken_at: datetime | None


def looks_of(trial: Trial, plan: Plan, now: datetime) -> list[Look]:
    """The checkpoints of a sealed trial in order of time, with how each stands at ``now``."""
    return looks_by_trial([trial], {trial.pk: plan}, now)[trial.pk]


def looks_by_trial(trials: list[Trial], plans: Mapping[UUID, Plan], now: datetime) -> dict[UUID, list[Look]]:
    """The same for many sealed trials, with as many queries as for one."""
    aside = set_aside(*trials)
    samples = dict(
        Sample.objects.filter(trial__in=trials).values_list("trial_id").annotate(count=Count("pk")).order_by()
    )
    gone = Counter(deviation.trial_id for deviation in aside.values())
    done = {
        (row["trial_id"], row["checkpoint__key"]): (row["done"], row["last"])
        for row in current_readings(*trials)
        .exclude(sample_id__in=list(aside))
        .values("trial_id", "checkpoint__key")
        .annotate(done=Count(_sample_and_outcome(), distinct=True), last=Max("taken_at"))
        .order_by()
    }
    return {
        trial.pk: [
            _look(trial, plans[trial.pk], checkpoint, samples.get(trial.pk, 0) - gone[trial.pk], done, now)
            for checkpoint in sorted(plans[trial.pk].checkpoints, key=lambda c: c.offset)
        ]
        for trial in trials
    }


def _look(
    trial: Trial,
    plan: Plan,
    checkpoint: Checkpoint,
    left: int,
    done: Mapping[tuple[UUID, str], tuple[int, datetime | None]],
    now: datetime,
) -> Look:
    count, last = done.get((trial.pk, checkpoint.key), (0, None))
    expected = left * sum(checkpoint in plan.looked_at(outcome) for outcome in plan.outcomes)
    if trial.started_at is None:
        return Look(checkpoint.key, "upcoming", None, count, expected, last)
    times = times_of(plan.checkpoints, trial.started_at)[checkpoint.key]
    standing = standing_at(times, now, complete=expected > 0 and count >= expected)
    return Look(checkpoint.key, standing, times, count, expected, last)


def _sample_and_outcome() -> Func:
    return Func(F("sample_id"), F("outcome_id"), function="concat", output_field=TextField())


@dataclass(frozen=True)
class RoundKept:
    """A round as it was really held: ``blinding`` is ``open`` where the scorer had seen the key before its last reading."""

    checkpoint: str
    scorer: str
    blinding: str
    readings: int
    last_at: datetime


def rounds_of(trial: Trial) -> list[RoundKept]:
    """The rounds of ``trial`` that hold readings, in order."""
    first_look: dict[int, datetime] = {}
    for look in key_looks(trial):
        first_look.setdefault(look.by_id, look.at)
    rows = (
        Round.objects.filter(trial=trial)
        .select_related("checkpoint", "scorer")
        .annotate(count=Count("readings"), last=Max("readings__stored_at"))
        .filter(count__gt=0)
        .order_by("opened_at")
    )
    return [
        RoundKept(
            checkpoint=row.checkpoint.key,
            scorer=row.scorer.called,
            blinding="open"
            if row.scorer_id in first_look and first_look[row.scorer_id] <= row.last
            else "scorer-blind",
            readings=row.count,
            last_at=row.last,
        )
        for row in rows
    ]
