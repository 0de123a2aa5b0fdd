"""Doors of the line-up: twenty pictures, one of them the trial; picked before it is told which."""

from __future__ import annotations

from uuid import UUID

from ninja import Router

from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.verdict.lining_up import LineUpOut, LineUpPickIn, line_up_out, member, pick

router = Router()


@router.get(
    "/trials/{trial_id}/line-up", response={200: LineUpOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut}
)
def line_up(request: SignedIn, trial_id: UUID) -> LineUpOut:
    """This person's line-up, once the key is open."""
    seen = sight(request, trial_id)
    seen.need("see_verdict")
    return line_up_out(seen.trial, member(seen.trial, request.user))


@router.post(
    "/trials/{trial_id}/line-up",
    response={200: LineUpOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def take(request: SignedIn, trial_id: UUID, body: LineUpPickIn) -> LineUpOut:
    """Pick one, once; it is kept before the truth is told."""
    seen = sight(request, trial_id)
    seen.need("see_verdict")
    who = member(seen.trial, request.user)
    pick(seen.trial, who, body.picture)
    return line_up_out(seen.trial, who)
