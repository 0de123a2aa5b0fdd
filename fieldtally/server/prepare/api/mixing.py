"""The mix sheet: what to mix in which order, what to buy, what it costs, what is usual with it, and what must not meet."""

from datetime import date, datetime
from uuid import UUID

from django.utils import timezone
from ninja import Router, Schema, Status

from fieldtally.core.design.letters import letter_of
from fieldtally.core.dosing.mixing import Costs, MixStep, Purchase, StepKind, mix_sheet
from fieldtally.core.hazards.catalogue import DEFERS
from fieldtally.core.hazards.finding import Caution, Clash
from fieldtally.server.answers import ProblemOut, ProblemsOut
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of, versions_of
from fieldtally.server.prepare.mixing import PackKept, cautions_of, clashes_of, note_pack, packs_kept, tick_step
from fieldtally.server.prepare.models import MixTick
from fieldtally.server.prepare.queries import mix_ticks, tools_of

router = Router()


class StepOut(Schema):
    """A step, what is usual with what it handles, and who did it when."""

    key: str
    kind: StepKind
    says: str
    cautions: list[Caution]
    ticked_by: str
    ticked_at: datetime | None


class MixOut(Schema):
    """The sheet of one treatment."""

    letter: str
    name: str
    samples: int
    steps: list[StepOut]
    costs: Costs | None


class MixSheetOut(Schema):
    """The whole sheet, under the ``version`` of the plan that stands."""

    version: int
    mixes: list[MixOut]
    shopping: list[Purchase]
    cost: float | None
    unpriced: list[str]
    money: str
    packs: list[PackKept]
    products: dict[str, str]
    clashes: list[Clash]
    problems: list[ProblemOut]
    defers: str
    may_tick: bool


def _step(step: MixStep, ticks: dict[str, MixTick]) -> StepOut:
    tick = ticks.get(step.key)
    return StepOut(
        key=step.key,
        kind=step.kind,
        says=step.says,
        cautions=list(cautions_of(step)),
        ticked_by=tick.by.called if tick else "",
        ticked_at=tick.at if tick else None,
    )


def sheet_out(seen: Sight, request: SignedIn) -> MixSheetOut:
    """The sheet for this person's tools."""
    trial = seen.trial
    plan, version = plan_of(trial), versions_of(trial)
    sheet = mix_sheet(plan, tools_of(request.user))
    ticks = mix_ticks(trial, version)
    return MixSheetOut(
        version=version,
        mixes=[
            MixOut(
                letter=letter_of(i),
                name=mix.name,
                samples=mix.samples,
                steps=[_step(step, ticks) for step in mix.steps],
                costs=mix.costs,
            )
            for i, mix in enumerate(sheet.mixes)
        ],
        shopping=list(sheet.shopping),
        cost=sheet.cost,
        unpriced=list(sheet.unpriced),
        money=plan.money,
        packs=packs_kept(trial, plan, timezone.now()),
        products={product.key: product.name for product in plan.products},
        clashes=list(clashes_of(plan)),
        problems=[ProblemOut(at=p.at, says=p.says) for p in sheet.problems],
        defers=DEFERS,
        may_tick=seen.may("tick_mix"),
    )


@router.get("/trials/{trial_id}/mix", response={200: MixSheetOut, 403: ProblemsOut, 404: ProblemsOut})
def mix(request: SignedIn, trial_id: UUID) -> MixSheetOut:
    """The mix sheet, for those who know what is compared."""
    seen = sight(request, trial_id)
    seen.need("see_mix_sheet")
    return sheet_out(seen, request)


class StepIn(Schema):
    """A step (key), and the cautions (keys) that were read."""

    step: str
    acknowledged: list[str] = []


@router.post(
    "/trials/{trial_id}/mix/ticks",
    response={200: MixSheetOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def tick(request: SignedIn, trial_id: UUID, body: StepIn) -> MixSheetOut:
    """Tick a step; its cautions must have been read."""
    seen = sight(request, trial_id)
    seen.need_role("tick_mix")
    seen.need("see_mix_sheet")
    tick_step(seen.trial, request.user, body.step, body.acknowledged)
    return sheet_out(seen, request)


class PackIn(Schema):
    """A pack that is used: its product (key), lot, date, and when it was opened."""

    product: str
    lot: str = ""
    expires: date | None = None
    opened: date | None = None


@router.post(
    "/trials/{trial_id}/packs",
    response={200: MixSheetOut, 403: ProblemsOut, 404: ProblemsOut, 422: ProblemsOut},
)
def pack(request: SignedIn, trial_id: UUID, body: PackIn) -> Status[MixSheetOut]:
    """Note a pack; its age is held against the last look."""
    seen = sight(request, trial_id)
    seen.need("note_pack")
    note_pack(seen.trial, request.user, body.product, body.lot, body.expires, body.opened)
    return Status(200, sheet_out(seen, request))
