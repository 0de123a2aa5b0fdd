"""Scoring: a round to go through, and the readings it makes."""

from datetime import datetime, timedelta
from typing import Literal, cast
from uuid import UUID

from django.http import HttpResponse
from django.utils import timezone
from ninja import Router, Schema
from pydantic import AwareDatetime

from fieldtally.core.design.plan import Checkpoint, Plan
from fieldtally.core.rounds.written import Written
from fieldtally.core.schedule.naming import called
from fieldtally.core.schedule.standing import times_of
from fieldtally.server.answers import ProblemsOut, as_it_is
from fieldtally.server.log.queries import Deviations
from fieldtally.server.people.models import Trial
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import outcomes_of, plan_of
from fieldtally.server.prepare.queries import started_samples
from fieldtally.server.rounds import services
from fieldtally.server.rounds.going import presented
from fieldtally.server.rounds.models import Reading, Round
from fieldtally.server.rounds.models.reading import Kind
from fieldtally.server.rounds.odd import odd_among
from fieldtally.server.rounds.outcomes import OutcomeOut, outcomes_out
from fieldtally.server.rounds.queries import current_readings
from fieldtally.server.rounds.readiness import not_ready_for
from fieldtally.server.rounds.writing import write_readings

router = Router()
ReadingKind = Literal["value", "cannot", "withdrawn"]
ReadingSource = Literal["typed", "paper", "device"]


class RoundIn(Schema):
    """Which checkpoint; and of one that was taken before the seal, who had looked, where that was somebody else."""

    checkpoint: str
    looked_by: str = ""


class RoundSample(Schema):
    """A sample to be scored: its code and where it stands; ``blind_repeat``: somebody brings it under this code, wherever it
    stands. ``opens``: its own look does not come before then, since it started later than others; ``closed``: its own window closed
    then, while that of others is open.  ``name``: what it is called in the notebook.  ``skips``: the outcomes (keys) that are not read on
    it."""

    id: UUID
    code: str
    block: str
    place: int
    blind_repeat: bool
    opens: datetime | None
    closed: datetime | None
    name: str
    skips: list[str]


class PreviousOut(Schema):
    """What this scorer gave a sample on an outcome at the look before."""

    sample: UUID
    outcome: str
    value: float | None
    words: str
    look: str


class RoundReading(Schema):
    """What this scorer has read in this round so far."""

    id: UUID
    sample: UUID
    outcome: str
    kind: ReadingKind
    value: float | None
    words: str
    responses: list[float | None] | None
    reason: str
    source: ReadingSource
    device: str
    take: int
    taken_at: datetime


class RoundOut(Schema):
    """A round: samples in an order drawn for this scorer and round, outcomes to read, what is read already; ``practise`` names what this
    scorer has to practise before scoring it, ``gauged`` what is measured in photos.  ``notebook``: it was taken before the seal, about when
    it was due (``due``); nothing was there to look at before ``earliest``."""

    id: UUID
    checkpoint: str
    name: str
    samples: list[RoundSample]
    outcomes: list[OutcomeOut]
    readings: list[RoundReading]
    previous: list[PreviousOut]
    practise: list[str]
    gauged: list[str]
    notebook: bool
    looked_by: str
    due: datetime | None
    earliest: datetime | None


@router.post(
    "/trials/{trial_id}/rounds",
    response={200: RoundOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def open_round(request: SignedIn, trial_id: UUID, body: RoundIn) -> HttpResponse:
    """Begin a round, or go on with it."""
    seen = sight(request, trial_id)
    seen.need("score")
    trial = seen.trial
    opened = services.open_round(trial, request.user, body.checkpoint, looked_by=body.looked_by)
    plan = plan_of(trial)
    names = plan.telling_names
    checkpoint = next(c for c in plan.checkpoints if c.key == body.checkpoint)
    blocks = {b.key: seen.spoken(b.name, names) for b in plan.layout.blocks}
    outcomes = outcomes_out(seen, plan, names)
    deviations = Deviations.of(trial)
    here = [o for o in outcomes if checkpoint.key in o.checkpoints and o.key not in deviations.given_up]
    unready = not_ready_for(trial, request.user)
    by_photo = set(trial.gauge_recipes.values_list("outcome__key", flat=True))
    started = started_samples(trial)
    opens, closed = _own_windows(trial, plan, checkpoint, set(started.values()))
    shown = presented(opened, trial, plan, deviations, started)
    whole = RoundOut(
        id=opened.pk,
        checkpoint=checkpoint.key,
        name=seen.spoken(called(checkpoint), names),
        samples=[
            RoundSample.model_construct(
                id=s.pk,
                code=s.code,
                block=blocks.get(s.block, ""),
                place=s.place,
                blind_repeat=s.blind_repeat,
                opens=opens.get(s.starts),
                closed=closed.get(s.starts),
                name=s.name,
                skips=[] if s.asked is None else [o.key for o in here if o.key not in s.asked],
            )
            for s in shown
        ],
        outcomes=[o for o in here if o.key not in unready],
        practise=[o.name for o in here if o.key in unready],
        gauged=[o.name for o in here if o.key in by_photo],
        previous=_previous(seen, plan, opened, checkpoint.key) if plan.show_previous else [],
        readings=_read(opened, trial),
        notebook=plan.noted_before(checkpoint.key),
        looked_by=opened.looked_by,
        due=due_of(trial, plan, checkpoint),
        earliest=trial.first_moment,
    )
    return as_it_is(whole)


READ = ("pk", "repeat_id", "sample_id", "outcome_id", *("kind", "value", "words", "responses", "reason"))
READ_FROM = ("source", "device", "take", "taken_at")


def _read(opened: Round, trial: Trial) -> list[RoundReading]:
    """What is read in a round so far."""
    keys = {pk: key for key, pk in outcomes_of(trial).items()}
    rows = Reading.objects.current().filter(round=opened).order_by("stored_at", "pk").values_list(*READ, *READ_FROM)
    return [
        RoundReading.model_construct(
            id=pk,
            sample=repeat or sample,
            outcome=keys[outcome],
            kind=cast(ReadingKind, kind),
            value=value,
            words=words,
            responses=responses,
            reason=reason,
            source=cast(ReadingSource, source),
            device=device,
            take=take,
            taken_at=taken_at,
        )
        for pk, repeat, sample, outcome, kind, value, words, responses, reason, source, device, take, taken_at in rows
    ]


def due_of(trial: Trial, plan: Plan, checkpoint: Checkpoint) -> datetime | None:
    """When a look fell due for the first samples; None while no time says so."""
    if checkpoint.cycle is not None or trial.started_at is None:
        return None
    return times_of(plan, trial.started_at)[checkpoint.key].due


Windows = dict[datetime | None, datetime]


def _own_windows(trial: Trial, plan: Plan, checkpoint: Checkpoint, starts: set[datetime]) -> tuple[Windows, Windows]:
    """For each moment at which samples started, when this look of theirs opens, where that still lies ahead, and when it closed, where that
    lies behind; none of either where it is so for all of them."""
    if checkpoint.baseline or checkpoint.cycle is not None or trial.started_at is None:
        return {}, {}
    now = timezone.now()
    opens: Windows = {}
    closed: Windows = {}
    for start in starts:
        own = times_of(plan, start, timedelta(0))[checkpoint.key]
        if own.opens > now:
            opens[start] = own.opens
        elif own.closes < now:
            closed[start] = own.closes
    # Before it has opened for anybody, or when it has closed for all, it is looked at early or late by choice.
    return opens if len(opens) < len(starts) else {}, closed if len(closed) < len(starts) else {}


def _previous(seen: Sight, plan: Plan, opened: Round, at: str) -> list[PreviousOut]:
    """What the scorer of this round gave at the newest look before it, ``at`` (key)."""
    names = plan.telling_names
    order = [c.key for c in plan.in_time]
    before = order[: order.index(at)] if at in order else []
    rows = (
        current_readings(seen.trial)
        .filter(scorer=opened.scorer_id, checkpoint__key__in=before, kind=Kind.VALUE, repeat=None, take=1)
        .values_list("sample_id", "outcome__key", "value", "words", "checkpoint__key")
    )
    looks = {c.key: seen.spoken(called(c), names) for c in plan.checkpoints}
    newest = {(row[0], row[1]): row for row in sorted(rows, key=lambda row: order.index(row[4]))}
    return [
        PreviousOut(sample=row[0], outcome=row[1], value=row[2], words=seen.spoken(row[3], names), look=looks[row[4]])
        for row in newest.values()
    ]


class WrittenIn(Schema):
    """A reading; ``id`` is made by the device that scores."""

    id: UUID
    round: UUID
    sample: UUID
    outcome: str
    kind: ReadingKind
    value: float | None = None
    words: str = ""
    responses: list[float | None] | None = None
    reason: str = ""
    source: ReadingSource = "typed"
    device: str = ""
    take: int = 1
    taken_at: AwareDatetime


class ReadingsIn(Schema):
    """Readings to store, in the order they were made."""

    readings: list[WrittenIn]


class OddOut(Schema):
    """A reading (id) that is odd, and the sentence about it."""

    id: UUID
    says: str


class StoredOut(Schema):
    """The ids that are stored now, whether by this request or an earlier one; and which of them are worth a second look."""

    stored: list[UUID]
    odd: list[OddOut]


@router.post(
    "/trials/{trial_id}/readings",
    response={200: StoredOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def write(request: SignedIn, trial_id: UUID, body: ReadingsIn) -> StoredOut:
    """Store readings, each once however often it is sent."""
    seen = sight(request, trial_id)
    seen.need("score")
    written = [
        Written(**{**one.dict(), "responses": None if one.responses is None else tuple(one.responses)})
        for one in body.readings
    ]
    stored = write_readings(seen.trial, request.user, written)
    odd = odd_among(seen.trial, stored.readings) if seen.trial.opened_at is None else {}
    return StoredOut(stored=stored.ids, odd=[OddOut(id=pk, says=says) for pk, says in odd.items()])
