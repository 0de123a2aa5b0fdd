"""Doors of the share stage: what is taken along, what is brought in, what comes next."""

from ninja import Router

from fieldtally.server.share.api.administering import router as administering
from fieldtally.server.share.api.files import router as files
from fieldtally.server.share.api.importing import router as importing
from fieldtally.server.share.api.knowing import router as knowing
from fieldtally.server.share.api.reporting import router as reporting
from fieldtally.server.share.api.shelving import router as shelving
from fieldtally.server.share.api.taking import router as taking

router = Router(tags=["share"])
for part in (taking, files, importing, reporting, knowing, shelving, administering):
    router.add_router("", part)
