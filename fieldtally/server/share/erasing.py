"""Erasing an account: the person's own things go, trials that are theirs alone go with all they hold, and what others rely on stays
under no name."""

from __future__ import annotations

import uuid

from allauth.account.models import EmailAddress
from django.db import connection, transaction
from django.db.models import Model

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.panels.models import Assessor, Judgement, Material, Panel, Practice, Serving
from fieldtally.server.people.models import AccessToken, Invitation, Membership, Role, Trial, User
from fieldtally.server.plan.models import (
    Amendment,
    Checkpoint,
    Draft,
    KeyEntry,
    Outcome,
    Prediction,
    Rehearsal,
    Sample,
    SealedPlan,
    Shuffle,
    Uncovered,
)
from fieldtally.server.prepare.models import (
    Application,
    Cycle,
    Exposure,
    HeldTick,
    KeyLook,
    MeasuringTool,
    MixTick,
    Pack,
)
from fieldtally.server.rounds.models import (
    Calibration,
    CalibrationGrade,
    Condition,
    Deviation,
    Feed,
    GaugedReading,
    GaugeRecipe,
    GaugeRun,
    Gauging,
    Guess,
    LogNote,
    Photo,
    PhotoFile,
    Readiness,
    Reading,
    Reminded,
    Repeat,
    Round,
    TrainingAnswer,
    TrainingSet,
)
from fieldtally.server.share.models import Bringing, ReaderPrediction, Report
from fieldtally.server.verdict.models import InterimLook, KeyOpening

GONE = "Somebody who left"
HELD: tuple[tuple[type[Model], str], ...] = (
    (Judgement, "serving__assessor__panel__trial"),
    (Serving, "assessor__panel__trial"),
    (Assessor, "panel__trial"),
    (Material, "panel__trial"),
    (Panel, "trial"),
    (GaugedReading, "gauging__trial"),
    (GaugeRun, "trial"),
    (Gauging, "trial"),
    (GaugeRecipe, "trial"),
    (TrainingAnswer, "set__trial"),
    (TrainingSet, "trial"),
    (Readiness, "trial"),
    (CalibrationGrade, "calibration__trial"),
    (Calibration, "trial"),
    (PhotoFile, "photo__trial"),
    (Photo, "trial"),
    (Reading, "trial"),
    (Repeat, "trial"),
    (Round, "trial"),
    (Guess, "trial"),
    (Deviation, "trial"),
    (Condition, "trial"),
    (LogNote, "trial"),
    (Reminded, "trial"),
    (InterimLook, "trial"),
    (KeyOpening, "trial"),
    (KeyLook, "trial"),
    (HeldTick, "trial"),
    (Cycle, "trial"),
    (Pack, "trial"),
    (MixTick, "trial"),
    (Application, "trial"),
    (Exposure, "sample__trial"),
    (Uncovered, "shuffle__trial"),
    (Shuffle, "trial"),
    (KeyEntry, "sample__trial"),
    (Sample, "trial"),
    (Prediction, "trial"),
    (Amendment, "trial"),
    (SealedPlan, "trial"),
    (Outcome, "trial"),
    (Checkpoint, "trial"),
    (Draft, "trial"),
    (Report, "trial"),
    (ReaderPrediction, "trial"),
    (AccessToken, "trial"),
    (Invitation, "trial"),
    (Membership, "trial"),
)
"""All that a trial holds, what names another before it."""


def own_trials(user: User) -> list[Trial]:
    """The trials that nobody but ``user`` takes part in."""
    mine = Trial.objects.filter(memberships__user=user)
    shared = set(Membership.objects.filter(trial__in=mine).exclude(user=user).values_list("trial_id", flat=True))
    return [trial for trial in mine if trial.pk not in shared]


def erase(user: User, email: str) -> None:
    """Erase the account of ``user``; ``email`` is theirs, typed as a sign that this is meant.

    :raises Declined: 422 where it is not; 409 where a trial of others would be left without a lead.
    """
    if email.strip().lower() != user.email.lower():
        raise Declined(422, Problem("email", "Type the e-mail address of your account, to show that you mean it."))
    with transaction.atomic():
        locked = User.objects.select_for_update().get(pk=user.pk)
        alone = own_trials(locked)
        for membership in Membership.objects.filter(user=locked, role=Role.LEAD).exclude(trial__in=alone):
            others = Membership.objects.filter(trial=membership.trial, role=Role.LEAD).exclude(user=locked)
            if not others.exists():
                says = f"“{membership.trial.title}” has others in it and no lead but you. Invite another lead, or leave them out, first."
                raise Declined(409, says)
        with connection.cursor() as cursor:
            cursor.execute("SET LOCAL fieldtally.erasing = 'account'")
        ids = [trial.pk for trial in alone]
        for model, path in HELD:
            rows = model.objects.filter(**{f"{path}__in": ids})  # type: ignore[attr-defined]
            rows._raw_delete(rows.db)
        Bringing.objects.filter(trial__in=ids).update(trial=None)
        Trial.objects.filter(pk__in=ids)._raw_delete("default")
        for model in (AccessToken, MeasuringTool, Practice, TrainingSet, Rehearsal, Bringing):
            model.objects.filter(by=locked).delete()  # type: ignore[attr-defined]
        Feed.objects.filter(user=locked).delete()
        Reminded.objects.filter(user=locked).delete()
        EmailAddress.objects.filter(user=locked).delete()
        Membership.objects.filter(user=locked).delete()
        locked.name, locked.is_active = GONE, False
        locked.email = f"erased-{uuid.uuid4().hex}@no-account.invalid"
        locked.set_unusable_password()
        locked.save()
        with connection.cursor() as cursor:
            cursor.execute("SET LOCAL fieldtally.erasing = ''")
