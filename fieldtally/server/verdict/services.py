"""Opening the key: asked for twice, recorded both times."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from django.db import transaction
from django.utils import timezone

from fieldtally.core.blinding.chain import item
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.panels.sealing import open_all
from fieldtally.server.people.chain import append
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.queries import is_covered
from fieldtally.server.verdict.chain import faults_of
from fieldtally.server.verdict.models import KeyOpening, Step
from fieldtally.server.verdict.results import faults_in, is_small

TIME_TO_CONFIRM = timedelta(minutes=10)


def ask_to_open(trial: Trial, user: User, *, at: datetime | None = None) -> KeyOpening:
    """The first step: record that ``user`` wants the key opened."""
    _can_open(trial)
    return KeyOpening.objects.create(trial=trial, step=Step.ASKED, by=user, at=at or timezone.now())


def phrase_of(trial: Trial) -> str:
    """What is typed as a sign that this key is meant: short however long the trial's name, and another for each trial.

    >>> import uuid
    >>> phrase_of(Trial(pk=uuid.UUID(int=12345)))
    'open 745'
    """
    return f"open {100 + trial.pk.int % 900}"


def open_key(trial: Trial, user: User, phrase: str, *, despite: bool = False, at: datetime | None = None) -> datetime:
    """The second step: open it for all, and with it the keys of panels that are closed.  ``phrase`` is the trial's own, or its name, typed
    as a sign that this is the one meant.

    :raises Declined: 409 where it was not asked for shortly before, or is open, or what the database holds is not what was recorded (unless
        it is to be opened ``despite`` that); 422 where another trial is named.
    """
    now = at or timezone.now()
    with transaction.atomic():
        locked = Trial.objects.select_for_update().get(pk=trial.pk)
        _can_open(locked)
        if _plain(phrase) not in {_plain(phrase_of(locked)), _plain(locked.title)}:
            raise Declined(422, Problem("phrase", f"Type “{phrase_of(locked)}” to open this trial's key."))
        asked = KeyOpening.objects.filter(trial=trial, step=Step.ASKED, by=user, at__gte=now - TIME_TO_CONFIRM)
        if not asked.exists():
            raise Declined(409, "Ask for the key first, then confirm within ten minutes.")
        faults = [] if despite else _faults(locked)
        if faults:
            raise Declined(409, *[Problem("record", one) for one in faults])
        KeyOpening.objects.create(trial=trial, step=Step.OPENED, by=user, at=now)
        append(trial, "opening", [item("opening", {"at": now})], at=now)
        open_all(locked, user, at=now)
        if Trial.objects.filter(pk=trial.pk).exclude(opened_at=None).exists():
            return now
        Trial.objects.filter(pk=trial.pk).update(opened_at=now, opened_by=user)
    return now


def _plain(text: str) -> str:
    return " ".join(text.split()).casefold()


def _faults(trial: Trial) -> Sequence[str]:
    """What is held otherwise than it was recorded: looked at now, of a large trial as it was found when the key was asked for."""
    known = None if is_small(trial) else faults_in(trial)
    return faults_of(trial) if known is None else known


def _can_open(trial: Trial) -> None:
    if trial.state == "opened":
        raise Declined(409, "The key is open already.")
    if trial.state == "draft":
        raise Declined(409, "There is no key yet: the plan is not sealed.")
    if is_covered(trial):
        raise Declined(409, "The key lies under covers: take them off and write down the letters first.")
