"""The plan while it is being written."""

from django.conf import settings
from django.db import models


class Draft(models.Model):
    """The newest version of a trial's plan document; ``version`` goes up with each change."""

    trial = models.OneToOneField("people.Trial", on_delete=models.CASCADE, primary_key=True, related_name="draft")
    document = models.JSONField()
    version = models.PositiveIntegerField(default=1)
    saved_at = models.DateTimeField(auto_now=True)
    saved_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
