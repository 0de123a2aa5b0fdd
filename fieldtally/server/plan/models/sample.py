"""Samples, and apart from them the key."""

import uuid

from django.db import models


class Sample(models.Model):
    """One experimental unit, known by its code; its id is random and tells nothing."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.CASCADE, related_name="samples")
    code = models.CharField(max_length=6)
    block = models.CharField(max_length=40, blank=True)
    place = models.PositiveIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["trial", "code"], name="one_sample_a_code")]


class KeyEntry(models.Model):
    """Which treatment (key in the sealed plan) a sample got.  In a table of its own, so that what is meant for blind eyes
    never loads it."""

    sample = models.OneToOneField(Sample, on_delete=models.CASCADE, primary_key=True, related_name="key_entry")
    treatment = models.CharField(max_length=40)
