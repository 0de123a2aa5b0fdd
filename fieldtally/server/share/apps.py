"""The share app: a table of a trial that goes on comes in when its plan is sealed."""

from django.apps import AppConfig


class ShareConfig(AppConfig):
    """Share."""

    name = "fieldtally.server.share"

    def ready(self) -> None:
        """Listen to plans."""
        from fieldtally.server.plan.signals import plan_sealed
        from fieldtally.server.share.going_on import bring_the_past

        plan_sealed.connect(bring_the_past, dispatch_uid="share.bring_the_past")
