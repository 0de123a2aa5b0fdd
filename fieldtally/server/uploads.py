"""Files that are sent: bounded before a byte of them is kept."""

from typing import Any

from django.conf import settings
from django.core.files.uploadhandler import FileUploadHandler

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined

MEGABYTE = 1_000_000
AROUND = 0.05
"""What a request may add to its file: the frame of a form."""


class Bounded(FileUploadHandler):
    """Declines a request that is larger than any picture may be, by the length it announces; it handles nothing itself."""

    def handle_raw_input(
        self, input_data: Any, META: Any, content_length: int, boundary: Any, encoding: Any = None
    ) -> None:
        """:raises Declined: 413, the request is too large."""
        brought = self.request is not None and self.request.path == "/api/imports"
        most = settings.PLACE.largest_import if brought else settings.PLACE.largest_photo
        if content_length > most * MEGABYTE * (1 + AROUND):
            raise Declined(413, Problem("file", f"This file is larger than {most} MB; take it smaller."))

    def receive_data_chunk(self, raw_data: bytes, start: int) -> bytes:
        """Left to the next handler."""
        return raw_data

    def file_complete(self, file_size: int) -> None:
        """Left to the next handler."""
