"""Send letters about looks that are due and panels that come, and note what the weather station says, every so many seconds, until
it is told to end."""

import time
from datetime import timedelta

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from django.db import DatabaseError, connection
from django.utils import timezone

from fieldtally.server.hosting import store
from fieldtally.server.log.conditions import read_for_all
from fieldtally.server.panels.days import write_of_the_day
from fieldtally.server.people.auditing import forget_old
from fieldtally.server.people.posting import send_waiting
from fieldtally.server.rounds.feeds import send_reminders

SWEPT_EACH = timedelta(days=1)
"""So often what nothing names goes out of the store."""


class Command(BaseCommand):
    """``python -m django remind --every 60``; without ``--every`` once."""

    help = "Send letters about looks that are due and panels that come."

    def add_arguments(self, parser: CommandParser) -> None:
        """``--every`` so many seconds."""
        parser.add_argument("--every", type=int, default=0)

    def handle(self, *args: object, every: int | None, **options: object) -> None:
        """Send; a database that is away for a moment is tried again."""
        sweep = timezone.now() + SWEPT_EACH
        while True:
            try:
                send_reminders(timezone.now(), f"{settings.ORIGIN}/")
                write_of_the_day(timezone.now(), f"{settings.ORIGIN}/")
                read_for_all(timezone.now())
                forget_old(timezone.now())
                send_waiting(timezone.now())
                if store.outside() and timezone.now() > sweep:
                    sweep = timezone.now() + SWEPT_EACH
                    store.swept()
            except DatabaseError:
                connection.close()
            except store.Away:
                pass
            if not every:
                return
            time.sleep(every)
