"""Anything that did not go to plan: a sample set aside or put back, or something that was not held equal."""

import uuid

from django.conf import settings
from django.db import models


class DeviationKind(models.TextChoices):
    """What happened."""

    SET_ASIDE = "set_aside", "set aside"
    PUT_BACK = "put_back", "put back"
    DIFFERENCE = "difference", "not held equal"


class Deviation(models.Model):
    """Append-only.  The newest one on a sample says how it stands; a difference is about an entry (key) of the held-equal
    sheet and about no sample alone.  ``after_key`` marks those recorded once the key was open."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="deviations")
    sample = models.ForeignKey("plan.Sample", on_delete=models.PROTECT, null=True, related_name="deviations")
    about = models.CharField(max_length=40, blank=True)
    kind = models.CharField(max_length=12, choices=DeviationKind.choices)
    reason = models.CharField(max_length=500)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    after_key = models.BooleanField(default=False)

    class Meta:
        ordering = ["at"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(kind="difference", sample=None)
                | (~models.Q(kind="difference") & models.Q(sample__isnull=False)),
                name="a_difference_is_about_no_one_sample",
            )
        ]
