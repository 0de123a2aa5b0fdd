"""What is kept of rounds: a file for each thing.  All but rounds are append-only; the database refuses changes."""

from fieldtally.server.rounds.models.deviation import Deviation
from fieldtally.server.rounds.models.lognote import LogNote
from fieldtally.server.rounds.models.reading import Reading
from fieldtally.server.rounds.models.round import Round

__all__ = ["Deviation", "LogNote", "Reading", "Round"]
