"""Doors of the panels stage: hosting, pouring, the booth, paper, practice, the result."""

from ninja import Router

from fieldtally.server.panels.doors.booth import router as booth
from fieldtally.server.panels.doors.hosting import router as hosting
from fieldtally.server.panels.doors.people import router as people
from fieldtally.server.panels.doors.practice import router as practice
from fieldtally.server.panels.doors.printing import router as printing
from fieldtally.server.panels.doors.result import router as result

router = Router(tags=["panels"])
for part in (hosting, people, booth, printing, practice, result):
    router.add_router("", part)
