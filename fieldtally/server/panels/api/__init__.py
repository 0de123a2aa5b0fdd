"""Doors of the panels stage: hosting, pouring, the booth, paper, practice, the result."""

from ninja import Router

from fieldtally.server.panels.api.booth import router as booth
from fieldtally.server.panels.api.hosting import router as hosting
from fieldtally.server.panels.api.people import router as people
from fieldtally.server.panels.api.practice import router as practice
from fieldtally.server.panels.api.printing import router as printing
from fieldtally.server.panels.api.result import router as result
from fieldtally.server.panels.api.tastings import router as tastings

router = Router(tags=["panels"])
for part in (hosting, people, booth, printing, practice, result, tastings):
    router.add_router("", part)
