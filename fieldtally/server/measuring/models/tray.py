"""Photos that were dropped in a heap, until each is filed with its sample and look."""

from django.conf import settings
from django.db import models

from fieldtally.server.hosting.store import KeptField


class TrayPhoto(models.Model):
    """One dropped photo of a person: its picture as it will be kept (until it is filed or thrown out), what was read on its tag, and what
    was said of it by hand.

    ``taken_at`` is the moment that the file tells; ``copied``: that of the file, not of the photo.  ``camera`` tells photos of one camera
    apart and names none.  ``squares`` and ``words`` (text, how sure) are what stands in it; ``read_at`` is empty until its digits were
    read.  ``shows_at``: the moment that a clock in the picture tells.  ``board``: it shows the whole board.
    """

    id = models.UUIDField(primary_key=True, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    digest = models.CharField(max_length=64)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    brightness = models.FloatField()
    tint = models.JSONField()
    full = KeptField()
    small = KeptField()
    taken_at = models.DateTimeField(null=True)
    copied = models.BooleanField(default=False)
    camera = models.CharField(max_length=12, blank=True)
    squares = models.JSONField(default=list)
    words = models.JSONField(default=list)
    read_at = models.DateTimeField(null=True)
    shows_at = models.DateTimeField(null=True)
    sample = models.ForeignKey("plan.Sample", on_delete=models.PROTECT, null=True, related_name="+")
    board = models.BooleanField(default=False)
    checkpoint = models.ForeignKey("plan.Checkpoint", on_delete=models.PROTECT, null=True, related_name="+")
    stored_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    """When it was filed or thrown out: its bytes are gone since."""
    photo = models.OneToOneField("measuring.Photo", on_delete=models.PROTECT, null=True, related_name="+")

    class Meta:
        ordering = ["stored_at", "pk"]
        constraints = [models.UniqueConstraint(fields=["trial", "by", "digest"], name="dropped_once")]
        indexes = [models.Index(fields=["trial", "by", "ended_at"], name="tray_open")]
