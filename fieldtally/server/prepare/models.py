"""What is kept of preparing."""

from django.conf import settings
from django.db import models


class KeyLook(models.Model):
    """Somebody looked at the key while it was sealed, to prepare the samples.  Append-only."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="key_looks")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()


class HeldTick(models.Model):
    """Somebody saw to it that an entry (key) of the held-equal sheet is as planned.  Append-only."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="held_ticks")
    entry = models.CharField(max_length=40)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["trial", "entry"], name="an_entry_is_ticked_once")]


class Cycle(models.Model):
    """One cycle (a wash, a firing, a use) that all samples went through, with its settings.  Append-only."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="cycles")
    note = models.CharField(max_length=500, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        ordering = ["at", "id"]


class Exposure(models.Model):
    """A sample's own clock: when it came under its treatment."""

    sample = models.OneToOneField("plan.Sample", on_delete=models.CASCADE, primary_key=True, related_name="exposure")
    started_at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
