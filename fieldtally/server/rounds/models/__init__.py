"""What is kept of rounds: a file for each thing.  Readings, deviations, notes, conditions and guesses are append-only; the database
refuses changes."""

from fieldtally.server.rounds.models.condition import Condition
from fieldtally.server.rounds.models.deviation import Deviation
from fieldtally.server.rounds.models.guess import Guess
from fieldtally.server.rounds.models.lognote import LogNote
from fieldtally.server.rounds.models.photo import Photo, PhotoFile
from fieldtally.server.rounds.models.reading import Reading
from fieldtally.server.rounds.models.reminding import Feed, Reminded
from fieldtally.server.rounds.models.repeat import Repeat
from fieldtally.server.rounds.models.round import Round

__all__ = [
    "Condition",
    "Deviation",
    "Feed",
    "Guess",
    "LogNote",
    "Photo",
    "PhotoFile",
    "Reading",
    "Reminded",
    "Repeat",
    "Round",
]
