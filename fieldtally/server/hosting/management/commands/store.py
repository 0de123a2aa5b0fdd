"""What lies outside the database: carried there, carried back, held against its rows, and what nobody names taken away."""

from collections.abc import Callable

from django.core.management.base import BaseCommand, CommandError, CommandParser

from fieldtally.server.hosting import store


class Command(BaseCommand):
    """``./manage store check``."""

    help = "Carry photos and files into the store (move) or back into the database (back), check what lies there, or sweep it."

    def add_arguments(self, parser: CommandParser) -> None:
        """What is to be done."""
        parser.add_argument("what", choices=["move", "back", "check", "sweep"])

    def handle(self, *args: object, what: str, **options: object) -> None:
        """Do it, and say how much it was.

        :raises CommandError: there is no store, it does not answer, or something in it is missing or was changed.
        """
        does: dict[str, tuple[Callable[[], int], str]] = {
            "move": (store.moved, "{} carried into the store."),
            "back": (store.moved_back, "{} carried back into the database."),
            "sweep": (store.swept, "{} that nothing named taken away."),
            "check": (self._checked, "{} in the store, all as they were put there."),
        }
        carry, says = does[what]
        try:
            self.stdout.write(says.format(carry()))
        except store.Away as away:
            raise CommandError(str(away)) from away

    def _checked(self) -> int:
        count, wrong = store.checked()
        for line in wrong:
            self.stderr.write(line)
        if wrong:
            raise CommandError(f"{len(wrong)} of {count} cannot be had as they were put there.")
        return count
