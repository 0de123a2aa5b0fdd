"""The start of exposure, what is ticked as held equal, cycles counted, and how far preparing has come."""

from datetime import datetime
from uuid import UUID

from django.db.models import Count
from ninja import Router, Schema, Status
from pydantic import AwareDatetime

from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.prepare import services
from fieldtally.server.prepare.models import Application, Exposure
from fieldtally.server.prepare.queries import cycles_of

router = Router()


class StartIn(Schema):
    """Which samples start: those with these codes, those in this block (key), or all that wait, without those in ``but``; and when, if not
    now."""

    block: str | None = None
    codes: list[str] = []
    but: list[str] = []
    at: AwareDatetime | None = None


class Started(Schema):
    """When exposure started."""

    at: datetime


@router.post(
    "/trials/{trial_id}/start",
    response={200: Started, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def start(request: SignedIn, trial_id: UUID, body: StartIn) -> Started:
    """Start exposure: of all samples, of a block, or of single ones."""
    seen = sight(request, trial_id)
    seen.need("start_exposure")
    began = services.start_exposure(
        seen.trial, request.user, block=body.block, codes=body.codes, but=body.but, at=body.at
    )
    return Started(at=began)


class BlockPrepared(Schema):
    """How far a block has come (one without a key: the whole trial)."""

    key: str
    name: str
    samples: int
    given: int
    started: int
    first_start: datetime | None
    last_start: datetime | None


class PreparedOut(Schema):
    """How far preparing has come; counts alone, which tell nothing of who got what."""

    blocks: list[BlockPrepared]
    settings: list["SettingOut"]


class SettingOut(Schema):
    """A setting of each cycle, and to what it is planned."""

    key: str
    what: str
    planned: str


@router.get("/trials/{trial_id}/prepared", response={200: PreparedOut, 404: ProblemsOut})
def prepared(request: SignedIn, trial_id: UUID) -> PreparedOut:
    """How many samples were given their treatment and how many have started, block by block."""
    seen = sight(request, trial_id)
    trial, plan = seen.trial, plan_of(seen.trial)
    if trial.sealed_at is None:
        return PreparedOut(blocks=[], settings=[])
    names = plan.telling_names
    samples = dict(Sample.objects.filter(trial=trial).values_list("block").annotate(n=Count("pk")).order_by())
    rows = Application.objects.filter(trial=trial).values_list("sample__block")
    given = dict(rows.annotate(n=Count("sample", distinct=True)).order_by())
    starts: dict[str, list[datetime]] = {}
    for block, at in Exposure.objects.filter(sample__trial=trial).values_list("sample__block", "started_at"):
        starts.setdefault(block, []).append(at)
    called = {block.key: seen.spoken(block.name, names) for block in plan.layout.blocks}
    order = [block.key for block in plan.layout.blocks if block.key in samples] or [""]
    return PreparedOut(
        blocks=[
            BlockPrepared(
                key=key,
                name=called.get(key, ""),
                samples=samples.get(key, 0),
                given=given.get(key, 0),
                started=len(starts.get(key, [])),
                first_start=min(starts.get(key, []), default=None),
                last_start=max(starts.get(key, []), default=None),
            )
            for key in order
        ],
        settings=[
            SettingOut(key=one.key, what=seen.spoken(one.what, names), planned=seen.spoken(one.planned, names))
            for one in plan.cycle_settings
        ],
    )


class TickIn(Schema):
    """An entry (key) of the held-equal sheet."""

    entry: str


@router.post(
    "/trials/{trial_id}/held/ticks",
    response={204: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def tick(request: SignedIn, trial_id: UUID, body: TickIn) -> Status[None]:
    """Tick something that is held equal for all samples."""
    seen = sight(request, trial_id)
    seen.need("tick_held")
    services.tick_held(seen.trial, request.user, body.entry)
    return Status(204, None)


class CycleIn(Schema):
    """How this cycle was set (by key, as written), and what was unusual about it."""

    note: str = ""
    settings: dict[str, str] = {}


class CyclesOut(Schema):
    """How many cycles are counted now."""

    cycles: int


@router.post(
    "/trials/{trial_id}/cycles",
    response={200: CyclesOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def cycle(request: SignedIn, trial_id: UUID, body: CycleIn) -> CyclesOut:
    """Count one more cycle that all samples went through."""
    seen = sight(request, trial_id)
    seen.need("count_cycle")
    seen.hear(plan_of(seen.trial).telling_names, note=body.note)
    services.count_cycle(seen.trial, request.user, body.note, body.settings)
    return CyclesOut(cycles=len(cycles_of(seen.trial)))
