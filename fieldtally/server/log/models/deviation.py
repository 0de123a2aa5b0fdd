"""Anything that did not go to plan: an accident, a sample set aside or put back, something not held equal, a look skipped, a method
that failed midway."""

import uuid

from django.conf import settings
from django.db import models


class DeviationKind(models.TextChoices):
    """What happened, or was decided."""

    SET_ASIDE = "set_aside", "set aside"
    LEFT_OUT = "left_out", "left out from a moment on"
    PUT_BACK = "put_back", "put back"
    MARKED = "marked", "kept and marked"
    DIFFERENCE = "difference", "not held equal"
    SKIPPED = "skipped", "look skipped"
    WITHDRAWN = "no_outcome", "outcome withdrawn"
    SPLIT = "split", "outcome split"


class Accident(models.TextChoices):
    """What kind of thing happened to samples."""

    DROPPED = "dropped", "dropped or broken"
    EATEN = "eaten", "eaten or gnawed"
    DISEASE = "disease", "diseased"
    WEATHER = "weather", "weather"
    MIXED_UP = "mixed_up", "mixed up or mishandled"
    TREATMENT = "treatment", "treatment went wrong"
    OTHER = "other", "something else"


OF_ONE_SAMPLE = ("set_aside", "left_out", "put_back")
OF_NO_SAMPLE = ("difference", "skipped", "no_outcome", "split")


class Deviation(models.Model):
    """Append-only.

    The newest one on a sample that decides about it says how it stands: ``set_aside``, ``left_out`` from ``since`` on, or ``put_back``;
    one that is ``marked`` decides nothing.  A difference is about an entry (key) of the held-equal sheet, a skipped look about that look
    (key), a method that failed about its outcome (key), ``since`` when: none of these about one sample.  ``accident`` says what kind of
    thing happened, at ``since``; ``event`` holds the rows of one accident together.  ``after_key`` marks those recorded once the key was
    open.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="deviations")
    sample = models.ForeignKey("plan.Sample", on_delete=models.PROTECT, null=True, related_name="deviations")
    about = models.CharField(max_length=40, blank=True)
    kind = models.CharField(max_length=12, choices=DeviationKind.choices)
    accident = models.CharField(max_length=10, choices=Accident.choices, blank=True)
    event = models.UUIDField(null=True)
    since = models.DateTimeField(null=True)
    reason = models.CharField(max_length=500)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    after_key = models.BooleanField(default=False)

    class Meta:
        ordering = ["at"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(kind="marked")
                | models.Q(kind__in=OF_NO_SAMPLE, sample=None)
                | (models.Q(kind__in=OF_ONE_SAMPLE) & models.Q(sample__isnull=False)),
                name="only_deciding_about_a_sample_names_one",
            ),
            models.CheckConstraint(
                condition=~models.Q(kind__in=["left_out", "split"]) | models.Q(since__isnull=False),
                name="from_a_moment_on_has_a_moment",
            ),
        ]
