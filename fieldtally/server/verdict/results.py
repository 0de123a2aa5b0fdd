"""What was worked out of a trial, kept: computed once however many ask, anew when what it is made from has changed.

A result is kept under the digest of what it is made from (the plan, the chain of records, panels, doses, what is held otherwise than it
was recorded) *and* of the code that makes it.  A small trial is worked out in the request; a large one by a worker, and whoever asks is
told how far it is, the sentence first.  One that is outdated before it is done is given up.
"""

from __future__ import annotations

import hashlib
import pickle
import zlib
from datetime import timedelta
from functools import lru_cache
from pathlib import Path
from typing import Any

from django.db import connection, transaction
from django.utils import timezone
from django_tasks import task

import fieldtally
from fieldtally.core.compare.columns import References
from fieldtally.core.verdict.study import Concluded
from fieldtally.server.answers import Declined
from fieldtally.server.people.models import ChainEntry, Trial
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.verdict.chain import faults_of
from fieldtally.server.verdict.models import Result, ResultState
from fieldtally.server.verdict.study import Study, study_of

AT_ONCE = 4_000
"""So many values, counted as samples times looks of outcomes, are worked out in the request."""
LOST_AFTER = timedelta(minutes=5)
"""A worker that has not been heard of for so long has died."""
LOOKED_AT_ANEW = timedelta(minutes=10)
"""After so long what is held is compared with what was recorded again."""

MADE_FROM = """
    SELECT
      (SELECT link FROM people_chainentry WHERE trial_id = %(trial)s ORDER BY number DESC LIMIT 1),
      (SELECT count(*) FROM prepare_application WHERE trial_id = %(trial)s),
      (SELECT count(*) FROM prepare_cycle WHERE trial_id = %(trial)s),
      (SELECT count(*) FROM rounds_guess WHERE trial_id = %(trial)s),
      (SELECT md5(string_agg(u.name, '/' ORDER BY u.id)) FROM people_user u
       JOIN people_membership m ON m.user_id = u.id WHERE m.trial_id = %(trial)s),
      (SELECT md5(string_agg(p::text, '/' ORDER BY p.id)) FROM panels_panel p WHERE p.trial_id = %(trial)s),
      (SELECT md5(string_agg(a::text, '/' ORDER BY a.id)) FROM panels_assessor a
       JOIN panels_panel p ON p.id = a.panel_id WHERE p.trial_id = %(trial)s),
      (SELECT md5(string_agg(s::text, '/' ORDER BY s.id)) FROM panels_serving s JOIN panels_assessor a ON a.id = s.assessor_id
       JOIN panels_panel p ON p.id = a.panel_id WHERE p.trial_id = %(trial)s),
      (SELECT count(*) FROM panels_judgement j JOIN panels_serving s ON s.id = j.serving_id
       JOIN panels_assessor a ON a.id = s.assessor_id JOIN panels_panel p ON p.id = a.panel_id WHERE p.trial_id = %(trial)s)
"""


@lru_cache(maxsize=1)
def code_digest() -> str:
    """The SHA-256 of the code that works results out."""
    home = Path(fieldtally.__file__).parent
    whole = hashlib.sha256()
    for path in sorted(home.rglob("*.py")):
        whole.update(str(path.relative_to(home)).encode())
        whole.update(path.read_bytes())
    return whole.hexdigest()


def made_from(trial: Trial, faults: tuple[str, ...]) -> str:
    """The digest of all that a result of ``trial`` is made from; ``faults`` is what is held otherwise than it was recorded."""
    with connection.cursor() as cursor:
        cursor.execute(MADE_FROM, {"trial": trial.pk})
        row = cursor.fetchone()
    told = (code_digest(), trial.plan_seal, str(trial.opened_at), faults, row)
    return hashlib.sha256(repr(told).encode()).hexdigest()


def faults_in(trial: Trial) -> tuple[str, ...] | None:
    """What is held otherwise than it was recorded, as it was found last; None: nobody has looked since something was recorded.

    It is looked at anew every few minutes, of a large trial in the background."""
    link = tip_of(trial)
    row = Result.objects.filter(trial=trial, part="faults", key=link).first()
    if is_small(trial) and (row is None or timezone.now() - row.moved_at > LOOKED_AT_ANEW):
        return look_for_faults(trial, link)
    if row is None:
        return None
    if timezone.now() - row.moved_at > LOOKED_AT_ANEW:
        Result.objects.filter(pk=row.pk).update(moved_at=timezone.now())
        check_record.enqueue(str(trial.pk))
    return tuple(pickle.loads(bytes(row.body)))  # noqa: S301 - written by this code alone


def tip_of(trial: Trial) -> str:
    """The newest link of the chain of ``trial``; empty where there is none."""
    return ChainEntry.objects.filter(trial=trial).order_by("-number").values_list("link", flat=True).first() or ""


def look_for_faults(trial: Trial, link: str) -> tuple[str, ...]:
    """Hold what is kept of ``trial`` against its chain, and keep what was found."""
    found = tuple(faults_of(trial))
    _keep(trial, "faults", link, pickle.dumps(found))
    return found


@task(priority=20)
def check_record(trial_id: str) -> None:
    """Hold what is kept of a trial against its chain, in the background."""
    trial = Trial.objects.filter(pk=trial_id).first()
    if trial is not None:
        look_for_faults(trial, tip_of(trial))


def is_small(trial: Trial) -> bool:
    """Whether all of ``trial`` is worked out in no time."""
    plan = plan_of(trial)
    return plan.sample_count * sum(len(plan.looked_at(outcome)) for outcome in plan.outcomes) <= AT_ONCE


def concluded(trial: Trial) -> Concluded:
    """The findings of ``trial``.

    :raises NotYet: 409 while they are being worked out.
    """
    done: Concluded = _unpacked(trial, "concluded")
    return done


def kept_study(trial: Trial) -> Study:
    """The study of ``trial``, whose key is open.

    :raises NotYet: 409 while it is being worked out.
    """
    study: Study = _unpacked(trial, "study")
    return study


class NotYet(Declined):
    """It is being worked out."""


def worked_out(trial: Trial) -> None:
    """Have all results of ``trial`` kept: work them out here and now where they are not, which only a worker has the time for."""
    faults = faults_in(trial)
    if faults is None:
        faults = look_for_faults(trial, tip_of(trial))
    key = made_from(trial, faults)
    if not Result.objects.filter(trial=trial, part="verdict", key=key, state=ResultState.DONE).exists():
        Result.objects.update_or_create(
            trial=trial,
            part="verdict",
            defaults={"key": key, "state": ResultState.RUNNING, "body": b"", "moved_at": timezone.now()},
        )
        work_out(trial, key)


def _unpacked(trial: Trial, part: str) -> Any:
    found = kept(trial, part)
    if found is None:
        raise NotYet(409, "The verdict is still being worked out; look again in a moment.")
    return pickle.loads(zlib.decompress(found))  # noqa: S301 - written by this code alone


def kept(trial: Trial, part: str) -> bytes | None:
    """The ``part`` of the results of ``trial`` as it is kept; None while it is being worked out, which it is from now on."""
    faults = faults_in(trial)
    if faults is None:
        _ask(trial, f"unchecked {tip_of(trial)}"[:64])
        return None
    key = made_from(trial, faults)
    found = Result.objects.filter(trial=trial, part=part, key=key, state=ResultState.DONE).first()
    if found is not None:
        return bytes(found.body)
    if is_small(trial):
        work_out(trial, key)
    else:
        _ask(trial, key)
    found = Result.objects.filter(trial=trial, part=part, key=key, state=ResultState.DONE).first()
    return None if found is None else bytes(found.body)


def _ask(trial: Trial, key: str) -> None:
    """Have a worker work it out, once however many ask."""
    now = timezone.now()
    with transaction.atomic():
        row, fresh = Result.objects.select_for_update().get_or_create(
            trial=trial, part="verdict", defaults={"key": key, "moved_at": now}
        )
        under_way = row.state in (ResultState.WAITING, ResultState.RUNNING) and row.moved_at > now - LOST_AFTER
        if not fresh and row.key == key and under_way:
            return
        Result.objects.filter(pk=row.pk).update(key=key, state=ResultState.WAITING, says="", body=b"", moved_at=now)
        transaction.on_commit(lambda: make_verdict.enqueue(str(trial.pk), key))


@task(priority=10)
def make_verdict(trial_id: str, key: str) -> None:
    """Work out the verdict of a trial, unless it is outdated by now."""
    trial = Trial.objects.filter(pk=trial_id).first()
    row = Result.objects.filter(trial_id=trial_id, part="verdict", key=key).first()
    if trial is None or row is None or row.state == ResultState.DONE:
        return
    try:
        faults = faults_in(trial)
        if faults is None:
            _under_way(trial, key, "Checking the records …")
            faults = look_for_faults(trial, tip_of(trial))
        now = made_from(trial, faults)
        Result.objects.filter(pk=row.pk, key=key).update(key=now)
        key = now
        work_out(trial, key)
    except Outdated:
        return
    except Exception:
        Result.objects.filter(trial=trial, part="verdict", key=key).update(state=ResultState.FAILED)
        raise


class Outdated(Exception):
    """Something has been recorded since: nobody waits for this any more."""


def work_out(trial: Trial, key: str) -> None:
    """Work out all results of ``trial`` under ``key`` and keep them.

    :raises Outdated: something was recorded meanwhile.
    """
    from fieldtally.server.verdict.told import as_json, told

    _under_way(trial, key, "Reading what was scored …")
    study = study_of(trial)
    _under_way(trial, key, "Comparing the treatments …")
    shared: References = {}
    first = study.data.findings(references=shared)
    comparing = "Comparing the instruments …" if study.plan.agreement is not None else "Comparing the treatments …"
    _under_way(trial, key, next((one.sentence for one in first if one.claim), comparing))
    done = study.data.concluded(first, shared)
    _keep(trial, "study", key, zlib.compress(pickle.dumps(study), 1))
    _keep(trial, "concluded", key, zlib.compress(pickle.dumps(done), 1))
    _keep(trial, "verdict", key, as_json(told(trial, study, done)))


def _under_way(trial: Trial, key: str, says: str) -> None:
    """Say how far it is, where somebody waits for it."""
    rows = Result.objects.filter(trial=trial, part="verdict")
    if rows.exclude(key=key).exclude(state=ResultState.DONE).exists():
        raise Outdated
    rows.filter(key=key).update(state=ResultState.RUNNING, says=says[:500], moved_at=timezone.now())


def _keep(trial: Trial, part: str, key: str, body: bytes) -> None:
    Result.objects.update_or_create(
        trial=trial,
        part=part,
        defaults={"key": key, "state": ResultState.DONE, "body": body, "says": "", "moved_at": timezone.now()},
    )
