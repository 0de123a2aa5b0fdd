"""What may be done in rounds: open one, write readings, set a sample aside."""

from __future__ import annotations

import math
import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any
from uuid import UUID, uuid4
from zoneinfo import ZoneInfo

from django.db import transaction
from django.utils import timezone

from fieldtally.core.blinding.chain import item
from fieldtally.core.design.plan import Checkpoint, Outcome, Plan
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.scales import CurveScale, NoteScale, ShadeScale
from fieldtally.server.answers import Declined, missing
from fieldtally.server.locking import hold
from fieldtally.server.people.chain import append
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.acts import amend
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.records import checkpoints_of, outcomes_of, plan_of
from fieldtally.server.rounds.deviating import deviate
from fieldtally.server.rounds.models import Deviation, LogNote, Reading, Round
from fieldtally.server.rounds.models.deviation import DeviationKind
from fieldtally.server.rounds.models.reading import Kind, Source
from fieldtally.server.rounds.reasons import LONGEST_REASON, given_reason
from fieldtally.server.rounds.records import given_up_outcomes, looks_with_readings, out_of_play, skipped_looks
from fieldtally.server.rounds.repeats import repeats_of
from fieldtally.server.rounds.training import not_ready_for

MOST_AT_ONCE = 500
LONGEST_NOTE = 2_000
LONGEST_DEVICE = 60
MOST_TAKES = 9


@dataclass(frozen=True)
class Written:
    """A reading as a scorer's device sends it; ``sample`` and ``round`` are ids, ``outcome`` a key of the plan."""

    id: UUID
    round: UUID
    sample: UUID
    outcome: str
    kind: str
    value: float | None
    reason: str
    taken_at: datetime
    words: str = ""
    responses: tuple[float | None, ...] | None = None
    source: str = Source.TYPED
    device: str = ""
    take: int = 1


def _must_run(trial: Trial, *, baseline: bool = False) -> None:
    if trial.state == "opened":
        raise Declined(409, "The key is open: this trial is concluded, and nothing more is scored in it.")
    if trial.state == "draft":
        raise Declined(
            409, "This trial is still a draft: it is scored once the plan is sealed and exposure has started."
        )
    if trial.state == "sealed" and not baseline:
        raise Declined(409, "Exposure has not started yet, so there is nothing to score.")


def open_round(trial: Trial, user: User, checkpoint: str, *, at: datetime | None = None) -> Round:
    """The round of ``user`` at ``checkpoint`` (key), begun now if they had none."""
    _must_run(trial, baseline=checkpoint in _baselines(trial))
    row = checkpoints_of(trial).get(checkpoint)
    if row is None:
        raise missing()
    found, _ = Round.objects.get_or_create(
        trial=trial, checkpoint_id=row, scorer=user, defaults={"opened_at": at or timezone.now()}
    )
    return found


def _baselines(trial: Trial) -> set[str]:
    return {c.key for c in plan_of(trial).checkpoints if c.baseline} if trial.state != "draft" else set()


def write_readings(trial: Trial, user: User, written: Sequence[Written], *, now: datetime | None = None) -> list[UUID]:
    """Store readings, each once however often it is sent; all or nothing.  Their ids.

    A reading on what this scorer has read already in this round supersedes that one: nothing is overwritten.  A retest (a later
    ``take``) stands beside it.
    """
    if len(written) > MOST_AT_ONCE:
        raise Declined(422, f"At most {MOST_AT_ONCE} readings at once; send the rest after these.")
    stored_at = now or timezone.now()
    with transaction.atomic():
        rounds = {r.pk: r for r in Round.objects.filter(trial=trial, scorer=user, pk__in={w.round for w in written})}
        # What one device sends twice at a time is stored once.
        hold(rounds)
        known = {r.pk: r for r in Reading.objects.filter(pk__in=[w.id for w in written])}
        fresh = list({w.id: w for w in written if w.id not in known}.values())
        _same_hands(trial, user, known)
        _same_bodies(trial, written, known)
        if not fresh:
            return [w.id for w in written]
        # Asked only now: what was stored before the key was opened may still be sent again.
        running = Trial.objects.select_for_update().get(pk=trial.pk)
        baselines = {checkpoints_of(trial).get(key) for key in _baselines(running)}
        _must_run(running, baseline=all(r.checkpoint_id in baselines for r in rounds.values()))
        _all_sound(trial, user, fresh, rounds)
        earliest = running.started_at or running.sealed_at
        brought = repeats_of(trial)
        curves = {o.key: o.scale for o in plan_of(trial).outcomes if isinstance(o.scale, CurveScale)}
        outcomes = outcomes_of(trial)
        heads = {
            (r.round_id, r.repeat_id or r.sample_id, r.outcome_id, r.take): r.pk
            for r in Reading.objects.newest().filter(round__in=rounds)
        }
        early = {r.pk for r in rounds.values() if r.checkpoint_id in baselines}
        rows = []
        for one in fresh:
            at = (one.round, one.sample, outcomes[one.outcome], one.take)
            old = heads.get(at)
            row = Reading(
                id=one.id,
                trial=trial,
                round=rounds[one.round],
                checkpoint_id=rounds[one.round].checkpoint_id,
                sample_id=brought[one.sample].sample_id if one.sample in brought else one.sample,
                repeat=brought.get(one.sample),
                outcome_id=outcomes[one.outcome],
                scorer=user,
                kind=one.kind,
                value=_number(one, curves) if one.kind == Kind.VALUE else None,
                words=one.words.strip() if one.kind == Kind.VALUE else "",
                responses=list(one.responses) if one.kind == Kind.VALUE and one.responses else None,
                take=one.take,
                source=one.source,
                device=one.device.strip()[:LONGEST_DEVICE] if one.source == Source.DEVICE else "",
                reason=one.reason.strip() or ("entered again" if old and one.kind == Kind.VALUE else ""),
                supersedes_id=old,
                # A device's clock may be wrong: nothing was read before exposure began, nor after it got here.
                taken_at=min(max(one.taken_at, running.sealed_at if one.round in early else earliest), stored_at),
                stored_at=stored_at,
            )
            heads[at] = one.id
            rows.append(row)
        Reading.objects.bulk_create(rows)
        codes = dict(Sample.objects.filter(pk__in={row.sample_id for row in rows}).values_list("pk", "code"))
        looks, keys = ({pk: key for key, pk in of(trial).items()} for of in (checkpoints_of, outcomes_of))
        chained = [item("reading", reading_record(row, codes, looks, keys)) for row in rows]
        append(trial, "readings", chained, at=stored_at)
    return [w.id for w in written]


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


def _same_hands(trial: Trial, user: User, known: dict[UUID, Reading]) -> None:
    if any(r.trial_id != trial.pk or r.scorer_id != user.pk for r in known.values()):
        raise Declined(409, "One of these readings carries an id that is taken; nothing was stored.")


def _same_bodies(trial: Trial, written: Sequence[Written], known: dict[UUID, Reading]) -> None:
    """What is sent again must be what was stored under its id, and what comes twice at once must be the same."""
    curves = {o.key: o.scale for o in plan_of(trial).outcomes if isinstance(o.scale, CurveScale)} if known else {}
    keys = {pk: key for key, pk in outcomes_of(trial).items()} if known else {}
    first: dict[UUID, Written] = {}
    for i, one in enumerate(written):
        if first.setdefault(one.id, one) != one or (
            one.id in known and not _says_the_same(one, known[one.id], keys, curves)
        ):
            raise Declined(
                409,
                Problem(
                    f"readings.{i}.id", "This id belongs to a reading that says something else; nothing was stored."
                ),
            )


def _says_the_same(one: Written, row: Reading, outcomes: Mapping[int, str], curves: Mapping[str, CurveScale]) -> bool:
    value = one.kind == Kind.VALUE
    try:
        number = _number(one, curves) if value else None
    except Refused:
        return False
    return (
        (one.round, one.outcome, one.kind, one.take) == (row.round_id, outcomes[row.outcome_id], row.kind, row.take)
        and one.sample in (row.repeat_id or row.sample_id, row.sample_id)
        and number == row.value
        and (one.words.strip() if value else "") == row.words
        and (list(one.responses or ()) if value else []) == list(row.responses or ())
    )


def _all_sound(trial: Trial, user: User, fresh: Sequence[Written], rounds: dict[UUID, Round]) -> None:
    plan = plan_of(trial)
    outcomes = {outcome.key: outcome for outcome in plan.outcomes}
    keys = {pk: key for key, pk in checkpoints_of(trial).items()}
    samples = set(Sample.objects.filter(trial=trial, pk__in={w.sample for w in fresh}).values_list("pk", flat=True))
    brought = repeats_of(trial)
    gone = given_up_outcomes(trial)
    unready = not_ready_for(trial, user) if any(o.practised for o in plan.outcomes) else set()
    problems: list[Problem] = []
    for i, one in enumerate(fresh):
        if one.round not in rounds or one.outcome not in outcomes:
            raise missing()
        at = rounds[one.round].checkpoint_id
        if one.sample not in samples and (one.sample not in brought or brought[one.sample].checkpoint_id != at):
            raise missing()
        if one.outcome in gone and one.taken_at > gone[one.outcome].at:
            # Without its name, which may hold that of a treatment.
            problems.append(Problem(f"readings.{i}.outcome", "This was withdrawn; it is not scored any more."))
            continue
        if one.outcome in unready and one.source != Source.DEVICE and one.kind == Kind.VALUE:
            says_first = "This is scored by those who have shown in practice that they are ready; practise first."
            problems.append(Problem(f"readings.{i}.outcome", says_first))
            continue
        says = _refusal(one, outcomes[one.outcome], plan, keys[at])
        if says:
            problems.append(Problem(f"readings.{i}.{says[0]}", says[1]))
    if problems:
        raise Declined(422, *problems)


def _refusal(one: Written, outcome: Outcome, plan: Plan, checkpoint: str) -> tuple[str, str] | None:
    if checkpoint not in {c.key for c in plan.looked_at(outcome)}:
        return "outcome", "This is not looked at on this checkpoint."
    if len(one.reason) > LONGEST_REASON:
        return "reason", f"A reason of up to {LONGEST_REASON} letters, please."
    if not 1 <= one.take <= MOST_TAKES:
        return "take", f"A sample is read at most {MOST_TAKES} times at a look."
    if one.source not in Source.values:
        return "source", "A reading is typed, copied from paper or read from a device."
    match one.kind:
        case Kind.VALUE:
            return _value_refusal(one, outcome)
        case Kind.CANNOT:
            return None if one.reason.strip() else ("reason", "Say why it cannot be scored.")
        case Kind.WITHDRAWN:
            return None
        case _:
            return "kind", "A reading is a value, or says why there is none."


def _value_refusal(one: Written, outcome: Outcome) -> tuple[str, str] | None:
    match outcome.scale:
        case NoteScale():
            if not one.words.strip():
                return "words", "There are no words."
            long = len(one.words) > LONGEST_NOTE
            return ("words", f"A note of up to {LONGEST_NOTE:,} letters, please.") if long else None
        case CurveScale() as scale:
            try:
                number = scale.number_of(one.responses or ())
            except Refused as refused:
                return "responses", refused.problems[0].says
            refusal = scale.refusal(number) if math.isfinite(number) else "This is no number."
            return ("responses", refusal) if refusal else None
        case ShadeScale() as scale if one.source == Source.DEVICE and one.value is not None:
            refusal = scale.measured_refusal(one.value)
            return ("value", refusal) if refusal else None
        case scale:
            if one.words.strip():
                return "words", "Words do not go with this value: write them as a note."
            refusal = "There is no value." if one.value is None else scale.refusal(one.value)
            return ("value", refusal) if refusal else None


def _number(one: Written, curves: Mapping[str, CurveScale]) -> float | None:
    """The number a reading is compared by: its own, that of its curve, or none for words."""
    if one.outcome in curves:
        return curves[one.outcome].number_of(one.responses or ())
    return None if one.words.strip() else one.value


def record_difference(trial: Trial, user: User, about: str, reason: str, *, at: datetime | None = None) -> Deviation:
    """Record that the entry ``about`` (key) of the held-equal sheet was not held equal after all."""
    if trial.state == "draft":
        raise Declined(409, "Nothing is held equal yet: seal the plan first.")
    if about not in {entry.key for entry in plan_of(trial).held_equal}:
        raise Declined(422, Problem("about", "This is not on the held-equal sheet."))
    said = given_reason(reason, "Say how it differed; the verdict will tell it.")
    return deviate(
        trial=trial,
        about=about,
        kind=DeviationKind.DIFFERENCE,
        reason=said,
        by=user,
        at=at or timezone.now(),
        after_key=trial.opened_at is not None,
    )


def write_note(
    trial: Trial, user: User, text: str, working: str = "", *, at: datetime | None = None, id: UUID | None = None
) -> LogNote:
    """Write ``text`` into the log, with the ``working`` of the sum that it came from.

    :raises Declined: 409 where the ``id`` is that of another note; 422 without words or with too many.
    """
    sent = LogNote.objects.filter(pk=id).first() if id else None
    if sent is not None:
        if (sent.trial_id, sent.by_id, sent.text, sent.working) == (trial.pk, user.pk, text.strip(), working.strip()):
            return sent
        raise Declined(409, "This note carries an id that is taken; it was not stored.")
    if not text.strip():
        raise Declined(422, Problem("text", "There are no words yet."))
    if len(text) > LONGEST_NOTE or len(working) > LONGEST_NOTE:
        raise Declined(422, Problem("text", f"A note of up to {LONGEST_NOTE:,} letters, please."))
    return LogNote.objects.create(
        pk=id or uuid4(), trial=trial, text=text.strip(), working=working.strip(), by=user, at=at or timezone.now()
    )


def skip_look(trial: Trial, user: User, checkpoint: str, reason: str, *, at: datetime | None = None) -> Deviation:
    """Decide not to take the look ``checkpoint`` (key), for a ``reason``.  What is scored on it all the same still counts."""
    if trial.state in ("draft", "opened"):
        raise Declined(409, "Looks are skipped between the seal and the opening of the key.")
    if checkpoint not in {c.key for c in plan_of(trial).checkpoints}:
        raise missing()
    said = given_reason(reason, "Say why it is skipped; the verdict will tell it.")
    if (trial.pk, checkpoint) in skipped_looks([trial]):
        raise Declined(409, "This look is skipped already.")
    return deviate(
        trial=trial,
        about=checkpoint,
        kind=DeviationKind.SKIPPED,
        reason=said,
        by=user,
        at=at or timezone.now(),
    )


def look_now(trial: Trial, user: User, reason: str, *, at: datetime | None = None) -> str:
    """Add an unplanned look that is due now, as an amendment for ``reason``; its key.  It is marked as unplanned and never
    takes the place of the look by which an outcome is judged."""
    _must_run(trial)
    now = at or timezone.now()
    plan = plan_of(trial)
    offset = max(1, int((now - trial.started_at).total_seconds() // 60))
    while offset in {c.offset for c in plan.checkpoints}:
        offset += 1
    local = now.astimezone(ZoneInfo(plan.zone))
    look = Checkpoint(
        f"u{secrets.token_hex(4)}", f"Unplanned, {local.day} {local:%b %H:%M}", offset, 0, 120, unplanned=True
    )
    amended = replace(plan, checkpoints=(*plan.checkpoints, look))
    amend(trial, user, amended, reason, looks_with_readings(trial), at=now)
    return look.key


def move_aside(
    trial: Trial, user: User, code: str, reason: str, *, back: bool = False, at: datetime | None = None
) -> Deviation:
    """Set the sample with ``code`` aside, so that the verdict is told with and without it; or put it back."""
    if trial.state == "draft":
        raise Declined(409, "There are no samples yet: seal the plan first.")
    sample = Sample.objects.filter(trial=trial, code=code.strip()).first()
    if sample is None:
        raise Declined(422, Problem("code", f"There is no sample {code.strip() or 'without a code'} in this trial."))
    said = given_reason(reason, "Say what happened; the verdict will tell it.")
    if (sample.pk in out_of_play(trial)) != back:
        raise Declined(
            409,
            Problem("code", f"Sample {sample.code} is {'not ' if back else ''}set aside{'' if back else ' already'}."),
        )
    return deviate(
        trial=trial,
        sample=sample,
        kind=DeviationKind.PUT_BACK if back else DeviationKind.SET_ASIDE,
        reason=said,
        by=user,
        at=at or timezone.now(),
        after_key=trial.opened_at is not None,
    )
