"""What begins with people."""

from django.apps import AppConfig


class PeopleConfig(AppConfig):
    """Listens to who comes and goes."""

    name = "fieldtally.server.people"

    def ready(self) -> None:
        """Begin to listen."""
        from fieldtally.server.people import auditing, twosteps

        auditing.listen()
        twosteps.listen()
