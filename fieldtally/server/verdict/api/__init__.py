"""Doors of the verdict stage: opening the key, the line-up, the verdict, progress before it, methods against each other, receipts."""

from ninja import Router

from fieldtally.server.verdict.api.lineup import router as lineup
from fieldtally.server.verdict.api.methods import router as methods
from fieldtally.server.verdict.api.progress import router as progress
from fieldtally.server.verdict.api.receipts import router as receipts
from fieldtally.server.verdict.api.telling import router as telling

router = Router(tags=["verdict"])
for part in (telling, lineup, progress, methods, receipts):
    router.add_router("", part)
