"""What is kept of practice, readiness, and of what scorers graded together."""

from fieldtally.server.training.models.training import (
    Calibration,
    CalibrationGrade,
    Readiness,
    TrainingAnswer,
    TrainingSet,
)

__all__ = ["Calibration", "CalibrationGrade", "Readiness", "TrainingAnswer", "TrainingSet"]
