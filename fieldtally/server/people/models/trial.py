"""A trial, as the thing that people have roles in.  Its plan, samples and readings belong to the stages."""

import uuid
from datetime import datetime
from typing import Literal

from django.conf import settings
from django.db import models

State = Literal["draft", "sealed", "running", "opened"]


class Origin(models.TextChoices):
    """Where a trial came from, if it was not planned here: a trial pack, or a table of results that were there already."""

    PACK = "pack"
    TABLE = "table"


class Trial(models.Model):
    """One comparison.  Its state follows from what has happened to it; each moment is set once.

    ``plan_seal`` is the seal of the version of its plan that stands, empty in a draft.
    ``is_tasting``: it has panels and nothing else.
    One that was brought in says from what (``origin``), when and by whom; whoever brought it has had its key in their hands.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    title = models.CharField(max_length=200)
    zone = models.CharField(max_length=64, default="UTC")
    created_at = models.DateTimeField(auto_now_add=True)
    sealed_at = models.DateTimeField(null=True)
    plan_seal = models.CharField(max_length=64, blank=True, default="", db_default="")
    started_at = models.DateTimeField(null=True)
    opened_at = models.DateTimeField(null=True)
    opened_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="+")
    origin = models.CharField(max_length=8, choices=Origin.choices, blank=True)
    imported_at = models.DateTimeField(null=True)
    imported_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="+")
    put_away_at = models.DateTimeField(null=True)
    is_tasting = models.BooleanField(default=False, db_default=False)

    @property
    def first_moment(self) -> datetime | None:
        """The first moment that belongs to it: the seal, or the start of exposure where that came before; None of a draft."""
        if self.sealed_at is None:
            return None
        return min(self.sealed_at, self.started_at or self.sealed_at)

    @property
    def state(self) -> State:
        """``draft`` until sealed, ``running`` from the start of exposure, ``opened`` once the key is open."""
        if self.opened_at:
            return "opened"
        if self.started_at:
            return "running"
        return "sealed" if self.sealed_at else "draft"
