"""Samples, and apart from them the key."""

import uuid

from django.db import models


class Sample(models.Model):
    """One experimental unit, known by its code; its id is random and tells nothing.

    ``plot`` (its square, whole plot or pair), ``row`` and ``column`` say where it stands, where the layout has those;
    ``starts`` is its planned start in minutes after the first one's.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.CASCADE, related_name="samples")
    code = models.CharField(max_length=6)
    block = models.CharField(max_length=40, blank=True)
    place = models.PositiveIntegerField()
    plot = models.PositiveIntegerField(null=True)
    row = models.PositiveIntegerField(null=True)
    column = models.PositiveIntegerField(null=True)
    starts = models.PositiveIntegerField(default=0)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["trial", "code"], name="one_sample_a_code")]


class KeyEntry(models.Model):
    """Which treatment (key in the sealed plan) a sample got.  In a table of its own, so that what is meant for blind eyes
    never loads it."""

    sample = models.OneToOneField(Sample, on_delete=models.CASCADE, primary_key=True, related_name="key_entry")
    treatment = models.CharField(max_length=40)
