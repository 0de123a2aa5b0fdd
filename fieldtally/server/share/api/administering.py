"""Doors for whoever administers a place; for everybody else there are none."""

from datetime import datetime

from django.conf import settings
from ninja import Router, Schema, Status
from ninja.security import SessionAuth

from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.share import administering
from fieldtally.server.share.administering import Came, Member, Queue, Storage
from fieldtally.version import VERSION

router = Router(auth=SessionAuth())


class FailedLetter(Schema):
    """A letter that could not be sent, and what the mail host said, as a word and a number."""

    to: str
    subject: str
    says: str
    at: datetime


class PlaceOut(Schema):
    """How a place stands; ``chosen``: not everybody may begin trials, administrators choose who."""

    version: str
    members: int
    active: int
    storage: Storage
    queue: Queue
    letters: list[FailedLetter]
    chosen: bool


@router.get("/place", response={200: PlaceOut, 404: ProblemsOut})
def place(request: SignedIn) -> PlaceOut:
    """Members, storage, queue, and letters that failed."""
    administering.administrator(request.user)
    letters = [
        FailedLetter(to=one.to, subject=one.subject, says=one.says, at=one.sent_at)
        for one in administering.failed_letters()
    ]
    return PlaceOut(
        version=VERSION,
        members=administering.everybody().count(),
        active=administering.active_lately(),
        storage=administering.storage(),
        queue=administering.queue(),
        letters=letters,
        chosen=settings.PLACE.trials == "chosen",
    )


class PlaceMembers(Schema):
    """A part of the members, and how many were found in all."""

    found: int
    members: list[Member]


@router.get("/place/members", response={200: PlaceMembers, 404: ProblemsOut})
def members(request: SignedIn, sought: str = "", beyond: int = 0) -> PlaceMembers:
    """Fifty of the members, the newest first, from the one ``beyond`` so many."""
    administering.administrator(request.user)
    found, some = administering.found(sought[:120], max(0, beyond))
    return PlaceMembers(found=found, members=some)


class SwitchIn(Schema):
    """Whether the account is to be on, and whether they may begin trials where not everybody may; what is not told stays."""

    on: bool | None = None
    begins_trials: bool | None = None


@router.post("/place/members/{user_id}", response={204: None, 404: ProblemsOut, 409: ProblemsOut})
def switch(request: SignedIn, user_id: int, body: SwitchIn) -> Status[None]:
    """Switch an account off, or on again; choose who begins trials."""
    administering.administrator(request.user)
    if body.on is not None:
        administering.switch(request.user, user_id, on=body.on)
    if body.begins_trials is not None:
        administering.choose(user_id, begins=body.begins_trials)
    return Status(204, None)


@router.get("/place/audit", response={200: list[Came], 404: ProblemsOut})
def audit(request: SignedIn) -> list[Came]:
    """The newest of the audit log."""
    administering.administrator(request.user)
    return administering.newest_audited()


class TeamMember(Schema):
    """Somebody who belongs to a team."""

    id: int
    name: str


class PlaceTeam(Schema):
    """A team with its members."""

    id: int
    name: str
    members: list[TeamMember]


def _teams() -> list[PlaceTeam]:
    return [
        PlaceTeam(id=one.id, name=one.name, members=[TeamMember(id=pk, name=name) for pk, name in one.members])
        for one in administering.teams()
    ]


@router.get("/place/teams", response={200: list[PlaceTeam], 404: ProblemsOut})
def teams(request: SignedIn) -> list[PlaceTeam]:
    """All teams, by name."""
    administering.administrator(request.user)
    return _teams()


class TeamIn(Schema):
    """A team's name, and who belongs to it (numbers)."""

    name: str
    members: list[int]


@router.post("/place/teams", response={201: list[PlaceTeam], 404: ProblemsOut, 422: ProblemsOut})
def make_team(request: SignedIn, body: TeamIn) -> Status[list[PlaceTeam]]:
    """Make a team."""
    administering.administrator(request.user)
    administering.keep_team(None, body.name, body.members)
    return Status(201, _teams())


@router.put("/place/teams/{team_id}", response={200: list[PlaceTeam], 404: ProblemsOut, 422: ProblemsOut})
def change_team(request: SignedIn, team_id: int, body: TeamIn) -> list[PlaceTeam]:
    """Change a team's name and members."""
    administering.administrator(request.user)
    administering.keep_team(team_id, body.name, body.members)
    return _teams()


@router.delete("/place/teams/{team_id}", response={204: None, 404: ProblemsOut})
def drop_team(request: SignedIn, team_id: int) -> Status[None]:
    """Do away with a team."""
    administering.administrator(request.user)
    administering.drop_team(team_id)
    return Status(204, None)
