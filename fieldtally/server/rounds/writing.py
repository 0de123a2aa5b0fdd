"""Writing readings: each once, however often it is sent, in one transaction with its entry in the chain.

Scorers of one trial write side by side: what a round holds waits for that round alone, the key cannot be opened meanwhile (the trial is
held, shared), and only the entry in the chain waits for the one before it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import cached_property
from typing import Any
from uuid import UUID

from django.db import connection, transaction
from django.db.models import Q
from django.utils import timezone

from fieldtally.core.blinding.chain import item
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.limits import LONGEST_DEVICE
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.rounds.written import Place, Written, date_refusal, moment_of, number_of, refusal, superseded
from fieldtally.server.answers import Declined, missing
from fieldtally.server.hosting.metrics import came_in
from fieldtally.server.log.models.deviation import DeviationKind
from fieldtally.server.people.chain import append
from fieldtally.server.people.locking import keys_of
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import checkpoints_of, outcomes_of, plan_of
from fieldtally.server.rounds.asking import Asking
from fieldtally.server.rounds.models import Reading, Repeat, Round
from fieldtally.server.rounds.readiness import not_ready_for
from fieldtally.server.rounds.services import must_run

MOST_AT_ONCE = 500
BASELINE_AGO = timedelta(days=366)
SAYS_ELSE = "This id belongs to a reading that says something else; nothing was stored."


@dataclass(frozen=True)
class Stored:
    """What is stored now: the ids that were sent, and the newest of them as they are kept, with block and code of their samples."""

    ids: list[UUID]
    readings: list[Reading]


@dataclass(frozen=True)
class _Hands:
    """What writing needs to know, asked once."""

    trial: Trial
    user: User
    plan: Plan
    rounds: Mapping[UUID, Round]
    samples: Mapping[UUID, Sample]
    repeats: Mapping[UUID, Repeat]
    gone: Mapping[str, datetime]
    there: Mapping[UUID, Reading]
    """What is stored under the ids that were sent, and what stands in the places they are written to."""

    @cached_property
    def outcomes(self) -> dict[str, Outcome]:
        return {outcome.key: outcome for outcome in self.plan.outcomes}

    @cached_property
    def looked_at(self) -> dict[str, set[str]]:
        return {key: {c.key for c in self.plan.looked_at(outcome)} for key, outcome in self.outcomes.items()}

    @cached_property
    def asking(self) -> Asking | None:
        return Asking.of(self.trial, self.plan)

    @cached_property
    def superseded(self) -> set[UUID]:
        return {row.supersedes_id for row in self.there.values() if row.supersedes_id}

    @cached_property
    def outcome_rows(self) -> Mapping[str, int]:
        return outcomes_of(self.trial)

    @cached_property
    def checkpoint_keys(self) -> dict[int, str]:
        return {pk: key for key, pk in checkpoints_of(self.trial).items()}

    @cached_property
    def baselines(self) -> set[int]:
        rows = checkpoints_of(self.trial)
        return {rows[c.key] for c in self.plan.checkpoints if c.baseline and c.key in rows}

    def earliest(self, one: Written) -> datetime | None:
        """The first moment at which there was anything to read: the start, and of a baseline the seal, or of a trial that had begun any
        time in the year before."""
        first, sealed = self.trial.started_at or self.trial.sealed_at, self.trial.sealed_at
        if self.rounds[one.round].checkpoint_id not in self.baselines or first is None or sealed is None:
            return first
        return first - BASELINE_AGO if self.plan.begun is not None else sealed

    def latest(self, one: Written, now: datetime) -> datetime:
        """The last moment at which it was looked at: ``now``, or of a look that was taken before the seal, that."""
        at = self.checkpoint_keys[self.rounds[one.round].checkpoint_id]
        return min(now, self.trial.sealed_at or now) if self.plan.noted_before(at) else now

    def number(self, one: Written) -> float | None:
        """The number of ``one``; None for words, and for an outcome that is not in the plan."""
        outcome = self.outcomes.get(one.outcome)
        return number_of(one, outcome.scale if outcome else None)

    def sample_of(self, one: Written) -> UUID:
        """The sample that was read, be it under a second code."""
        return self.repeats[one.sample].sample_id if one.sample in self.repeats else one.sample

    def place(self, one: Written) -> Place:
        """Where ``one`` stands."""
        return one.round, one.sample, one.outcome, one.take


def write_readings(trial: Trial, user: User, written: Sequence[Written], *, now: datetime | None = None) -> Stored:
    """Store readings, each once however often it is sent; all or nothing.

    A reading on what this scorer has read already in this round supersedes that one: nothing is overwritten.  A retest (a later
    ``take``) stands beside it.
    """
    if len(written) > MOST_AT_ONCE:
        raise Declined(422, f"At most {MOST_AT_ONCE} readings at once; send the rest after these.")
    stored_at = now or timezone.now()
    ids = [one.id for one in written]
    with transaction.atomic():
        hands = _hands(trial, user, written)
        known = {pk: row for pk, row in hands.there.items() if pk in set(ids)}
        if any(r.trial_id != trial.pk or r.scorer_id != user.pk for r in known.values()):
            raise Declined(409, "One of these readings carries an id that is taken; nothing was stored.")
        _same_bodies(hands, written, known)
        fresh = list({w.id: w for w in written if w.id not in known}.values())
        made = _write(hands, fresh, stored_at) if fresh else []
    for row in made:
        came_in((row.stored_at - row.taken_at).total_seconds())
    kept = [*known.values(), *made]
    gone = hands.superseded | {row.supersedes_id for row in made if row.supersedes_id}
    return Stored(ids, [row for row in kept if row.pk not in gone])


def _hands(trial: Trial, user: User, written: Sequence[Written]) -> _Hands:
    """All that writing needs to know, with the rounds of ``written`` held until the transaction ends."""
    asked = {one.sample for one in written}
    plan, held = plan_of(trial), _held(trial, user, {one.round for one in written}, asked)
    repeats: dict[UUID, Repeat] = {}
    samples = dict(held.samples)
    if plan.repeats and trial.plan_seal:
        repeats = {r.pk: r for r in Repeat.objects.filter(trial=trial, pk__in=asked).select_related("sample")}
        samples |= {one.sample_id: one.sample for one in repeats.values()}
    outcomes = outcomes_of(trial)
    read = {outcomes[one.outcome] for one in written if one.outcome in outcomes}
    in_place = Q(round__in=held.rounds, sample__in=samples, outcome__in=read, superseded_by=None)
    there = Reading.objects.filter(Q(pk__in={one.id for one in written}) | in_place).select_related("sample")
    return _Hands(held.trial, user, plan, held.rounds, samples, repeats, held.withdrawn, {row.pk: row for row in there})


HELD = """
    WITH held AS MATERIALIZED (SELECT count(pg_advisory_xact_lock(key)) AS many FROM unnest(%s::bigint[]) AS key)
    SELECT t.sealed_at, t.started_at, t.opened_at, r.id, r.checkpoint_id,
      (SELECT json_object_agg(d.about, extract(epoch FROM d.at) ORDER BY d.at) FROM log_deviation d
       WHERE d.trial_id = t.id AND d.kind = %s),
      (SELECT json_agg(json_build_array(s.id, s.code, s.block)) FROM plan_sample s
       WHERE s.trial_id = t.id AND s.id = ANY(%s))
    FROM held, people_trial t LEFT JOIN rounds_round r ON r.trial_id = t.id AND r.scorer_id = %s AND r.id = ANY(%s)
    WHERE t.id = %s AND held.many >= 0 FOR SHARE OF t
"""
"""What one device sends twice at a time is stored once: its round is held first.  Then the trial, shared, as it is now."""


@dataclass(frozen=True)
class _Held:
    """The trial as it is now, those of the rounds that are this scorer's, those of the samples that are of this trial, and since when
    outcomes (keys) are withdrawn."""

    trial: Trial
    rounds: Mapping[UUID, Round]
    samples: Mapping[UUID, Sample]
    withdrawn: Mapping[str, datetime]


def _held(trial: Trial, user: User, rounds: set[UUID], samples: set[UUID]) -> _Held:
    with connection.cursor() as cursor:
        withdrawn = DeviationKind.WITHDRAWN.value
        cursor.execute(HELD, [keys_of(rounds), withdrawn, list(samples), user.pk, list(rounds), trial.pk])
        rows = cursor.fetchall()
    if not rows:
        raise missing()
    sealed, started, opened, _, _, gone, own = rows[0]
    moments = {"sealed_at": sealed, "started_at": started, "opened_at": opened}
    return _Held(
        Trial(pk=trial.pk, title=trial.title, plan_seal=trial.plan_seal, **moments),
        {pk: Round(pk=pk, trial=trial, scorer=user, checkpoint_id=at) for *_, pk, at, _, _ in rows if pk is not None},
        {UUID(pk): Sample(pk=UUID(pk), trial=trial, code=code, block=block) for pk, code, block in own or ()},
        {key: datetime.fromtimestamp(at, UTC) for key, at in (gone or {}).items()},
    )


def _write(hands: _Hands, fresh: Sequence[Written], stored_at: datetime) -> list[Reading]:
    # Asked only now: what was stored before the key was opened may still be sent again.
    must_run(hands.trial, baseline=all(r.checkpoint_id in hands.baselines for r in hands.rounds.values()))
    _all_sound(hands, fresh, stored_at)
    before = superseded({one.id: hands.place(one) for one in fresh}, _heads(hands))
    rows = [_row(hands, one, before.get(one.id), stored_at) for one in fresh]
    Reading.objects.bulk_create(rows)
    codes = {pk: sample.code for pk, sample in hands.samples.items()}
    outcomes = {pk: key for key, pk in hands.outcome_rows.items()}
    chained = [item("reading", reading_record(row, codes, hands.checkpoint_keys, outcomes)) for row in rows]
    append(hands.trial, "readings", chained, at=stored_at)
    return rows


def _heads(hands: _Hands) -> dict[Place, UUID]:
    """The newest reading in each place, as far as it was asked for."""
    keys = {pk: key for key, pk in hands.outcome_rows.items()}
    return {
        (row.round_id, row.repeat_id or row.sample_id, keys[row.outcome_id], row.take): row.pk
        for row in hands.there.values()
        if row.pk not in hands.superseded
    }


def _row(hands: _Hands, one: Written, old: UUID | None, stored_at: datetime) -> Reading:
    sample = hands.samples[hands.sample_of(one)]
    return Reading(
        id=one.id,
        trial=hands.trial,
        round=hands.rounds[one.round],
        checkpoint_id=hands.rounds[one.round].checkpoint_id,
        sample=sample,
        repeat=hands.repeats.get(one.sample),
        outcome_id=hands.outcome_rows[one.outcome],
        scorer=hands.user,
        kind=one.kind,
        value=hands.number(one),
        words=one.said,
        responses=list(one.responses) if one.is_value and one.responses else None,
        take=one.take,
        source=one.source,
        device=one.device.strip()[:LONGEST_DEVICE] if one.source == "device" else "",
        reason=one.reason.strip() or ("entered again" if old and one.is_value else ""),
        supersedes_id=old,
        taken_at=moment_of(one.taken_at, hands.earliest(one) or stored_at, stored_at),
        stored_at=stored_at,
    )


def reading_record(
    row: Reading, codes: Mapping[UUID, str], checkpoints: Mapping[int, str], outcomes: Mapping[int, str]
) -> dict[str, Any]:
    """What the chain keeps of a reading; codes and keys by the ids that it names."""
    return {
        "sample": codes[row.sample_id],
        "outcome": outcomes[row.outcome_id],
        "checkpoint": checkpoints[row.checkpoint_id],
        "kind": row.kind,
        "value": None if row.value is None else float(row.value),
        "words": row.words,
        "responses": None if row.responses is None else [None if x is None else float(x) for x in row.responses],
        "reason": row.reason,
        "taken_at": row.taken_at,
        "stored_at": row.stored_at,
        "source": row.source,
        "device": row.device,
        "take": row.take,
        "second_code": row.repeat.code if row.repeat else None,
    }


def _same_bodies(hands: _Hands, written: Sequence[Written], known: Mapping[UUID, Reading]) -> None:
    """What is sent again must be what was stored under its id, and what comes twice at once must be the same."""
    first: dict[UUID, Written] = {}
    for i, one in enumerate(written):
        if first.setdefault(one.id, one) != one or (one.id in known and not _says_the_same(hands, one, known[one.id])):
            raise Declined(409, Problem(f"readings.{i}.id", SAYS_ELSE))


def _says_the_same(hands: _Hands, one: Written, row: Reading) -> bool:
    try:
        number = hands.number(one)
    except Refused:
        return False
    return (
        (one.round, one.kind, one.take) == (row.round_id, row.kind, row.take)
        and hands.outcome_rows.get(one.outcome) == row.outcome_id
        and one.sample in (row.repeat_id or row.sample_id, row.sample_id)
        and number == row.value
        and one.said == row.words
        and (list(one.responses or ()) if one.is_value else []) == list(row.responses or ())
    )


def _all_sound(hands: _Hands, fresh: Sequence[Written], now: datetime) -> None:
    practised = any(outcome.practised for outcome in hands.plan.outcomes)
    unready = not_ready_for(hands.trial, hands.user) if practised else set()
    problems: list[Problem] = []
    for i, one in enumerate(fresh):
        at = _checkpoint_of(hands, one)
        if one.outcome in hands.gone and one.taken_at > hands.gone[one.outcome]:
            # Without its name, which may hold that of a treatment.
            problems.append(Problem(f"readings.{i}.outcome", "This was withdrawn; it is not scored any more."))
        elif one.outcome in unready and one.source != "device" and one.is_value:
            says_first = "This is scored by those who have shown in practice that they are ready; practise first."
            problems.append(Problem(f"readings.{i}.outcome", says_first))
        elif one.is_value and hands.asking and not hands.asking.foreseen(hands.sample_of(one), one.outcome, at):
            problems.append(Problem(f"readings.{i}.outcome", "The plan does not have this read on this sample."))
        else:
            says = refusal(one, hands.outcomes[one.outcome], hands.looked_at[one.outcome], at)
            dated = date_refusal(one, hands.earliest(one) or now, hands.latest(one, now))
            says = says or (("taken_at", dated) if dated else None)
            problems += [Problem(f"readings.{i}.{says[0]}", says[1])] if says else []
    if problems:
        raise Declined(422, *problems)


def _checkpoint_of(hands: _Hands, one: Written) -> str:
    """The checkpoint (key) at which ``one`` was read.

    :raises Declined: with 404 where its round, outcome or sample is not there for this scorer.
    """
    if one.round not in hands.rounds or one.outcome not in hands.outcomes:
        raise missing()
    at = hands.rounds[one.round].checkpoint_id
    repeat = hands.repeats.get(one.sample)
    if repeat.checkpoint_id != at if repeat else one.sample not in hands.samples:
        raise missing()
    return hands.checkpoint_keys[at]
