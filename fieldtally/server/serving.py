"""How gunicorn serves: ``gunicorn -c python:fieldtally.server.serving fieldtally.server.wsgi``."""

from __future__ import annotations

import os
import shutil
import sys
from pathlib import Path
from typing import Any

from fieldtally.server.hosting.place import Wrong, place

try:
    _place = place()
except Wrong as wrong:
    sys.exit(str(wrong))
bind = [f"unix:{_place.socket}" if _place.socket else f"{_place.bind}:{_place.port}"]
workers, threads, worker_class = _place.workers, _place.threads, "gthread"
# Read as a whole before it listens: a proxy that is refused asks another node, one that is let in waits until the program is read.
preload_app = True
loglevel = "warning"
graceful_timeout, timeout, keepalive = 15, 120, 15
# Only our own proxies reach it, and what they say is looked at in proxies.py.
forwarded_allow_ips = "127.0.0.1"
control_socket_disable = True
# A worker that grew with what it was asked is renewed; not all of them at once.
max_requests, max_requests_jitter = 20_000, 5_000


def on_starting(server: Any) -> None:
    """Refuse what must not be reached, and begin to count anew."""
    if _place.public:
        from fieldtally.server.demo.fitness import unfit

        if says := unfit():
            sys.exit("\n".join(says))
        from django.db import connections

        # Processes that are begun from here have connections of their own.
        connections.close_all()
    folder = os.environ.get("PROMETHEUS_MULTIPROC_DIR")
    if folder:
        shutil.rmtree(folder, ignore_errors=True)
        Path(folder).mkdir(mode=0o700, parents=True)


def child_exit(server: Any, worker: Any) -> None:
    """What a process counted stays counted when it ends."""
    if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        from prometheus_client.multiprocess import mark_process_dead

        mark_process_dead(worker.pid)  # type: ignore[no-untyped-call]
