"""What changes while a trial runs: the plan is amended, or something turns out not to be held equal."""

from dataclasses import replace
from datetime import datetime
from uuid import UUID

from ninja import Router, Schema, Status
from pydantic import AwareDatetime

from fieldtally.core.design.changes import changes, forbidden, held_to
from fieldtally.core.design.plan import Plan
from fieldtally.server.answers import ProblemOut, ProblemsOut
from fieldtally.server.log import services as log_services
from fieldtally.server.log.queries import differences_by_entry
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan import services as plan_services
from fieldtally.server.plan.queries import flaws_in, plan_of
from fieldtally.server.prepare.queries import held_ticks
from fieldtally.server.rounds import services
from fieldtally.server.rounds.queries import checkpoints_with_readings, second_codes

router = Router()


class ChangedIn(Schema):
    """The plan as it should stand."""

    plan: Plan


class ChangesOut(Schema):
    """What would change, in sentences, and what may not."""

    changes: list[str]
    problems: list[ProblemOut]


@router.post(
    "/trials/{trial_id}/changes", response={200: ChangesOut, 403: ProblemsOut, 404: ProblemsOut, 422: ProblemsOut}
)
def preview(request: SignedIn, trial_id: UUID, body: ChangedIn) -> ChangesOut:
    """What an amendment would change; nothing is stored."""
    seen = sight(request, trial_id)
    seen.need_role("amend_plan")
    before = plan_of(seen.trial)
    after = replace(body.plan, begun=before.begun)
    problems = [
        *forbidden(before, after, checkpoints_with_readings(seen.trial)),
        *flaws_in(held_to(before, after)),
    ]
    return ChangesOut(
        changes=list(changes(before, after)), problems=[ProblemOut(at=p.at, says=p.says) for p in problems]
    )


class AmendIn(ChangedIn):
    """The plan as it should stand, and why; ``decided``: when that was, where it is written down later."""

    reason: str
    decided: AwareDatetime | None = None


class AmendedOut(Schema):
    """The number and seal of the amendment."""

    number: int
    seal: str


@router.post(
    "/trials/{trial_id}/amend",
    response={200: AmendedOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def amend(request: SignedIn, trial_id: UUID, body: AmendIn) -> AmendedOut:
    """Amend the sealed plan: a new version with its reason, beside the old one."""
    seen = sight(request, trial_id)
    seen.need_role("amend_plan")
    made = plan_services.amend(
        seen.trial,
        request.user,
        body.plan,
        body.reason,
        checkpoints_with_readings(seen.trial),
        second=second_codes(seen.trial),
        decided=body.decided,
    )
    return AmendedOut(number=made.number, seal=made.seal)


class HeldOut(Schema):
    """Something held equal: its setting, who ticked it and when, and how it differed after all."""

    key: str
    what: str
    setting: str
    ticked_by: str
    ticked_at: datetime | None
    differences: list[str]


class SheetOut(Schema):
    """The held-equal sheet."""

    entries: list[HeldOut]


@router.get("/trials/{trial_id}/held", response={200: SheetOut, 403: ProblemsOut, 404: ProblemsOut})
def held(request: SignedIn, trial_id: UUID) -> SheetOut:
    """Everything that is to be the same for all samples."""
    seen = sight(request, trial_id)
    seen.need("see_held")
    plan, ticks = plan_of(seen.trial), held_ticks(seen.trial)
    names = plan.telling_names
    differences = differences_by_entry(seen.trial)
    return SheetOut(
        entries=[
            HeldOut(
                key=one.key,
                what=seen.spoken(one.what, names),
                setting=seen.spoken(one.setting, names),
                ticked_by=ticks[one.key].by.called if one.key in ticks else "",
                ticked_at=ticks[one.key].at if one.key in ticks else None,
                differences=[seen.spoken(reason, names) for reason in differences.get(one.key, [])],
            )
            for one in plan.held_equal
        ]
    )


class DifferenceIn(Schema):
    """An entry (key) of the held-equal sheet, and how it differed."""

    about: str
    reason: str


@router.post(
    "/trials/{trial_id}/differences",
    response={204: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def differ(request: SignedIn, trial_id: UUID, body: DifferenceIn) -> Status[None]:
    """Record that something was not held equal after all; it limits what the verdict may claim."""
    seen = sight(request, trial_id)
    seen.need("record_difference")
    seen.hear(plan_of(seen.trial).telling_names, reason=body.reason)
    log_services.record_difference(seen.trial, request.user, body.about, body.reason)
    return Status(204, None)


class SkipIn(Schema):
    """A look (key), and why it is not taken."""

    checkpoint: str
    reason: str


@router.post(
    "/trials/{trial_id}/skips",
    response={204: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def skip(request: SignedIn, trial_id: UUID, body: SkipIn) -> Status[None]:
    """Decide not to take a look."""
    seen = sight(request, trial_id)
    seen.need("skip_checkpoint")
    seen.hear(plan_of(seen.trial).telling_names, reason=body.reason)
    log_services.skip_checkpoint(seen.trial, request.user, body.checkpoint, body.reason)
    return Status(204, None)


class UnplannedIn(Schema):
    """Why it is looked at now."""

    reason: str


class UnplannedOut(Schema):
    """The key of the new look."""

    checkpoint: str


@router.post(
    "/trials/{trial_id}/unplanned-looks",
    response={200: UnplannedOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def unplanned(request: SignedIn, trial_id: UUID, body: UnplannedIn) -> UnplannedOut:
    """Look now, though nobody had planned it; the look is marked."""
    seen = sight(request, trial_id)
    seen.need("look_unplanned")
    seen.hear(plan_of(seen.trial).telling_names, reason=body.reason)
    return UnplannedOut(checkpoint=services.add_checkpoint_now(seen.trial, request.user, body.reason))
