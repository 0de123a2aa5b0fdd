"""Reading request bodies: JSON in UTF-8, without characters that no text may hold."""

import json
from typing import Any, cast

from django.http import HttpRequest
from ninja.parser import Parser
from ninja.types import DictStrAny


class CarefulParser(Parser):
    """Refuses bodies that are not JSON, or that hold NUL, half characters or numbers without end."""

    def parse_body(self, request: HttpRequest) -> DictStrAny:
        """The JSON value of the body; whatever is raised here is answered with 400."""
        value = json.loads(request.body, parse_constant=_refused)
        json.dumps(value, ensure_ascii=False).encode()
        if b"\\u0000" in request.body:
            _refused("NUL")
        return cast(dict[str, Any], value)


def _refused(name: str) -> None:
    raise ValueError(name)
