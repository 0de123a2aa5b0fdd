"""Rehearsals at work: begun, played in the background, cancelled."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from datetime import timedelta

from django.db import transaction
from django.utils import timezone
from django_tasks import task
from pydantic import TypeAdapter

from fieldtally.core.design.document import document_of, plan_in
from fieldtally.core.design.plan import Plan
from fieldtally.core.problems import Refused
from fieldtally.core.rehearsal.dryrun import dry_runs
from fieldtally.core.rehearsal.imagined import Imagined
from fieldtally.server.people.models import User
from fieldtally.server.plan.models import Rehearsal

KEPT_FOR = timedelta(days=2)
TOLD_EVERY = 5
_imagined = TypeAdapter(list[Imagined])


class Cancelled(Exception):
    """Nobody waits for the answer any more."""


def begin(user: User, plan: Plan, imagined: Sequence[Imagined], runs: int) -> Rehearsal:
    """Queue ``runs`` dry runs; one rehearsal a person at a time, a new one cancels the one before."""
    with transaction.atomic():
        Rehearsal.objects.filter(at__lt=timezone.now() - KEPT_FOR).delete()
        Rehearsal.objects.filter(by=user, result=None).update(cancelled=True)
        row = Rehearsal.objects.create(
            by=user, runs=runs, asked={"plan": document_of(plan), "imagined": [asdict(one) for one in imagined]}
        )
        transaction.on_commit(lambda: play.enqueue(str(row.pk)))
    return row


def cancel(row: Rehearsal) -> None:
    """Stop ``row`` at its next step."""
    Rehearsal.objects.filter(pk=row.pk).update(cancelled=True)


@task()
def play(rehearsal_id: str) -> None:
    """Play the rehearsal and keep its result."""
    row = Rehearsal.objects.filter(pk=rehearsal_id).first()
    if row is None or row.cancelled:
        return

    def tell(done: int) -> None:
        if done % TOLD_EVERY == 0:
            going = Rehearsal.objects.filter(pk=row.pk, cancelled=False).update(done=done)
            if not going:
                raise Cancelled

    try:
        found = dry_runs(plan_in(row.asked["plan"]), _imagined.validate_python(row.asked["imagined"]), row.runs, tell)
    except Cancelled:
        return
    except Refused as refused:
        Rehearsal.objects.filter(pk=row.pk).update(failed=refused.problems[0].says[:500])
        return
    Rehearsal.objects.filter(pk=row.pk).update(done=row.runs, result=asdict(found))
