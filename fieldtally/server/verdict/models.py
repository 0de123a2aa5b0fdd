"""What is kept of opening the key."""

from django.conf import settings
from django.db import models


class Step(models.TextChoices):
    """Opening the key takes two steps by the same person."""

    ASKED = "asked"
    OPENED = "opened"


class KeyOpening(models.Model):
    """Somebody asked to open the key, or opened it.  Append-only; the database refuses changes."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="key_openings")
    step = models.CharField(max_length=8, choices=Step.choices)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["trial"], condition=models.Q(step="opened"), name="a_key_opens_once")
        ]


class InterimLook(models.Model):
    """At a planned interim look (key of its checkpoint) somebody asked whether the answer is clear already.  Append-only, once each."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="interim_looks")
    checkpoint = models.CharField(max_length=40)
    stop = models.BooleanField()
    says = models.CharField(max_length=500)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        ordering = ["at"]
        constraints = [models.UniqueConstraint(fields=["trial", "checkpoint"], name="one_interim_look_a_checkpoint")]


class ResultState(models.TextChoices):
    """How far a result is."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"


class Result(models.Model):
    """A ``part`` of what was worked out of a trial: nothing that was recorded, only what follows from it.  ``key`` is the digest of what
    it is made from; ``says`` what is known of it while it is under way."""

    trial = models.ForeignKey("people.Trial", on_delete=models.CASCADE, db_constraint=False, related_name="results")
    part = models.CharField(max_length=20)
    key = models.CharField(max_length=64)
    state = models.CharField(max_length=8, choices=ResultState.choices, default=ResultState.WAITING)
    says = models.CharField(max_length=500, blank=True)
    body = models.BinaryField(default=bytes)
    moved_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["trial", "part"], name="one_result_a_part")]
