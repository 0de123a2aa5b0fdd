"""Who is ready to score what only practised people score."""

from __future__ import annotations

from datetime import datetime

from django.utils import timezone

from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.queries import plan_of


def ready_until(trial: Trial, user: User, outcome: str, now: datetime | None = None) -> datetime | None:
    """Until when a person counts as ready to score the outcome (key); None where they do not."""
    at = now or timezone.now()
    # The newest counts: a bad set takes back what was shown before.
    newest = trial.readiness.filter(by=user, outcome=outcome).order_by("-at", "-pk").first()
    return newest.until if newest is not None and newest.until > at else None


def not_ready_for(trial: Trial, user: User, now: datetime | None = None) -> set[str]:
    """The outcomes (keys) that only practised people score, and that this person is not ready for."""
    asked = [o.key for o in plan_of(trial).outcomes if o.practised]
    return {key for key in asked if ready_until(trial, user, key, now) is None}
