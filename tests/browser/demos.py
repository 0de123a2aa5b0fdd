"""The demo as the walks begin with it: loaded, its long work done, its people signed in; and copies of it.

``python -m tests.browser.demos FILE``, from ``ops/testing.py``, makes it ready in the cluster of the first worker, copies it into that of
the second and writes the sessions to FILE, while other tests still run.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import psycopg

from fieldtally.server.grants import grant

ROOT = Path(__file__).parents[2]
DEMO = "fieldtally_browser_demo"
"""The demo as it is loaded; each file of tests works on a copy of its own, so that none depends on another."""
CLUSTER = ("FT_DB_PORT", "FT_DB_PASSWORD", "FT_DB_APP_PASSWORD", "FT_CLUSTER")
"""What tells one cluster from another."""


def cluster_of(worker: str) -> dict[str, str]:
    """The settings of a worker's own database cluster, which it may restart without disturbing the others."""
    return {name: os.environ[f"{name}_{worker}"] for name in CLUSTER if f"{name}_{worker}" in os.environ}


def connected(database: str) -> psycopg.Connection:
    """A connection as the owner."""
    return psycopg.connect(
        host="127.0.0.1",
        port=os.environ["FT_DB_PORT"],
        user="fieldtally",
        password=os.environ["FT_DB_PASSWORD"],
        dbname=database,
        autocommit=True,
    )


def drop(name: str) -> None:
    """Drop a database, whoever is connected to it."""
    with connected("postgres") as connection:
        connection.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")


def environment_of(database: str) -> dict[str, str]:
    """What ``database`` is served in."""
    return {**os.environ, "FT_DB_NAME": database, "FT_DEMO": "1", "PYTHONPATH": str(ROOT)}


def _ran(database: str, *module: str) -> str:
    environment = {**environment_of(database), "DJANGO_SETTINGS_MODULE": "fieldtally.server.settings"}
    command = [sys.executable, "-m", *module]
    return subprocess.run(command, cwd=ROOT, env=environment, check=True, stdout=subprocess.PIPE, text=True).stdout


def made() -> dict[str, list[str]]:
    """Load the demo, do all the work that waits, sign its people in; the keys of their sessions, by address."""
    drop(DEMO)
    _ran(DEMO, "fieldtally.server.ready")
    _ran(DEMO, "django", "db_worker", "--batch", "--no-startup-delay")
    sessions: dict[str, list[str]] = json.loads(_ran(DEMO, "tests.browser.signed_in"))
    return sessions


def written(into: Path) -> None:
    """Write the demo into a file."""
    _tool("pg_dump", "-Fc", "-Z0", "-f", str(into), DEMO)


def copied(out_of: Path) -> None:
    """Make the demo of a file ready in another cluster."""
    drop(DEMO)
    with connected("postgres") as connection:
        connection.execute(f"CREATE DATABASE {DEMO}")
    _tool("pg_restore", "--no-privileges", "--exit-on-error", "-d", DEMO, str(out_of))
    with connected(DEMO) as connection:
        grant(connection, os.environ["FT_DB_APP_PASSWORD"])


def _tool(name: str, *more: str) -> None:
    command = [Path(os.environ["FT_PG_CTL"]).with_name(name), "-h", "127.0.0.1", "-U", "fieldtally"]
    told = {"PGPORT": os.environ["FT_DB_PORT"], "PGPASSWORD": os.environ["FT_DB_PASSWORD"]}
    subprocess.run([*command, *more], env={**os.environ, **told}, check=True)


if __name__ == "__main__":
    sessions_file = Path(sys.argv[1])
    demo_file = sessions_file.with_suffix(".dump")
    os.environ |= cluster_of("gw0")
    sessions = made()
    written(demo_file)
    os.environ |= cluster_of("gw1")
    copied(demo_file)
    sessions_file.write_text(json.dumps(sessions))
