"""What is kept of sharing."""

import uuid

from django.conf import settings
from django.db import models

from fieldtally.server.hosting.store import KeptField


class Import(models.Model):
    """A file that somebody brings in: a trial pack, or a table with what its columns ``mean``.

    It is read in the background, all or nothing; ``done`` of ``total`` rows say how far it is.  It can be left and come back to, until it
    is brought in (``trial``) or taken away.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    name = models.CharField(max_length=200)
    kind = models.CharField(max_length=5, choices=[("pack", "trial pack"), ("table", "table")])
    content = KeptField()
    asked = models.JSONField(default=dict)
    state = models.CharField(
        max_length=8,
        choices=[
            ("new", "waits to be looked at"),
            ("running", "on its way"),
            ("done", "in"),
            ("refused", "refused"),
            ("failed", "failed here"),
            ("waits", "goes on once its plan is sealed"),
        ],
        default="new",
    )
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    problems = models.JSONField(default=list)
    warnings = models.JSONField(default=list)
    trial = models.ForeignKey("people.Trial", on_delete=models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    moved_at = models.DateTimeField(null=True)
    """When it was last heard of while it was on its way."""

    class Meta:
        ordering = ["-at"]

    @property
    def is_in(self) -> bool:
        """Whether a trial was made of it."""
        return self.state == "done"

    @property
    def is_on_its_way(self) -> bool:
        """Whether it is being brought in, is in already, or waits for the plan of a trial that goes on."""
        return self.is_in or self.state in ("running", "waits")


class MadeFile(models.Model):
    """A file of a trial that was asked for and takes a while: a worker makes it, and whoever asked (``by``; None: a reader of the published
    page) fetches it.  ``wanted`` says what is in it; ``done`` of ``total`` how far it is; ``key`` what it was made from, where that is
    known.  Nothing that was recorded: it goes after a day."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.CASCADE, db_constraint=False, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True, related_name="+")
    wanted = models.JSONField()
    key = models.CharField(max_length=200, blank=True)
    state = models.CharField(
        max_length=8,
        choices=[("waiting", "waits"), ("running", "is made"), ("done", "ready"), ("failed", "failed here")],
        default="waiting",
    )
    says = models.CharField(max_length=500, blank=True)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    name = models.CharField(max_length=250, blank=True)
    kind = models.CharField(max_length=100, blank=True)
    content = KeptField(default=bytes)
    asked_at = models.DateTimeField()
    moved_at = models.DateTimeField()

    class Meta:
        ordering = ["-asked_at"]

    @property
    def is_ready(self) -> bool:
        """Whether it can be fetched."""
        return self.state == "done"

    @property
    def has_failed(self) -> bool:
        """Whether it could not be made."""
        return self.state == "failed"


class Report(models.Model):
    """What somebody wrote beside the figures of a trial's report (``comments``, by section), the photos they chose (ids), and, while it
    is published, the token of its address.  ``names``: whether people are named on the published page."""

    trial = models.OneToOneField("people.Trial", on_delete=models.CASCADE, primary_key=True, related_name="report")
    comments = models.JSONField(default=dict)
    photos = models.JSONField(default=list)
    token = models.CharField(max_length=40, blank=True, db_index=True)
    published_at = models.DateTimeField(null=True)
    published_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="+")
    names = models.BooleanField(default=False)
    saved_at = models.DateTimeField(auto_now=True)


class ReaderPrediction(models.Model):
    """Which treatment (key) a reader of the published page expected to be best, before they saw the result; empty: none."""

    trial = models.ForeignKey("people.Trial", on_delete=models.CASCADE, related_name="reader_predictions")
    treatment = models.CharField(max_length=40, blank=True)
    at = models.DateTimeField(auto_now_add=True)
