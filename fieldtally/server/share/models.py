"""What is kept of sharing."""

import uuid

from django.conf import settings
from django.db import models


class Bringing(models.Model):
    """A file that somebody brings in: a trial pack, or a table with what its columns ``mean``.

    It is read in the background, all or nothing; ``done`` of ``total`` rows say how far it is.  It can be left and come back to, until it
    is brought in (``trial``) or taken away.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    name = models.CharField(max_length=200)
    kind = models.CharField(max_length=5, choices=[("pack", "trial pack"), ("table", "table")])
    content = models.BinaryField()
    asked = models.JSONField(default=dict)
    state = models.CharField(
        max_length=8,
        choices=[("new", "waits to be looked at"), ("running", "on its way"), ("done", "in"), ("refused", "refused")],
        default="new",
    )
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    problems = models.JSONField(default=list)
    warnings = models.JSONField(default=list)
    trial = models.ForeignKey("people.Trial", on_delete=models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-at"]
