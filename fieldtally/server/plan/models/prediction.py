"""What somebody expects of a trial.  Nobody else reads it before the key opens."""

from django.conf import settings
from django.db import models


class Prediction(models.Model):
    """Append-only; a person's newest one counts, and an empty one takes theirs back."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="predictions")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    text = models.CharField(max_length=2000, blank=True)
    at = models.DateTimeField()

    class Meta:
        ordering = ["at", "id"]
