"""The line-up of a trial: shown, picked once by each person before they are told, and counted."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from typing import Literal, cast

from django.conf import settings
from django.contrib.sessions.backends.base import SessionBase
from django.db import IntegrityError, transaction
from django.db.models import Count, Q
from django.utils.crypto import salted_hmac
from ninja import Schema

from fieldtally.core.problems import Problem
from fieldtally.core.verdict.lineup import PICTURES, LineUp, Picture, line_up
from fieldtally.core.verdict.telling.lineup import picks_told
from fieldtally.server.answers import Declined
from fieldtally.server.people.models import Trial, User
from fieldtally.server.verdict.models import LineUpPick, ResultSeen
from fieldtally.server.verdict.results import concluded, kept_study


class LineUpOut(Schema):
    """Twenty pictures of one outcome on one scale from ``low`` to ``high``; empty where there is no line-up of this trial.

    ``picked`` is the place (from 0) of the one that this person took for the true one, and only then ``truth`` where that stands, and
    ``says`` what that is worth; ``knows``: they have read the result already.
    """

    kind: Literal["dots", "series"]
    outcome: str
    pictures: list[Picture]
    low: float
    high: float
    knows: bool
    picked: int | None
    truth: int | None
    says: list[str]


class LineUpPickIn(Schema):
    """The place (from 0) of the picture that is taken for the true one."""

    picture: int


@dataclass(frozen=True)
class Looker:
    """Who looks at a line-up: a member (``user``), or a ``reader`` of the published page; ``knows`` whether they have read the result."""

    user: User | None
    reader: str
    knows: bool

    @property
    def name(self) -> str:
        """What their own line-up is drawn by."""
        return f"user {self.user.pk}" if self.user else f"reader {self.reader}"


@dataclass(frozen=True)
class Picked:
    """How many people picked without knowing the result, and how many of them the true picture."""

    people: int
    right: int


def member(trial: Trial, user: User) -> Looker:
    """``user`` before a line-up of ``trial``."""
    return Looker(user, "", ResultSeen.objects.filter(trial=trial, user=user).exists())


def saw_result(trial: Trial, user: User) -> None:
    """Keep that ``user`` has read the verdict."""
    ResultSeen.objects.bulk_create([ResultSeen(trial=trial, user=user)], ignore_conflicts=True)


def drawn_for(trial: Trial, who: Looker) -> LineUp | None:
    """The line-up of ``trial`` as ``who`` sees it, always the same; None where there can be none.  Its draws come from a secret of this
    server, so that nobody works out from the opened trial which is the true one."""
    secret = salted_hmac(
        "fieldtally.line-up", str(trial.pk), secret=settings.SECRET_KEY, algorithm="sha256"
    ).hexdigest()
    return line_up(kept_study(trial).data, concluded(trial).findings, secret, who.name)


def pick_of(trial: Trial, who: Looker) -> LineUpPick | None:
    """What ``who`` picked."""
    if who.user is None and not who.reader:
        return None
    own = Q(user=who.user) if who.user else Q(user=None, reader=who.reader)
    return LineUpPick.objects.filter(own, trial=trial).first()


def pick(trial: Trial, who: Looker, picture: int) -> LineUpPick:
    """Keep what ``who`` picks, once.

    :raises Declined: 409 where there is no line-up or they have picked already, 422 where there is no such picture.
    """
    shown = drawn_for(trial, who)
    if shown is None:
        raise Declined(409, "There is no line-up of this trial.")
    if not 0 <= picture < PICTURES:
        raise Declined(422, Problem("picture", f"Pick one of the {PICTURES} pictures."))
    try:
        with transaction.atomic():
            return LineUpPick.objects.create(
                trial=trial,
                user=who.user,
                reader="" if who.user else who.reader,
                picture=picture,
                right=picture == shown.truth,
                knowing=who.knows,
            )
    except IntegrityError as error:
        raise Declined(409, "You have picked one already.") from error


def picked(trial: Trial) -> Picked:
    """All picks of people who did not know the result."""
    rows = LineUpPick.objects.filter(trial=trial, knowing=False)
    return Picked(**rows.aggregate(people=Count("pk"), right=Count("pk", filter=Q(right=True))))


def line_up_out(trial: Trial, who: Looker) -> LineUpOut:
    """The line-up as ``who`` may see it."""
    shown = drawn_for(trial, who)
    if shown is None:
        return LineUpOut(
            kind="dots", outcome="", pictures=[], low=0, high=1, knows=who.knows, picked=None, truth=None, says=[]
        )
    own = pick_of(trial, who)
    names = {outcome.key: outcome.name for outcome in kept_study(trial).plan.outcomes}
    all_picks = picked(trial)
    return LineUpOut(
        kind=cast(Literal["dots", "series"], shown.kind),
        outcome=names[shown.outcome],
        pictures=list(shown.pictures),
        low=shown.low,
        high=shown.high,
        knows=who.knows,
        picked=own.picture if own else None,
        truth=shown.truth if own else None,
        says=list(picks_told(own.right, own.knowing, all_picks.people, all_picks.right)) if own else [],
    )


def reader_of(session: SessionBase, trial: Trial) -> Looker:
    """A reader of the published page as the line-up knows them: by a name of chance that their browser keeps."""
    named = f"line-up/{trial.pk}"
    if named not in session:
        session[named] = secrets.token_urlsafe(24)
    return Looker(None, session[named], bool(session.get(f"read/{trial.pk}")))
