"""The training app: it looks at who drifts whenever somebody begins a round."""

from django.apps import AppConfig


class TrainingConfig(AppConfig):
    """Training."""

    name = "fieldtally.server.training"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Listen to rounds."""
        from fieldtally.server.rounds.signals import round_begun
        from fieldtally.server.training.drifting import see_drift

        round_begun.connect(see_drift, dispatch_uid="training.see_drift")
