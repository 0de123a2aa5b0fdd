"""How long very many readings take from a table to a trial, and how much room; run by ./bench, on a database of its own."""

from __future__ import annotations

import os
import random
import resource
import socket
import subprocess
import sys
import threading
import time
from contextlib import suppress
from pathlib import Path
from uuid import uuid4

import django

AIMS = {100_000: 8.0, 199_000: 14.0, 1_000_000: 70.0}
"""Seconds for so many readings."""
MOST_MB = 500


def table(readings: int) -> bytes:
    """5 treatments in 10 blocks, 10 outcomes at 20 looks, a row a reading."""
    drawn = random.Random(1)  # noqa: S311
    rows = ["sample,treatment,block,day,outcome,value"]
    rows += [
        f"p{sample},t{sample % 5},b{sample % 10},{day},outcome {outcome},{drawn.random() * 10:.3f}"
        for sample in range(readings // 200)
        for day in range(20)
        for outcome in range(10)
    ]
    return "\n".join(rows).encode()


def sent(readings: int) -> None:
    """Keep a file, as the server does when it is sent; print its id, how long it took and how much room."""
    row_id, taken = _kept(Path(f"/tmp/ft-bench-{readings}.csv"))  # noqa: S108 - made by this program
    print(row_id, f"{taken:.2f}", _room())


def _kept(file: Path) -> tuple[str, float]:
    from fieldtally.server.people.models import User
    from fieldtally.server.share import importing

    user, _ = User.objects.get_or_create(email="import@x.example", defaults={"name": "Import"})
    begun = time.perf_counter()
    row = importing.keep(user, "big.csv", file.read_bytes())
    return str(row.pk), time.perf_counter() - begun


def carried(row_id: str) -> None:
    """Bring it in, as the worker does; print how it ended, how long it took and how much room."""
    from fieldtally.server.share import importing
    from fieldtally.server.share.models import Import

    Import.objects.filter(pk=row_id).update(state="running")
    begun = time.perf_counter()
    importing.carry_in.func(row_id)
    print(Import.objects.values_list("state", flat=True).get(pk=row_id), f"{time.perf_counter() - begun:.2f}", _room())


def _room() -> int:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024


def _apart(environment: dict[str, str], *arguments: str) -> list[str]:
    """What a step prints in a process of its own."""
    command = [sys.executable, "-m", "benchmarks.importing", *arguments]
    return subprocess.run(command, env=environment, check=True, capture_output=True, text=True).stdout.split()  # noqa: S603


class Looking(threading.Thread):
    """Somebody who opens their shelf all the while, through a server."""

    def __init__(self) -> None:
        from fieldtally.server.people.models import AccessToken, User

        super().__init__(daemon=True)
        user, _ = User.objects.get_or_create(email="import@x.example", defaults={"name": "Import"})
        self.token = f"ft_look_{uuid4().hex}"
        AccessToken.objects.create(by=user, name="look", hash=AccessToken.hash_of(self.token), scope="read")
        with socket.create_server(("127.0.0.1", 0)) as free:
            self.port = free.getsockname()[1]
        command = [
            "gunicorn",
            "fieldtally.server.wsgi",
            "--bind",
            f"127.0.0.1:{self.port}",
            "--threads",
            "4",
            "--log-level",
            "error",
        ]
        self.server = subprocess.Popen([sys.executable, "-m", *command, "--no-control-socket"])  # noqa: S603
        self.took: list[float] = []
        self.over = threading.Event()

    def run(self) -> None:
        """Open it five times a second, once the server answers."""
        # Not above: how much room the steps take is measured in processes that have no use for it.
        import httpx

        with httpx.Client(
            base_url=f"http://127.0.0.1:{self.port}", headers={"Authorization": f"Bearer {self.token}"}
        ) as there:
            while not self.over.wait(0.2):
                begun = time.perf_counter()
                with suppress(httpx.ConnectError):
                    there.get("/api/shelf", timeout=60).raise_for_status()
                    self.took.append(time.perf_counter() - begun)

    def ended(self) -> str:
        """How long it took."""
        self.over.set()
        self.join(90)
        self.server.terminate()
        self.server.wait(20)
        took = sorted(self.took)
        half, most = took[len(took) // 2], took[int(0.95 * len(took))]
        return f"half within {half:.2f} s, 95 of 100 within {most:.2f} s, the slowest {took[-1]:.2f} s"


def main() -> None:
    """Print the table."""
    os.environ["FT_DB_NAME"] = "bench_bringing"
    from fieldtally.server.ready import make_ready

    make_ready()
    chosen = [int(one) for one in sys.argv[1:]] or list(AIMS)
    for readings in chosen:
        file = Path(f"/tmp/ft-bench-{readings}.csv")  # noqa: S108 - removed again below
        file.write_bytes(table(readings))
        row_id, sending, room = _apart(dict(os.environ), "send", str(readings))
        file.unlink()
        looking = Looking()
        looking.start()
        state, bringing, most = _apart(dict(os.environ), "carry", row_id)
        print(
            f"a table of {readings:,} readings, from the file to the trial ({state}): {float(sending) + float(bringing):.1f} s "
            f"(aim: {AIMS[readings]:g}), at most {room} MB in the server and {most} MB in the worker (aim: {MOST_MB}); "
            f"a shelf opened meanwhile: {looking.ended()}",
            flush=True,
        )


if __name__ == "__main__":
    if sys.argv[1:2] in (["send"], ["carry"]):
        django.setup()
        if sys.argv[1] == "send":
            sent(int(sys.argv[2]))
        else:
            carried(sys.argv[2])
    else:
        main()
