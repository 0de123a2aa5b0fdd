"""Doors of the plan stage: the draft and its seal, a trial told in words, what is judged of it, what earlier trials lend, what is later."""

from ninja import Router

from fieldtally.server.plan.api.draft import router as draft
from fieldtally.server.plan.api.judging import router as judging
from fieldtally.server.plan.api.later import router as later
from fieldtally.server.plan.api.library import router as library
from fieldtally.server.plan.api.rehearsing import router as rehearsing
from fieldtally.server.plan.api.telling import router as telling

router = Router(tags=["plan"])
for part in (draft, telling, judging, rehearsing, library, later):
    router.add_router("", part)
