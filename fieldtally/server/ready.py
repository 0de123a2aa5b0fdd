"""Make the database ready to serve, and tell when the server answers.

``python -m fieldtally.server.ready`` creates the database where it is missing, migrates it as its owner, gives the application's role its
rights and loads the demo; ``--restored`` checks the chain of every trial as well; ``--announce PORT`` waits for the server and prints its
address and the demo's sign-ins.
"""

import os
import sys
import time
import urllib.error
import urllib.request
from typing import Any

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fieldtally.server.settings")


def make_ready() -> None:
    """Create, migrate, load the demo."""
    import django
    import psycopg

    django.setup()
    from django.conf import settings
    from django.core.management import call_command

    from fieldtally.server.devices.registry import BadSetting, devices, station

    try:
        devices()
        station()
    except BadSetting as wrong:
        sys.exit(str(wrong))
    database: dict[str, Any] = dict(settings.DATABASES["default"])
    with psycopg.connect(
        host=database["HOST"],
        port=database["PORT"],
        user=database["USER"],
        password=database["PASSWORD"],
        dbname="postgres",
        autocommit=True,
    ) as connection:
        if not connection.execute("SELECT 1 FROM pg_database WHERE datname = %s", [database["NAME"]]).fetchone():
            connection.execute(psycopg.sql.SQL("CREATE DATABASE {}").format(psycopg.sql.Identifier(database["NAME"])))
    newer = _unknown_migrations()
    if newer:
        sys.exit(f"It was made by a newer Field Tally than this one ({newer[0]}).")
    call_command("migrate", verbosity=0, interactive=False)
    call_command("createcachetable", verbosity=0)
    _let_the_application_in()
    _begin_chains()
    if settings.DEMO:
        from fieldtally.server.demo.society import load_demo

        load_demo()


def _unknown_migrations() -> list[str]:
    """Migrations that the database has had and this version does not know."""
    from django.db import connection
    from django.db.migrations.loader import MigrationLoader

    loader = MigrationLoader(connection)
    ours = {name for name in loader.applied_migrations if name[0] in loader.migrated_apps}
    return sorted(".".join(one) for one in ours - set(loader.graph.nodes))


def _let_the_application_in() -> None:
    """Give the application's own role what it needs, where its password is told (``FT_DB_APP_PASSWORD``)."""
    from django.db import connection

    from fieldtally.server.grants import grant

    password = os.environ.get("FT_DB_APP_PASSWORD")
    if password:
        connection.ensure_connection()
        grant(connection.connection, password)


def _begin_chains() -> None:
    """Begin the chains of trials that were recorded by a version without them."""
    from fieldtally.server.people.models import Trial
    from fieldtally.server.verdict.chain import take_over

    for trial in Trial.objects.filter(sealed_at__isnull=False, chain=None):
        take_over(trial)


def check_restored() -> None:
    """Whether what was put back is what was recorded."""
    import django

    django.setup()
    from fieldtally.server.people.models import Trial
    from fieldtally.server.verdict.chain import faults_of

    for trial in Trial.objects.order_by("created_at"):
        found = faults_of(trial)
        if found:
            sys.exit(f"“{trial.title}” is not as it was recorded: {found[0]}")


def announce(port: str) -> None:
    """Wait until the server answers, then print where it is."""
    address = f"http://127.0.0.1:{port}"
    for _ in range(150):
        try:
            urllib.request.urlopen(f"{address}/api/doorstep", timeout=2)  # noqa: S310
            break
        except (urllib.error.URLError, OSError):
            time.sleep(0.1)
    else:
        sys.exit("The server did not come up.")
    print(f"\nField Tally is at {address}")
    if os.environ.get("FT_DEMO") == "1":
        from fieldtally.server.demo.accounts import PASSWORD, PEOPLE

        print(f"Demo sign-ins (password {PASSWORD}):")
        for person in PEOPLE:
            print(f"  {person.email:28} {person.does}")
    print("Ctrl-C stops it.\n", flush=True)


if __name__ == "__main__":
    if sys.argv[1:2] == ["--announce"]:
        announce(sys.argv[2])
    else:
        make_ready()
        if sys.argv[1:2] == ["--restored"]:
            check_restored()
