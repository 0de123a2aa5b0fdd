"""Personal tokens, by which a person's own programs use the API."""

import hashlib
import uuid

from django.conf import settings
from django.db import models


class Scope(models.TextChoices):
    """What a token may do: read what its person may read, or all that they may do."""

    READ = "read"
    WRITE = "write"


class AccessToken(models.Model):
    """Only its SHA-256 is kept; ``trial`` confines it to one trial."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="access_tokens")
    name = models.CharField(max_length=80)
    hash = models.CharField(max_length=64, unique=True)
    scope = models.CharField(max_length=5, choices=Scope.choices, default=Scope.READ)
    trial = models.ForeignKey("people.Trial", on_delete=models.CASCADE, null=True, related_name="access_tokens")
    made_at = models.DateTimeField(auto_now_add=True)
    used_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["made_at"]

    @staticmethod
    def hash_of(token: str) -> str:
        """What is kept of ``token``."""
        return hashlib.sha256(token.encode()).hexdigest()
