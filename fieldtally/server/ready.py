"""Make the database ready to serve, and tell when the server answers.

``python -m fieldtally.server.ready`` creates the database where it is missing, migrates it as its owner, gives the application's role its
rights and loads the demo; ``--restored`` checks the chain of every trial as well; ``--known`` says whether this version knows all that the
database has had; ``--announce PORT`` waits for the server and prints its address and the demo's sign-ins.
"""

import os
import sys
import time
import urllib.error
import urllib.request
from typing import Any

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fieldtally.server.settings")


def as_owner() -> None:
    """Set Django up as the owner of the database."""
    import django

    from fieldtally.server.hosting.place import Wrong, place

    try:
        here = place()
    except Wrong as wrong:
        sys.exit(str(wrong))
    if here.owner:
        # The owner migrates, past any pooler; the password of the role that serves is told by its own address.
        os.environ.setdefault("FT_DB_APP_PASSWORD", here.serves_with)
        os.environ |= {"FT_DATABASE": here.owner, "FT_OWNER": "", "FT_POOLED": "0"}
    django.setup()


def make_ready() -> None:
    """Create, migrate, load the demo."""
    as_owner()
    from django.conf import settings
    from django.core.management import call_command

    from fieldtally.server.devices.registry import BadSetting, devices, station

    try:
        devices()
        station()
    except BadSetting as wrong:
        sys.exit(str(wrong))
    _made(dict(settings.DATABASES["default"]))
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


def _made(database: dict[str, Any]) -> None:
    """Make the database where it is missing."""
    import psycopg

    to: dict[str, Any] = {
        "host": database["HOST"],
        "port": database["PORT"],
        "user": database["USER"],
        "password": database["PASSWORD"],
        **database.get("OPTIONS", {}),
    }
    try:
        with psycopg.connect(dbname=database["NAME"], **to):
            return
    except psycopg.OperationalError as error:
        if "does not exist" not in str(error):
            sys.exit(f"The database cannot be reached: {error}")
    with psycopg.connect(dbname="postgres", autocommit=True, **to) as connection:
        connection.execute(psycopg.sql.SQL("CREATE DATABASE {}").format(psycopg.sql.Identifier(database["NAME"])))


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

    from fieldtally.server.grants import NotLess, grant

    password = os.environ.get("FT_DB_APP_PASSWORD")
    if password:
        connection.ensure_connection()
        try:
            grant(connection.connection, password)
        except NotLess as more:
            sys.exit(str(more))


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
    for _ in range(600):
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
    if sys.argv[1:] == ["--known"]:
        as_owner()
        if newer := _unknown_migrations():
            sys.exit(f"It was made by a newer Field Tally than this one ({newer[0]}).")
    elif sys.argv[1:2] == ["--announce"]:
        announce(sys.argv[2])
    else:
        make_ready()
        if sys.argv[1:2] == ["--restored"]:
            check_restored()
