"""A table of a trial that still goes on: a draft of the rest now, its readings once that is sealed."""

from __future__ import annotations

import logging
import re
from collections import Counter
from datetime import datetime
from itertools import groupby
from typing import Any, cast
from uuid import UUID, uuid4

from django.db import transaction
from django.utils import timezone
from django_tasks import task

from fieldtally.core.design.given import LONGEST_NAME, given_names
from fieldtally.core.design.plan import Plan
from fieldtally.core.problems import Refused
from fieldtally.core.rounds.written import Written
from fieldtally.core.tables.going_on import rest_of
from fieldtally.core.tables.importing import ImportedTable
from fieldtally.core.trialpack.reading import Record
from fieldtally.server.answers import Declined
from fieldtally.server.log.deviating import deviate
from fieldtally.server.log.models.deviation import Accident, DeviationKind
from fieldtally.server.log.services import write_note
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.queries import plan_of, samples_of
from fieldtally.server.plan.services import begin
from fieldtally.server.rounds.services import open_round
from fieldtally.server.rounds.writing import MOST_AT_ONCE, write_readings
from fieldtally.server.share.importing import tried
from fieldtally.server.share.models import Import

log = logging.getLogger(__name__)
MOST_NAMED = 4
REMARKED = re.compile(r"^(?P<code>[^,:]+)(?P<rest>(?:, [^:]*)?: .*)$", re.S)
"""A remark: the code of its sample, the look if there are several, and its words."""


def plan_the_rest(row: Import) -> Trial:
    """A draft of the trial that the table of ``row`` tells the beginning of; what was read comes in when it is sealed.

    :raises Refused: something cannot be read, or must be answered first.
    """
    plan = rest_of(tried(row))
    with transaction.atomic():
        trial = begin(row.by, plan)
        Import.objects.filter(pk=row.pk).update(state="waits", trial=trial)
    return trial


def bring_the_past(sender: Any, *, trial: Trial, user: User, plan: Plan, now: datetime, **more: Any) -> None:
    """Queue what the table tells of the looks before, where a sealed plan came from one."""
    del sender, now, more
    if plan.begun is None:
        return
    row = Import.objects.filter(trial=trial, state="waits").defer("content").first()
    if row is not None:
        transaction.on_commit(lambda: carry_on.enqueue(str(row.pk), user.pk))


@task()
def carry_on(import_id: str, user_id: int) -> None:
    """Write what the table tells into the rounds of the notebook: all of it or nothing."""
    row = Import.objects.select_related("by", "trial").filter(pk=import_id, state="waits").first()
    user = User.objects.filter(pk=user_id).first()
    if row is None or user is None or row.trial is None:
        return
    name, trial = row.name, row.trial
    try:
        with transaction.atomic():
            many, gone = _write_all(row, trial, user)
            left = f" {gone} of what the plan no longer has were left out." if gone else ""
            write_note(trial, user, f"Brought in from the table {name}: {many} readings from before the seal.{left}")
            Import.objects.filter(pk=row.pk).update(state="done", content=b"")
    except (Refused, Declined) as refused:
        _not_in(row, trial, user, [one.says for one in refused.problems])
    except Exception:
        log.exception("What a table told of a trial that goes on could not be written")
        _not_in(
            row,
            trial,
            user,
            ["Something went wrong here. Type it in from the notebook, or bring the table in by itself."],
        )


def _not_in(row: Import, trial: Trial, user: User, says: list[str]) -> None:
    Import.objects.filter(pk=row.pk).update(state="failed", problems=[{"at": "", "says": one} for one in says])
    write_note(trial, user, f"Nothing of the table {row.name} came in: {' '.join(says)}"[:1000])


def _write_all(row: Import, trial: Trial, user: User) -> tuple[int, int]:
    """How many readings were written, and how many are of a look, outcome or sample that the sealed plan does not have."""
    brought, plan = tried(row), plan_of(trial)
    if plan.begun is None:
        return 0, brought.readings
    by_name = dict(zip(given_names(plan, plan.begun), (s.pk for s in samples_of(trial)), strict=True))
    named = {
        str(one["sample"]): by_name.get(name[:LONGEST_NAME])
        for name, one in zip(brought.names, brought.pack.tables["samples"], strict=True)
    }
    outcomes = {outcome.key: plan.looked_at(outcome) for outcome in plan.outcomes}
    looks = {checkpoint.key: checkpoint for checkpoint in plan.checkpoints if plan.noted_before(checkpoint.key)}
    rows = sorted(brought.pack.tables["readings"], key=lambda one: str(one["checkpoint"]))
    written = gone = 0
    for key, own in groupby(rows, key=lambda one: str(one["checkpoint"])):
        read = list(own)
        kept = [
            one
            for one in read
            if key in looks and named.get(str(one["sample"])) and looks[key] in outcomes.get(str(one["outcome"]), ())
        ]
        gone += len(read) - len(kept)
        if kept:
            written += _write_look(trial, user, key, kept, named)
    _write_beside(trial, user, brought, named)
    return written, gone


def _write_beside(trial: Trial, user: User, brought: ImportedTable, named: dict[str, UUID | None]) -> None:
    """The remarks of the table, and the samples that it sets aside, under the codes that they have now."""
    now = timezone.now()
    code = {sample.pk: sample.code for sample in samples_of(trial)}
    called = {name: code[pk] for name, pk in named.items() if pk in code}
    for row in brought.pack.tables["notes"]:
        whose = REMARKED.match(str(row["text"]))
        # What is said of no sample here is of the table's own codes, which mean others in this trial.
        if whose is not None and whose["code"] in called:
            text = f"{called[whose['code']]}{whose['rest']}"
            write_note(trial, user, text, at=min(cast(datetime, row["at"]), now))
    for row in brought.pack.tables["deviations"]:
        sample = named.get(str(row["sample"]))
        if sample is None:
            continue
        since = cast("datetime | None", row["since"])
        deviate(
            trial=trial,
            sample_id=sample,
            kind=DeviationKind.LEFT_OUT if since else DeviationKind.SET_ASIDE,
            accident=Accident.OTHER if since else "",
            since=since,
            reason=str(row["reason"]),
            by=user,
            at=now,
            after_key=trial.opened_at is not None,
        )


def _write_look(trial: Trial, user: User, key: str, rows: list[Record], named: dict[str, UUID | None]) -> int:
    scorers = list(dict.fromkeys(str(one["scorer"]) for one in rows))
    looked_by = ", ".join(one for one in scorers if one != user.called)[:80]
    opened = open_round(trial, user, key, looked_by=looked_by)
    takes: Counter[tuple[str, str]] = Counter()
    now = timezone.now()
    written = []
    for one in rows:
        sample, outcome = str(one["sample"]), str(one["outcome"])
        takes[sample, outcome] += 1
        pk, at = cast(UUID, named[sample]), min(cast(datetime, one["taken_at"]), now)
        value, take = cast("float | None", one["value"]), takes[sample, outcome]
        kind, reason = str(one["kind"]), str(one["reason"] or "")
        written.append(Written(uuid4(), opened.pk, pk, outcome, kind, value, reason, at, take=take))
    for first in range(0, len(written), MOST_AT_ONCE):
        write_readings(trial, user, written[first : first + MOST_AT_ONCE])
    return len(written)
