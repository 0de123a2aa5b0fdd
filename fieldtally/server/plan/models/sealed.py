"""The plan as it was sealed.  The database refuses to change or delete it."""

from django.conf import settings
from django.db import models


class SealedPlan(models.Model):
    """The canonical document that was sealed, letter for letter, and its SHA-256."""

    trial = models.OneToOneField("people.Trial", on_delete=models.PROTECT, primary_key=True, related_name="sealed")
    canonical = models.TextField()
    seal = models.CharField(max_length=64)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")


class Outcome(models.Model):
    """An outcome of a sealed plan, for readings to point at; what it is stands in the plan under ``key``."""

    trial = models.ForeignKey("people.Trial", on_delete=models.CASCADE, related_name="outcomes")
    key = models.CharField(max_length=40)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["trial", "key"], name="one_outcome_a_key")]


class Checkpoint(models.Model):
    """A checkpoint of a sealed plan, for readings to point at; what it is stands in the plan under ``key``."""

    trial = models.ForeignKey("people.Trial", on_delete=models.CASCADE, related_name="checkpoints")
    key = models.CharField(max_length=40)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["trial", "key"], name="one_checkpoint_a_key")]
