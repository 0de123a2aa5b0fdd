"""Anything that did not go to plan.  For now: a sample set aside, or put back."""

import uuid

from django.conf import settings
from django.db import models


class DeviationKind(models.TextChoices):
    """What happened."""

    SET_ASIDE = "set_aside", "set aside"
    PUT_BACK = "put_back", "put back"


class Deviation(models.Model):
    """Append-only.  The newest one on a sample says how it stands; ``after_key`` marks those recorded once the key was open."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="deviations")
    sample = models.ForeignKey("plan.Sample", on_delete=models.PROTECT, related_name="deviations")
    kind = models.CharField(max_length=12, choices=DeviationKind.choices)
    reason = models.CharField(max_length=500)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    after_key = models.BooleanField(default=False)

    class Meta:
        ordering = ["at"]
