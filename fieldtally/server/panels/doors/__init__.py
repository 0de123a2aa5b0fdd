"""Doors of the panels stage: hosting, pouring, the booth, the result."""

from ninja import Router

from fieldtally.server.panels.doors.booth import router as booth
from fieldtally.server.panels.doors.hosting import router as hosting
from fieldtally.server.panels.doors.people import router as people
from fieldtally.server.panels.doors.result import router as result

router = Router(tags=["panels"])
for part in (hosting, people, booth, result):
    router.add_router("", part)
