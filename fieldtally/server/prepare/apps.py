"""The prepare app: it takes up trials that had begun before their plan was sealed."""

from django.apps import AppConfig


class PrepareConfig(AppConfig):
    """Prepare."""

    name = "fieldtally.server.prepare"

    def ready(self) -> None:
        """Listen to plans."""
        from fieldtally.server.plan.signals import plan_sealed
        from fieldtally.server.prepare.begun import take_up

        plan_sealed.connect(take_up, dispatch_uid="prepare.take_up")
