"""What members of a place lend to each other's plans: sets of scales, and places where samples stand."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, missing
from fieldtally.server.people.models import User
from fieldtally.server.plan.models import Lent, SharedThing

LONGEST_NAME, MOST_SHARED, MOST_PARTS = 120, 1_000, 60


def lend(user: User, kind: Lent, name: str, parts: Sequence[dict[str, Any]]) -> SharedThing:
    """Keep ``parts`` for everybody here under a name; one of that name that is the person's own is written over.

    :raises Declined: 409 where somebody else keeps one of that name, or there are too many; 422 without a name or parts.
    """
    called = " ".join(name.split())
    if not called or len(called) > LONGEST_NAME:
        raise Declined(422, Problem("name", f"A name of 1 to {LONGEST_NAME} letters, please."))
    if not 0 < len(parts) <= MOST_PARTS:
        raise Declined(422, Problem("name", f"From one to {MOST_PARTS} can be kept together."))
    there = SharedThing.objects.filter(kind=kind, name=called).first()
    if there is not None and there.by_id != user.pk and not user.administers:
        raise Declined(409, Problem("name", f"Somebody else keeps “{called}” for everybody; take another name."))
    if there is None and SharedThing.objects.filter(kind=kind).count() >= MOST_SHARED:
        raise Declined(409, f"{MOST_SHARED:,} are kept already. Ask whoever administers this place to take some away.")
    kept, _ = SharedThing.objects.update_or_create(
        kind=kind, name=called, defaults={"document": list(parts), **({} if there else {"by": user})}
    )
    return kept


def may_take_away(user: User, thing: SharedThing) -> bool:
    """Whether it is theirs to take away: who lent it, and whoever administers the place."""
    return user.administers or thing.by_id == user.pk


def take_away(user: User, kind: Lent, thing_id: int) -> None:
    """Take one away; plans that began with it keep what they have.

    :raises Declined: 404 where there is none, or it is somebody else's and one does not administer.
    """
    thing = SharedThing.objects.filter(kind=kind, pk=thing_id).first()
    if thing is None or not may_take_away(user, thing):
        raise missing()
    thing.delete()


def lent(kind: Lent) -> list[SharedThing]:
    """All of a kind, by name."""
    return list(SharedThing.objects.filter(kind=kind).select_related("by"))
