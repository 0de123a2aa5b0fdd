"""The queues of long work, as Django's settings want them.

What is to be done stands in rows of its own either way; a queue says only that it is.  So work that Redis will not take goes to the
database's queue, and workers look after both.
"""

from __future__ import annotations

from typing import Any

LONGEST = 3_600
"""Seconds that one piece of work may take."""
KEPT = "kept"
"""The database's queue, where Redis has the others."""
URGENT, USUAL, PATIENT = "urgent", "default", "patient"
"""Queues in Redis, in the order in which workers ask them."""
IN_THE_DATABASE = {"BACKEND": "django_tasks_db.DatabaseBackend"}


def settings_for(queue: str, redis: str) -> dict[str, Any]:
    """``TASKS``, and what else Django's settings need for ``FT_QUEUE`` and ``FT_REDIS``."""
    if queue != "redis":
        return {"TASKS": {"default": IN_THE_DATABASE}}
    one = {"URL": redis, "DEFAULT_TIMEOUT": LONGEST, "REDIS_CLIENT_KWARGS": {"socket_connect_timeout": 1.0}}
    mine = {"BACKEND": "fieldtally.server.hosting.redis_queue.RedisQueue", "QUEUES": [URGENT, USUAL, PATIENT]}
    return {
        "TASKS": {"default": mine, KEPT: IN_THE_DATABASE},
        "RQ_QUEUES": {name: dict(one) for name in (URGENT, USUAL, PATIENT)},
    }
