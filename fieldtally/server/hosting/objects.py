"""An object store that is asked with patience, but not for ever."""

from __future__ import annotations

from typing import Any

from botocore.config import Config
from storages.backends.s3 import S3Storage


class ObjectStore(S3Storage):  # type: ignore[misc]
    """S3 as django-storages speaks it; whoever waits for it is told within seconds that it does not answer."""

    def __init__(self, **options: Any) -> None:
        patience = Config(
            connect_timeout=2,
            read_timeout=10,
            retries={"total_max_attempts": 2},
            s3={"addressing_style": options["addressing_style"]},
            signature_version=options["signature_version"],
        )
        super().__init__(**options, client_config=patience)
