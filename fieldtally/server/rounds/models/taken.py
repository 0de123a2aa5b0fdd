"""How much of each sample has been read at each checkpoint: counted as readings are written, so that nobody counts them all again."""

from django.db import models


class Taken(models.Model):
    """How many outcomes of a sample stand at a checkpoint, whoever scored them and blind repeats apart, and when the last was taken.  It
    follows from the readings alone (:mod:`..counting`)."""

    trial = models.ForeignKey("people.Trial", on_delete=models.CASCADE, related_name="+", db_constraint=False)
    checkpoint = models.ForeignKey("plan.Checkpoint", on_delete=models.CASCADE, related_name="+", db_constraint=False)
    sample = models.ForeignKey(
        "plan.Sample", on_delete=models.CASCADE, related_name="+", db_constraint=False, db_index=False
    )
    outcomes = models.PositiveSmallIntegerField()
    last = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["checkpoint", "sample"], name="taken_once_a_checkpoint")]
