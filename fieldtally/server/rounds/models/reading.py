"""One value of one outcome on one sample by one scorer at one moment."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Kind(models.TextChoices):
    """What a reading says."""

    VALUE = "value"
    CANNOT = "cannot", "could not be scored"
    WITHDRAWN = "withdrawn", "taken back"


class Source(models.TextChoices):
    """How a reading came in."""

    TYPED = "typed", "typed where it was seen"
    PAPER = "paper", "written on paper, typed in later"
    DEVICE = "device", "read from a device"


class ReadingSet(models.QuerySet["Reading"]):
    """Readings, of which some supersede others."""

    def newest(self) -> ReadingSet:
        """Those that nothing supersedes: the last word on each cell, also where that is that it was taken back."""
        return self.filter(superseded_by=None)

    def current(self) -> ReadingSet:
        """Those that stand: the newest, without what was taken back."""
        return self.newest().exclude(kind=Kind.WITHDRAWN)


class Reading(models.Model):
    """Append-only.  Its id is made by whoever scored, so the same write sent twice is stored once; a correction is a new
    reading that supersedes the old one, with its reason.

    A note has ``words`` and no number; a curve its ``responses``, a number for each step, and as its value the one number
    that it is compared by.  One that was read from a ``device`` names it.  ``take`` counts how often this scorer has read this at this
    look: a retest stands beside what it tests, and the plan's rule says what counts.  One read under a second code names that ``repeat``.

    Trial, checkpoint and scorer are those of its round, and sample and outcome are of its trial: the database holds each statement to that
    (:mod:`..fitting`), which says more than a key to each and costs less.
    """

    id = models.UUIDField(primary_key=True, editable=False)
    trial = models.ForeignKey(
        "people.Trial", on_delete=models.PROTECT, db_index=False, db_constraint=False, related_name="readings"
    )
    round = models.ForeignKey("rounds.Round", on_delete=models.PROTECT, db_constraint=False, related_name="readings")
    checkpoint = models.ForeignKey(
        "plan.Checkpoint", on_delete=models.PROTECT, db_index=False, db_constraint=False, related_name="readings"
    )
    sample = models.ForeignKey(
        "plan.Sample", on_delete=models.PROTECT, db_index=False, db_constraint=False, related_name="readings"
    )
    outcome = models.ForeignKey(
        "plan.Outcome", on_delete=models.PROTECT, db_index=False, db_constraint=False, related_name="readings"
    )
    scorer = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, db_constraint=False, related_name="readings"
    )
    kind = models.CharField(max_length=10, choices=Kind.choices)
    value = models.FloatField(null=True)
    words = models.TextField(blank=True)
    responses = models.JSONField(null=True)
    reason = models.CharField(max_length=500, blank=True)
    source = models.CharField(max_length=8, choices=Source.choices, default=Source.TYPED)
    device = models.CharField(max_length=60, blank=True)
    take = models.PositiveSmallIntegerField(default=1)
    repeat = models.ForeignKey(
        "rounds.Repeat", on_delete=models.PROTECT, null=True, db_constraint=False, related_name="readings"
    )
    supersedes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="superseded_by")
    taken_at = models.DateTimeField()
    stored_at = models.DateTimeField()

    objects = ReadingSet.as_manager()

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=(models.Q(kind="value") & (models.Q(value__isnull=False) | ~models.Q(words="")))
                | (~models.Q(kind="value") & models.Q(value=None)),
                name="only_a_value_has_a_value",
            )
        ]
        indexes = [
            models.Index(fields=["trial", "checkpoint", "outcome"], name="readings_by_look"),
            models.Index(fields=["sample", "checkpoint", "outcome"], name="readings_of_a_sample"),
            models.Index(fields=["checkpoint", "outcome", "-stored_at"], name="readings_newest_of_a_look"),
            models.Index(fields=["trial", "-stored_at"], name="readings_newest_of_a_trial"),
        ]
