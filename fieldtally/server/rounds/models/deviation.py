"""Anything that did not go to plan: a sample set aside or put back, something not held equal, a look skipped."""

import uuid

from django.conf import settings
from django.db import models


class DeviationKind(models.TextChoices):
    """What happened."""

    SET_ASIDE = "set_aside", "set aside"
    PUT_BACK = "put_back", "put back"
    DIFFERENCE = "difference", "not held equal"
    SKIPPED = "skipped", "look skipped"


class Deviation(models.Model):
    """Append-only.  The newest one on a sample says how it stands; a difference is about an entry (key) of the held-equal
    sheet, a skipped look about that look (key), and neither about one sample.  ``after_key`` marks those recorded once the key was open."""

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
                condition=models.Q(kind__in=["difference", "skipped"], sample=None)
                | (models.Q(kind__in=["set_aside", "put_back"]) & models.Q(sample__isnull=False)),
                name="only_setting_aside_is_about_one_sample",
            )
        ]
