"""What whoever administers a place sees of it, and what they may do: switch accounts off and on, choose who begins trials, keep teams.

They see people and amounts; of trials nothing, not even a title.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import NoReturn

from allauth.mfa.models import Authenticator
from django.contrib.sessions.models import Session
from django.db import connection, transaction
from django.db.models import Count, Exists, OuterRef, Q, QuerySet
from django.utils import timezone

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, missing
from fieldtally.server.hosting import store
from fieldtally.server.hosting.queueing import failed_last, queue_now
from fieldtally.server.measuring.models import Photo
from fieldtally.server.people.auditing import audited
from fieldtally.server.people.models import Audited, Happening, Mail, Post, Team, Trial, User
from fieldtally.server.people.twosteps import STEPS
from fieldtally.server.rounds.models import Reading

LATELY = timedelta(days=30)
AT_ONCE = 50
SHOWN_FAILED = 5
LONGEST_TEAM, MOST_IN_TEAM = 80, 500
LARGEST_NUMBER = 2**31
"""No account has a number as large as that."""
COUNTED = 100_000
ERASED = "@no-account.invalid"


@dataclass(frozen=True)
class Member:
    """Somebody with an account: whether it is ``on``, and in how many ``trials`` they have a part."""

    id: int
    name: str
    email: str
    on: bool
    administers: bool
    begins_trials: bool
    second_step: bool
    joined_at: datetime
    last_login: datetime | None
    trials: int


@dataclass(frozen=True)
class Storage:
    """How much there is: trials, readings (of very many the database's own estimate), photos, and bytes of the whole database; ``outside``:
    photos and files lie in a store beside it."""

    trials: int
    readings: int
    photos: int
    bytes: int
    outside: bool


@dataclass(frozen=True)
class Queue:
    """Long work: how much waits, is being done, has failed, since when the oldest waits, and what failed last (its kind)."""

    waiting: int
    running: int
    failed: int
    oldest: datetime | None
    last_failed: tuple[str, ...]


def administrator(user: User) -> None:
    """Go on only for whoever administers this place.

    :raises Declined: 404, as if there were no such door.
    """
    if not user.administers:
        raise missing()


def everybody() -> QuerySet[User]:
    """Everybody with an account, the newest first."""
    return User.objects.exclude(email__endswith=ERASED).order_by("-joined_at", "-pk")


def found(sought: str, beyond: int) -> tuple[int, list[Member]]:
    """How many have ``sought`` in their name or address, and up to fifty of them from the one ``beyond`` so many."""
    some = everybody()
    if word := sought.strip():
        some = some.filter(Q(name__icontains=word) | Q(email__icontains=word))
    rows = some.annotate(
        trials=Count("memberships", distinct=True),
        second_step=Exists(Authenticator.objects.filter(user=OuterRef("pk"), type__in=STEPS)),
    )[beyond : beyond + AT_ONCE]
    told = (
        "pk",
        "name",
        "email",
        "is_active",
        "administers",
        "begins_trials",
        "second_step",
        "joined_at",
        "last_login",
        "trials",
    )
    return some.count(), [Member(*row) for row in rows.values_list(*told)]


def active_lately() -> int:
    """How many have signed in during the last thirty days."""
    return User.objects.filter(last_login__gte=timezone.now() - LATELY, is_active=True).count()


def storage() -> Storage:
    """How much there is."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_database_size(current_database())")
        (size,) = cursor.fetchone()
        cursor.execute("SELECT reltuples::bigint FROM pg_class WHERE oid = %s::regclass", [Reading._meta.db_table])
        (believed,) = cursor.fetchone()
    # Counting millions of rows takes seconds; what the planner believes of so many is near enough.
    readings = believed if believed > COUNTED else Reading.objects.count()
    return Storage(Trial.objects.count(), readings, Photo.objects.count(), size, store.outside())


def queue() -> Queue:
    """How long work stands."""
    return Queue(**queue_now(), last_failed=tuple(failed_last(SHOWN_FAILED)))


def failed_letters() -> QuerySet[Mail]:
    """Letters that could not be sent, the newest first."""
    return Mail.objects.filter(state=Post.FAILED).order_by("-sent_at")[:AT_ONCE]


@dataclass(frozen=True)
class Came:
    """A line of the audit log, with the ``name`` of whoever has that number now (empty: nobody, or nobody known)."""

    at: datetime
    what: Happening
    name: str
    address: str | None


def newest_audited() -> list[Came]:
    """The newest of the audit log."""
    rows = list(Audited.objects.order_by("-at", "-pk")[:AT_ONCE])
    names = {one.pk: one.called for one in User.objects.filter(pk__in={row.person for row in rows})}
    return [Came(row.at, Happening(row.what), names.get(row.person or 0, ""), row.address) for row in rows]


def switch(by: User, user_id: int, *, on: bool) -> None:
    """Switch an account off: its sign-ins and tokens open nothing from now on; or on again.

    :raises Declined: 404 where there is none; 409 for one's own, so that a place keeps whoever administers it.
    """
    with transaction.atomic():
        user = User.objects.select_for_update().filter(pk=user_id).exclude(email__endswith=ERASED).first()
        if user is None:
            raise missing()
        if user.pk == by.pk:
            raise Declined(409, Problem("", "Your own account stays on; another administrator may switch it off."))
        user.is_active = on
        user.save(update_fields=["is_active"])
        if not on:
            _end_sign_ins(user)
        audited(Happening.SWITCHED_ON if on else Happening.SWITCHED_OFF, user.pk)


def choose(user_id: int, *, begins: bool) -> None:
    """Let a member begin trials where not everybody may, or no longer.

    :raises Declined: 404 where there is none.
    """
    if not everybody().filter(pk=user_id).update(begins_trials=begins):
        raise missing()
    audited(Happening.MAY_BEGIN if begins else Happening.MAY_NOT_BEGIN, user_id)


@dataclass(frozen=True)
class TeamKept:
    """A team with its members (numbers and names)."""

    id: int
    name: str
    members: tuple[tuple[int, str], ...]


def teams() -> list[TeamKept]:
    """All teams, by name."""
    return [
        TeamKept(team.pk, team.name, tuple((one.pk, one.called) for one in team.members.order_by("name", "pk")))
        for team in Team.objects.prefetch_related("members")
    ]


def keep_team(team_id: int | None, name: str, members: Sequence[int]) -> int:
    """Keep a team under a name with these members (numbers): a new one (None), or another as it is now; its number.

    :raises Declined: 422 without a name, with one that another has, or without members; 404 where there is none.
    """
    called = " ".join(name.split())
    if not called or len(called) > LONGEST_TEAM:
        raise Declined(422, Problem("name", f"A name of 1 to {LONGEST_TEAM} letters, please."))
    if len(members) > MOST_IN_TEAM:
        raise Declined(422, Problem("members", f"Up to {MOST_IN_TEAM} in one team, please."))
    others = Team.objects.filter(name__iexact=called)
    if (others if team_id is None else others.exclude(pk=team_id)).exists():
        raise Declined(422, Problem("name", f"There is a team “{called}” already."))
    known = list(everybody().filter(pk__in=[one for one in members if 0 < one < LARGEST_NUMBER]))
    if not known:
        raise Declined(422, Problem("members", "Choose who belongs to it: one member at least."))
    with transaction.atomic():
        if team_id is None:
            team = Team.objects.create(name=called)
        else:
            team = Team.objects.select_for_update().filter(pk=team_id).first() or _none()
            team.name = called
            team.save()
        team.members.set(known)
    return team.pk


def _none() -> NoReturn:
    raise missing()


def drop_team(team_id: int) -> None:
    """Do away with a team; nobody's part in any trial changes.

    :raises Declined: 404 where there is none.
    """
    if not Team.objects.filter(pk=team_id).delete()[0]:
        raise missing()


def _end_sign_ins(user: User) -> None:
    """Whoever is switched off is signed out everywhere."""
    for session in Session.objects.filter(expire_date__gt=timezone.now()).iterator():
        if session.get_decoded().get("_auth_user_id") == str(user.pk):
            session.delete()
