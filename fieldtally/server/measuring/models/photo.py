"""Pictures: of a sample or the whole board at a checkpoint, of what a grade means, or in the log."""

from django.conf import settings
from django.db import models

from fieldtally.server.hosting.store import KeptField


class Photo(models.Model):
    """One picture, made anew from what was sent: upright, bounded, without any metadata.

    With a ``checkpoint`` it shows the ``sample``, or without one the whole board; with an ``outcome`` (key of the plan) it shows what its
    grade ``level`` means; with a ``note`` it belongs to that note of the log.  ``tint`` is the colour of its light, red and blue as shares
    of green, and ``brightness`` 0–1.
    """

    id = models.UUIDField(primary_key=True, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="photos")
    checkpoint = models.ForeignKey("plan.Checkpoint", on_delete=models.PROTECT, null=True, related_name="photos")
    sample = models.ForeignKey("plan.Sample", on_delete=models.PROTECT, null=True, related_name="photos")
    outcome = models.CharField(max_length=40, blank=True)
    level = models.FloatField(null=True)
    note = models.ForeignKey("log.LogNote", on_delete=models.PROTECT, null=True, related_name="photos")
    caption = models.CharField(max_length=200, blank=True)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    brightness = models.FloatField()
    tint = models.JSONField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    taken_at = models.DateTimeField()
    stored_at = models.DateTimeField()
    gone = models.BooleanField(default=False)

    class Meta:
        ordering = ["stored_at", "pk"]
        indexes = [models.Index(fields=["trial", "checkpoint"], name="photos_by_look")]


class PhotoFile(models.Model):
    """The bytes of a picture (JPEG), and of its small one.  They go when it is taken away."""

    photo = models.OneToOneField(Photo, on_delete=models.CASCADE, primary_key=True, related_name="file")
    full = KeptField()
    small = KeptField()
