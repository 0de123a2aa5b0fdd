"""What a scorer believed a sample to be."""

import uuid

from django.conf import settings
from django.db import models


class Belief(models.TextChoices):
    """Bang's three answers."""

    TREATED = "treated"
    CONTROL = "control"
    UNKNOWN = "unknown", "cannot tell"


class Guess(models.Model):
    """Append-only; of one scorer's on one sample the newest counts."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="guesses")
    sample = models.ForeignKey("plan.Sample", on_delete=models.PROTECT, related_name="guesses")
    scorer = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    belief = models.CharField(max_length=8, choices=Belief.choices)
    at = models.DateTimeField()

    class Meta:
        ordering = ["at", "pk"]
