"""What test_queue has done in a process of its own, where long work waits in Redis: lines of JSON."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time

import django

PATIENCE = 90.0


def _file_of(trial: object, lead: object) -> object:
    from fieldtally.server.share import making
    from fieldtally.server.share.models import MadeFile

    MadeFile.objects.all().delete()
    return making.ask(trial, lead, making.Wanted("readings"))


def _done(row: object) -> str:
    until = time.monotonic() + PATIENCE
    while time.monotonic() < until:
        row.refresh_from_db()
        if row.state in ("done", "failed"):
            return row.state
        time.sleep(0.1)
    return "nothing"


def _told(**what: object) -> None:
    print(json.dumps(what), flush=True)


def run() -> None:
    """Put work into Redis and see it done; kill Redis, and see work done all the same; tell what failed."""
    import django_rq

    from fieldtally.server.hosting.queueing import failed_last, queue_now
    from fieldtally.server.people.models import Trial, User
    from fieldtally.server.share.models import MadeFile
    from fieldtally.server.verdict.results import make_verdict

    trial, lead = Trial.objects.get(), User.objects.get(email="lead@x.example")
    row = _file_of(trial, lead)
    make_verdict.using(priority=30).enqueue("no trial", "no key")
    make_verdict.using(priority=-10).enqueue(str(trial.pk), "no key")
    waits = {name: len(django_rq.get_queue(name)) for name in ("urgent", "default", "patient")}
    _told(waits=waits, told=queue_now()["waiting"], oldest=queue_now()["oldest"] is not None)
    with subprocess.Popen([sys.executable, "-m", "django", "work"], stdout=sys.stderr) as worker:
        try:
            _told(first=_done(row))
            until = time.monotonic() + PATIENCE
            while queue_now()["waiting"] + queue_now()["running"] and time.monotonic() < until:
                time.sleep(0.1)
            _told(failed=failed_last(5), count=queue_now()["failed"], left=queue_now()["waiting"])
            os.kill(int(os.environ["REDIS_PID"]), signal.SIGKILL)
            row = _file_of(trial, lead)
            _told(without=_done(row), kept=queue_now()["failed"])
        finally:
            worker.terminate()
            _told(ended=worker.wait(60) is not None)
    _told(files=MadeFile.objects.count())


if __name__ == "__main__":
    django.setup()
    run()
