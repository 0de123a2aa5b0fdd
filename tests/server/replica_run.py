"""What test_replica has done in a process of its own: a line of JSON for each file that was made."""

from __future__ import annotations

import hashlib
import json
import os
import subprocess

import django


def run() -> None:
    """Have a pack made while the copy follows, lags, has caught up, is gone."""
    from django.db import connections

    from fieldtally.server.hosting import replica
    from fieldtally.server.log.services import write_note
    from fieldtally.server.people.models import Trial, User

    trial, lead = Trial.objects.get(), User.objects.get(email="lead@x.example")
    replica.WAITED = 20.0
    # The verdict is worked out once, from the database itself, and kept.
    _told("first", trial, lead)
    _told("it follows", trial, lead)
    replica.WAITED = 0.2
    with connections[replica.REPLICA].cursor() as cursor:
        cursor.execute("SELECT pg_wal_replay_pause()")
    write_note(trial, lead, "Moved to the lower shelf")
    _told("it lags", trial, lead)
    replica.WAITED = 20.0
    with connections[replica.REPLICA].cursor() as cursor:
        cursor.execute("SELECT pg_wal_replay_resume()")
    _told("it has caught up", trial, lead)
    stop = [os.environ["FT_PG_CTL"], "-D", os.environ["COPY"], "-m", "immediate", "-w", "-s", "stop"]
    subprocess.run([*(["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []), *stop], cwd="/", check=True)
    _told("it is gone", trial, lead)


def _told(when: str, trial: object, lead: object) -> None:
    from django.db import connections
    from django.test.utils import CaptureQueriesContext

    from fieldtally.server.hosting.replica import REPLICA
    from fieldtally.server.share import making
    from fieldtally.server.share.models import MadeFile

    MadeFile.objects.all().delete()
    row = making.ask(trial, lead, making.Wanted("pack"))
    with CaptureQueriesContext(connections["default"]) as here:
        if when == "it is gone":
            there = None
            making.make_file.func(str(row.pk))
        else:
            with CaptureQueriesContext(connections[REPLICA]) as there:
                making.make_file.func(str(row.pk))
    row.refresh_from_db()
    asked = [
        0 if own is None else sum('FROM "rounds_reading"' in one["sql"] for one in own.captured_queries)
        for own in (there, here)
    ]
    digest = hashlib.sha256(bytes(row.content)).hexdigest()
    print(json.dumps({"when": when, "state": row.state, "there": asked[0], "here": asked[1], "sha256": digest}))


if __name__ == "__main__":
    django.setup()
    run()
