"""Make the database ready to serve, and tell when the server answers.

``python -m fieldtally.server.ready`` creates the database where it is missing, migrates it and loads the demo;
``--announce PORT`` waits for the server and prints its address and the demo's sign-ins.
"""

import os
import sys
import time
import urllib.error
import urllib.request

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fieldtally.server.settings")


def make_ready() -> None:
    """Create, migrate, load the demo."""
    import django
    import psycopg

    django.setup()
    from django.conf import settings
    from django.core.management import call_command

    database = settings.DATABASES["default"]
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
    call_command("migrate", verbosity=0, interactive=False)
    call_command("createcachetable", verbosity=0)
    if settings.DEMO:
        from fieldtally.server.demo.society import load_demo

        load_demo()


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
