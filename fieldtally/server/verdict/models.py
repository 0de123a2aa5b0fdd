"""What is kept of opening the key."""

from uuid import uuid4

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


class ResultSeen(models.Model):
    """Somebody has read the verdict of a trial: what they pick in a line-up from then on was picked knowing it."""

    trial = models.ForeignKey("people.Trial", on_delete=models.CASCADE, db_constraint=False, related_name="+")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["trial", "user"], name="a_result_is_seen_once")]


class LineUpPick(models.Model):
    """Which ``picture`` (from 0) of the line-up somebody took for the true one, kept before they were told: a member of the trial
    (``user``), or a ``reader`` of the published page under a name of chance.  ``knowing``: they had read the result before."""

    trial = models.ForeignKey(
        "people.Trial", on_delete=models.CASCADE, db_constraint=False, related_name="line_up_picks"
    )
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True, related_name="+")
    reader = models.CharField(max_length=43, blank=True)
    picture = models.PositiveSmallIntegerField()
    right = models.BooleanField()
    knowing = models.BooleanField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at"]
        constraints = [
            models.UniqueConstraint(
                fields=["trial", "user"], name="one_pick_a_member", condition=models.Q(user__isnull=False)
            ),
            models.UniqueConstraint(
                fields=["trial", "reader"], name="one_pick_a_reader", condition=~models.Q(reader="")
            ),
        ]


class MethodsKept(models.Model):
    """A comparison of methods as somebody entered it (the body of the door, ``given``), under a name; theirs alone."""

    id = models.UUIDField(primary_key=True, default=uuid4)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    name = models.CharField(max_length=120)
    given = models.JSONField()
    at = models.DateTimeField()

    class Meta:
        ordering = ["-at"]
        constraints = [models.UniqueConstraint(fields=["user", "name"], name="one_comparison_a_name")]
