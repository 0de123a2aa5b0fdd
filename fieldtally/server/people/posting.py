"""Letters on their way: kept first, sent by a worker, and tried again where the mail host does not take them.

So nobody waits for a mail host, what was asked for holds though it is away, and a letter that could not be sent is known.
"""

from __future__ import annotations

import smtplib
from collections.abc import Sequence
from datetime import datetime, timedelta
from functools import partial

from django.conf import settings
from django.core.mail import EmailMessage, get_connection
from django.core.mail.backends.base import BaseEmailBackend
from django.db import transaction
from django.utils import timezone
from django_tasks import task

from fieldtally.server.people.models import Mail, Post

MOST_TRIES = 12
LONGEST_PAUSE = timedelta(hours=6)
KEPT_FOR = timedelta(days=30)


class PostBackend(BaseEmailBackend):
    """Keeps each letter, once for each address, and has a worker send it as soon as what it belongs to is stored."""

    def send_messages(self, email_messages: Sequence[EmailMessage]) -> int:
        """The number of messages taken."""
        now = timezone.now()
        letters = [
            Mail(to=to, subject=str(one.subject)[:200], text=str(one.body), state=Post.WAITING, next_at=now)
            for one in email_messages
            for to in one.recipients()
        ]
        for letter in Mail.objects.bulk_create(letters):
            transaction.on_commit(partial(post.enqueue, letter.pk))
        return len(email_messages)


@task(priority=30)
def post(letter_id: int) -> None:
    """Send a letter, unless it is out already."""
    send(letter_id, timezone.now())


def send(letter_id: int, now: datetime) -> None:
    """Try to send a letter that waits; whoever else is at it is left to it."""
    with transaction.atomic():
        letter = Mail.objects.select_for_update(skip_locked=True).filter(pk=letter_id, state=Post.WAITING).first()
        if letter is None:
            return
        letter.tries += 1
        try:
            message = EmailMessage(letter.subject, letter.text, settings.DEFAULT_FROM_EMAIL, [letter.to])
            get_connection(settings.POSTS_BY).send_messages([message])
        except (smtplib.SMTPException, OSError) as error:
            _not_out(letter, error, now)
        else:
            letter.state, letter.text, letter.next_at, letter.says = Post.SENT, "", None, ""
        letter.save()


def _not_out(letter: Mail, error: Exception, now: datetime) -> None:
    # What a host answers can quote the address; its number says what is wrong.
    number = getattr(error, "smtp_code", "")
    letter.says = f"{type(error).__name__} {number}".strip()
    refused = isinstance(error, smtplib.SMTPRecipientsRefused) and all(
        500 <= code < 600 for code, _ in error.recipients.values()
    )
    if refused or letter.tries >= MOST_TRIES:
        letter.state, letter.text, letter.next_at = Post.FAILED, "", None
    else:
        letter.next_at = now + min(LONGEST_PAUSE, timedelta(minutes=2**letter.tries))


def send_waiting(now: datetime) -> int:
    """Try all letters whose time has come, such as those that a mail host did not take; how many those were."""
    waiting = list(
        Mail.objects.filter(state=Post.WAITING, next_at__lte=now).order_by("next_at").values_list("pk", flat=True)
    )
    for pk in waiting:
        send(pk, now)
    Mail.objects.filter(state__in=(Post.SENT, Post.FAILED), sent_at__lt=now - KEPT_FOR).delete()
    return len(waiting)
