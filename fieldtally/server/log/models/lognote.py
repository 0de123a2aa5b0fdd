"""Something somebody wrote into the log."""

import uuid

from django.conf import settings
from django.db import models


class LogNote(models.Model):
    """A note in the log, with the ``working`` of a bench sum where it came from one.  Append-only."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="log_notes")
    text = models.TextField()
    working = models.TextField(blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        ordering = ["at", "pk"]
