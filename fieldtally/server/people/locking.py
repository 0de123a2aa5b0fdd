"""Waiting for one another, without a right to change what is waited for."""

from __future__ import annotations

from collections.abc import Iterable
from uuid import UUID

from django.db import connection


def hold(ids: Iterable[UUID]) -> None:
    """Hold these ids to the end of the transaction under way: whoever else would hold one of them waits until then."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(key) FROM unnest(%s::bigint[]) AS key", [keys_of(ids)])


def keys_of(ids: Iterable[UUID]) -> list[int]:
    """What the database holds for ``ids``: in one order, so that two who want the same ones do not wait for each other."""
    return sorted({one.int % 2**63 for one in ids})
