"""A person's role in a trial."""

from django.conf import settings
from django.db import models

from fieldtally.server.people.models.trial import Trial


class Role(models.TextChoices):
    """What somebody is in a trial."""

    LEAD = "lead"
    PREPARER = "preparer"
    SCORER = "scorer"
    VIEWER = "viewer"


class Membership(models.Model):
    """One person's role in one trial; a lead may have chosen to stay blind.  ``filed_at``: since when they have it filed away on their
    own shelf."""

    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="memberships")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role.choices)
    blind = models.BooleanField(default=False)
    since = models.DateTimeField(auto_now_add=True)
    filed_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["trial", "user"], name="one_role_in_a_trial")]
