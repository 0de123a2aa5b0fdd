"""Doors of photos, and of what is measured in them."""

from ninja import Router

from fieldtally.server.measuring.api.gauging import router as gauging
from fieldtally.server.measuring.api.photos import router as photos
from fieldtally.server.measuring.api.tray import router as tray

router = Router(tags=["measuring"])
for part in (photos, tray, gauging):
    router.add_router("", part)
