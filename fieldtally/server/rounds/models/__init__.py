"""What is kept of rounds: a file for each thing.  Readings, deviations and notes are append-only; the database refuses changes."""

from fieldtally.server.rounds.models.deviation import Deviation
from fieldtally.server.rounds.models.lognote import LogNote
from fieldtally.server.rounds.models.reading import Reading
from fieldtally.server.rounds.models.reminding import Feed, Reminded
from fieldtally.server.rounds.models.round import Round

__all__ = ["Deviation", "Feed", "LogNote", "Reading", "Reminded", "Round"]
