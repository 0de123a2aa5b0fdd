"""Conditions of a trial: what it was like around the samples."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import AwareDatetime

from fieldtally.server.answers import ProblemsOut
from fieldtally.server.log.conditions import note_conditions, read_station
from fieldtally.server.log.models import Condition
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of

router = Router()
MOST_SHOWN = 2_000


class ConditionOut(Schema):
    """Conditions at a moment; ``place`` by name, empty for the whole trial; ``device`` empty where they were typed; ``stored_at``: when
    they were written down, where that is known."""

    at: datetime
    stored_at: datetime | None
    place: str
    temperature: float | None
    humidity: float | None
    rain: float | None
    light: float | None
    device: str
    by: str


class ConditionsOut(Schema):
    """All of them, in order."""

    conditions: Sequence[ConditionOut]


def _out(seen: Sight) -> ConditionsOut:
    plan = plan_of(seen.trial)
    names = plan.telling_names
    places = {block.key: seen.spoken(block.name, names) for block in plan.layout.blocks}
    rows = Condition.objects.filter(trial=seen.trial).select_related("by").order_by("-at", "-pk")[:MOST_SHOWN]
    return ConditionsOut(
        conditions=[
            ConditionOut(
                at=row.at,
                stored_at=row.stored_at,
                place=places.get(row.place, ""),
                temperature=row.temperature,
                humidity=row.humidity,
                rain=row.rain,
                light=row.light,
                device=row.device,
                by=row.by.called,
            )
            for row in reversed(rows)
        ]
    )


def _seen(request: HttpRequest, trial_id: UUID) -> Sight:
    seen = sight(request, trial_id)
    seen.need("see_conditions")
    return seen


@router.get("/trials/{trial_id}/conditions", response={200: ConditionsOut, 403: ProblemsOut, 404: ProblemsOut})
def conditions(request: SignedIn, trial_id: UUID) -> ConditionsOut:
    """What it was like around the samples."""
    return _out(_seen(request, trial_id))


class ConditionIn(Schema):
    """What was read, or ``from_station``: what the weather station says now; ``id`` is made by the device that sends it."""

    id: UUID | None = None
    place: str = ""
    temperature: float | None = None
    humidity: float | None = None
    rain: float | None = None
    light: float | None = None
    at: AwareDatetime | None = None
    from_station: bool = False


@router.post(
    "/trials/{trial_id}/conditions",
    response={200: ConditionsOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def note(request: SignedIn, trial_id: UUID, body: ConditionIn) -> ConditionsOut:
    """Note conditions."""
    seen = sight(request, trial_id)
    seen.need("note_conditions")
    if body.from_station:
        read_station(seen.trial, request.user)
    else:
        values = {name: getattr(body, name) for name in ("temperature", "humidity", "rain", "light")}
        note_conditions(seen.trial, request.user, body.place, values, at=body.at, id=body.id)
    return _out(seen)
