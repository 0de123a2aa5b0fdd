"""Reading request bodies: JSON in UTF-8, without characters that no text may hold."""

import json

from django.http import HttpRequest
from ninja.parser import Parser
from ninja.types import DictStrAny

from fieldtally.server.answers import Declined


class CarefulParser(Parser):
    """Refuses bodies that are not JSON, or that hold NUL, half characters or numbers without end."""

    def parse_body(self, request: HttpRequest) -> DictStrAny:
        """The JSON value of the body."""
        try:
            value = json.loads(request.body, parse_constant=_no_such_number)
            json.dumps(value, ensure_ascii=False).encode()
        except (ValueError, RecursionError) as error:
            raise Declined(422, "What was sent could not be read; nothing was stored.") from error
        if b"\\u0000" in request.body or b"\x00" in request.body:
            raise Declined(422, "There is a character in the text that cannot be stored.")
        return value


def _no_such_number(name: str) -> float:
    raise ValueError(name)
