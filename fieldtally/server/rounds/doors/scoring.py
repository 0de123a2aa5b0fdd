"""Scoring: a round to go through, and the readings it makes."""

from dataclasses import dataclass
from datetime import datetime
from typing import Literal
from uuid import UUID

from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema
from pydantic import AwareDatetime

from fieldtally.core.design.plan import Checkpoint, Plan
from fieldtally.core.rounds.order import round_order
from fieldtally.core.schedule.standing import times_of
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.models import Trial
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.plan.records import plan_of, samples_of
from fieldtally.server.prepare.records import started_samples
from fieldtally.server.rounds import acts
from fieldtally.server.rounds.doors.course import OutcomeOut, called, outcomes_out
from fieldtally.server.rounds.models import GaugeRecipe, Reading, Round
from fieldtally.server.rounds.models.reading import Kind
from fieldtally.server.rounds.odd import odd_among
from fieldtally.server.rounds.records import current_readings, given_up_outcomes, out_of_play
from fieldtally.server.rounds.repeats import repeats_at
from fieldtally.server.rounds.training import not_ready_for

router = Router()
ReadingKind = Literal["value", "cannot", "withdrawn"]


class RoundIn(Schema):
    """Which checkpoint."""

    checkpoint: str


class RoundSample(Schema):
    """A sample to be scored: its code and where it stands; ``brought``: somebody brings it under this code, wherever it stands.
    ``opens``: its own look does not come before then, since it started later than others."""

    id: UUID
    code: str
    block: str
    place: int
    brought: bool
    opens: datetime | None


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
    source: Literal["typed", "paper", "device"]
    device: str
    take: int


class RoundOut(Schema):
    """A round: samples in an order drawn for this scorer and round, outcomes to read, what is read already; ``practise`` names what this
    scorer has to practise before scoring it, ``gauged`` what is measured in photos."""

    id: UUID
    checkpoint: str
    name: str
    samples: list[RoundSample]
    outcomes: list[OutcomeOut]
    readings: list[RoundReading]
    previous: list[PreviousOut]
    practise: list[str]
    gauged: list[str]


@dataclass(frozen=True)
class Stop:
    """One stop of a round: a sample by its id and code, in its block and place; or one that is ``brought`` under a second code, known
    by an id that leads to no sample.  ``starts``: when its clock began."""

    pk: UUID
    code: str
    block: str = ""
    place: int = 0
    brought: bool = False
    starts: datetime | None = None


def order_of(opened: Round, trial: Trial) -> list[Stop]:
    """The stops of a round in its own order.  Samples out of play are left out, and after the start those that still wait for theirs."""
    aside, started = out_of_play(trial), started_samples(trial)
    waits = trial.started_at is not None and not _is_baseline(opened, trial)
    left = [s for s in samples_of(trial) if s.pk not in aside and (s.pk in started or not waits)]
    stops = [(Stop(s.pk, s.code, s.block, s.place, starts=started.get(s.pk)), s.block) for s in left]
    repeats = [one for one in repeats_at(trial, opened.checkpoint) if one.sample_id not in aside]
    return round_order(str(opened.pk), stops, [Stop(one.pk, one.code, brought=True) for one in repeats])


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
    gone = given_up_outcomes(trial)
    here = [o for o in outcomes if checkpoint.key in o.checkpoints and o.key not in gone]
    unready = not_ready_for(trial, request.user)
    by_photo = set(GaugeRecipe.objects.filter(trial=trial).values_list("outcome__key", flat=True))
    opens = _later_looks(trial, plan, checkpoint)
    readings = Reading.objects.current().filter(round=opened).select_related("outcome").order_by("stored_at", "pk")
    return RoundOut(
        id=opened.pk,
        checkpoint=checkpoint.key,
        name=seen.spoken(called(checkpoint), names),
        samples=[
            RoundSample(
                id=s.pk,
                code=s.code,
                block=blocks.get(s.block, ""),
                place=s.place,
                brought=s.brought,
                opens=opens.get(s.starts),
            )
            for s in order_of(opened, trial)
        ],
        outcomes=[o for o in here if o.key not in unready],
        practise=[o.name for o in here if o.key in unready],
        gauged=[o.name for o in here if o.key in by_photo],
        previous=_previous(seen, plan, names, opened) if plan.show_previous else [],
        readings=[
            RoundReading(
                id=r.pk,
                sample=r.repeat_id or r.sample_id,
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


def _later_looks(trial: Trial, plan: Plan, checkpoint: Checkpoint) -> dict[datetime | None, datetime]:
    """For each moment at which samples started, when this look of theirs opens, where that still lies ahead."""
    if checkpoint.baseline or checkpoint.cycle is not None or trial.started_at is None:
        return {}
    now = timezone.now()
    found: dict[datetime | None, datetime] = {}
    for start in set(started_samples(trial).values()):
        opens = times_of(plan, start)[checkpoint.key].opens
        if opens > now:
            found[start] = opens
    # Before the look has opened for anybody, it is looked at early by choice, not because of when a sample started.
    return found if len(found) < len(set(started_samples(trial).values())) else {}


def _previous(seen: Sight, plan: Plan, names: list[str], opened: Round) -> list[PreviousOut]:
    """What the scorer of this round gave at the newest look before it."""
    order = [c.key for c in plan.in_time]
    before = order[: order.index(opened.checkpoint.key)] if opened.checkpoint.key in order else []
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
