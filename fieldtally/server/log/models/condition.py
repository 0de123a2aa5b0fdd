"""What it was like around the samples: temperature, humidity, rain, light."""

import uuid

from django.conf import settings
from django.db import models


class Condition(models.Model):
    """Conditions at a moment, at a ``place`` (key of a block; empty: for the whole trial), each None where it was not measured.

    ``temperature`` in °C, ``humidity`` in %, ``rain`` in mm since the last note, ``light`` in lx.  ``device`` names what it was read from;
    empty: typed.  ``stored_at``: when it was written down; None of those that were noted before this was kept.
    Append-only.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="conditions")
    place = models.CharField(max_length=40, blank=True)
    temperature = models.FloatField(null=True)
    humidity = models.FloatField(null=True)
    rain = models.FloatField(null=True)
    light = models.FloatField(null=True)
    device = models.CharField(max_length=60, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    stored_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["at", "pk"]
