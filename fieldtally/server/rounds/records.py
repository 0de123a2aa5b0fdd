"""What other stages may read of rounds."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from django.db import connection
from django.db.models import Avg, Count, Max, QuerySet

from fieldtally.core.design.layout import last_start
from fieldtally.core.design.plan import Checkpoint, Plan
from fieldtally.core.schedule.standing import Standing, Times, cycle_times, standing_at, times_of
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.models import Sample, Shuffle
from fieldtally.server.plan.records import shuffle_of
from fieldtally.server.prepare.records import Starts, cycles_by_trial, key_looks, starts_by_trial
from fieldtally.server.rounds.models import Deviation, Reading, Round
from fieldtally.server.rounds.models.deviation import DeviationKind


def current_readings(*trials: Trial) -> QuerySet[Reading]:
    """The readings of ``trials`` that nothing supersedes and nobody took back."""
    return Reading.objects.current().filter(trial__in=trials)


def out_of_play(*trials: Trial) -> dict[UUID, Deviation]:
    """The samples of ``trials`` that are not scored any more, by id, with the deviation that says why: those set aside, and those left
    out from a moment on."""
    newest: dict[UUID, Deviation] = {}
    decided = Deviation.objects.filter(trial__in=trials, sample__isnull=False).exclude(kind=DeviationKind.MARKED)
    for deviation in decided.order_by("at"):
        newest[deviation.sample_id] = deviation
    return {pk: deviation for pk, deviation in newest.items() if deviation.kind != DeviationKind.PUT_BACK}


def set_aside(*trials: Trial) -> dict[UUID, Deviation]:
    """The samples of ``trials`` that are set aside altogether, by id, with the deviation that says why."""
    return {pk: one for pk, one in out_of_play(*trials).items() if one.kind == DeviationKind.SET_ASIDE}


def left_out(trial: Trial) -> dict[UUID, Deviation]:
    """The samples of ``trial`` whose readings do not count from a moment (``since``) on, by id."""
    return {pk: one for pk, one in out_of_play(trial).items() if one.kind == DeviationKind.LEFT_OUT}


def marked(trial: Trial) -> list[Deviation]:
    """What happened to samples, or to all of them, without any being left out, in order."""
    rows = Deviation.objects.filter(trial=trial, kind=DeviationKind.MARKED)
    return list(rows.select_related("sample").order_by("at", "sample__code"))


def given_up_outcomes(trial: Trial) -> dict[str, Deviation]:
    """The outcomes (keys) of ``trial`` whose method failed so that they were withdrawn, with the deviation that says why."""
    rows = Deviation.objects.filter(trial=trial, kind=DeviationKind.WITHDRAWN).order_by("at")
    return {row.about: row for row in rows}


def split_outcomes(trial: Trial) -> dict[str, Deviation]:
    """The outcomes (keys) of ``trial`` measured in another way from a moment (``since``) on, the newest split of each."""
    rows = Deviation.objects.filter(trial=trial, kind=DeviationKind.SPLIT).order_by("at")
    return {row.about: row for row in rows}


@dataclass(frozen=True)
class Look:
    """How a checkpoint stands: its times (None before exposure), readings taken of those expected, samples that have all of
    theirs of those to be scored, and the moment of the last reading."""

    key: str
    standing: Standing
    times: Times | None = None
    done: int = 0
    expected: int = 0
    samples_done: int = 0
    samples: int = 0
    last_taken_at: datetime | None = None


def looks_of(trial: Trial, plan: Plan, now: datetime) -> list[Look]:
    """The checkpoints of a sealed trial in order of time, with how each stands at ``now``."""
    return looks_by_trial([trial], {trial.pk: plan}, now)[trial.pk]


def looks_by_trial(trials: list[Trial], plans: Mapping[UUID, Plan], now: datetime) -> dict[UUID, list[Look]]:
    """The same for many sealed trials, with as many queries as for one."""
    aside = out_of_play(*trials)
    samples = dict(
        Sample.objects.filter(trial__in=trials).values_list("trial_id").annotate(count=Count("pk")).order_by()
    )
    gone = Counter(deviation.trial_id for deviation in aside.values())
    taken = _taken([trial.pk for trial in trials], list(aside))
    cycles = cycles_by_trial(trials)
    skips = skipped_looks(trials)
    starts = starts_by_trial(trials)
    return {
        trial.pk: [
            _look(
                trial,
                plans[trial.pk],
                checkpoint,
                samples.get(trial.pk, 0) - gone[trial.pk],
                taken,
                now,
                cycles[trial.pk],
                skips,
                _later(trial, starts.get(trial.pk), samples.get(trial.pk, 0), plans[trial.pk], now),
            )
            for checkpoint in plans[trial.pk].in_time
        ]
        for trial in trials
    }


def _later(trial: Trial, starts: Starts | None, samples: int, plan: Plan, now: datetime) -> timedelta:
    """How much later than the first the last sample starts: as it did, or while some still wait, as planned or even now."""
    if starts is None or trial.started_at is None:
        return timedelta(minutes=last_start(plan))
    really = starts.last - trial.started_at
    if starts.started >= samples:
        return max(really, timedelta(0))
    return max(really, now - trial.started_at, timedelta(minutes=last_start(plan)))


Taken = dict[tuple[UUID, str], list[tuple[int, int, datetime]]]
"""For a trial and a checkpoint (key): how many samples have so many outcomes read, and the last of these readings."""

TAKEN = """
    SELECT trial_id, key, outcomes, count(*), max(last)
    FROM (
      SELECT r.trial_id, c.key, count(DISTINCT r.outcome_id) AS outcomes, max(r.taken_at) AS last
      FROM rounds_reading r JOIN plan_checkpoint c ON c.id = r.checkpoint_id
      WHERE r.trial_id = ANY(%s) AND r.kind <> 'withdrawn' AND r.repeat_id IS NULL AND r.sample_id <> ALL(%s)
        AND NOT EXISTS (SELECT 1 FROM rounds_reading newer WHERE newer.supersedes_id = r.id)
      GROUP BY r.trial_id, c.key, r.sample_id
    ) AS read
    GROUP BY trial_id, key, outcomes
"""


def _taken(trials: list[UUID], aside: list[UUID]) -> Taken:
    """Counted by the database, so that what comes back does not grow with the readings."""
    found: Taken = defaultdict(list)
    with connection.cursor() as cursor:
        cursor.execute(TAKEN, [trials, aside])
        for trial, key, outcomes, samples, last in cursor.fetchall():
            found[trial, key].append((outcomes, samples, last))
    return found


def skipped_looks(trials: Sequence[Trial]) -> dict[tuple[UUID, str], str]:
    """The looks (trial, key) that somebody decided to skip, with the reason."""
    rows = Deviation.objects.filter(trial__in=trials, kind=DeviationKind.SKIPPED)
    return {(trial, key): reason for trial, key, reason in rows.values_list("trial_id", "about", "reason")}


def _look(
    trial: Trial,
    plan: Plan,
    checkpoint: Checkpoint,
    left: int,
    taken: Taken,
    now: datetime,
    cycles: Sequence[datetime],
    skips: Mapping[tuple[UUID, str], str],
    later: timedelta,
) -> Look:
    rows = taken.get((trial.pk, checkpoint.key), [])
    outcomes = sum(checkpoint in plan.looked_at(outcome) for outcome in plan.outcomes)
    done = sum(read * samples for read, samples, _ in rows)
    times, standing = None, "upcoming"
    if trial.started_at is not None:
        times = times_of(plan, trial.started_at, later)[checkpoint.key]
        complete, skipped = 0 < left * outcomes <= done, (trial.pk, checkpoint.key) in skips
        if checkpoint.cycle is not None:
            times = cycle_times(checkpoint, cycles)
        if times is not None:
            standing = standing_at(times, now, complete=complete, skipped=skipped)
            if trial.state == "opened" and standing in ("due", "late", "upcoming"):
                # Nothing more is scored once the key is open.
                standing = "missed"
        elif skipped:
            standing = "skipped"
    elif checkpoint.baseline and trial.sealed_at:
        standing = "taken" if 0 < left * outcomes <= done else "due"
    return Look(
        key=checkpoint.key,
        standing=standing,
        times=times,
        done=done,
        expected=left * outcomes,
        samples_done=sum(samples for read, samples, _ in rows if read >= outcomes),
        samples=left if outcomes else 0,
        last_taken_at=max((last for _, _, last in rows), default=None),
    )


def values_by_look(trial: Trial, outcome: str) -> dict[str, dict[str, float]]:
    """For each look (key), the mean value of ``outcome`` (key) of each sample (code) that is not set aside."""
    rows = (
        current_readings(trial)
        .filter(outcome__key=outcome, value__isnull=False)
        .exclude(sample__in=list(set_aside(trial)))
        .values_list("checkpoint__key", "sample__code")
        .annotate(mean=Avg("value"))
        .order_by()
    )
    found: dict[str, dict[str, float]] = defaultdict(dict)
    for checkpoint, code, mean in rows:
        found[checkpoint][code] = mean
    return found


def watched(trial: Trial) -> int:
    """How many samples are still watched: all but those set aside or left out."""
    return Sample.objects.filter(trial=trial).count() - len(out_of_play(trial))


def looks_with_readings(trial: Trial) -> frozenset[str]:
    """The looks (keys) of ``trial`` that have readings, taken back ones among them."""
    return frozenset(Reading.objects.filter(trial=trial).values_list("checkpoint__key", flat=True).distinct())


def differences_by_entry(trial: Trial) -> dict[str, list[str]]:
    """How entries (keys) of the held-equal sheet differed after all, in order."""
    found: dict[str, list[str]] = defaultdict(list)
    for row in Deviation.objects.filter(trial=trial, kind=DeviationKind.DIFFERENCE).order_by("at"):
        found[row.about].append(row.reason)
    return found


def differences_of(trial: Trial, plan: Plan) -> list[tuple[str, str]]:
    """What turned out not to be held equal in ``trial``, and how it differed."""
    names = {entry.key: entry.what for entry in plan.held_equal}
    found = differences_by_entry(trial)
    return [(names.get(key, "something"), reason) for key, reasons in found.items() for reason in reasons]


@dataclass(frozen=True)
class RoundKept:
    """A round as it was really held.

    ``blinding`` is ``unknown`` in a trial made from a table;
    ``open`` where the scorer had seen the key before its last reading; ``self-shuffled`` where they had shuffled
    the samples or flasks themselves; ``double-blind`` where somebody else had, so that neither who gave nor who scored knew;
    else ``scorer-blind``.
    """

    checkpoint: str
    scorer: str
    blinding: str
    readings: int
    last_at: datetime
    scorer_id: int = 0


def _blinding(scorer: int, last: datetime, looked: datetime | None, shuffled: Shuffle | None) -> str:
    if shuffled is not None:
        if hasattr(shuffled, "uncovered") and shuffled.uncovered.at <= last:
            return "open"
        return "self-shuffled" if shuffled.by_id == scorer else "double-blind"
    return "open" if looked is not None and looked <= last else "scorer-blind"


def rounds_of(trial: Trial) -> list[RoundKept]:
    """The rounds of ``trial`` that hold readings, in order."""
    first_look: dict[int, datetime] = {}
    for look in key_looks(trial):
        first_look.setdefault(look.by_id, look.at)
    if trial.brought_by_id and trial.brought_at:
        # Whoever brought the trial in has had its key in their hands.
        first_look.setdefault(trial.brought_by_id, trial.brought_at)
    shuffled = shuffle_of(trial)
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
            blinding="unknown"
            if trial.origin == "table"
            else _blinding(row.scorer_id, row.last, first_look.get(row.scorer_id), shuffled),
            readings=row.count,
            last_at=row.last,
            scorer_id=row.scorer_id,
        )
        for row in rows
    ]
