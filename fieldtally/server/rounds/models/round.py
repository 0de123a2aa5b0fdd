"""One scorer's pass over the samples at a checkpoint."""

import uuid

from django.conf import settings
from django.db import models


class Round(models.Model):
    """The order of samples is drawn from the round's own random id, so it is another for each scorer and round.

    ``looked_by``: of a look that was typed in from a notebook, who had looked; empty where that was the scorer."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="rounds")
    checkpoint = models.ForeignKey("plan.Checkpoint", on_delete=models.PROTECT, related_name="rounds")
    scorer = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="rounds")
    opened_at = models.DateTimeField()
    looked_by = models.CharField(max_length=80, blank=True, default="", db_default="")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["checkpoint", "scorer"], name="one_round_a_scorer")]
