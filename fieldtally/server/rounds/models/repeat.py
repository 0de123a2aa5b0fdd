"""A sample that comes back in the same round under a second code."""

import uuid

from django.db import models


class Repeat(models.Model):
    """At this checkpoint the sample is also brought under ``code``.  Its id is what a scorer's device knows it by, so that nothing there
    leads to the sample."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="repeats")
    checkpoint = models.ForeignKey("plan.Checkpoint", on_delete=models.PROTECT, related_name="repeats")
    sample = models.ForeignKey("plan.Sample", on_delete=models.PROTECT, related_name="repeats")
    code = models.CharField(max_length=6)

    class Meta:
        ordering = ["code"]
        constraints = [
            models.UniqueConstraint(fields=["checkpoint", "sample"], name="one_repeat_a_look"),
            models.UniqueConstraint(fields=["trial", "code"], name="a_second_code_is_nobody_elses"),
        ]
