"""Long work that waits in Redis (``FT_QUEUE=redis``), where very much of it does not weigh on the database."""

from __future__ import annotations

import logging
from typing import Any

from django_tasks import task_backends
from django_tasks.base import Task, TaskResult
from django_tasks_rq import RQBackend
from redis.exceptions import RedisError

from fieldtally.server.hosting.queues import KEPT, PATIENT, URGENT, USUAL

log = logging.getLogger(__name__)


class RedisQueue(RQBackend):
    """Redis, with three queues for what is urgent, usual and patient; the database takes what Redis does not."""

    supports_priority = True

    def enqueue(self, task: Task[Any, Any], args: Any, kwargs: Any) -> TaskResult[Any]:
        """Put ``task`` into its queue."""
        queue = URGENT if task.priority > 0 else PATIENT if task.priority < 0 else USUAL
        try:
            found: TaskResult[Any] = super().enqueue(task.using(queue_name=queue), args, kwargs)
        except RedisError as error:
            log.warning("Redis takes no work (%s); the database does", type(error).__name__)
            found = task_backends[KEPT].enqueue(task.using(backend=KEPT), args, kwargs)
        return found
