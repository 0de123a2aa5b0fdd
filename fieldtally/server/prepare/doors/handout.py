"""Who gets what, for those who put it there; each look at the key is recorded."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.plan.records import is_covered
from fieldtally.server.prepare import acts
from fieldtally.server.prepare.applying import Handed, handed

router = Router()


class Handout(Schema):
    """Who gets what, block by block and place by place.  ``covered``: from flasks that nobody knows the contents of."""

    rows: list[Handed]
    covered: bool


def may_look(seen: Sight) -> None:
    """Refuse those who do not see the key.  Under covers it tells nothing, so whoever prepares may see which flask to take."""
    seen.need(seen.prepares or seen.is_open, "Only those who prepare the samples see who gets what.")
    covered = is_covered(seen.trial)
    seen.need(
        seen.sees_key or covered or seen.trial.state == "draft",
        "You chose to stay blind: the preparer sees who gets what.",
    )


def looked(request: HttpRequest, trial_id: UUID) -> Sight:
    """Record that the person looks at the key, and answer their sight."""
    seen = sight(request, trial_id)
    may_look(seen)
    if not is_covered(seen.trial):
        acts.look_at_key(seen.trial, request.user)
    return seen


@router.post(
    "/trials/{trial_id}/key-looks", response={200: Handout, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut}
)
def look_at_key(request: HttpRequest, trial_id: UUID) -> Handout:
    """Look at the key in order to prepare the samples; the look is recorded."""
    seen = looked(request, trial_id)
    return Handout(rows=handed(seen.trial, request.user), covered=is_covered(seen.trial))
