"""Scoring: a round to go through, and the readings it makes."""

from datetime import datetime
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
    """Which checkpoint."""

    checkpoint: str


class RoundSample(Schema):
    """A sample to be scored: its code and where it stands; ``blind_repeat``: somebody brings it under this
    code, wherever it stands.
    ``opens``: its own look does not come before then, since it started later than others."""

    id: UUID
    code: str
    block: str
    place: int
    blind_repeat: bool
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
    source: ReadingSource
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


@router.post(
    "/trials/{trial_id}/rounds", response={200: RoundOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut}
)
def open_round(request: SignedIn, trial_id: UUID, body: RoundIn) -> HttpResponse:
    """Begin a round, or go on with it."""
    seen = sight(request, trial_id)
    seen.need("score")
    trial = seen.trial
    opened = services.open_round(trial, request.user, body.checkpoint)
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
    opens = _later_looks(trial, plan, checkpoint, set(started.values()))
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
            )
            for s in shown
        ],
        outcomes=[o for o in here if o.key not in unready],
        practise=[o.name for o in here if o.key in unready],
        gauged=[o.name for o in here if o.key in by_photo],
        previous=_previous(seen, plan, opened, checkpoint.key) if plan.show_previous else [],
        readings=_read(opened, trial),
    )
    return as_it_is(whole)


READ = ("pk", "repeat_id", "sample_id", "outcome_id", *("kind", "value", "words", "responses", "reason"))
READ_FROM = ("source", "device", "take")


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
        )
        for pk, repeat, sample, outcome, kind, value, words, responses, reason, source, device, take in rows
    ]


def _later_looks(
    trial: Trial, plan: Plan, checkpoint: Checkpoint, starts: set[datetime]
) -> dict[datetime | None, datetime]:
    """For each moment at which samples started, when this look of theirs opens, where that still lies ahead."""
    if checkpoint.baseline or checkpoint.cycle is not None or trial.started_at is None:
        return {}
    now = timezone.now()
    found: dict[datetime | None, datetime] = {}
    for start in starts:
        opens = times_of(plan, start)[checkpoint.key].opens
        if opens > now:
            found[start] = opens
    # Before the look has opened for anybody, it is looked at early by choice, not because of when a sample started.
    return found if len(found) < len(starts) else {}


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
