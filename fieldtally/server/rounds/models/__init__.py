"""What is kept of rounds: a file for each thing.  Readings, deviations, notes, conditions and guesses are append-only; the database
refuses changes."""

from fieldtally.server.rounds.models.condition import Condition
from fieldtally.server.rounds.models.deviation import Deviation
from fieldtally.server.rounds.models.gauge import GaugedReading, GaugeRecipe, GaugeRun, Gauging
from fieldtally.server.rounds.models.guess import Guess
from fieldtally.server.rounds.models.lognote import LogNote
from fieldtally.server.rounds.models.photo import Photo, PhotoFile
from fieldtally.server.rounds.models.reading import Reading
from fieldtally.server.rounds.models.reminding import Feed, Reminded
from fieldtally.server.rounds.models.repeat import Repeat
from fieldtally.server.rounds.models.round import Round
from fieldtally.server.rounds.models.training import (
    Calibration,
    CalibrationGrade,
    Readiness,
    TrainingAnswer,
    TrainingSet,
)

__all__ = [
    "Calibration",
    "CalibrationGrade",
    "Condition",
    "Deviation",
    "Feed",
    "GaugeRecipe",
    "GaugeRun",
    "GaugedReading",
    "Gauging",
    "Guess",
    "LogNote",
    "Photo",
    "PhotoFile",
    "Readiness",
    "Reading",
    "Reminded",
    "Repeat",
    "Round",
    "TrainingAnswer",
    "TrainingSet",
]
