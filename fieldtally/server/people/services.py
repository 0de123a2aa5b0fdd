"""What may be done about people in trials."""

from __future__ import annotations

import secrets
from uuid import UUID

from django.conf import settings
from django.core.mail import send_mail
from django.core.validators import EmailValidator
from django.db import transaction
from django.db.models import Count, Q
from django.utils import timezone

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, missing
from fieldtally.server.people.auditing import audited
from fieldtally.server.people.models import Happening, Invitation, Membership, Role, Team, Trial, User

INVITED_ROLES = (Role.LEAD, Role.PREPARER, Role.SCORER, Role.VIEWER)


def begin_trial(user: User, title: str, zone: str) -> Trial:
    """A new draft, led by ``user``.

    :raises Declined: 403 where they may not begin trials; 422 without a name.
    """
    if not user.may_begin:
        raise Declined(
            403, "Here trials are begun by chosen members. Ask whoever administers this place to choose you."
        )
    if not title.strip():
        raise Declined(422, Problem("title", "The trial needs a name."))
    with transaction.atomic():
        trial = Trial.objects.create(title=title.strip()[:200], zone=zone)
        Membership.objects.create(trial=trial, user=user, role=Role.LEAD)
    return trial


def invite(trial: Trial, by: User, email: str, role: str) -> tuple[Invitation, str]:
    """Send a letter with a link that gives ``role`` to whoever follows it signed in; the invitation and, where no letters go out, the link,
    told once, to be passed on by hand."""
    address = email.strip().lower()
    try:
        EmailValidator()(address)
    except Exception as error:
        raise Declined(422, Problem("email", f"“{email.strip()}” is not an e-mail address.")) from error
    if role not in INVITED_ROLES:
        raise Declined(422, Problem("role", "Invite somebody to plan with you, to prepare, to score or to look on."))
    if Membership.objects.filter(trial=trial, user__email=address).exists():
        raise Declined(409, Problem("email", f"{address} is in this trial already."))
    if Invitation.objects.filter(trial=trial, email=address, taken_at=None).exists():
        raise Declined(409, Problem("email", f"{address} has an open invitation already; withdraw it to send another."))
    token = secrets.token_urlsafe(32)
    link = f"{settings.ORIGIN}/invited/{token}"
    with transaction.atomic():
        invitation = Invitation.objects.create(
            trial=trial, email=address, role=role, token_hash=Invitation.hash_of(token), invited_by=by
        )
        send_mail(
            f"{by.called} asks you to help with a trial",
            f"{by.called} asks you to be {_as(role)} in a trial on Field Tally.\n\n"
            f"Follow this link, sign in or join, and it is on your shelf:\n\n{link}\n\n"
            "If you do not know them, ignore this letter.\n",
            settings.DEFAULT_FROM_EMAIL,
            [address],
        )
    audited(Happening.INVITED, by.pk, trial.pk)
    return invitation, "" if settings.MAILS else link


def teams() -> list[tuple[int, str, int]]:
    """The teams that may be invited: number, name, and how many belong to each."""
    rows = Team.objects.annotate(many=Count("members", filter=Q(members__is_active=True)))
    return [(one.pk, one.name, one.many) for one in rows if one.many]


def invite_team(trial: Trial, by: User, team_id: int, role: str) -> tuple[int, int, list[tuple[str, str]]]:
    """Invite everybody of a team who has no part in ``trial`` and no open invitation to it: how many were, how many have one already,
    and where no letters go out each address with its link.  All of them, or nobody."""
    team = Team.objects.filter(pk=team_id).first()
    if team is None:
        raise Declined(422, Problem("team", "There is no such team any more."))
    links, already = [], 0
    with transaction.atomic():
        for user in team.members.filter(is_active=True).order_by("pk"):
            in_it = Membership.objects.filter(trial=trial, user=user).exists()
            if in_it or Invitation.objects.filter(trial=trial, email=user.email, taken_at=None).exists():
                already += 1
                continue
            _, link = invite(trial, by, user.email, role)
            links.append((user.email, link))
    return len(links), already, [one for one in links if one[1]]


def _as(role: str) -> str:
    return {
        Role.LEAD: "one who plans and leads with them",
        Role.PREPARER: "the one who prepares the samples",
        Role.SCORER: "a blind scorer",
        Role.VIEWER: "a viewer",
    }[Role(role)]


def invited_with(token: str) -> Invitation:
    """The open invitation that ``token`` belongs to."""
    found = Invitation.objects.select_related("trial", "invited_by").filter(
        token_hash=Invitation.hash_of(token), taken_at=None
    )
    invitation = found.first()
    if invitation is None:
        raise Declined(404, "This invitation has been used or withdrawn. Ask for a new one.")
    return invitation


def take_up(token: str, user: User) -> UUID:
    """Give ``user`` the role they were invited to; the trial's id."""
    with transaction.atomic():
        invitation = invited_with(token)
        if Membership.objects.filter(trial=invitation.trial, user=user).exists():
            raise Declined(409, "You are in this trial already; your role stays as it is.")
        taken = Invitation.objects.filter(pk=invitation.pk, taken_at=None).update(taken_at=timezone.now())
        if not taken:
            raise Declined(404, "This invitation has been used or withdrawn. Ask for a new one.")
        # Who comes to lead a trial that is sealed already has chosen nothing, and stays blind.
        late = invitation.role == Role.LEAD and invitation.trial.sealed_at is not None
        Membership.objects.create(trial=invitation.trial, user=user, role=invitation.role, blind=late)
    audited(Happening.CAME, user.pk, invitation.trial_id)
    return invitation.trial_id


def withdraw(trial: Trial, by: User, invitation_id: int) -> None:
    """Make an open invitation worthless."""
    deleted, _ = Invitation.objects.filter(trial=trial, pk=invitation_id, taken_at=None).delete()
    if not deleted:
        raise missing()
    audited(Happening.WITHDRAWN, by.pk, trial.pk)


@transaction.atomic
def leave_out(trial: Trial, membership_id: int) -> None:
    """Take somebody's role away; what they scored stays."""
    membership = Membership.objects.filter(trial=trial, pk=membership_id).first()
    if membership is None:
        raise missing()
    leads = Membership.objects.select_for_update().filter(trial=trial, role=Role.LEAD)
    if membership.role == Role.LEAD and leads.count() < 2:
        raise Declined(409, "A trial needs its lead.")
    audited(Happening.LEFT_OUT, membership.user_id, trial.pk)
    membership.delete()


def settle_blindness(trial: Trial, sealing: Membership, *, stays_blind: bool) -> None:
    """Who leads ``trial`` will not see the key until it is opened; the one who seals it may choose to, so as to prepare."""
    Membership.objects.filter(trial=trial, role=Role.LEAD).exclude(pk=sealing.pk).update(blind=True)
    sealing.blind = stays_blind
    sealing.save(update_fields=["blind"])
