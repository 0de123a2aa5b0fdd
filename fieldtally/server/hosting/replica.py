"""Reading from a copy of the database (a streaming standby, ``FT_REPLICA``), so that whoever scores does not wait for whoever has a
season's report made.

Nothing is read there by itself: long work says so, by :func:`from_replica`, and then only from a copy that has everything the database
itself had when it was asked.  One that lags is waited for shortly and then left alone.  What is written, and what is read to be written, is
the database's own.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

from django.db import DEFAULT_DB_ALIAS, DatabaseError, connections

log = logging.getLogger(__name__)

REPLICA = "replica"
WAITED = 2.0
"""Seconds that a copy which lags is waited for."""
_reading: ContextVar[bool] = ContextVar("reading", default=False)


class ReadRouter:
    """Sends what is read inside :func:`from_replica` to the copy, and everything else to the database itself."""

    def db_for_read(self, model: Any, **hints: Any) -> str:
        """Where to read."""
        del model, hints
        return REPLICA if _reading.get() else DEFAULT_DB_ALIAS

    def db_for_write(self, model: Any, **hints: Any) -> str:
        """Where to write, and where to read what is about to be written."""
        del model, hints
        return DEFAULT_DB_ALIAS

    def allow_relation(self, *_: Any, **hints: Any) -> bool:
        """It is one database, seen from two sides."""
        del hints
        return True

    def allow_migrate(self, db: str, *_: Any, **hints: Any) -> bool:
        """The copy follows by itself."""
        del hints
        return db == DEFAULT_DB_ALIAS


@contextmanager
def from_replica() -> Iterator[None]:
    """What is read inside is read from the copy, where there is one that has all that stood in the database when this began."""
    token = _reading.set(REPLICA in connections and _caught_up())
    try:
        yield
    finally:
        _reading.reset(token)


def _caught_up() -> bool:
    with connections[DEFAULT_DB_ALIAS].cursor() as cursor:
        cursor.execute("SELECT pg_current_wal_lsn()::text")
        (here,) = cursor.fetchone()
    until = time.monotonic() + WAITED
    try:
        while True:
            with connections[REPLICA].cursor() as cursor:
                cursor.execute("SELECT pg_is_in_recovery() AND pg_last_wal_replay_lsn() >= %s::pg_lsn", [here])
                if cursor.fetchone()[0]:
                    return True
            if time.monotonic() > until:
                log.warning("The copy of the database lags; the database itself is read")
                return False
            time.sleep(0.05)
    except DatabaseError:
        connections[REPLICA].close()
        log.warning("The copy of the database does not answer; the database itself is read")
        return False
