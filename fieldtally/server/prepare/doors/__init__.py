"""Doors of the prepare stage: a file for each thing that people do there."""

from ninja import Router

from fieldtally.server.prepare.doors.applying import router as applying
from fieldtally.server.prepare.doors.bench import router as bench
from fieldtally.server.prepare.doors.dosing import router as dosing
from fieldtally.server.prepare.doors.handout import router as handout
from fieldtally.server.prepare.doors.mixing import router as mixing
from fieldtally.server.prepare.doors.printing import router as printing
from fieldtally.server.prepare.doors.shuffling import router as shuffling
from fieldtally.server.prepare.doors.starting import router as starting

router = Router(tags=["prepare"])
for part in (bench, dosing, mixing, handout, shuffling, applying, starting, printing):
    router.add_router("", part)
