"""Doors about people: who am I, who is in a trial, invitations, the demo's mailbox."""

from datetime import datetime
from uuid import UUID

import segno
from django.conf import settings
from django.http import HttpRequest
from ninja import Router, Schema, Status
from ninja.security import SessionAuth

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, ProblemsOut, missing
from fieldtally.server.people import services
from fieldtally.server.people.joining import INVITED_AS
from fieldtally.server.people.models import Invitation, Mail, Membership
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn

router = Router(tags=["people"])
LONGEST_SQUARE = 400


class Me(Schema):
    """Who is signed in."""

    id: int
    name: str
    email: str
    demo: bool
    administers: bool
    may_begin: bool
    """Whether they may begin trials here."""


@router.get("/me", response={200: Me, 401: ProblemsOut})
def me(request: SignedIn) -> Me:
    """The person who asks."""
    user = request.user
    return Me(
        id=user.pk,
        name=user.called,
        email=user.email,
        demo=settings.DEMO,
        administers=user.administers,
        may_begin=user.may_begin,
    )


class Doorstep(Schema):
    """What may be known before signing in."""

    demo: bool
    open: bool
    """Whether whoever comes may join, without an invitation."""
    elsewhere: str
    """What people call the sign-in of this place's own; empty where it has none."""


@router.get("/doorstep", response=Doorstep, auth=None)
def doorstep(request: HttpRequest) -> Doorstep:
    """Whether this is the demo, with its accounts and mailbox."""
    elsewhere = settings.PLACE.oidc_name if settings.PLACE.oidc else ""
    return Doorstep(demo=settings.DEMO, open=settings.PLACE.sign_up == "open", elsewhere=elsewhere)


class SquareIn(Schema):
    """What an app on a phone is to read: an ``otpauth://`` address."""

    text: str


class SquareOut(Schema):
    """A square for a phone's camera, as an address of a picture."""

    picture: str


@router.post("/account/square", response={200: SquareOut, 422: ProblemsOut}, auth=SessionAuth())
def square(request: SignedIn, body: SquareIn) -> SquareOut:
    """Draw the square that sets a second step up; nothing is kept."""
    if not body.text.startswith("otpauth://") or len(body.text) > LONGEST_SQUARE:
        raise Declined(422, Problem("text", "Only the address of a second step is drawn here."))
    return SquareOut(picture=segno.make(body.text, error="m").svg_data_uri(scale=4, border=4))


class MailOut(Schema):
    """A letter in the demo's mailbox."""

    id: int
    to: str
    subject: str
    text: str
    sent_at: datetime


@router.get("/mailbox", response={200: list[MailOut], 404: ProblemsOut}, auth=None)
def mailbox(request: HttpRequest) -> list[Mail]:
    """The newest letters; only in the demo, where nothing is really sent."""
    if not settings.DEMO:
        raise missing()
    return list(Mail.objects.all()[:50])


class MemberOut(Schema):
    """Somebody in a trial."""

    id: int
    name: str
    role: str
    blind: bool
    you: bool


class InvitationOut(Schema):
    """An open invitation."""

    id: int
    email: str
    role: str
    sent_at: datetime


class MadeInvitation(InvitationOut):
    """An invitation that was just made; its ``link`` is told where no letters go out, now and never again."""

    link: str


class TeamOut(Schema):
    """A team that may be invited, and how many belong to it."""

    id: int
    name: str
    many: int


class PeopleOut(Schema):
    """Who is in a trial; open invitations are shown to the lead alone."""

    members: list[MemberOut]
    invitations: list[InvitationOut]
    may_invite: bool
    teams: list[TeamOut]


@router.get("/trials/{trial_id}/people", response={200: PeopleOut, 404: ProblemsOut})
def people(request: SignedIn, trial_id: UUID) -> PeopleOut:
    """The people of a trial."""
    seen = sight(request, trial_id)
    members = Membership.objects.select_related("user").filter(trial_id=trial_id).order_by("since", "pk")
    invitations = (
        Invitation.objects.filter(trial_id=trial_id, taken_at=None).order_by("pk") if seen.may("invite") else []
    )
    return PeopleOut(
        members=[
            MemberOut(id=m.pk, name=m.user.called, role=m.role, blind=m.blind, you=m.user_id == request.user.pk)
            for m in members
        ],
        invitations=[InvitationOut(id=i.pk, email=i.email, role=i.role, sent_at=i.sent_at) for i in invitations],
        may_invite=seen.may("invite"),
        teams=[TeamOut(id=pk, name=name, many=many) for pk, name, many in services.teams()]
        if seen.may("invite")
        else [],
    )


class InviteIn(Schema):
    """Whom to invite, and as what."""

    email: str
    role: str


@router.post(
    "/trials/{trial_id}/invitations",
    response={201: MadeInvitation, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def invite(request: SignedIn, trial_id: UUID, body: InviteIn) -> Status[InvitationOut]:
    """Invite somebody, by mail where there is one."""
    seen = sight(request, trial_id)
    seen.need("invite")
    sent, link = services.invite(seen.trial, request.user, body.email, body.role)
    return Status(201, MadeInvitation(id=sent.pk, email=sent.email, role=sent.role, sent_at=sent.sent_at, link=link))


class InviteTeamIn(Schema):
    """Which team to invite, and as what."""

    team: int
    role: str


class InvitedLink(Schema):
    """Where no letters go out: what opens the invitation of an address, told once."""

    email: str
    link: str


class InvitedTeam(Schema):
    """How many were invited, how many have a part in it or an invitation already."""

    invited: int
    already: int
    links: list[InvitedLink]


@router.post(
    "/trials/{trial_id}/invitations/team",
    response={201: InvitedTeam, 403: ProblemsOut, 404: ProblemsOut, 422: ProblemsOut},
)
def invite_team(request: SignedIn, trial_id: UUID, body: InviteTeamIn) -> Status[InvitedTeam]:
    """Invite everybody of a team."""
    seen = sight(request, trial_id)
    seen.need("invite")
    many, already, links = services.invite_team(seen.trial, request.user, body.team, body.role)
    told = [InvitedLink(email=email, link=link) for email, link in links]
    return Status(201, InvitedTeam(invited=many, already=already, links=told))


@router.delete(
    "/trials/{trial_id}/invitations/{invitation_id}", response={204: None, 403: ProblemsOut, 404: ProblemsOut}
)
def withdraw(request: SignedIn, trial_id: UUID, invitation_id: int) -> Status[None]:
    """Withdraw an open invitation."""
    seen = sight(request, trial_id)
    seen.need("withdraw_invitation")
    services.withdraw(seen.trial, request.user, invitation_id)
    return Status(204, None)


@router.delete(
    "/trials/{trial_id}/people/{membership_id}",
    response={204: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut},
)
def leave_out(request: SignedIn, trial_id: UUID, membership_id: int) -> Status[None]:
    """Take somebody's role away."""
    seen = sight(request, trial_id)
    seen.need("remove_member")
    services.leave_out(seen.trial, membership_id)
    return Status(204, None)


class InvitedOut(Schema):
    """What an invitation says before it is taken up: nothing of the trial itself."""

    invited_by: str
    role: str


@router.get("/invitations/{token}", response={200: InvitedOut, 404: ProblemsOut}, auth=None)
def invited(request: HttpRequest, token: str) -> InvitedOut:
    """Who invites, and to what role."""
    invitation = services.invited_with(token)
    # Whoever holds the letter has shown that its address is theirs, and need not confirm it once more to join.
    request.session[INVITED_AS] = invitation.email
    return InvitedOut(invited_by=invitation.invited_by.called, role=invitation.role)


class TakenUp(Schema):
    """The trial that is now on the shelf."""

    trial: UUID


@router.post("/invitations/{token}", response={200: TakenUp, 404: ProblemsOut, 409: ProblemsOut})
def take_up(request: SignedIn, token: str) -> TakenUp:
    """Take the role."""
    return TakenUp(trial=services.take_up(token, request.user))
