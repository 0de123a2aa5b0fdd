"""Doors of the verdict stage: opening the key and telling the verdict, progress before that, methods against each other, and receipts."""

from ninja import Router

from fieldtally.server.verdict.api.methods import router as methods
from fieldtally.server.verdict.api.progress import router as progress
from fieldtally.server.verdict.api.receipts import router as receipts
from fieldtally.server.verdict.api.telling import router as telling

router = Router(tags=["verdict"])
for part in (telling, progress, methods, receipts):
    router.add_router("", part)
