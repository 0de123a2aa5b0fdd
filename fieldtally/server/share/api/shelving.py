"""Keeping one's shelf in order: trials filed away, drafts renamed and deleted."""

from uuid import UUID

from django.utils import timezone
from ninja import Router, Schema, Status

from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.models import Membership
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.services import rename_draft
from fieldtally.server.share.erasing import erase_draft

router = Router()


class FiledIn(Schema):
    """Whether the trial is to be filed away on this person's own shelf."""

    filed: bool


@router.put("/trials/{trial_id}/filed", response={204: None, 404: ProblemsOut})
def file_away(request: SignedIn, trial_id: UUID, body: FiledIn) -> Status[None]:
    """File a trial away on one's own shelf, or take it back; for all others it stands where it stood."""
    seen = sight(request, trial_id)
    Membership.objects.filter(pk=seen.membership.pk).update(filed_at=timezone.now() if body.filed else None)
    return Status(204, None)


class TitleIn(Schema):
    """What a draft is to be called."""

    title: str


@router.put(
    "/trials/{trial_id}/title",
    response={204: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def rename(request: SignedIn, trial_id: UUID, body: TitleIn) -> Status[None]:
    """Call a draft something else; the name of a sealed trial stands in its seal."""
    seen = sight(request, trial_id)
    seen.need("edit_plan")
    rename_draft(seen.trial, request.user, body.title)
    return Status(204, None)


@router.delete("/trials/{trial_id}", response={204: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut})
def delete(request: SignedIn, trial_id: UUID) -> Status[None]:
    """Delete a draft that is this person's alone, with all it holds."""
    seen = sight(request, trial_id)
    seen.need("erase_draft")
    erase_draft(request.user, seen.trial)
    return Status(204, None)
