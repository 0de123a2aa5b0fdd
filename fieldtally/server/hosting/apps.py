"""What begins with the server: measuring long work, and watching over what lies outside the database."""

from __future__ import annotations

from typing import Any

from django.apps import AppConfig


class HostingConfig(AppConfig):
    """Watches the work of workers."""

    name = "fieldtally.server.hosting"
    label = "hosting"

    def ready(self) -> None:
        """Measure each piece of work; let what lies outside go with its row."""
        from django_tasks.signals import task_finished, task_started

        from fieldtally.server.hosting import queueing, store

        task_finished.connect(_measured, dispatch_uid="hosting-measured")
        task_started.connect(queueing.end_in_time, dispatch_uid="hosting-longest")
        task_finished.connect(queueing.ended_in_time, dispatch_uid="hosting-longest-over")
        if store.outside():
            store.watch()


def _measured(sender: Any, task_result: Any, **told: Any) -> None:
    from fieldtally.server.hosting.metrics import work_took

    del sender, told
    if task_result.started_at and task_result.finished_at:
        work_took(task_result.task.name, (task_result.finished_at - task_result.started_at).total_seconds())
