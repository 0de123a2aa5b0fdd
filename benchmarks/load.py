"""Sixty scorers in one trial at once, each giving one reading after the other, and sixty assessors in their booths beside them, against a
server on this machine; run by ./bench.

Prints readings stored a second, the times of requests, and how busy server and database were: what saturates.  It is bounded in time
(``python -m benchmarks.load 120``: seconds) and sends to the loopback address only.
"""

from __future__ import annotations

import http.client
import json
import os
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

SCORERS, ASSESSORS, SECONDS, SAMPLES = 60, 60, 30.0, 400
SESSIONS, THINKING = 10, 2.0
GOAL_RATE, GOAL_P95 = 100.0, 0.5
ROOT = Path(__file__).parents[1]


class Scorer(threading.Thread):
    """One scorer's device: the next reading is sent when the one before is stored."""

    def __init__(self, port: int, token: str, path: str, round_: str, samples: Sequence[str], until: float) -> None:
        super().__init__(daemon=True)
        self.port, self.token, self.path, self.round, self.samples, self.until = (
            port,
            token,
            path,
            round_,
            samples,
            until,
        )
        self.took: list[float] = []
        self.failed: list[int] = []

    def run(self) -> None:
        """Score."""
        there = http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
        headers = {"Authorization": f"Bearer {self.token}", "Content-Type": "application/json"}
        at = 0
        while time.monotonic() < self.until:
            reading = {
                "id": str(uuid4()),
                "round": self.round,
                "sample": self.samples[at % len(self.samples)],
                "outcome": "height",
                "kind": "value",
                "value": 10.0 + at % 7,
                "taken_at": datetime.now(UTC).isoformat(),
            }
            begun = time.monotonic()
            there.request("POST", self.path, json.dumps({"readings": [reading]}), headers)
            answer = there.getresponse()
            answer.read()
            self.took.append(time.monotonic() - begun)
            if answer.status != 200:
                self.failed.append(answer.status)
            at += 1


class Assessor(threading.Thread):
    """One assessor's device: looks at the booth, thinks, answers the next set; looks again where all are answered."""

    def __init__(self, port: int, token: str, until: float) -> None:
        super().__init__(daemon=True)
        self.port, self.token, self.until = port, token, until
        self.took: list[float] = []
        self.failed: list[int] = []
        self.answered = 0

    def _asked(self, there: http.client.HTTPConnection, method: str, path: str, body: object = None) -> dict[str, Any]:
        begun = time.monotonic()
        headers = {"Content-Type": "application/json", "X-Booth-Device": self.token[:20]}
        there.request(method, f"/api/booth/{self.token}{path}", None if body is None else json.dumps(body), headers)
        answer = there.getresponse()
        content = answer.read()
        self.took.append(time.monotonic() - begun)
        if answer.status != 200:
            self.failed.append(answer.status)
            return {}
        return dict(json.loads(content))

    def run(self) -> None:
        """Taste."""
        there = http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
        self._asked(there, "POST", "/consent", {"agreed": True, "adult": True})
        while time.monotonic() < self.until:
            booth = self._asked(there, "GET", "")
            open_sets = [one["id"] for one in booth.get("sets", []) if not one["answered"]]
            # The server lets go of who is silent for so long; a browser then calls it anew.
            there.close()
            time.sleep(THINKING)
            if open_sets:
                judgement = {
                    "id": str(uuid4()),
                    "serving": open_sets[0],
                    "answer": [0],
                    "given_at": datetime.now(UTC).isoformat(),
                }
                self.answered += bool(self._asked(there, "POST", "/judgements", {"judgements": [judgement]}))


def tasting(trial: Any, lead: Any) -> list[str]:
    """A panel of the trial, begun: the links of its assessors."""
    from fieldtally.core.panels.plan import PanelPlan
    from fieldtally.server.panels import planning

    panel = planning.begin_planning(trial, lead, PanelPlan("Two feeds", things=("t0", "t1"), sessions=SESSIONS))
    invited = planning.invite(panel, [planning.Invited(f"Taster {number}") for number in range(ASSESSORS)])
    planning.begin(panel)
    return [one.token for one in invited]


def prepared() -> tuple[Any, list[tuple[str, str]], list[str], list[str]]:
    """A running trial, a token and a round for each scorer, its samples, and the links of its assessors."""
    from django.utils import timezone

    from benchmarks.scale import made
    from fieldtally.server.people.models import AccessToken, Membership, Role, User
    from fieldtally.server.plan.models import Sample
    from fieldtally.server.rounds.services import open_round

    one = made(SAMPLES, timezone.now(), looks=2)
    scorers = []
    for number in range(SCORERS):
        user = User.objects.create_user(f"load-{number}@x.example", "a long password", name=f"Scorer {number}")
        Membership.objects.create(trial=one.trial, user=user, role=Role.SCORER)
        token = f"ft_load_{number}_{uuid4().hex}"
        AccessToken.objects.create(by=user, name="load", hash=AccessToken.hash_of(token), scope="write")
        scorers.append((token, str(open_round(one.trial, user, "d24").pk)))
    samples = [str(pk) for pk in Sample.objects.filter(trial=one.trial).order_by("code").values_list("pk", flat=True)]
    return one.trial, scorers, samples, tasting(one.trial, one.lead)


def cpu_of(process: int) -> float:
    """Seconds of CPU that a process and its children have used."""
    ticks = os.sysconf("SC_CLK_TCK")
    total = 0.0
    for stat in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = stat.read_text().rsplit(")", 1)[1].split()
        except OSError:
            continue
        if process in (int(stat.parent.name), int(fields[1])):
            total += (int(fields[11]) + int(fields[12])) / ticks
    return total


def main(seconds: float) -> None:
    """Print what was stored and how long it took."""
    os.environ["FT_DB_NAME"] = "bench_load"
    from fieldtally.server.ready import make_ready

    make_ready()
    from django.conf import settings

    trial, scorers, samples, links = prepared()
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    database = settings.DATABASES["default"]
    environment = {**os.environ, "FT_PORT": str(port), "FT_DB_NAME": str(database["NAME"])}
    command = ["gunicorn", "fieldtally.server.wsgi", "--bind", f"127.0.0.1:{port}", "--workers", "2", "--threads", "8"]
    server = subprocess.Popen(  # noqa: S603
        [sys.executable, "-m", *command, "--log-level", "error", "--no-control-socket"], cwd=ROOT, env=environment
    )
    try:
        time.sleep(5)
        until, before = time.monotonic() + seconds, cpu_of(server.pid)
        path = f"/api/trials/{trial.pk}/readings"
        devices = [Scorer(port, token, path, round_, samples, until) for token, round_ in scorers]
        booths = [Assessor(port, link, until) for link in links]
        for one in (*devices, *booths):
            one.start()
        for one in (*devices, *booths):
            one.join(seconds + 60)
        took = sorted(time_ for one in devices for time_ in one.took)
        failed = [status for one in devices for status in one.failed]
        spent = cpu_of(server.pid) - before
    finally:
        server.terminate()
        server.wait(20)
    rate, p95 = len(took) / seconds, took[int(0.95 * len(took))]
    waited = sorted(time_ for one in booths for time_ in one.took)
    answered = sum(one.answered for one in booths)
    turned = [status for one in booths for status in one.failed]
    print(
        f"{SCORERS} scorers in one trial for {seconds:g} s: {rate:.0f} readings stored a second (aim: {GOAL_RATE:g}), half within "
        f"{took[len(took) // 2]:.2f} s, 95 of 100 within {p95:.2f} s (aim: {GOAL_P95:g}), {len(failed)} refused; the server used "
        f"{spent / seconds:.2f} of {os.cpu_count()} cores"
    )
    print(
        f"{ASSESSORS} assessors beside them: {answered} answers locked, {len(waited) / seconds:.0f} requests a second, half within "
        f"{waited[len(waited) // 2]:.2f} s, 95 of 100 within {waited[int(0.95 * len(waited))]:.2f} s, {len(turned)} refused"
    )


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else SECONDS)
