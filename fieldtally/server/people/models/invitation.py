"""An invitation to take a role in a trial, sent by mail; the token in it is kept only as its hash."""

import hashlib

from django.conf import settings
from django.db import models

from fieldtally.server.people.models.membership import Role
from fieldtally.server.people.models.trial import Trial


class Invitation(models.Model):
    """Open until it is taken or withdrawn."""

    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="invitations")
    email = models.EmailField()
    role = models.CharField(max_length=10, choices=Role.choices)
    token_hash = models.CharField(max_length=64, unique=True)
    invited_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    sent_at = models.DateTimeField(auto_now_add=True)
    taken_at = models.DateTimeField(null=True)

    @staticmethod
    def hash_of(token: str) -> str:
        """What is kept of ``token``."""
        return hashlib.sha256(token.encode()).hexdigest()
