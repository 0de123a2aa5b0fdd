"""Outgoing mail kept in the database, so that it can be read on the mailbox page."""

from collections.abc import Sequence

from django.core.mail import EmailMessage
from django.core.mail.backends.base import BaseEmailBackend

from fieldtally.server.people.models import Mail


class MailboxBackend(BaseEmailBackend):
    """Stores each message once for each address."""

    def send_messages(self, email_messages: Sequence[EmailMessage]) -> int:
        """The number of messages kept."""
        letters = [
            Mail(to=to, subject=str(message.subject)[:200], text=str(message.body))
            for message in email_messages
            for to in message.recipients()
        ]
        Mail.objects.bulk_create(letters)
        return len(email_messages)
