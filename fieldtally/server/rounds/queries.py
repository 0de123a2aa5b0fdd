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
from fieldtally.server.log.queries import Deviations, set_aside
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Sample, Shuffle
from fieldtally.server.plan.queries import checkpoints_of, plan_of, shuffle_of
from fieldtally.server.prepare.queries import Starts, cycles_by_trial, key_looks, started_samples, starts_by_trial
from fieldtally.server.rounds.asking import Asking, taken_by_sample
from fieldtally.server.rounds.models import Reading, Repeat, Round


def current_readings(*trials: Trial) -> QuerySet[Reading]:
    """The readings of ``trials`` that nothing supersedes and nobody took back."""
    return Reading.objects.current().filter(trial__in=trials)


def scorers_of(trial: Trial) -> dict[int, str]:
    """What each scorer is called; where two are called alike, with a number."""
    seen: dict[str, int] = {}
    found = {}
    scorers = Reading.objects.filter(trial=trial).values_list("scorer_id", flat=True).distinct()
    for user in User.objects.filter(pk__in=scorers).order_by("pk"):
        seen[user.called] = seen.get(user.called, 0) + 1
        found[user.pk] = user.called if seen[user.called] == 1 else f"{user.called} ({seen[user.called]})"
    return found


Taken = dict[tuple[UUID, str], list[tuple[int, int, datetime]]]
"""For a trial and a checkpoint (key): how many samples have so many outcomes read, and the last of these readings."""


@dataclass(frozen=True)
class CheckpointProgress:
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


@dataclass(frozen=True)
class _Count:
    """Readings done of those expected, and samples done of those to be looked at, at one look."""

    done: int
    expected: int
    samples_done: int
    samples: int


@dataclass(frozen=True)
class Counted:
    """What the checkpoints of sealed trials stand on, counted by the database: as many queries for many trials as for one, and nothing
    that grows with their readings; but for a trial that does not ask all of every sample, whose samples are looked through one by one."""

    samples: Mapping[UUID, int]
    deviations: Deviations
    taken: Taken
    cycles: Mapping[UUID, Sequence[datetime]]
    starts: Mapping[UUID, Starts]

    @classmethod
    def of(cls, trials: Sequence[Trial]) -> Counted:
        """For ``trials``."""
        deviations = Deviations.of(*trials)
        rows = Sample.objects.filter(trial__in=trials).values_list("trial_id").annotate(count=Count("pk")).order_by()
        return cls(
            samples=dict(rows),
            deviations=deviations,
            taken=_taken([trial.pk for trial in trials], list(deviations.out_of_play)),
            cycles=cycles_by_trial(trials),
            starts=starts_by_trial(trials),
        )

    def watched(self, trial: Trial) -> int:
        """How many samples are still watched: all but those set aside or left out."""
        gone = sum(one.trial_id == trial.pk for one in self.deviations.out_of_play.values())
        return self.samples.get(trial.pk, 0) - gone

    def progress(self, trial: Trial, plan: Plan, now: datetime) -> list[CheckpointProgress]:
        """The checkpoints of ``trial`` in order of time, with how each stands at ``now``."""
        later = _later(trial, self.starts.get(trial.pk), self.samples.get(trial.pk, 0), plan, now)
        asking = Asking.of(trial, plan) if trial.sealed_at else None
        groups = groups_of(trial, plan, now)
        read = taken_by_sample(trial) if asking or groups else {}
        if groups:
            return [
                self._of_groups(trial, plan, checkpoint, now, groups, asking, read.get(checkpoint.key, {}))
                for checkpoint in plan.in_time
            ]
        return [
            self._one(
                trial, plan, checkpoint, now, later, self._of_some(asking, checkpoint, read.get(checkpoint.key, {}))
            )
            for checkpoint in plan.in_time
        ]

    def _one(
        self, trial: Trial, plan: Plan, checkpoint: Checkpoint, now: datetime, later: timedelta, of_some: _Count | None
    ) -> CheckpointProgress:
        rows = self.taken.get((trial.pk, checkpoint.key), [])
        count = of_some or self._of_all(trial, plan, checkpoint, rows)
        # Where every sample was done before, nothing is left to be looked at.
        complete = count.done >= count.expected and (count.expected > 0 or of_some is not None)
        times = self._times(trial, plan, checkpoint, later)
        return CheckpointProgress(
            key=checkpoint.key,
            standing=self._standing(trial, checkpoint, times, now, complete, noted=plan.noted_before(checkpoint.key)),
            times=times,
            done=count.done,
            expected=count.expected,
            samples_done=count.samples_done,
            samples=count.samples,
            last_taken_at=max((last for _, _, last in rows), default=None),
        )

    def _of_groups(
        self,
        trial: Trial,
        plan: Plan,
        checkpoint: Checkpoint,
        now: datetime,
        groups: Sequence[Group],
        asking: Asking | None,
        read: Mapping[UUID, int],
    ) -> CheckpointProgress:
        """A look that each group takes by its own clock: it stands as it does for those who are waited for most."""
        outcomes = sum(checkpoint in plan.looked_at(outcome) for outcome in plan.outcomes)
        asked = None if asking is None else {one: len(keys) for one, keys in asking.at(checkpoint).items()}
        counts, stands = [], []
        for group in groups:
            own = group.samples - self.deviations.out_of_play.keys()
            left = dict.fromkeys(own, outcomes) if asked is None else {one: asked[one] for one in own if one in asked}
            count = _counted(left, read)
            times = (
                cycle_times(checkpoint, self.cycles.get(trial.pk, ()))
                if checkpoint.cycle is not None
                else times_of(plan, group.started, group.later)[checkpoint.key]
            )
            complete = count.done >= count.expected and (count.expected > 0 or asked is not None)
            noted = plan.noted_before(checkpoint.key)
            counts.append(count)
            stands.append((self._standing(trial, checkpoint, times, now, complete, noted=noted), times))
        standing, times = min(stands, key=lambda one: WAITED_FOR.index(one[0]))
        rows = self.taken.get((trial.pk, checkpoint.key), [])
        return CheckpointProgress(
            key=checkpoint.key,
            standing=standing,
            times=times,
            done=sum(count.done for count in counts),
            expected=sum(count.expected for count in counts),
            samples_done=sum(count.samples_done for count in counts),
            samples=sum(count.samples for count in counts),
            last_taken_at=max((last for _, _, last in rows), default=None),
        )

    def _of_all(
        self, trial: Trial, plan: Plan, checkpoint: Checkpoint, rows: list[tuple[int, int, datetime]]
    ) -> _Count:
        left = self.watched(trial)
        outcomes = sum(checkpoint in plan.looked_at(outcome) for outcome in plan.outcomes)
        return _Count(
            done=sum(read * samples for read, samples, _ in rows),
            expected=left * outcomes,
            samples_done=sum(samples for read, samples, _ in rows if read >= outcomes),
            samples=left if outcomes else 0,
        )

    def _of_some(self, asking: Asking | None, checkpoint: Checkpoint, read: Mapping[UUID, int]) -> _Count | None:
        if asking is None:
            return None
        left = {one: len(keys) for one, keys in asking.at(checkpoint).items() if one not in self.deviations.out_of_play}
        return _counted(left, read)

    def _times(self, trial: Trial, plan: Plan, checkpoint: Checkpoint, later: timedelta) -> Times | None:
        if trial.started_at is None:
            return None
        if checkpoint.cycle is not None:
            return cycle_times(checkpoint, self.cycles.get(trial.pk, ()))
        return times_of(plan, trial.started_at, later)[checkpoint.key]

    def _standing(
        self, trial: Trial, checkpoint: Checkpoint, times: Times | None, now: datetime, complete: bool, *, noted: bool
    ) -> Standing:
        skipped = (trial.pk, checkpoint.key) in self.deviations.skipped
        if trial.started_at is None:
            if checkpoint.baseline and trial.sealed_at:
                return "taken" if complete else "due"
            return "upcoming"
        if times is None:
            return "skipped" if skipped else "upcoming"
        standing = standing_at(times, now, complete=complete, skipped=skipped)
        if noted and standing in ("due", "late", "upcoming"):
            # It is typed in from the notebook, and nobody has to look any more.
            return "missed"
        # Nothing more is scored once the key is open.
        return "missed" if trial.opened_at is not None and standing in ("due", "late", "upcoming") else standing


WAITED_FOR: tuple[Standing, ...] = ("due", "late", "upcoming", "missed", "skipped", "taken")


@dataclass(frozen=True)
class Group:
    """Samples (ids) with a clock of their own: all that were drawn first, or those that one amendment added and that have started.  The
    last of them started so much ``later`` than the first."""

    samples: frozenset[UUID]
    started: datetime
    later: timedelta


def groups_of(trial: Trial, plan: Plan, now: datetime) -> list[Group]:
    """The groups of a running trial to which samples were added; none of any other.  What is added waits for nothing before it starts."""
    if not plan.added_blocks or trial.started_at is None:
        return []
    starts = started_samples(trial)
    added = [block.key for block in plan.added_blocks]
    by_block: dict[str | None, set[UUID]] = defaultdict(set)
    for sample, block in Sample.objects.filter(trial=trial).values_list("pk", "block"):
        by_block[block if block in added else None].add(sample)
    found = []
    for key in (None, *added):
        own = by_block[key] if key is None else by_block[key] & starts.keys()
        began = [starts[one] for one in own if one in starts]
        if began and key is None:
            later = _later(trial, Starts(len(began), max(began)), len(own), plan.first_drawn, now)
            found.append(Group(frozenset(own), min(began), later))
        elif began:
            found.append(Group(frozenset(own), min(began), max(began) - min(began)))
    return found


def _counted(left: Mapping[UUID, int], read: Mapping[UUID, int]) -> _Count:
    """What is read of what is ``left`` to read: outcomes by sample."""
    return _Count(
        done=sum(min(read.get(one, 0), many) for one, many in left.items()),
        expected=sum(left.values()),
        samples_done=sum(many > 0 and read.get(one, 0) >= many for one, many in left.items()),
        samples=sum(many > 0 for many in left.values()),
    )


def progress_of(trial: Trial, plan: Plan, now: datetime) -> list[CheckpointProgress]:
    """The checkpoints of a sealed trial in order of time, with how each stands at ``now``."""
    return Counted.of([trial]).progress(trial, plan, now)


def _later(trial: Trial, starts: Starts | None, samples: int, plan: Plan, now: datetime) -> timedelta:
    """How much later than the first the last sample starts: as it did, or while some still wait, as planned or even now."""
    if starts is None or trial.started_at is None:
        return timedelta(minutes=last_start(plan))
    really = starts.last - trial.started_at
    if starts.started >= samples:
        return max(really, timedelta(0))
    return max(really, now - trial.started_at, timedelta(minutes=last_start(plan)))


TAKEN = """
    SELECT t.trial_id, c.key, t.outcomes, count(*), max(t.last)
    FROM rounds_taken t JOIN plan_checkpoint c ON c.id = t.checkpoint_id
    WHERE t.trial_id = ANY(%s) AND t.outcomes > 0 AND t.sample_id <> ALL(%s)
    GROUP BY t.trial_id, c.key, t.outcomes
"""


def _taken(trials: list[UUID], aside: list[UUID]) -> Taken:
    """Counted by the database, so that what comes back does not grow with the readings."""
    found: Taken = defaultdict(list)
    with connection.cursor() as cursor:
        cursor.execute(TAKEN, [trials, aside])
        for trial, key, outcomes, samples, last in cursor.fetchall():
            found[trial, key].append((outcomes, samples, last))
    return found


def values_by_checkpoint(trial: Trial, outcome: str) -> dict[str, dict[str, float]]:
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


def second_codes(trial: Trial) -> frozenset[str]:
    """The second codes under which samples of ``trial`` come back."""
    return frozenset(Repeat.objects.filter(trial=trial).values_list("code", flat=True))


def checkpoints_with_readings(trial: Trial) -> frozenset[str]:
    """The looks (keys) of ``trial`` that have readings, taken back ones among them."""
    return frozenset(Reading.objects.filter(trial=trial).values_list("checkpoint__key", flat=True).distinct())


@dataclass(frozen=True)
class RoundKept:
    """A round as it was really held.

    ``blinding`` is ``unknown`` in a trial made from a table; ``before the seal`` of a look that was taken while nothing was sealed yet;
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
    looked_by: str = ""
    """Who had looked, where somebody else typed it in."""


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
    if trial.imported_by_id and trial.imported_at:
        # Whoever brought the trial in has had its key in their hands.
        first_look.setdefault(trial.imported_by_id, trial.imported_at)
    shuffled = shuffle_of(trial)
    begun = plan_of(trial).begun
    before = set(begun.taken) if begun is not None else set()
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
            else "before the seal"
            if row.checkpoint.key in before
            else _blinding(row.scorer_id, row.last, first_look.get(row.scorer_id), shuffled),
            readings=row.count,
            last_at=row.last,
            scorer_id=row.scorer_id,
            looked_by=row.looked_by,
        )
        for row in rows
    ]


def scored_now(trial: Trial, plan: Plan) -> bool:
    """Whether anything is scored at present: while exposure runs, and before it what is looked at as a baseline."""
    if trial.opened_at is not None:
        return False
    return trial.started_at is not None or (
        trial.sealed_at is not None and any(checkpoint.baseline for checkpoint in plan.checkpoints)
    )


WHOLE = """
    SELECT t.sample_id, count(*)
    FROM rounds_taken t JOIN unnest(%s::bigint[], %s::int[]) AS asked (checkpoint, outcomes) ON asked.checkpoint = t.checkpoint_id
    WHERE t.trial_id = %s AND t.outcomes >= asked.outcomes AND t.outcomes > 0
    GROUP BY t.sample_id
"""


def looked_at_whole(trial: Trial, plan: Plan) -> dict[UUID, int]:
    """At how many checkpoints each sample (id) has all of its outcomes read."""
    asking = Asking.of(trial, plan)
    if asking is not None:
        read, whole = taken_by_sample(trial), Counter[UUID]()
        for checkpoint in plan.checkpoints:
            own = read.get(checkpoint.key, {})
            whole.update(one for one, keys in asking.at(checkpoint).items() if own.get(one, 0) >= len(keys))
        return dict(whole)
    rows = checkpoints_of(trial)
    asked = {rows[c.key]: sum(c in plan.looked_at(o) for o in plan.outcomes) for c in plan.checkpoints if c.key in rows}
    with connection.cursor() as cursor:
        cursor.execute(WHOLE, [list(asked), list(asked.values()), trial.pk])
        return dict(cursor.fetchall())
