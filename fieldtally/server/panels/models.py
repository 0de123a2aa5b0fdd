"""What is kept of panels.  Judgements are append-only; the database refuses changes."""

import secrets
import uuid

from django.conf import settings
from django.db import models

from fieldtally.server.hosting.store import KeptField


def fresh_token() -> str:
    """A token nobody guesses."""
    return secrets.token_urlsafe(24)


class Panel(models.Model):
    """One panel of a trial: its plan as plain JSON (:class:`~fieldtally.core.panels.plan.PanelPlan`), and from the moment it began the seed
    that its servings were drawn from.  ``table`` is the token of a tablet that is handed round; ``closed_because`` says why it was broken
    off, where it was.

    ``seal`` is over what was fixed when it began with ``began_with`` people (empty: it began before panels had seals).  Its key is its
    own: from ``opened_at`` on what it found may be read."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="panels")
    plan = models.JSONField()
    version = models.PositiveIntegerField(default=1)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    begun_at = models.DateTimeField(null=True)
    seed = models.CharField(max_length=32, blank=True)
    closed_at = models.DateTimeField(null=True)
    closed_because = models.CharField(max_length=500, blank=True)
    added_sessions = models.PositiveSmallIntegerField(default=0)
    table = models.CharField(max_length=40, blank=True, db_index=True)
    seal = models.CharField(max_length=64, blank=True, default="")
    began_with = models.PositiveIntegerField(null=True)
    opened_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["created_at"]

    @property
    def state(self) -> str:
        """``planned`` until it begins, ``open`` while people judge, then ``closed``."""
        if self.closed_at:
            return "closed"
        return "open" if self.begun_at else "planned"

    @property
    def has_begun(self) -> bool:
        """Whether its sets are dealt."""
        return self.begun_at is not None

    @property
    def is_open(self) -> bool:
        """Whether people judge in it now."""
        return self.state == "open"

    @property
    def key_is_open(self) -> bool:
        """Whether what it found may be read."""
        return self.opened_at is not None

    @property
    def names_are_open(self) -> bool:
        """Whether everybody may know what was compared: with the trial's key too, for who judges here may score there."""
        return self.key_is_open and self.trial.opened_at is not None


class Experience(models.TextChoices):
    """How used to judging somebody is."""

    NAIVE = "naive"
    REGULAR = "regular"
    TRAINED = "trained"


class Assessor(models.Model):
    """One who judges, by a personal link and without an account.  ``number`` is what remains of them once their name is erased.

    ``blind`` is no where they poured or know the key; ``left_out`` says why they do not count.  ``device`` is the one that opened the link.
    ``stopped_at``: they chose not to go on.  ``address`` is where they are written to of the day; ``told_at`` says when they were.
    ``move`` is the short code by which their seat may go to another phone, until ``move_until``.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    panel = models.ForeignKey(Panel, on_delete=models.PROTECT, related_name="assessors")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=80, blank=True)
    experience = models.CharField(max_length=8, choices=Experience.choices, default=Experience.NAIVE)
    blind = models.BooleanField(default=True)
    left_out = models.CharField(max_length=500, blank=True)
    token = models.CharField(max_length=40, unique=True, default=fresh_token)
    device = models.CharField(max_length=40, blank=True)
    consented_at = models.DateTimeField(null=True)
    stopped_at = models.DateTimeField(null=True)
    erased_at = models.DateTimeField(null=True)
    address = models.EmailField(blank=True, default="")
    told_at = models.DateTimeField(null=True)
    move = models.CharField(max_length=8, blank=True, db_index=True, default="")
    move_until = models.DateTimeField(null=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["panel", "number"], name="one_assessor_a_number")]

    @property
    def called(self) -> str:
        """The name, or the number where there is none."""
        return self.name or f"Assessor {self.number}"


class Serving(models.Model):
    """One set for one assessor: the letters of its cups in their order, which is the key to it, and their codes; ``stimulus``: over which
    of the plan's it is asked, from 0.  ``fetched`` has a bit set for each place whose sound or picture was handed out."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    assessor = models.ForeignKey(Assessor, on_delete=models.PROTECT, related_name="servings")
    session = models.PositiveSmallIntegerField(default=0)
    place = models.PositiveSmallIntegerField(default=0)
    order = models.CharField(max_length=16)
    codes = models.JSONField()
    spilt = models.CharField(max_length=200, blank=True)
    stimulus = models.PositiveSmallIntegerField(default=0)
    fetched = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["session", "place"]


class Judgement(models.Model):
    """Append-only, and one for each serving: an answer, once given, is locked.  Its id is made by the assessor's device.

    ``answer``: places of cups from 0; for naming the name given to each cup, for ranking the cups from the first to the last; for
    yes-or-no tests one number, 1 for yes.  ``preference``: the place of the cup liked better, −1 for none.  ``confidence`` from 1
    (guessed) to 4 (sure).  ``grades``: for each attribute one for each cup, None for a reference.
    """

    id = models.UUIDField(primary_key=True, editable=False)
    serving = models.OneToOneField(Serving, on_delete=models.PROTECT, related_name="judgement")
    answer = models.JSONField()
    confidence = models.PositiveSmallIntegerField(null=True)
    preference = models.SmallIntegerField(null=True)
    grades = models.JSONField(default=list)
    chips = models.JSONField(default=list)
    words = models.CharField(max_length=1000, blank=True)
    given_at = models.DateTimeField()
    stored_at = models.DateTimeField()


class Material(models.Model):
    """A sound or picture put before a panel, made ready: WAV or PNG, as long and as large as it came, but without anything hidden in it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    panel = models.ForeignKey(Panel, on_delete=models.CASCADE, related_name="materials")
    thing = models.CharField(max_length=80)
    stimulus = models.PositiveSmallIntegerField(default=0)
    name = models.CharField(max_length=200, blank=True)
    content = KeptField()
    seconds = models.FloatField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["panel", "thing", "stimulus"], name="one_material_a_thing")]


class Practice(models.Model):
    """A run of sets by which somebody tests themselves.  It belongs to the person and to no trial.

    ``source``: cups that a helper pours (two things by name), or sounds or pictures that are shipped, ``step`` apart.  ``helper`` is the
    token of the sheet for whoever pours.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    method = models.CharField(max_length=20)
    source = models.CharField(max_length=8)
    step = models.PositiveSmallIntegerField(default=3)
    first = models.CharField(max_length=80, blank=True)
    second = models.CharField(max_length=80, blank=True)
    seed = models.CharField(max_length=32)
    helper = models.CharField(max_length=40, unique=True, default=fresh_token)
    begun_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-begun_at"]


class PracticeSet(models.Model):
    """One set of a practice run; ``answer`` is given once."""

    practice = models.ForeignKey(Practice, on_delete=models.CASCADE, related_name="sets")
    place = models.PositiveSmallIntegerField()
    order = models.CharField(max_length=16)
    codes = models.JSONField()
    answer = models.JSONField(null=True)
    answered_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["place"]
        constraints = [models.UniqueConstraint(fields=["practice", "place"], name="one_practice_set_a_place")]
