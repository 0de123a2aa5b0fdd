"""Many scorers in one trial at once and as many assessors in their booths beside them, against a server on this machine; run by ./bench.

Prints readings stored a second, the times of requests and of opening a round, and how busy the server was: what saturates.
It is bounded in time and sends to the loopback address only.  ``python -m benchmarks.load 120``: two minutes of sixty and sixty
who give one reading after the other without a pause; ``… 120 --people 200 --pace 4``: of 200 and 200 who take four seconds for
each, as people do.
"""

from __future__ import annotations

import argparse
import http.client
import json
import os
import random
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

PEOPLE, SECONDS, SAMPLES = 60, 30.0, 400
CHANCE = random.Random(7)  # noqa: S311 - pauses of people, no secrets
ARRIVING = 30.0
SESSIONS, THINKING = 10, 2.0
GOAL_RATE, GOAL_P95 = 100.0, 0.5
ROOT = Path(__file__).parents[1]


class Scorer(threading.Thread):
    """One scorer's device: it opens the round, then sends a reading when the one before is stored and ``pace`` seconds are over."""

    def __init__(
        self, port: int, token: str, path: str, round_: str, samples: Sequence[str], until: float, pace: float
    ) -> None:
        super().__init__(daemon=True)
        self.port, self.token, self.path, self.round = port, token, path, round_
        self.samples, self.until, self.pace = samples, until, pace
        self.took: list[float] = []
        self.opened: list[float] = []
        self.failed: list[int] = []

    def _asked(self, there: http.client.HTTPConnection, path: str, body: object) -> float:
        headers = {"Authorization": f"Bearer {self.token}", "Content-Type": "application/json"}
        begun = time.monotonic()
        there.request("POST", path, json.dumps(body), headers)
        answer = there.getresponse()
        answer.read()
        if answer.status != 200:
            self.failed.append(answer.status)
        return time.monotonic() - begun

    def run(self) -> None:
        """Score."""
        there = http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
        # People come one after the other, within half a minute; programs all at once.
        time.sleep(CHANCE.random() * (ARRIVING if self.pace else 0.0))
        self.opened.append(self._asked(there, self.path.replace("/readings", "/rounds"), {"checkpoint": "d24"}))
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
            self.took.append(self._asked(there, self.path, {"readings": [reading]}))
            at += 1
            if self.pace:
                # The server lets go of who is silent for so long; a browser then calls it anew.
                there.close()
                time.sleep(self.pace * (0.5 + CHANCE.random()))


class Assessor(threading.Thread):
    """One assessor's device: looks at the booth, thinks, answers the next set; looks again where all are answered."""

    def __init__(self, port: int, token: str, until: float, thinking: float) -> None:
        super().__init__(daemon=True)
        self.port, self.token, self.until, self.thinking = port, token, until, thinking
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
            time.sleep(self.thinking * (0.5 + CHANCE.random()))
            if open_sets:
                judgement = {
                    "id": str(uuid4()),
                    "serving": open_sets[0],
                    "answer": [0],
                    "given_at": datetime.now(UTC).isoformat(),
                }
                self.answered += bool(self._asked(there, "POST", "/judgements", {"judgements": [judgement]}))


def tasting(trial: Any, lead: Any, assessors: int) -> list[str]:
    """A panel of the trial, begun: the links of its assessors."""
    from fieldtally.core.panels.plan import PanelPlan
    from fieldtally.server.panels import planning

    panel = planning.begin_planning(trial, lead, PanelPlan("Two feeds", things=("t0", "t1"), sessions=SESSIONS))
    invited = planning.invite(panel, [planning.Invited(f"Taster {number}") for number in range(assessors)])
    planning.begin(panel)
    return [one.token for one in invited]


@dataclass(frozen=True)
class Prepared:
    """A running trial and its lead, a token and a round for each scorer, its samples, and the links of its assessors."""

    trial: Any
    lead: Any
    scorers: list[tuple[str, str]]
    samples: list[str]
    links: list[str]


def prepared(scoring: int, judging: int, many: int) -> Prepared:
    """A trial of ``many`` samples for so many who score and judge."""
    from django.utils import timezone

    from benchmarks.scale import made
    from fieldtally.server.people.models import AccessToken, Membership, Role, User
    from fieldtally.server.plan.models import Sample
    from fieldtally.server.rounds.services import open_round

    one = made(many, timezone.now(), looks=2)
    scorers = []
    for number in range(scoring):
        user = User.objects.create_user(f"load-{number}@x.example", "a long password", name=f"Scorer {number}")
        Membership.objects.create(trial=one.trial, user=user, role=Role.SCORER)
        token = f"ft_load_{number}_{uuid4().hex}"
        AccessToken.objects.create(by=user, name="load", hash=AccessToken.hash_of(token), scope="write")
        scorers.append((token, str(open_round(one.trial, user, "d24").pk)))
    samples = [str(pk) for pk in Sample.objects.filter(trial=one.trial).order_by("code").values_list("pk", flat=True)]
    return Prepared(one.trial, one.lead, scorers, samples, tasting(one.trial, one.lead, judging) if judging else [])


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


def _listens(port: int) -> None:
    """Wait until the server has read its program and listens; who comes before would be turned away."""
    for _ in range(1_200):
        with suppress(OSError), socket.create_connection(("127.0.0.1", port), timeout=1):
            return
        time.sleep(0.1)
    raise SystemExit("The server did not come up.")


def main(seconds: float, people: int, pace: float) -> None:
    """Print what was stored and how long it took."""
    os.environ["FT_DB_NAME"] = "bench_load"
    from fieldtally.server.ready import make_ready

    make_ready()
    from django.conf import settings

    one = prepared(people, people, SAMPLES)
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    database = settings.DATABASES["default"]
    environment = {**os.environ, "FT_PORT": str(port), "FT_DB_NAME": str(database["NAME"])}
    command = [
        "gunicorn",
        "fieldtally.server.wsgi",
        "--preload",
        "--bind",
        f"127.0.0.1:{port}",
        "--workers",
        "2",
        "--threads",
        "8",
    ]
    server = subprocess.Popen(  # noqa: S603
        [sys.executable, "-m", *command, "--log-level", "error", "--no-control-socket"], cwd=ROOT, env=environment
    )
    try:
        _listens(port)
        until, before = time.monotonic() + seconds, cpu_of(server.pid)
        path = f"/api/trials/{one.trial.pk}/readings"
        devices = [Scorer(port, token, path, round_, one.samples, until, pace) for token, round_ in one.scorers]
        booths = [Assessor(port, link, until, pace or THINKING) for link in one.links]
        for device in (*devices, *booths):
            device.start()
        for device in (*devices, *booths):
            device.join(seconds + 60)
        took = sorted(time_ for device in devices for time_ in device.took)
        opened = sorted(time_ for device in devices for time_ in device.opened)
        failed = [status for device in devices for status in device.failed]
        spent = cpu_of(server.pid) - before
    finally:
        server.terminate()
        server.wait(20)
    rate, p95 = len(took) / seconds, took[int(0.95 * len(took))]
    waited = sorted(time_ for booth in booths for time_ in booth.took)
    answered = sum(booth.answered for booth in booths)
    turned = [status for booth in booths for status in booth.failed]
    print(
        f"{people} scorers in one trial for {seconds:g} s, {f'{pace:g} s for each reading' if pace else 'without a pause'}: "
        f"{rate:.0f} readings stored a second (aim: {GOAL_RATE:g}), half within "
        f"{took[len(took) // 2]:.2f} s, 95 of 100 within {p95:.2f} s (aim: {GOAL_P95:g}), {len(failed)} refused; a round opened "
        f"within {opened[int(0.95 * len(opened))]:.2f} s for 95 of 100; the server used "
        f"{spent / seconds:.2f} of {os.cpu_count()} cores"
    )
    print(
        f"{people} assessors beside them: {answered} answers locked, {len(waited) / seconds:.0f} requests a second, half within "
        f"{waited[len(waited) // 2]:.2f} s, 95 of 100 within {waited[int(0.95 * len(waited))]:.2f} s, {len(turned)} refused"
    )


if __name__ == "__main__":
    told = argparse.ArgumentParser()
    told.add_argument("seconds", type=float, nargs="?", default=SECONDS)
    told.add_argument("--people", type=int, default=PEOPLE)
    told.add_argument("--pace", type=float, default=0.0)
    given = told.parse_args()
    main(given.seconds, given.people, given.pace)
