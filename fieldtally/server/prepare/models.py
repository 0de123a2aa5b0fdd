"""What is kept of preparing."""

from django.conf import settings
from django.db import models


class KeyLook(models.Model):
    """Somebody looked at the key while it was sealed, to prepare the samples.  Append-only."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="key_looks")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()


class HeldTick(models.Model):
    """Somebody saw to it that an entry (key) of the held-equal sheet is as planned.  Append-only."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="held_ticks")
    entry = models.CharField(max_length=40)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["trial", "entry"], name="an_entry_is_ticked_once")]


class Cycle(models.Model):
    """One cycle (a wash, a firing, a use) that all samples went through, with its settings (as written, by
    key of the plan's cycle settings).  Append-only."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="cycles")
    note = models.CharField(max_length=500, blank=True)
    set_to = models.JSONField(default=dict)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        ordering = ["at", "id"]


class MeasuringTool(models.Model):
    """Something a person measures with, as they write it: ``small syringe: 1 mL by 0.01 mL``.  Theirs, over all their trials;
    ``shared``: it hangs where everybody here may take it."""

    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="measuring_tools")
    text = models.CharField(max_length=100)
    shared = models.BooleanField(default=False, db_default=False)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["by", "text"], name="a_tool_is_listed_once")]


class Pack(models.Model):
    """A pack of a product (key in the plan) that is really used: its lot, its date, and when it was opened.  Append-only; the
    newest row of a product and lot says how it stands."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="packs")
    product = models.CharField(max_length=40)
    lot = models.CharField(max_length=60, blank=True)
    expires = models.DateField(null=True)
    opened = models.DateField(null=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        ordering = ["at", "pk"]


class MixTick(models.Model):
    """A step of the mix sheet was done, under a version of the plan, by someone who acknowledged its cautions (keys of the
    catalogue).  Append-only."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="mix_ticks")
    step = models.CharField(max_length=140)
    says = models.TextField()
    version = models.PositiveIntegerField()
    acknowledged = models.JSONField(default=list)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["trial", "step", "version"], name="a_step_is_ticked_once")]


class Application(models.Model):
    """What a sample was really given of a dose (key in the plan; empty: its treatment as a whole).  Append-only.

    ``given`` and ``planned`` are in ``unit`` (mL or g), both None where nothing is measured; ``version`` is the plan's version
    (0 as sealed) that ``planned`` comes from.  Which treatment that is stays in the key.  A correction supersedes what was noted
    before it.
    """

    id = models.UUIDField(primary_key=True, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="applications")
    sample = models.ForeignKey("plan.Sample", on_delete=models.PROTECT, related_name="applications")
    dose = models.CharField(max_length=40, blank=True)
    planned = models.FloatField(null=True)
    given = models.FloatField(null=True)
    unit = models.CharField(max_length=10, blank=True)
    written = models.CharField(max_length=60, blank=True)
    version = models.PositiveIntegerField()
    note = models.CharField(max_length=500, blank=True)
    supersedes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="superseded_by")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    stored_at = models.DateTimeField()

    class Meta:
        ordering = ["at", "stored_at", "pk"]


class Exposure(models.Model):
    """A sample's own clock: when it came under its treatment."""

    sample = models.OneToOneField("plan.Sample", on_delete=models.CASCADE, primary_key=True, related_name="exposure")
    started_at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
