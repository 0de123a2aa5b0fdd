"""The mix sheet at work: steps ticked with their cautions acknowledged, packs noted, shelf life held against the plan."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from django.db import IntegrityError, transaction
from django.utils import timezone

from fieldtally.core.design.plan import Plan
from fieldtally.core.dosing.batch import shelf_life_problem
from fieldtally.core.dosing.mixing import MixStep, mix_sheet
from fieldtally.core.hazards.finding import Caution, Clash, Use, cautions_for, clashes_in
from fieldtally.core.hazards.plan_uses import uses_in
from fieldtally.core.problems import Problem
from fieldtally.core.schedule.calendar import planned_start
from fieldtally.server.answers import Declined
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.queries import plan_of, versions_of
from fieldtally.server.prepare.models import MixTick, Pack
from fieldtally.server.prepare.queries import packs_of, tools_of

LONGEST_LOT = 60


def cautions_of(step: MixStep) -> tuple[Caution, ...]:
    """What is usual with what this step handles."""
    return cautions_for([Use(step.key, step.words)])


def clashes_of(plan: Plan) -> tuple[Clash, ...]:
    """What must not meet in the whole plan: across treatments that share a vessel, and with what is cleaned with."""
    return clashes_in(uses_in(plan))


def tick_step(
    trial: Trial, user: User, key: str, acknowledged: Sequence[str], *, at: datetime | None = None
) -> MixTick:
    """Record that a step of the mix sheet is done by someone who has read its cautions.

    :raises Declined: 409 before the seal, where something must not meet, or where it is ticked; 422 where there is no such step, or
        a caution of it is not acknowledged.
    """
    if trial.state == "draft":
        raise Declined(409, "Seal the plan first; steps are ticked when they are done.")
    plan, version = plan_of(trial), versions_of(trial)
    steps = {step.key: step for mix in mix_sheet(plan, tools_of(user)).mixes for step in mix.steps}
    if key not in steps:
        raise Declined(422, Problem("step", "This step is not on the mix sheet any more; look at the newest one."))
    step = steps[key]
    missing = [caution for caution in cautions_of(step) if caution.key not in acknowledged]
    if missing:
        names = ", ".join(caution.name for caution in missing)
        raise Declined(422, Problem("acknowledged", f"Read the cautions first and say that you have: {names}."))
    try:
        with transaction.atomic():
            return MixTick.objects.create(
                trial=trial,
                step=key,
                says=step.says,
                version=version,
                acknowledged=[caution.key for caution in cautions_of(step)],
                by=user,
                at=at or timezone.now(),
            )
    except IntegrityError as error:
        raise Declined(409, "This step is ticked already.") from error


def note_pack(
    trial: Trial,
    user: User,
    product: str,
    lot: str,
    expires: date | None,
    opened: date | None,
    *,
    at: datetime | None = None,
) -> Pack:
    """Note which pack of a product is used: its lot, its date, when it was opened."""
    now = at or timezone.now()
    if product not in plan_of(trial).product_named:
        raise Declined(422, Problem("product", "This product is not in the plan."))
    if len(lot) > LONGEST_LOT:
        raise Declined(422, Problem("lot", f"A lot number of up to {LONGEST_LOT} letters, please."))
    if not lot.strip() and expires is None and opened is None:
        raise Declined(422, Problem("lot", "Note its lot, its date, or when it was opened."))
    if opened is not None and opened > (now + timedelta(days=1)).date():
        raise Declined(422, Problem("opened", "It cannot have been opened in the future."))
    return Pack.objects.create(
        trial=trial, product=product, lot=lot.strip(), expires=expires, opened=opened, by=user, at=now
    )


@dataclass(frozen=True)
class PackKept:
    """A pack in use, and what is wrong with its age for this trial (empty: nothing)."""

    product: str
    name: str
    lot: str
    expires: date | None
    opened: date | None
    problem: str


def packs_kept(trial: Trial, plan: Plan, now: datetime) -> list[PackKept]:
    """The packs in use, held against the last look of the trial."""
    products = plan.product_named
    last = last_look(trial, plan, now)
    return [
        PackKept(
            pack.product,
            products[pack.product].name,
            pack.lot,
            pack.expires,
            pack.opened,
            shelf_life_problem(last, pack.expires, pack.opened, products[pack.product].keeps_open) or "",
        )
        for pack in packs_of(trial)
        if pack.product in products
    ]


def last_look(trial: Trial, plan: Plan, now: datetime) -> date:
    """The day of the last look, from the start there was or is planned, else from now."""
    try:
        start = trial.started_at or planned_start(plan) or now
    except (OverflowError, KeyError, ValueError, OSError):
        start = now
    most = max((checkpoint.offset for checkpoint in plan.checkpoints), default=0)
    return (start + timedelta(minutes=most)).date()
