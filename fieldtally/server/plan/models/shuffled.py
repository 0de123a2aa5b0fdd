"""Self-blinding: a shuffle by hand after which nobody knows which treatment is where, and what is found under the covers."""

from django.conf import settings
from django.db import models


class ShuffleKind(models.TextChoices):
    """What was shuffled: the vessels that treatments are given from, or the samples themselves."""

    FLASKS = "flasks", "the flasks that treatments are given from"
    SAMPLES = "samples", "the samples themselves, filled before"


class Shuffle(models.Model):
    """Somebody filled, hid, shuffled and coded.  Append-only.

    After shuffling flasks, ``flasks`` names the flask code from which the samples drawn for each treatment (key) are given;
    what is really in it stands under its cover.
    """

    trial = models.OneToOneField("people.Trial", on_delete=models.PROTECT, primary_key=True, related_name="shuffle")
    kind = models.CharField(max_length=8, choices=ShuffleKind.choices)
    flasks = models.JSONField(default=dict)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()


class Uncovered(models.Model):
    """What was found under the covers: the treatment (key) by flask code, or by sample code.  Append-only."""

    shuffle = models.OneToOneField(Shuffle, on_delete=models.PROTECT, primary_key=True, related_name="uncovered")
    found = models.JSONField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
