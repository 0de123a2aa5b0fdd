"""Personal tokens at work: made, asked for at every door, revoked; and the doors where that is done."""

from __future__ import annotations

import secrets
from datetime import datetime, timedelta
from typing import Literal, cast
from uuid import UUID

from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema, Status
from ninja.security import HttpBearer, SessionAuth

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, ProblemsOut, missing
from fieldtally.server.people.auditing import audited
from fieldtally.server.people.models import AccessToken, Happening, Membership, User
from fieldtally.server.people.signedin import SignedIn

Scope = Literal["read", "write"]
router = Router(tags=["people"], auth=SessionAuth())
PREFIX = "ft_"
MOST_TOKENS = 30
SEEN_EVERY = timedelta(minutes=1)


class TokenAuth(HttpBearer):
    """Lets a person's own program in by ``Authorization: Bearer ft_…``, as far as its token goes."""

    def authenticate(self, request: HttpRequest, token: str) -> User | None:
        """The person whose token it is.

        :raises Declined: 403 where the token is for less than is asked.
        """
        kept = (
            AccessToken.objects.select_related("by").filter(hash=AccessToken.hash_of(token), by__is_active=True).first()
        )
        if kept is None:
            return None
        if kept.scope == "read" and request.method not in ("GET", "HEAD"):
            raise Declined(403, "This token may only read.")
        if kept.trial_id is not None and f"/api/trials/{kept.trial_id}" not in (
            request.path,
            _trial_part(request.path),
        ):
            raise Declined(403, "This token is for one trial only.")
        now = timezone.now()
        if kept.used_at is None or now - kept.used_at > SEEN_EVERY:
            AccessToken.objects.filter(pk=kept.pk).update(used_at=now)
        request.user = kept.by
        return kept.by


def _trial_part(path: str) -> str:
    return "/".join(path.split("/")[:4])


class AccessTokenOut(Schema):
    """A token of one's own; the token itself is told once, when it is made."""

    id: UUID
    name: str
    scope: Scope
    trial: UUID | None
    trial_title: str
    made_at: datetime
    used_at: datetime | None


class MadeTokenOut(AccessTokenOut):
    """A token that was just made."""

    token: str


class AccessTokensOut(Schema):
    """All tokens of the person."""

    tokens: list[AccessTokenOut]


class AccessTokenIn(Schema):
    """What to call it, what it may do, and in which trial (None: in all)."""

    name: str
    scope: Scope = "read"
    trial: UUID | None = None


def _out(row: AccessToken) -> AccessTokenOut:
    return AccessTokenOut(
        id=row.pk,
        name=row.name,
        scope=cast(Scope, row.scope),
        trial=row.trial_id,
        trial_title=row.trial.title if row.trial else "",
        made_at=row.made_at,
        used_at=row.used_at,
    )


@router.get("/tokens", response=AccessTokensOut)
def tokens(request: SignedIn) -> AccessTokensOut:
    """One's tokens."""
    rows = AccessToken.objects.filter(by=request.user).select_related("trial")
    return AccessTokensOut(tokens=[_out(row) for row in rows])


@router.post("/tokens", response={201: MadeTokenOut, 422: ProblemsOut})
def make(request: SignedIn, body: AccessTokenIn) -> Status[MadeTokenOut]:
    """Make a token.  It is told now and never again."""
    if not body.name.strip() or len(body.name) > 80:
        raise Declined(422, Problem("name", "Call the token by what it is for, in up to 80 letters."))
    if AccessToken.objects.filter(by=request.user).count() >= MOST_TOKENS:
        raise Declined(422, Problem("name", f"{MOST_TOKENS} tokens are enough; revoke one that is not used."))
    if body.trial and not Membership.objects.filter(user=request.user, trial_id=body.trial).exists():
        raise Declined(422, Problem("trial", "You are not in that trial."))
    token = PREFIX + secrets.token_urlsafe(32)
    row = AccessToken.objects.create(
        by=request.user, name=body.name.strip(), hash=AccessToken.hash_of(token), scope=body.scope, trial_id=body.trial
    )
    audited(Happening.TOKEN_MADE, request.user.pk, body.trial)
    return Status(201, MadeTokenOut(**_out(row).dict(), token=token))


@router.delete("/tokens/{token_id}", response={204: None, 404: ProblemsOut})
def revoke(request: SignedIn, token_id: UUID) -> Status[None]:
    """Make a token worthless, at once."""
    if not AccessToken.objects.filter(by=request.user, pk=token_id).delete()[0]:
        raise missing()
    audited(Happening.TOKEN_REVOKED, request.user.pk)
    return Status(204, None)
