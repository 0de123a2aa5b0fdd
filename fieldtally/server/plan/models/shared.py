"""What members of a place lend to each other's plans."""

from django.conf import settings
from django.db import models


class Lent(models.TextChoices):
    """A set of scales, or places where samples stand."""

    SCALES = "scales"
    SITES = "sites"


class SharedThing(models.Model):
    """It, under a name, for everybody here: ``document`` is a list of scales as a template has them, or of places with their notes."""

    kind = models.CharField(max_length=8, choices=Lent.choices)
    name = models.CharField(max_length=120)
    document = models.JSONField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["name", "pk"]
        constraints = [models.UniqueConstraint(fields=["kind", "name"], name="one_shared_thing_of_a_name")]
