"""The application log: planned against given, and for everybody how far the giving has come."""

from uuid import UUID

from ninja import Router, Schema
from pydantic import AwareDatetime

from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import is_covered
from fieldtally.server.prepare.api.handout import Handout, may_look
from fieldtally.server.prepare.applying import Entry, handed, write_applications
from fieldtally.server.prepare.queries import has_seen_key

router = Router()


class EntryIn(Schema):
    """What one sample was given; ``given`` as written, empty for the planned amount; ``corrects``: instead of what was noted last."""

    id: UUID
    code: str
    dose: str = ""
    given: str = ""
    note: str = ""
    corrects: bool = False


class ApplicationsIn(Schema):
    """What was given, and when."""

    entries: list[EntryIn]
    at: AwareDatetime | None = None


@router.post(
    "/trials/{trial_id}/applications",
    response={200: Handout, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def apply(request: SignedIn, trial_id: UUID, body: ApplicationsIn) -> Handout:
    """Note what samples were given; each entry is stored once however often it is sent."""
    seen = sight(request, trial_id)
    may_look(seen)
    covered = is_covered(seen.trial)
    seen.agree(
        covered or has_seen_key(seen.trial, request.user) or seen.trial.sealed_at is None,
        "Look at the key first: what is planned for a sample tells its treatment, and the look is recorded.",
    )
    entries = [Entry(**one.dict()) for one in body.entries]
    write_applications(seen.trial, request.user, entries, given_at=body.at)
    return Handout(rows=handed(seen.trial, request.user), covered=covered)
