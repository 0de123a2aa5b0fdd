"""What the demo has to say before others may come."""

from django.apps import AppConfig


class DemoConfig(AppConfig):
    """Registers the check that no account of the demo can be reached by others."""

    name = "fieldtally.server.demo"

    def ready(self) -> None:
        """Register it."""
        from fieldtally.server.demo import fitness  # noqa: F401 - it registers its check
