"""A rehearsal of many dry runs under way, or done."""

import uuid

from django.conf import settings
from django.db import models


class Rehearsal(models.Model):
    """How far it is (``done`` of ``runs``), and its result or why there is none.  Only the person who asked sees it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    asked = models.JSONField()
    runs = models.PositiveIntegerField()
    done = models.PositiveIntegerField(default=0)
    result = models.JSONField(null=True)
    failed = models.CharField(max_length=500, blank=True)
    cancelled = models.BooleanField(default=False)
    at = models.DateTimeField(auto_now_add=True)
