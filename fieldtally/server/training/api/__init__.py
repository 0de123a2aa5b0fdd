"""Doors of practice, of scorers together, and of how they agree."""

from ninja import Router

from fieldtally.server.training.api.agreeing import router as agreeing
from fieldtally.server.training.api.calibrating import router as calibrating
from fieldtally.server.training.api.practising import router as practising

router = Router(tags=["training"])
for part in (practising, calibrating, agreeing):
    router.add_router("", part)
