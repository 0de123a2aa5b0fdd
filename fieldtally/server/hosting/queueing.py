"""Where long work waits: in the database, or in Redis (``FT_QUEUE=redis``), where very much of it does not weigh on the database.

What is to be done stands in rows of its own either way; a queue says only that it is.  So work that Redis will not take goes to the
database's queue, and workers look after both.  No piece of work goes on longer than :data:`LONGEST`.
"""

from __future__ import annotations

import signal
import threading
from datetime import datetime
from types import FrameType
from typing import Any

from django.apps import apps
from django.db.models import Count, Min, Q
from django_tasks_db import DatabaseBackend
from redis.exceptions import RedisError

from fieldtally.server.hosting.queues import LONGEST, PATIENT, URGENT, USUAL


class TooLong(Exception):
    """A piece of work took longer than any may."""


def end_in_time(sender: Any, **told: Any) -> None:
    """A piece of work of the database's queue has begun in this worker: it is ended when it takes too long.  Redis's ends by itself."""
    del told
    if _timed(sender):
        signal.signal(signal.SIGALRM, _ended)
        signal.alarm(LONGEST)


def ended_in_time(sender: Any, **told: Any) -> None:
    """It is done."""
    del told
    if _timed(sender):
        signal.alarm(0)


def _timed(sender: Any) -> bool:
    """Whether what a signal tells of is of the database's queue (its class or itself), and can be interrupted."""
    of = sender if isinstance(sender, type) else type(sender)
    return issubclass(of, DatabaseBackend) and threading.current_thread() is threading.main_thread()


def _ended(number: int, frame: FrameType | None) -> None:
    raise TooLong(f"It took longer than {LONGEST // 60} minutes.")


def queue_now() -> dict[str, Any]:
    """How long work stands: how much is ``waiting``, ``running`` and has ``failed``; since when the ``oldest`` waits (None: none)."""
    found: dict[str, Any] = _rows().aggregate(
        waiting=Count("pk", filter=Q(status="READY")),
        running=Count("pk", filter=Q(status="RUNNING")),
        failed=Count("pk", filter=Q(status="FAILED")),
        oldest=Min("enqueued_at", filter=Q(status="READY")),
    )
    for queue in _queues():
        try:
            found["waiting"] += len(queue) + len(queue.scheduled_job_registry)
            found["running"] += len(queue.started_job_registry)
            found["failed"] += len(queue.failed_job_registry)
            first = next(iter(queue.get_jobs(0, 1)), None)
        except RedisError:
            continue
        if first is not None and first.enqueued_at:
            found["oldest"] = min(one for one in (found["oldest"], first.enqueued_at) if one)
    return found


def failed_last(most: int) -> list[str]:
    """The kinds of the pieces of work that failed last, the newest first."""
    rows = _rows().filter(status="FAILED", finished_at__isnull=False).order_by("-finished_at")
    found: list[tuple[datetime, str]] = list(rows.values_list("finished_at", "task_path")[:most])
    for queue in _queues():
        try:
            jobs = [queue.fetch_job(one) for one in queue.failed_job_registry.get_job_ids()[-most:]]
        except RedisError:
            continue
        found += [(one.ended_at, one.func_name) for one in jobs if one is not None and one.ended_at]
    return [path.rsplit(".", 1)[-1].replace("_", " ") for _, path in sorted(found, reverse=True)[:most]]


def _rows() -> Any:
    return apps.get_model("django_tasks_database", "DBTaskResult").objects


def _queues() -> list[Any]:
    if not apps.is_installed("django_rq"):
        return []
    import django_rq

    return [django_rq.get_queue(name) for name in (URGENT, USUAL, PATIENT)]
