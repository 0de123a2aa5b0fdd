"""Doors of the plan stage: the draft and its seal, what the app judges of it, what earlier trials lend, what comes later."""

from ninja import Router

from fieldtally.server.plan.api.draft import router as draft
from fieldtally.server.plan.api.judging import router as judging
from fieldtally.server.plan.api.later import router as later
from fieldtally.server.plan.api.library import router as library
from fieldtally.server.plan.api.rehearsing import router as rehearsing

router = Router(tags=["plan"])
for part in (draft, judging, rehearsing, library, later):
    router.add_router("", part)
