"""What the stages may read of people."""

from __future__ import annotations

from fieldtally.server.people.models import Membership, Trial, User


def memberships_of(user: User) -> list[Membership]:
    """The person's roles in trials that are not put away, newest trial first."""
    return list(
        Membership.objects.select_related("trial")
        .filter(user=user, trial__put_away_at=None)
        .order_by("-trial__created_at")
    )


def names_in(trial: Trial) -> dict[int, str]:
    """Names of the people in ``trial``, by their id."""
    return {m.user_id: m.user.called for m in Membership.objects.select_related("user").filter(trial=trial)}
