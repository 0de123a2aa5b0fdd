"""A letter that the demo shows in its mailbox page instead of sending it."""

from django.db import models


class Mail(models.Model):
    """Plain text to one address."""

    to = models.EmailField()
    subject = models.CharField(max_length=200)
    text = models.TextField()
    sent_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-sent_at", "-id"]
