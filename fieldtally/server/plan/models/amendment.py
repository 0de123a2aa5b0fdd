"""A deliberate change of a sealed plan.  The database refuses to change or delete it."""

from django.conf import settings
from django.db import models


class Amendment(models.Model):
    """Number 1, 2, 3 … of a trial: the whole document it was sealed in again (``canonical``, see
    :mod:`fieldtally.core.blinding.seal`) and its SHA-256."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="amendments")
    number = models.PositiveIntegerField()
    canonical = models.TextField()
    seal = models.CharField(max_length=64)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["trial", "number"], name="one_amendment_a_number")]
