"""Scoring: a round to go through, and the readings it makes."""

from typing import Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import AwareDatetime

from fieldtally.core.randomness import Draw
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.models import Trial
from fieldtally.server.people.sight import sight
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.records import plan_of, samples_of
from fieldtally.server.prepare.records import started_samples
from fieldtally.server.rounds import acts
from fieldtally.server.rounds.doors.course import OutcomeOut, called, outcomes_out
from fieldtally.server.rounds.models import Reading, Round
from fieldtally.server.rounds.models.reading import Kind
from fieldtally.server.rounds.odd import odd_among
from fieldtally.server.rounds.records import set_aside

router = Router()
ReadingKind = Literal["value", "cannot", "withdrawn"]


class RoundIn(Schema):
    """Which checkpoint."""

    checkpoint: str


class RoundSample(Schema):
    """A sample to be scored: its code and where it stands."""

    id: UUID
    code: str
    block: str
    place: int


class RoundReading(Schema):
    """What this scorer has read in this round so far."""

    id: UUID
    sample: UUID
    outcome: str
    kind: ReadingKind
    value: float | None
    words: str
    responses: list[float] | None
    reason: str
    source: Literal["typed", "paper", "device"]
    device: str
    take: int


class RoundOut(Schema):
    """A round: samples in an order drawn for this scorer and round, outcomes to read, what is read already."""

    id: UUID
    checkpoint: str
    name: str
    samples: list[RoundSample]
    outcomes: list[OutcomeOut]
    readings: list[RoundReading]


def order_of(opened: Round, trial: Trial) -> list[Sample]:
    """The samples of a round in its own order: block after block, so that nobody runs to and fro, and at random inside a block.
    Those set aside are left out, and after the start those that still wait for theirs."""
    aside, started = set_aside(trial), started_samples(trial)
    waits = trial.started_at is not None and not _is_baseline(opened, trial)
    left = [s for s in samples_of(trial) if s.pk not in aside and (s.pk in started or not waits)]
    drawn = Draw(str(opened.pk), "order").shuffled(left)
    way = Draw(str(opened.pk), "blocks").shuffled(sorted({s.block for s in drawn}))
    return sorted(drawn, key=lambda s: way.index(s.block))


def _is_baseline(opened: Round, trial: Trial) -> bool:
    return any(c.baseline and c.key == opened.checkpoint.key for c in plan_of(trial).checkpoints)


@router.post(
    "/trials/{trial_id}/rounds", response={200: RoundOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut}
)
def open_round(request: HttpRequest, trial_id: UUID, body: RoundIn) -> RoundOut:
    """Begin a round, or go on with it."""
    seen = sight(request, trial_id)
    seen.need(seen.scores, "Only scorers score.")
    trial = seen.trial
    opened = acts.open_round(trial, request.user, body.checkpoint)
    plan = plan_of(trial)
    names = plan.telling_names
    checkpoint = next(c for c in plan.checkpoints if c.key == body.checkpoint)
    blocks = {b.key: seen.spoken(b.name, names) for b in plan.layout.blocks}
    outcomes = outcomes_out(seen, plan, names)
    readings = (
        Reading.objects.filter(round=opened, superseded_by=None)
        .exclude(kind=Kind.WITHDRAWN)
        .select_related("outcome")
        .order_by("stored_at", "pk")
    )
    return RoundOut(
        id=opened.pk,
        checkpoint=checkpoint.key,
        name=seen.spoken(called(checkpoint), names),
        samples=[
            RoundSample(id=s.pk, code=s.code, block=blocks.get(s.block, ""), place=s.place)
            for s in order_of(opened, trial)
        ],
        outcomes=[o for o in outcomes if checkpoint.key in o.checkpoints],
        readings=[
            RoundReading(
                id=r.pk,
                sample=r.sample_id,
                outcome=r.outcome.key,
                kind=r.kind,
                value=r.value,
                words=r.words,
                responses=r.responses,
                reason=r.reason,
                source=r.source,
                device=r.device,
                take=r.take,
            )
            for r in readings
        ],
    )


class WrittenIn(Schema):
    """A reading; ``id`` is made by the device that scores."""

    id: UUID
    round: UUID
    sample: UUID
    outcome: str
    kind: ReadingKind
    value: float | None = None
    words: str = ""
    responses: list[float] | None = None
    reason: str = ""
    source: Literal["typed", "paper", "device"] = "typed"
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
def write(request: HttpRequest, trial_id: UUID, body: ReadingsIn) -> StoredOut:
    """Store readings, each once however often it is sent."""
    seen = sight(request, trial_id)
    seen.need(seen.scores, "Only scorers score.")
    written = [
        acts.Written(**{**one.dict(), "responses": None if one.responses is None else tuple(one.responses)})
        for one in body.readings
    ]
    stored = acts.write_readings(seen.trial, request.user, written)
    odd = odd_among(seen.trial, written) if seen.trial.state != "opened" else {}
    return StoredOut(stored=stored, odd=[OddOut(id=pk, says=says) for pk, says in odd.items()])
