"""Let somebody administer this place, or no longer."""

from django.core.management.base import BaseCommand, CommandError, CommandParser

from fieldtally.server.people.models import User


class Command(BaseCommand):
    """``./manage administrator name@example.org``; with ``--no`` it is taken away."""

    help = "Let somebody see members, storage, queue and letters, and switch accounts off; or no longer."

    def add_arguments(self, parser: CommandParser) -> None:
        """Whose address, and ``--no``."""
        parser.add_argument("email")
        parser.add_argument("--no", action="store_true")

    def handle(self, *args: object, email: str, no: bool, **options: object) -> None:
        """Set it.

        :raises CommandError: nobody has that address.
        """
        if not User.objects.filter(email__iexact=email, is_active=True).update(administers=not no):
            raise CommandError(f"Nobody here has the address {email}.")
        self.stdout.write(f"{email} {'no longer administers' if no else 'administers'} this place.")
