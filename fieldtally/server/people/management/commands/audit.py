"""Print the audit log: a line of JSON for each thing that happened, the oldest first."""

import json
from datetime import timedelta

from django.core.management.base import BaseCommand, CommandParser
from django.utils import timezone

from fieldtally.server.people.models import Audited


class Command(BaseCommand):
    """``./manage audit --days 7``."""

    help = "Print who came in, was invited, made a token or left, as numbers."

    def add_arguments(self, parser: CommandParser) -> None:
        """``--days`` back, and ``--person`` alone."""
        parser.add_argument("--days", type=int, default=7)
        parser.add_argument("--person", type=int)

    def handle(self, *args: object, days: int, person: int | None, **options: object) -> None:
        """Print them."""
        rows = Audited.objects.filter(at__gte=timezone.now() - timedelta(days=days)).order_by("at", "pk")
        for one in rows.filter(person=person) if person is not None else rows:
            told = {"at": one.at.isoformat(), "what": one.what, "person": one.person, "trial": one.trial}
            self.stdout.write(json.dumps({**told, "from": one.address}, default=str))
