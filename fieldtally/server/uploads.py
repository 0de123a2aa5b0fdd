"""Files that are sent: bounded before a byte of them is kept."""

from typing import Any

from django.core.files.uploadhandler import FileUploadHandler

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined

LARGEST_REQUEST = 26_000_000
LARGEST_BROUGHT = 210_000_000
"""A trial pack with its photos."""


class Bounded(FileUploadHandler):
    """Declines a request that is larger than any picture may be, by the length it announces; it handles nothing itself."""

    def handle_raw_input(
        self, input_data: Any, META: Any, content_length: int, boundary: Any, encoding: Any = None
    ) -> None:
        """:raises Declined: 413, the request is too large."""
        brought = self.request is not None and self.request.path == "/api/imports"
        most, told = (LARGEST_BROUGHT, "200 MB") if brought else (LARGEST_REQUEST, "25 MB")
        if content_length > most:
            raise Declined(413, Problem("file", f"This file is larger than {told}; take it smaller."))

    def receive_data_chunk(self, raw_data: bytes, start: int) -> bytes:
        """Left to the next handler."""
        return raw_data

    def file_complete(self, file_size: int) -> None:
        """Left to the next handler."""
