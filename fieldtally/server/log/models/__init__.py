"""What is kept of a trial beside its readings: deviations, notes, conditions.  All are append-only; the database refuses changes."""

from fieldtally.server.log.models.condition import Condition
from fieldtally.server.log.models.deviation import Deviation
from fieldtally.server.log.models.lognote import LogNote

__all__ = ["Condition", "Deviation", "LogNote"]
