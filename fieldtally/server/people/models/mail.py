"""A letter: kept to be shown in the demo's mailbox, or on its way to somebody."""

from django.db import models


class Post(models.TextChoices):
    """How far a letter is."""

    KEPT = "kept"
    WAITING = "waiting"
    SENT = "sent"
    FAILED = "failed"


class Mail(models.Model):
    """Plain text to one address.  One that waits is tried at ``next_at``; once it is out, or given up, its ``text`` is gone: it may
    open something.  ``says`` is what kept it from going out last."""

    to = models.EmailField()
    subject = models.CharField(max_length=200)
    text = models.TextField()
    sent_at = models.DateTimeField(auto_now_add=True)
    state = models.CharField(max_length=8, choices=Post.choices, default=Post.KEPT)
    tries = models.PositiveSmallIntegerField(default=0)
    next_at = models.DateTimeField(null=True)
    says = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["-sent_at", "-id"]
        indexes = [models.Index(fields=["next_at"], condition=models.Q(state="waiting"), name="letters_that_wait")]
