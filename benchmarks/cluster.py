"""The fault run through several nodes: people score through the proxy while web nodes, a worker, Redis, the pooler and at last the
database are killed under them; ``python -m benchmarks.cluster [SECONDS]``, as root, on Debian 12.

Starts ``ops/cluster`` in a folder of its own.  Each device keeps what it has not had an answer for and sends it again under its
id, as the browser's outbox does.  In the end every reading that was given is stored once, no answer took longer than it may,
and the verdict is made.
"""

from __future__ import annotations

import io
import json
import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import numpy as np
from PIL import Image

ROOT = Path(__file__).parents[1]
DEVICES, SAMPLES, SECONDS, PACE = 20, 60, 60.0, 0.3
MOST = 5.0
"""Seconds an answer may take, but for those of a restart of the database."""


class Device(threading.Thread):
    """Somebody who scores, with an outbox: what was not answered with 200 is sent again, in order."""

    def __init__(self, at: str, token: str, path: str, round_: str, samples: list[str], until: float) -> None:
        super().__init__(daemon=True)
        self.at, self.path, self.round, self.samples, self.until = at, path, round_, samples, until
        self.headers = {"Authorization": f"Bearer {token}"}
        self.given: dict[str, float] = {}
        self.took: list[tuple[float, float]] = []
        self.again = 0
        self.refused: list[str] = []

    def run(self) -> None:
        """Score until it is time, then until the outbox is empty."""
        outbox: list[dict[str, Any]] = []
        number = 0
        with httpx.Client(base_url=self.at, headers=self.headers, timeout=15) as client:
            while time.monotonic() < self.until or outbox:
                if time.monotonic() < self.until and not outbox:
                    outbox.append(self._reading(number))
                    number += 1
                if self._sent(client, outbox[:50]):
                    del outbox[:50]
                    time.sleep(PACE)
                else:
                    self.again += 1
                    time.sleep(0.3)
                if time.monotonic() > self.until + 120:
                    self.refused.append("the outbox did not empty")
                    return

    def _reading(self, number: int) -> dict[str, Any]:
        one = str(uuid4())
        self.given[one] = 10.0 + number % 7
        return {
            "id": one,
            "round": self.round,
            "sample": self.samples[number % len(self.samples)],
            "outcome": "height",
            "kind": "value",
            "value": self.given[one],
            "taken_at": datetime.now(UTC).isoformat(),
        }

    def _sent(self, client: httpx.Client, readings: list[dict[str, Any]]) -> bool:
        begun = time.monotonic()
        try:
            answer = client.post(self.path, json={"readings": readings})
        except httpx.HTTPError:
            return False
        finally:
            self.took.append((begun, time.monotonic() - begun))
        if 400 <= answer.status_code < 500:
            self.refused.append(f"{answer.status_code}: {answer.text[:200]}")
        return answer.status_code == 200


class Photographer(threading.Thread):
    """Somebody who takes photos of the samples all the while, with an outbox of their own."""

    def __init__(self, at: str, token: str, path: str, samples: list[str], until: float) -> None:
        super().__init__(daemon=True)
        self.at, self.path, self.samples, self.until = at, path, samples, until
        self.headers = {"Authorization": f"Bearer {token}"}
        self.given: list[str] = []
        self.took: list[tuple[float, float]] = []
        self.again = 0
        self.refused: list[str] = []

    def run(self) -> None:
        """Take one photo after the other; each is sent until it is in."""
        drawn = np.random.default_rng(7)
        with httpx.Client(base_url=self.at, headers=self.headers, timeout=15) as client:
            while time.monotonic() < self.until:
                pixels, out = drawn.integers(100, 200, (240, 320, 3), dtype=np.uint8), io.BytesIO()
                Image.fromarray(pixels).save(out, "JPEG")
                one = str(uuid4())
                self.given.append(one)
                shown = {"sample": self.samples[len(self.given) % len(self.samples)], "checkpoint": "d24"}
                told = {"id": one, "taken_at": datetime.now(UTC).isoformat(), **shown}
                while not self._sent(client, told, out.getvalue()):
                    self.again += 1
                    time.sleep(0.5)
                    if time.monotonic() > self.until + 120:
                        self.refused.append("a photo did not get in")
                        return
                time.sleep(1)

    def _sent(self, client: httpx.Client, told: dict[str, str], picture: bytes) -> bool:
        begun = time.monotonic()
        try:
            answer = client.post(self.path, data=told, files={"file": ("photo.jpg", picture, "image/jpeg")})
        except httpx.HTTPError:
            return False
        finally:
            self.took.append((begun, time.monotonic() - begun))
        if 400 <= answer.status_code < 500:
            self.refused.append(f"{answer.status_code}: {answer.text[:200]}")
            return True
        return answer.status_code == 200

    def missing(self) -> int:
        """How many of the photos that were taken cannot be had now."""
        with httpx.Client(base_url=self.at, headers=self.headers, timeout=30) as client:
            found = [client.get(f"/api/photos/{one}.jpg") for one in self.given]
        return sum(one.status_code != 200 or one.content[:3] != b"\xff\xd8\xff" for one in found)


def environment(folder: Path) -> dict[str, str]:
    """What a program needs to reach the cluster's database."""
    lines = (folder / "environment").read_text().splitlines()
    return dict(line.split("=", 1) for line in lines)


def ports(folder: Path) -> dict[str, int]:
    """Where each part listens, by name."""
    lines = [line.split() for line in (folder / "nodes").read_text().splitlines()]
    return {line[0]: int(line[1]) for line in lines if len(line) == 2}


def begun(folder: Path, **more: str) -> subprocess.Popen[bytes]:
    """The cluster, started and answering."""
    command = [str(ROOT / "ops/cluster"), str(folder)]
    running = subprocess.Popen(command, env={**os.environ, **more}, start_new_session=True)  # noqa: S603
    for _ in range(1_800):
        nodes = folder / "nodes"
        if nodes.is_file() and "ready" in nodes.read_text():
            return running
        if running.poll() is not None:
            break
        time.sleep(0.2)
    raise SystemExit("The cluster did not come up.")


def kill(folder: Path, part: str) -> None:
    """As a machine dies: without a word, and all that it had begun with it."""
    found = int((folder / f"{part}.pid").read_text())
    for one in (*_children(found), found):
        with suppress(ProcessLookupError):
            os.kill(one, signal.SIGKILL)


def _children(of: int) -> list[int]:
    found = []
    for stat in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError):
            if int(stat.read_text().rsplit(")", 1)[1].split()[1]) == of:
                found.append(int(stat.parent.name))
    return found


def main(seconds: float) -> None:
    """Print what was given, stored and lost, and how long answers took."""
    folder = Path(tempfile.mkdtemp(prefix="field-tally-cluster.", dir="/var/tmp"))
    running = begun(folder)
    try:
        _run(folder, seconds)
    finally:
        running.terminate()
        running.wait(60)
        subprocess.run(["rm", "-rf", str(folder)], check=False)  # noqa: S603, S607


def _run(folder: Path, seconds: float) -> None:
    os.environ |= environment(folder)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fieldtally.server.settings")
    import django

    django.setup()
    from django.db import connection

    from benchmarks.load import prepared
    from fieldtally.server.rounds.models import Reading

    one = prepared(DEVICES, 0, SAMPLES)
    at = f"http://127.0.0.1:{ports(folder)['proxy']}"
    path = f"/api/trials/{one.trial.pk}/readings"
    until = time.monotonic() + seconds
    devices = [Device(at, token, path, round_, one.samples, until) for token, round_ in one.scorers]
    token, _ = one.scorers[0]
    camera = Photographer(at, token, path.replace("/readings", "/photos"), one.samples, until)
    everybody: list[Device | Photographer] = [*devices, camera]
    for one_of_them in everybody:
        one_of_them.start()
    told = _struck(folder, seconds)
    for one_of_them in everybody:
        one_of_them.join(seconds + 180)
    connection.close()
    stored = dict(
        Reading.objects.filter(trial=one.trial, pk__in=[pk for d in devices for pk in d.given]).values_list(
            "pk", "value"
        )
    )
    given = {pk: value for device in devices for pk, value in device.given.items()}
    lost = [pk for pk in given if {str(k): v for k, v in stored.items()}.get(pk) is None]
    doubled = Reading.objects.filter(trial=one.trial, checkpoint__key="d24", supersedes=None).count()
    slow = [
        (begun_at, took)
        for device in everybody
        for begun_at, took in device.took
        if took > MOST
        and not any(
            struck <= begun_at + took and begun_at <= struck + 15 for part, struck in told if part == "database"
        )
    ]
    refused = [one for device in everybody for one in device.refused]
    unseen = camera.missing()
    times = sorted(took for device in devices for _, took in device.took)
    print(
        f"{len(devices)} devices for {seconds:g} s through two nodes; killed: {', '.join(part for part, _ in told)}. "
        f"{len(given)} readings given, {len(stored)} stored, {len(lost)} lost; {sum(d.again for d in devices)} sent again; "
        f"{doubled} first readings (at most {DEVICES * SAMPLES}); {len(refused)} refused; half within "
        f"{times[len(times) // 2]:.2f} s, 95 of 100 within {times[int(0.95 * len(times))]:.2f} s, {len(slow)} over {MOST:g} s "
        "but for the restart of the database"
    )
    print(
        f"{len(camera.given)} photos taken beside them, {camera.again} sent again, into the object store: {unseen} cannot be "
        f"had; the slowest took {max(took for _, took in camera.took):.1f} s"
    )
    for says in refused[:5]:
        print(says)
    for begun_at, time_ in slow[:10]:
        after = [f"{begun_at - struck:.1f} s after {part}" for part, struck in told if begun_at + time_ > struck]
        print(f"{time_:.1f} s, begun {'; '.join(after[-2:]) or 'before anything was killed'}")
    verdict = _verdict(folder, at, one)
    print(f"The verdict, asked for with both workers killed: {verdict}")
    if lost or refused or slow or unseen or doubled > DEVICES * SAMPLES or verdict != "done":
        raise SystemExit("That did not hold.")


def _struck(folder: Path, seconds: float) -> list[tuple[str, float]]:
    """Kill one part after the other, evenly over the time; what was struck when."""
    parts = ("web1", "worker1", "redis", "web2", "pooler", "database")
    told = []
    for part in parts:
        time.sleep(seconds / (len(parts) + 1))
        told.append((part, time.monotonic()))
        if part == "database":
            cluster = folder / "database/cluster"
            binary = sorted(Path("/usr/lib/postgresql").glob("*/bin"))[-1] / "pg_ctl"
            command = [
                "runuser",
                "-u",
                "postgres",
                "--",
                str(binary),
                "-D",
                str(cluster),
                "-m",
                "immediate",
                "-w",
                "-s",
                "restart",
            ]
            subprocess.run(command, cwd="/", check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)  # noqa: S603
        else:
            kill(folder, part)
    return told


def _verdict(folder: Path, at: str, one: Any) -> str:
    """Open the key, kill both workers, and wait for the verdict all the same."""
    from fieldtally.server.people.models import AccessToken
    from fieldtally.server.verdict import services

    services.ask_to_open(one.trial, one.lead)
    services.open_key(one.trial, one.lead, one.trial.title)
    token = f"ft_lead_{uuid4().hex}"
    AccessToken.objects.create(by=one.lead, name="fault", hash=AccessToken.hash_of(token), scope="read")
    for worker in ("worker1", "worker2"):
        kill(folder, worker)
    begun_at = time.monotonic()
    with httpx.Client(base_url=at, headers={"Authorization": f"Bearer {token}"}, timeout=30) as client:
        while time.monotonic() < begun_at + 240:
            answer = client.get(f"/api/trials/{one.trial.pk}/verdict.json")
            if answer.status_code == 200 and answer.json().get("state", "done") == "done":
                return "done"
            time.sleep(1)
    return json.dumps([answer.status_code, answer.text[:200]])


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else SECONDS)
