"""Doors of the log: what happened, what went wrong, what it was like."""

from ninja import Router

from fieldtally.server.log.api.conditions import router as conditions
from fieldtally.server.log.api.happening import router as happening
from fieldtally.server.log.api.log import router as log

router = Router(tags=["log"])
for part in (log, happening, conditions):
    router.add_router("", part)
