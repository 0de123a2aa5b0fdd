"""The photo gauge: how an outcome is measured, what was measured, and which reading came of it."""

import uuid

from django.conf import settings
from django.db import models


class GaugeRecipe(models.Model):
    """How an outcome is measured, as it was set on one ``photo``: the newest of an outcome is used from then on.  Append-only.

    ``recipe`` and ``marks`` are documents of :class:`~fieldtally.core.photos.gauge.Recipe` and
    :class:`~fieldtally.core.photos.marks.Marks`.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="gauge_recipes")
    outcome = models.ForeignKey("plan.Outcome", on_delete=models.PROTECT, related_name="+")
    photo = models.ForeignKey("measuring.Photo", on_delete=models.PROTECT, null=True, related_name="+")
    recipe = models.JSONField()
    marks = models.JSONField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        ordering = ["at", "pk"]


class Gauging(models.Model):
    """One photo measured by a recipe: its ``value`` in the outcome's unit (None: refused), its standard ``uncertainty``, the mean
    ``colour`` in CIELAB, the ``flags`` that go with it, and the ``mask`` of what was counted (PNG) in its ``box``, 0–1 of the photo;
    ``by_hand``: somebody made the marks on this very photo.
    Append-only; the newest of a recipe, photo and person counts."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="gaugings")
    recipe = models.ForeignKey(GaugeRecipe, on_delete=models.PROTECT, related_name="gaugings")
    photo = models.ForeignKey("measuring.Photo", on_delete=models.PROTECT, related_name="gaugings")
    marks = models.JSONField()
    by_hand = models.BooleanField(default=True)
    value = models.FloatField(null=True)
    uncertainty = models.FloatField(null=True)
    colour = models.JSONField()
    flags = models.JSONField()
    mask = models.BinaryField()
    box = models.JSONField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        ordering = ["at", "pk"]
        indexes = [models.Index(fields=["recipe", "photo"], name="gaugings_by_photo")]


class GaugedReading(models.Model):
    """A reading and a gauging that it came from; of several photos of a sample it is their mean.  Append-only."""

    reading = models.ForeignKey("rounds.Reading", on_delete=models.PROTECT, related_name="gauged")
    gauging = models.ForeignKey(Gauging, on_delete=models.PROTECT, related_name="readings")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["reading", "gauging"], name="one_link_a_reading_and_gauging")]


class GaugeRun(models.Model):
    """All photos of a look measured by one recipe, in the background: how far it is."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="gauge_runs")
    recipe = models.ForeignKey(GaugeRecipe, on_delete=models.PROTECT, related_name="runs")
    checkpoint = models.ForeignKey("plan.Checkpoint", on_delete=models.PROTECT, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField()
    failed = models.CharField(max_length=300, blank=True)
    cancelled = models.BooleanField(default=False)
    begun_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-begun_at"]
