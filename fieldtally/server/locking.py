"""Waiting for one another, without a right to change what is waited for."""

from __future__ import annotations

from collections.abc import Iterable
from uuid import UUID

from django.db import connection


def hold(ids: Iterable[UUID]) -> None:
    """Hold these ids to the end of the transaction under way: whoever else would hold one of them waits until then."""
    with connection.cursor() as cursor:
        # In one order, so that two who want the same ones do not wait for each other.
        for key in sorted({one.int % 2**63 for one in ids}):
            cursor.execute("SELECT pg_advisory_xact_lock(%s)", [key])
