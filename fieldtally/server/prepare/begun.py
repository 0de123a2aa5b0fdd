"""A trial that had begun when its plan was sealed: the clocks of its samples, and who knows what stands where."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from fieldtally.core.blinding.chain import item
from fieldtally.core.design.given import given_starts
from fieldtally.core.design.plan import Plan
from fieldtally.server.people.chain import append
from fieldtally.server.people.models import Membership, Role, Trial, User
from fieldtally.server.plan.queries import samples_of
from fieldtally.server.prepare.models import Exposure, KeyLook


def take_up(sender: Any, *, trial: Trial, user: User, plan: Plan, now: datetime, **more: Any) -> None:
    """Start the clocks that run already, each at its own moment, and record that whoever leads knows the layout: what they score is open.

    Samples that are to start later wait for that.
    """
    del sender, more
    if plan.begun is None:
        return
    starts = zip(samples_of(trial), given_starts(plan, plan.begun), strict=True)
    running = [Exposure(sample=sample, started_at=at, by=user) for sample, at in starts if at <= now]
    Exposure.objects.bulk_create(running)
    began = [item("start", {"sample": one.sample.code, "started_at": one.started_at}) for one in running]
    append(trial, "start", began, at=now)
    first = min(one.started_at for one in running)
    Trial.objects.filter(pk=trial.pk).update(started_at=first)
    trial.started_at = first
    leads = User.objects.filter(memberships__in=Membership.objects.filter(trial=trial, role=Role.LEAD))
    for one in leads.distinct().order_by("pk"):
        look = KeyLook.objects.create(trial=trial, by=one, at=now)
        append(trial, "key look", [item("key look", {"at": look.at})], at=now)
