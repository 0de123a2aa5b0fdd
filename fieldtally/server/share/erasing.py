"""Erasing an account: the person's own things go, trials that are theirs alone go with all they hold, and what others rely on stays
under no name.

Whose alone a trial is, the database decides (``erase_trials`` in the migrations): others have no part in it, and never had one.  A trial in
which somebody else scored stays even when nobody is left in it.
"""

from __future__ import annotations

import uuid

from allauth.account.models import EmailAddress
from allauth.mfa.models import Authenticator
from allauth.socialaccount.models import SocialAccount
from django.db import IntegrityError, connection, transaction

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.panels.models import Practice
from fieldtally.server.people.auditing import audited
from fieldtally.server.people.chain import append
from fieldtally.server.people.models import AccessToken, Happening, Membership, Role, Trial, User
from fieldtally.server.plan.models import Rehearsal
from fieldtally.server.prepare.models import MeasuringTool
from fieldtally.server.rounds.models import Feed, Reminded, Taken
from fieldtally.server.share.models import Import, MadeFile
from fieldtally.server.training.models import TrainingSet
from fieldtally.server.verdict.models import LineUpPick, MethodsKept, Result, ResultSeen

GONE = "Somebody who left"


def own_trials(user: User) -> list[Trial]:
    """The trials in which nobody but ``user`` has, or ever had, a part."""
    mine = Trial.objects.filter(memberships__user=user, memberships__role=Role.LEAD)
    shared = set(Membership.objects.filter(trial__in=mine).exclude(user=user).values_list("trial_id", flat=True))
    return [trial for trial in mine if trial.pk not in shared and _may_go(user, trial)]


def _may_go(user: User, trial: Trial) -> bool:
    """Whether the database would let ``trial`` go."""
    try:
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SELECT only_ones_own(%s, %s)", [user.pk, [trial.pk]])
    except IntegrityError:
        return False
    return True


def erase_draft(user: User, trial: Trial) -> None:
    """Erase a draft of ``user`` with all it holds.

    :raises Declined: 409 where others have, or had, a part in it.
    """
    with transaction.atomic():
        if trial.pk not in {one.pk for one in own_trials(user)}:
            raise Declined(
                409, "Others are in this draft, or were. Take them out under People; whatever they entered stays."
            )
        _erase_trials(user, [trial])


def _erase_trials(user: User, trials: list[Trial]) -> None:
    for kept in (Result, LineUpPick, ResultSeen, MadeFile, Taken):
        kept.objects.filter(trial__in=trials).delete()
    with connection.cursor() as cursor:
        cursor.execute("SELECT erase_trials(%s, %s)", [user.pk, [trial.pk for trial in trials]])


def erase(user: User, email: str) -> None:
    """Erase the account of ``user``; ``email`` is theirs, typed as a sign that this is meant.

    :raises Declined: 422 where it is not; 409 where a trial of others would be left without a lead.
    """
    if email.strip().lower() != user.email.lower():
        raise Declined(422, Problem("email", "Type the e-mail address of your account, to show that you mean it."))
    with transaction.atomic():
        locked = User.objects.select_for_update().get(pk=user.pk)
        alone = own_trials(locked)
        for membership in Membership.objects.filter(user=locked, role=Role.LEAD).exclude(trial__in=alone):
            others = Membership.objects.filter(trial=membership.trial).exclude(user=locked)
            if others.exists() and not others.filter(role=Role.LEAD).exists():
                says = f"“{membership.trial.title}” has others in it and no lead but you. Invite another lead, or leave them out, first."
                raise Declined(409, says)
        _erase_trials(locked, alone)
        # Their values stay in the trials of others; that the account was erased stands in the chain of each.
        for trial in Trial.objects.filter(memberships__user=locked, sealed_at__isnull=False):
            append(trial, "erased")
        AccessToken.objects.filter(by=locked).delete()
        MeasuringTool.objects.filter(by=locked).delete()
        Practice.objects.filter(by=locked).delete()
        LineUpPick.objects.filter(user=locked).delete()
        ResultSeen.objects.filter(user=locked).delete()
        MethodsKept.objects.filter(user=locked).delete()
        TrainingSet.objects.filter(by=locked).delete()
        Rehearsal.objects.filter(by=locked).delete()
        Import.objects.filter(by=locked).delete()
        Feed.objects.filter(user=locked).delete()
        Reminded.objects.filter(user=locked).delete()
        EmailAddress.objects.filter(user=locked).delete()
        Authenticator.objects.filter(user=locked).delete()
        SocialAccount.objects.filter(user=locked).delete()
        Membership.objects.filter(user=locked).delete()
        locked.teams.clear()
        locked.name, locked.is_active = GONE, False
        locked.email = f"erased-{uuid.uuid4().hex}@no-account.invalid"
        locked.set_unusable_password()
        locked.save()
        audited(Happening.ERASED, locked.pk)
