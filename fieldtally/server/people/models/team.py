"""Members who are asked together: a work party, a class, the tasters of a Thursday."""

from django.conf import settings
from django.db import models


class Team(models.Model):
    """Its name, and who belongs to it.  Whoever administers the place keeps teams; whoever leads a trial may invite one."""

    name = models.CharField(max_length=80, unique=True)
    members = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="teams")

    class Meta:
        ordering = ["name"]
