"""The log: a line for each request and for whatever goes wrong.

People and trials stand in it as numbers; never a name, an address of mail, a code, a treatment, or what an address carries
that opens something.
"""

from __future__ import annotations

import logging
import re
import time
from collections.abc import Callable
from contextvars import ContextVar
from typing import Any
from uuid import UUID, uuid4

from django.http import HttpRequest, HttpResponse

from fieldtally.server.hosting.metrics import request_took

TOLD = logging.getLogger("fieldtally.request")
HEADER = "X-Request-ID"
ASKED = re.compile(r"[A-Za-z0-9._-]{8,64}")
TRIAL = re.compile(r"/trials/([0-9a-f-]{36})")
UNDER_WAY: ContextVar[dict[str, Any] | None] = ContextVar("request", default=None)


class OfRequest(logging.Filter):
    """Adds to each line which request it belongs to."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Always kept."""
        for name, value in (UNDER_WAY.get() or {}).items():
            setattr(record, name, value)
        return True


class Shortened(logging.Filter):
    """Takes out of each line what may name somebody or open something: arguments stay in the program."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Always kept, without what was asked for: an address can hold a code or a token."""
        if record.name.startswith("django."):
            record.msg, record.args = record.name, ()
        record.__dict__.pop("request", None)
        return True


def logging_of(form: str) -> dict[str, Any]:
    """Django's ``LOGGING`` for ``plain`` or ``json``; in plain form requests that went well are not told."""
    plain = form == "plain"
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "filters": {"of_request": {"()": OfRequest}, "shortened": {"()": Shortened}},
        "formatters": {
            "json": {
                "()": "pythonjsonlogger.json.JsonFormatter",
                "format": "{asctime}{levelname}{name}{message}",
                "style": "{",
                "rename_fields": {"asctime": "at", "levelname": "level", "name": "part", "message": "says"},
            }
        },
        "handlers": {
            "console": {
                "class": "logging.StreamHandler",
                "filters": ["of_request"] if plain else ["of_request", "shortened"],
                **({} if plain else {"formatter": "json"}),
            }
        },
        "root": {"handlers": ["console"], "level": "WARNING"},
        "loggers": {
            "django.request": {"level": "ERROR"},
            "fieldtally.request": {"level": "WARNING" if plain else "INFO"},
        },
    }


def each_request(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: every request has a number, and is told with how long it took; where that is logged, the answer carries the number."""

    def handle(request: HttpRequest) -> HttpResponse:
        began = time.perf_counter()
        asked = request.headers.get(HEADER, "")
        number = asked if ASKED.fullmatch(asked) else uuid4().hex
        before = UNDER_WAY.set({"request_id": number})
        try:
            answer = get_response(request)
            if TOLD.isEnabledFor(logging.INFO):
                answer[HEADER] = number
            _tell(request, answer, time.perf_counter() - began)
        finally:
            UNDER_WAY.reset(before)
        return answer

    return handle


def _tell(request: HttpRequest, answer: HttpResponse, seconds: float) -> None:
    request_took(request.method or "", door_of(request), answer.status_code, seconds)
    if not TOLD.isEnabledFor(logging.INFO):
        return
    trial = TRIAL.search(request.path)
    # Who is signed in is told where somebody asked for it, and not looked up for the log.
    user = request.__dict__.get("_cached_user")
    TOLD.info(
        "%s %s",
        request.method,
        answer.status_code,
        extra={
            "door": door_of(request),
            "ms": round(1_000 * seconds),
            "bytes": len(answer.content) if not answer.streaming else None,
            "user": getattr(user, "pk", None),
            "trial": str(UUID(trial[1])) if trial else None,
        },
    )


def door_of(request: HttpRequest) -> str:
    """The pattern of the address that was asked for, without what stands in it; empty where there is no such door."""
    found = request.resolver_match
    return found.route if found else ""
