"""Doors of the prepare stage."""

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema, Status

from fieldtally.core.design.letters import letter_of
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.sight import sight
from fieldtally.server.plan.records import key_of, plan_of, samples_of
from fieldtally.server.prepare import acts
from fieldtally.server.prepare.bench import router as bench
from fieldtally.server.prepare.records import cycles_of

router = Router(tags=["prepare"])
router.add_router("", bench)


class HandoutRow(Schema):
    """What one sample gets."""

    code: str
    block: str
    place: int
    letter: str
    treatment: str


class Handout(Schema):
    """Who gets what, block by block and place by place."""

    rows: list[HandoutRow]


@router.post(
    "/trials/{trial_id}/key-looks", response={200: Handout, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut}
)
def look_at_key(request: HttpRequest, trial_id: UUID) -> Handout:
    """Look at the key in order to prepare the samples; the look is recorded."""
    seen = sight(request, trial_id)
    seen.need(seen.prepares or seen.is_open, "Only those who prepare the samples see who gets what.")
    seen.need(seen.sees_key or seen.trial.state == "draft", "You chose to stay blind: the preparer sees who gets what.")
    acts.look_at_key(seen.trial, request.user)
    plan, key = plan_of(seen.trial), key_of(seen.trial)
    blocks = {block.key: block.name for block in plan.layout.blocks}
    treatments = {t.key: (letter_of(i), t.name) for i, t in enumerate(plan.treatments)}
    return Handout(
        rows=[
            HandoutRow(
                code=sample.code,
                block=blocks.get(sample.block, ""),
                place=sample.place,
                letter=treatments[key[sample.pk]][0],
                treatment=treatments[key[sample.pk]][1],
            )
            for sample in samples_of(seen.trial)
        ]
    )


class Started(Schema):
    """When exposure started."""

    at: datetime


@router.post("/trials/{trial_id}/start", response={200: Started, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut})
def start(request: HttpRequest, trial_id: UUID) -> Started:
    """Start exposure now, for all samples."""
    seen = sight(request, trial_id)
    seen.need(seen.prepares, "The lead or the preparer starts exposure.")
    return Started(at=acts.start_exposure(seen.trial, request.user))


class TickIn(Schema):
    """An entry (key) of the held-equal sheet."""

    entry: str


@router.post(
    "/trials/{trial_id}/held/ticks",
    response={204: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def tick(request: HttpRequest, trial_id: UUID, body: TickIn) -> Status[None]:
    """Tick something that is held equal for all samples."""
    seen = sight(request, trial_id)
    seen.need(seen.prepares, "Those who prepare the samples tick the sheet.")
    acts.tick_held(seen.trial, request.user, body.entry)
    return Status(204, None)


class CycleIn(Schema):
    """The settings of this cycle, or what was unusual about it."""

    note: str = ""


class CyclesOut(Schema):
    """How many cycles are counted now."""

    cycles: int


@router.post(
    "/trials/{trial_id}/cycles",
    response={200: CyclesOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def cycle(request: HttpRequest, trial_id: UUID, body: CycleIn) -> CyclesOut:
    """Count one more cycle that all samples went through."""
    seen = sight(request, trial_id)
    seen.need(seen.prepares or seen.scores, "Those who prepare or score count cycles.")
    acts.count_cycle(seen.trial, request.user, body.note)
    return CyclesOut(cycles=len(cycles_of(seen.trial)))
