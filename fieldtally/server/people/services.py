"""What may be done about people in trials."""

from __future__ import annotations

import secrets
from uuid import UUID

from django.conf import settings
from django.core.mail import send_mail
from django.core.validators import EmailValidator
from django.db import transaction
from django.utils import timezone

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, missing
from fieldtally.server.people.models import Invitation, Membership, Role, Trial, User

INVITED_ROLES = (Role.LEAD, Role.PREPARER, Role.SCORER, Role.VIEWER)


def begin_trial(user: User, title: str, zone: str) -> Trial:
    """A new draft, led by ``user``."""
    if not title.strip():
        raise Declined(422, Problem("title", "The trial needs a name."))
    with transaction.atomic():
        trial = Trial.objects.create(title=title.strip()[:200], zone=zone)
        Membership.objects.create(trial=trial, user=user, role=Role.LEAD)
    return trial


def invite(trial: Trial, by: User, email: str, role: str) -> Invitation:
    """Send a letter with a link that gives ``role`` to whoever follows it signed in."""
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
    with transaction.atomic():
        invitation = Invitation.objects.create(
            trial=trial, email=address, role=role, token_hash=Invitation.hash_of(token), invited_by=by
        )
        send_mail(
            f"{by.called} asks you to help with a trial",
            f"{by.called} asks you to be {_as(role)} in a trial on Field Tally.\n\n"
            f"Follow this link, sign in or join, and it is on your shelf:\n\n{settings.ORIGIN}/invited/{token}\n\n"
            "If you do not know them, ignore this letter.\n",
            settings.DEFAULT_FROM_EMAIL,
            [address],
        )
    return invitation


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
    return invitation.trial_id


def withdraw(trial: Trial, invitation_id: int) -> None:
    """Make an open invitation worthless."""
    deleted, _ = Invitation.objects.filter(trial=trial, pk=invitation_id, taken_at=None).delete()
    if not deleted:
        raise missing()


@transaction.atomic
def leave_out(trial: Trial, membership_id: int) -> None:
    """Take somebody's role away; what they scored stays."""
    membership = Membership.objects.filter(trial=trial, pk=membership_id).first()
    if membership is None:
        raise missing()
    leads = Membership.objects.select_for_update().filter(trial=trial, role=Role.LEAD)
    if membership.role == Role.LEAD and leads.count() < 2:
        raise Declined(409, "A trial needs its lead.")
    membership.delete()


def settle_blindness(trial: Trial, sealing: Membership, *, stays_blind: bool) -> None:
    """Who leads ``trial`` will not see the key until it is opened; the one who seals it may choose to, so as to prepare."""
    Membership.objects.filter(trial=trial, role=Role.LEAD).exclude(pk=sealing.pk).update(blind=True)
    sealing.blind = stays_blind
    sealing.save(update_fields=["blind"])
