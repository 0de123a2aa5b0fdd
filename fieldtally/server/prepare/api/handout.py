"""Who gets what, for those who put it there; each look at the key is recorded."""

from uuid import UUID

from ninja import Router, Schema

from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import is_covered
from fieldtally.server.prepare import services
from fieldtally.server.prepare.applying import Handed, handed

router = Router()


class Handout(Schema):
    """Who gets what, block by block and place by place.  ``covered``: from flasks that nobody knows the contents of."""

    rows: list[Handed]
    covered: bool


def may_look(seen: Sight) -> None:
    """Refuse those who do not see the key.  Under covers it tells nothing, so whoever prepares may see which flask to take."""
    seen.need("see_handout")
    covered = is_covered(seen.trial)
    seen.agree(
        seen.may("see_key") or covered or seen.trial.sealed_at is None,
        "You chose to stay blind: the preparer sees who gets what.",
    )


def looked(request: SignedIn, trial_id: UUID) -> Sight:
    """Record that the person looks at the key, and answer their sight."""
    seen = sight(request, trial_id)
    may_look(seen)
    if not is_covered(seen.trial):
        services.look_at_key(seen.trial, request.user)
    return seen


@router.post(
    "/trials/{trial_id}/key-looks", response={200: Handout, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut}
)
def look_at_key(request: SignedIn, trial_id: UUID) -> Handout:
    """Look at the key in order to prepare the samples; the look is recorded."""
    seen = looked(request, trial_id)
    return Handout(rows=handed(seen.trial, request.user), covered=is_covered(seen.trial))
