"""Doors of the prepare stage: a file for each thing that people do there."""

from ninja import Router

from fieldtally.server.prepare.api.applying import router as applying
from fieldtally.server.prepare.api.bench import router as bench
from fieldtally.server.prepare.api.dosing import router as dosing
from fieldtally.server.prepare.api.handout import router as handout
from fieldtally.server.prepare.api.mixing import router as mixing
from fieldtally.server.prepare.api.printing import router as printing
from fieldtally.server.prepare.api.shuffling import router as shuffling
from fieldtally.server.prepare.api.starting import router as starting

router = Router(tags=["prepare"])
for part in (bench, dosing, mixing, handout, shuffling, applying, starting, printing):
    router.add_router("", part)
