"""What a machine asks from outside: does it live, is it ready, what was measured.

``/healthz`` and ``/readyz`` say yes or no and nothing else; they are answered before hosts and HTTPS are looked at, for
whoever balances the load asks by number and in plain.  ``/metrics`` opens to its token alone.
"""

from __future__ import annotations

import hmac
from collections.abc import Callable
from functools import cache

from django.conf import settings
from django.core.cache import caches
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor
from django.http import HttpRequest, HttpResponse, JsonResponse

from fieldtally.server.hosting.metrics import exposition

PING = "field-tally-ready"


def seen_from_outside(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: the three addresses of machines."""

    def handle(request: HttpRequest) -> HttpResponse:
        match request.path_info:
            case "/healthz":
                return _plain(JsonResponse({"lives": True}))
            case "/readyz":
                found = readiness()
                return _plain(JsonResponse(found, status=200 if all(found.values()) else 503))
            case "/metrics":
                return _metrics(request)
        return get_response(request)

    return handle


def readiness() -> dict[str, bool]:
    """Whether the database answers, is as new as the program, and whether counts can be shared."""
    return {"database": _database(), "migrated": _migrated(), "cache": _cache()}


def _database() -> bool:
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except DatabaseError:
        connection.close()
        return False
    return True


@cache
def _known_migrated() -> bool:
    """Asked until it is so, and never again: a database does not grow older."""
    executor = MigrationExecutor(connection)
    if executor.migration_plan(executor.loader.graph.leaf_nodes()):
        raise LookupError
    return True


def _migrated() -> bool:
    try:
        return _known_migrated()
    except (LookupError, DatabaseError):
        return False


def _cache() -> bool:
    try:
        caches["default"].set(PING, 1, 60)
        return bool(caches["default"].get(PING) == 1)
    except Exception:
        return False


def _metrics(request: HttpRequest) -> HttpResponse:
    token = settings.PLACE.metrics.get_secret_value()
    given = request.headers.get("Authorization", "").removeprefix("Bearer ")
    if not token or not hmac.compare_digest(given.encode(), token.encode()):
        return HttpResponse("There is nothing here.", status=404, content_type="text/plain; charset=utf-8")
    return HttpResponse(exposition(), content_type="text/plain; version=0.0.4; charset=utf-8")


def _plain(answer: HttpResponse) -> HttpResponse:
    answer["Cache-Control"] = "no-store"
    return answer
