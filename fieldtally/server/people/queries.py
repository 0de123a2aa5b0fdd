"""What the stages may read of people."""

from __future__ import annotations

from fieldtally.server.people.models import Membership, User


def memberships_of(user: User) -> list[Membership]:
    """The person's roles in trials that are not put away, newest trial first."""
    return list(
        Membership.objects.select_related("trial")
        .filter(user=user, trial__put_away_at=None)
        .order_by("-trial__created_at")
    )


def called(user_id: int | None) -> str:
    """The name of that person, whether or not they are still in the trial; empty for nobody."""
    user = None if user_id is None else User.objects.filter(pk=user_id).first()
    return user.called if user else ""
