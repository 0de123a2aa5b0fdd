"""What a look is called."""

from fieldtally.core.design.plan import Checkpoint


def called(checkpoint: Checkpoint) -> str:
    """The name of a look with its stage."""
    return f"{checkpoint.name}, {checkpoint.stage}" if checkpoint.stage.strip() else checkpoint.name
