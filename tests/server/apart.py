"""A database that is committed to, with one opened trial in it, and steps in processes of their own: for what a test's transaction hides.

``python -m tests.server.apart`` fills it.
"""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from uuid import uuid4

import psycopg
from psycopg import sql

ROOT = Path(__file__).parents[2]


def environment(**more: str) -> dict[str, str]:
    return {**os.environ, "DJANGO_SETTINGS_MODULE": "fieldtally.server.settings", "FT_DEMO": "0", **more}


def in_a_process(module: str, **more: str) -> str:
    """What a step prints."""
    command = [sys.executable, "-m", f"tests.server.{module}"]
    done = subprocess.run(command, env=environment(**more), capture_output=True, text=True, cwd=ROOT, check=False)
    assert done.returncode == 0, done.stderr[-3_000:]
    return done.stdout


@contextmanager
def opened_trial() -> Iterator[None]:
    """While it lasts ``FT_DB_NAME`` names the database."""
    name = os.environ["FT_DB_NAME"] = f"apart_{uuid4().hex[:12]}"
    whence = f"host=127.0.0.1 port={os.environ['FT_DB_PORT']} user=fieldtally password={os.environ['FT_DB_PASSWORD']}"
    try:
        in_a_process("apart")
        yield
    finally:
        del os.environ["FT_DB_NAME"]
        with psycopg.connect(f"{whence} dbname=postgres", autocommit=True) as owner:
            owner.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(name)))


if __name__ == "__main__":
    from fieldtally.server.ready import make_ready

    make_ready()
    from tests.server.conftest import make

    make("opened")
