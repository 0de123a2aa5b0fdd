"""Long work that waits in Redis, a real one: in order, done while Redis is away, ended when it takes too long."""

import json
import shutil
import signal
import socket
import subprocess
import time

import pytest
from django_tasks import task_backends
from django_tasks_db import DatabaseBackend

from fieldtally.server.hosting import queueing
from fieldtally.server.hosting.place import Place
from fieldtally.server.hosting.queues import settings_for
from tests.server.apart import in_a_process, opened_trial


@pytest.fixture
def redis(tmp_path):
    """Its address, and the number of its process."""
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
    command = [
        shutil.which("redis-server"),
        "--port",
        str(port),
        "--bind",
        "127.0.0.1",
        "--save",
        "",
        "--dir",
        str(tmp_path),
    ]
    with subprocess.Popen(command, stdout=subprocess.DEVNULL) as running:
        for _ in range(200):
            try:
                socket.create_connection(("127.0.0.1", port), timeout=1).close()
                break
            except OSError:
                time.sleep(0.05)
        yield f"redis://127.0.0.1:{port}/0", running.pid
        running.kill()


def test_work_waits_in_redis_by_how_urgent_it_is_and_goes_on_without_redis(redis):
    address, pid = redis
    with opened_trial():
        lines = in_a_process("queue_run", FT_QUEUE="redis", FT_REDIS=address, REDIS_PID=str(pid)).splitlines()
    told = {name: value for line in lines for name, value in json.loads(line).items()}
    assert told["waits"] == {"urgent": 1, "default": 1, "patient": 1}
    assert (told["told"], told["oldest"], told["left"]) == (3, True, 0)
    assert told["first"] == "done"
    # What cannot be done is told by its kind.
    assert told["failed"][:1] == ["make verdict"] and told["count"] >= 1
    # Redis is gone: the database's queue takes it, and the same worker does it.
    assert told["without"] == "done"
    assert told["ended"] and told["files"] == 1


@pytest.mark.parametrize("sender", [DatabaseBackend, task_backends["default"]])
def test_a_piece_of_work_that_takes_too_long_is_ended(sender, monkeypatch):
    monkeypatch.setattr(queueing, "LONGEST", 1)
    before = signal.getsignal(signal.SIGALRM)
    try:
        queueing.end_in_time(sender)
        with pytest.raises(queueing.TooLong):
            time.sleep(10)
        # One that is done in time leaves nothing behind.
        queueing.end_in_time(sender)
        queueing.ended_in_time(sender)
        assert signal.alarm(0) == 0
    finally:
        signal.signal(signal.SIGALRM, before)


def test_the_database_is_the_queue_unless_it_is_said():
    assert settings_for("database", "") == {"TASKS": {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}}
    assert any("FT_QUEUE" in one for one in Place(secret="x", queue="redis").wrong())
    assert not any("FT_QUEUE" in one for one in Place(secret="x", queue="redis", redis="redis://127.0.0.1/0").wrong())
