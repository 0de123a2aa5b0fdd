"""What is kept of rounds: a file for each thing.  Readings and guesses are append-only; the database refuses changes."""

from fieldtally.server.rounds.models.guess import Guess
from fieldtally.server.rounds.models.reading import Reading
from fieldtally.server.rounds.models.reminding import Feed, Reminded
from fieldtally.server.rounds.models.repeat import Repeat
from fieldtally.server.rounds.models.round import Round
from fieldtally.server.rounds.models.taken import Taken

__all__ = ["Feed", "Guess", "Reading", "Reminded", "Repeat", "Round", "Taken"]
