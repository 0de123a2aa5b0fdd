"""What is measured of a running server, for Prometheus: counted in each process, gathered where it is asked for.

Nothing is counted, and ``/metrics`` is not there, without a token in ``FT_METRICS``.  Labels are doors, methods and kinds
of work, never people, trials or words.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from typing import Any

from django.apps import apps
from django.conf import settings
from django.db.models import Count
from django.utils import timezone

from fieldtally.server.hosting.queueing import queue_now

SECONDS = (0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 5.0, 10.0, 30.0)
LONG = (0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 60.0, 120.0, 300.0)
LATE = (1.0, 5.0, 30.0, 60.0, 600.0, 3_600.0, 21_600.0, 86_400.0, 604_800.0)


LETTERS = {
    "kept": "Letters that are kept here instead of being sent.",
    "waiting": "Letters that are on their way, or are tried again.",
    "failed": "Letters of the last thirty days that could not be sent.",
}


@dataclass(frozen=True)
class Counted:
    """What each process counts."""

    requests: Any
    work: Any
    late: Any


@cache
def _counted() -> Counted | None:
    if not settings.PLACE.metrics.get_secret_value():
        return None
    from prometheus_client import Histogram

    return Counted(
        Histogram(
            "field_tally_request_seconds",
            "How long requests took, by door.",
            ("method", "door", "status"),
            buckets=SECONDS,
        ),
        Histogram("field_tally_work_seconds", "How long a worker took, by kind of work.", ("work",), buckets=LONG),
        Histogram(
            "field_tally_outbox_age_seconds",
            "How long after it was taken a reading came in: devices without a network, and notebooks typed later.",
            buckets=LATE,
        ),
    )


def request_took(method: str, door: str, status: int, seconds: float) -> None:
    """A request was answered."""
    if (counted := _counted()) is not None:
        counted.requests.labels(method, door or "page", str(status)).observe(seconds)


def work_took(work: str, seconds: float) -> None:
    """A worker has done what ``work`` names."""
    if (counted := _counted()) is not None:
        counted.work.labels(work).observe(seconds)


def came_in(seconds: float) -> None:
    """A reading was stored, so long after it was taken."""
    if (counted := _counted()) is not None:
        counted.late.observe(seconds)


def exposition() -> bytes:
    """Everything as Prometheus reads it: what all processes have counted, and how queue, letters and late readings stand now."""
    from prometheus_client import REGISTRY, CollectorRegistry, generate_latest
    from prometheus_client.core import GaugeMetricFamily
    from prometheus_client.multiprocess import MultiProcessCollector

    class Now:
        """What stands in the database at this moment."""

        def collect(self) -> Iterator[Any]:
            """A gauge for each."""
            for name, says, value in _now():
                yield GaugeMetricFamily(name, says, value=value)

    registry = CollectorRegistry()
    if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        MultiProcessCollector(registry)  # type: ignore[no-untyped-call]
    registry.register(Now())
    counted = b"" if os.environ.get("PROMETHEUS_MULTIPROC_DIR") else generate_latest(REGISTRY)
    return counted + generate_latest(registry)


def _now() -> Iterator[tuple[str, str, float]]:
    now, queue = timezone.now(), queue_now()
    yield "field_tally_queue_waiting", "Pieces of long work that wait for a worker.", queue["waiting"]
    yield "field_tally_queue_running", "Pieces of long work that are being done.", queue["running"]
    yield "field_tally_queue_failed", "Pieces of long work that failed.", queue["failed"]
    oldest = (now - queue["oldest"]).total_seconds() if queue["oldest"] else 0.0
    yield "field_tally_queue_oldest_seconds", "How long the oldest of them has waited.", oldest
    letters = dict(apps.get_model("people", "Mail").objects.values_list("state").annotate(Count("pk")))
    for state, says in LETTERS.items():
        yield f"field_tally_letters_{state}", says, letters.get(state, 0)
