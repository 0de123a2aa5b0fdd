"""The grading trainer: sets that somebody graded, who is ready, and scorers together before a round."""

import uuid

from django.conf import settings
from django.db import models


class TrainingSet(models.Model):
    """A set of things to grade for an outcome (key of the plan); it is the person's own."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="training_sets")
    outcome = models.CharField(max_length=40)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    begun_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["begun_at", "pk"]


class TrainingAnswer(models.Model):
    """One thing of a set: its ``truth``, the ``seed`` of its picture or the ``photo`` that it is, and what was ``given``, once; ``gauged``
    is what the photo gauge makes of it."""

    set = models.ForeignKey(TrainingSet, on_delete=models.CASCADE, related_name="answers")
    place = models.PositiveSmallIntegerField()
    truth = models.FloatField()
    seed = models.PositiveIntegerField()
    photo = models.ForeignKey("measuring.Photo", on_delete=models.PROTECT, null=True, related_name="+")
    given = models.FloatField(null=True)
    gauged = models.FloatField(null=True)
    answered_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["place"]
        constraints = [models.UniqueConstraint(fields=["set", "place"], name="one_training_answer_a_place")]


class Readiness(models.Model):
    """Somebody showed that they are ready to score an outcome (key): off by so much on average over the sets that count.  Append-only; the
    newest counts, and one that holds ``until`` the moment it was made takes back what was shown before."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="readiness")
    outcome = models.CharField(max_length=40)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    off = models.FloatField()
    bias = models.FloatField()
    sets = models.PositiveSmallIntegerField()
    at = models.DateTimeField()
    until = models.DateTimeField()

    class Meta:
        ordering = ["at", "pk"]


class Calibration(models.Model):
    """Scorers who grade the same samples together before a round of a look, and what they agreed on.  The values count nowhere else."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="calibrations")
    checkpoint = models.ForeignKey("plan.Checkpoint", on_delete=models.PROTECT, related_name="+")
    outcome = models.ForeignKey("plan.Outcome", on_delete=models.PROTECT, related_name="+")
    samples = models.JSONField()
    begun_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    begun_at = models.DateTimeField()
    shown_at = models.DateTimeField(null=True)
    note = models.ForeignKey("log.LogNote", on_delete=models.PROTECT, null=True, related_name="+")

    class Meta:
        ordering = ["begun_at", "pk"]


class CalibrationGrade(models.Model):
    """What one scorer gave one of the samples; given once.  Append-only."""

    calibration = models.ForeignKey(Calibration, on_delete=models.PROTECT, related_name="grades")
    sample = models.ForeignKey("plan.Sample", on_delete=models.PROTECT, related_name="+")
    scorer = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    value = models.FloatField()
    at = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["calibration", "sample", "scorer"], name="one_calibration_grade_each")
        ]
