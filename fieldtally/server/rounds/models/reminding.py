"""Being reminded: a person's calendar feed and letters, and which looks they were told of."""

import secrets

from django.conf import settings
from django.db import models


def fresh_token() -> str:
    """A token nobody guesses."""
    return secrets.token_urlsafe(24)


class Feed(models.Model):
    """A person's own calendar address, and whether they want letters when something is due."""

    user = models.OneToOneField(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, primary_key=True, related_name="feed"
    )
    token = models.CharField(max_length=40, unique=True, default=fresh_token)
    letters = models.BooleanField(default=False)


class Reminded(models.Model):
    """A person was told by letter that a look (key) is due.  Once for each."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="+")
    look = models.CharField(max_length=40)
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "trial", "look"], name="one_letter_a_look")]
