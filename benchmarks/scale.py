"""Each page and act at 100, 1,000 and 10,000 samples: queries, time in the database, whole time, CPU, and growth from 1,000 to 10,000.

The trials are made through the project's own services: planned, sealed, started, scored by two scorers at every look (at 10,000 samples by
one at every second look, so that it does not take hours), and the key opened.  Run by ./bench, on a database of its own;
``python -m benchmarks.scale 100 1000`` takes those sizes only.
"""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import uuid4

import numpy as np

SIZES = (100, 1_000, 10_000)
LOOKS = 24
DAY = 1_440
GOALS: dict[str, float] = {
    "verdict again": 0.2,
    "report page": 0.5,
    "agreement": 0.5,
    "tally": 0.5,
    "a done round": 0.3,
    "board": 0.3,
    "course": 0.3,
    "shelf": 0.3,
    "today": 0.3,
    "log": 0.3,
    "one reading": 0.05,
    "100 readings": 0.15,
    "verdict first": 6.0,
    "report.pdf": 10.0,
    "pack.zip": 5.0,
    "workbook.xlsx": 8.0,
}
"""Seconds, at 1,000 samples and (but for what follows and what a worker does) at 10,000."""
AT_MOST: dict[str, float] = {"verdict again": 0.5, "a done round": 1.5, "verdict first": 30.0}
"""Seconds at 10,000, where they are others."""
FILES = {"report.pdf": "report", "pack.zip": "pack", "workbook.xlsx": "workbook"}


@dataclass
class Made:
    """A trial with who leads and scores it."""

    trial: Any
    lead: Any
    scorer: Any
    client: Any
    scoring: Any
    round: Any


def plan_of_size(samples: int) -> Any:
    """Four treatments in ten blocks, a measurement and a grade at 24 looks."""
    from fieldtally.core.design.fair.items import ITEMS
    from fieldtally.core.design.plan import Block, Checkpoint, Layout, Outcome, Plan, Stand, Treatment
    from fieldtally.core.scales import GradeScale, Level, MeasurementScale

    return Plan(
        title=f"Rows of {samples:,}",
        question="Which feed makes rows grow best?",
        sample_word="plant",
        treatments=tuple(
            Treatment(f"t{i}", f"Feed {i}", "untreated" if i == 0 else "treatment", samples // 40) for i in range(4)
        ),
        layout=Layout("blocks", tuple(Block(f"b{i}", f"Bed {i}") for i in range(10))),
        outcomes=(
            Outcome("height", "Height", MeasurementScale("cm", 0.1)),
            Outcome("vigour", "Vigour", GradeScale(tuple(Level(float(i), str(i)) for i in range(6))), primary=False),
        ),
        checkpoints=tuple(Checkpoint(f"d{i}", f"Day {i}", i * DAY, 300, 300) for i in range(1, LOOKS + 1)),
        fairness=tuple(Stand(item.key, False, "a benchmark") for item in ITEMS),
    )


def made(samples: int, now: datetime, looks: int = LOOKS) -> Made:
    """The trial, scored at its first ``looks``."""
    from django.test import Client

    from fieldtally.core.rounds.written import Written
    from fieldtally.server.people.models import Membership, Role, User
    from fieldtally.server.plan import services as plan_services
    from fieldtally.server.plan.queries import key_of, samples_of
    from fieldtally.server.prepare import services as prepare_services
    from fieldtally.server.rounds.services import open_round
    from fieldtally.server.rounds.writing import write_readings

    lead, *scorers = (
        User.objects.create_user(f"{name}-{samples}@x.example", "a long password", name=name)
        for name in ("Lead", "First", "Second")
    )
    trial = plan_services.begin(lead, plan_of_size(samples))
    for one in scorers:
        Membership.objects.create(trial=trial, user=one, role=Role.SCORER)
    began = now - timedelta(days=LOOKS + 1)
    plan_services.seal(trial, lead, 1, seed="c0ffee", at=began)
    trial.refresh_from_db()
    prepare_services.start_exposure(trial, lead, at=began + timedelta(hours=1))
    trial.refresh_from_db()
    rng = np.random.default_rng(samples)
    placed, key = samples_of(trial), key_of(trial)
    effect = np.array([int(key[one.pk][1:]) * 0.3 for one in placed])
    opened = None
    for look in range(1, looks + 1):
        if samples > 1_000 and look % 2:
            continue
        at = began + timedelta(days=look)
        for scorer in scorers if samples <= 1_000 else scorers[:1]:
            opened = open_round(trial, scorer, f"d{look}", at=at)
            heights = np.round(10 + look * 0.5 + effect * look / 10 + rng.normal(0, 1, len(placed)), 1)
            grades = np.clip(np.round(2.5 + effect + rng.normal(0, 1, len(placed))), 0, 5)
            missed = rng.random(len(placed)) < 0.01
            written = [
                Written(uuid4(), opened.pk, one.pk, outcome, "value", float(value), "", at)
                for one, tall, grade, gone in zip(placed, heights, grades, missed, strict=True)
                if not gone
                for outcome, value in (("height", tall), ("vigour", grade))
            ]
            for begin in range(0, len(written), 500):
                write_readings(trial, scorer, written[begin : begin + 500], now=at + timedelta(minutes=5))
    of_lead, of_scorer = Client(), Client()
    for client, person in ((of_lead, lead), (of_scorer, scorers[0])):
        client.force_login(person, backend="allauth.account.auth_backends.AuthenticationBackend")
    return Made(trial, lead, scorers[0], of_lead, of_scorer, opened)


def body(one: Made, many: int) -> dict[str, Any]:
    """Readings for a POST: heights of the first samples, entered again in the newest round."""
    from fieldtally.server.plan.models import Sample
    from fieldtally.server.rounds.models import Round

    opened = Round.objects.filter(trial=one.trial, scorer=one.scorer).order_by("-opened_at").first()
    samples = Sample.objects.filter(trial=one.trial).order_by("code").values_list("pk", flat=True)[:many]
    return {
        "readings": [
            {
                "id": str(uuid4()),
                "round": str(opened.pk) if opened else "",
                "sample": str(sample),
                "outcome": "height",
                "kind": "value",
                "value": 22.0,
                "taken_at": datetime.now().astimezone().isoformat(),
            }
            for sample in samples
        ]
    }


def timed(call: Callable[[], Any]) -> tuple[int, float, float, float]:
    """Queries, seconds in the database, seconds in all and of CPU: the best of three."""
    from django.db import connection
    from django.test.utils import CaptureQueriesContext

    found = []
    for _ in range(3):
        with CaptureQueriesContext(connection) as asked:
            begun, spent = time.perf_counter(), time.process_time()
            answer = call()
            took, cpu = time.perf_counter() - begun, time.process_time() - spent
        assert answer.status_code in (200, 202), (answer.status_code, answer.content[:300])
        found.append((len(asked), sum(float(one["time"]) for one in asked.captured_queries), took, cpu))
    return min(found, key=lambda row: row[2])


def running(one: Made) -> dict[str, Callable[[], Any]]:
    """What is asked while a trial runs."""
    base = f"/api/trials/{one.trial.pk}"

    def post(many: int) -> Callable[[], Any]:
        return lambda: one.scoring.post(f"{base}/readings", body(one, many), content_type="application/json")

    return {
        "course": lambda: one.client.get(f"{base}/course"),
        "board": lambda: one.client.get(f"{base}/board"),
        "shelf": lambda: one.client.get("/api/shelf"),
        "today": lambda: one.scoring.get("/api/today"),
        "log": lambda: one.client.get(f"{base}/log"),
        "agreement": lambda: one.client.get(f"{base}/agreement"),
        "a done round": lambda: one.scoring.post(
            f"{base}/rounds", {"checkpoint": f"d{LOOKS}"}, content_type="application/json"
        ),
        "one reading": post(1),
        "100 readings": post(100),
    }


def opened(one: Made) -> dict[str, Callable[[], Any]]:
    """What is asked once the key is open."""
    base = f"/api/trials/{one.trial.pk}"
    return {
        "verdict again": lambda: one.client.get(f"{base}/verdict"),
        "report page": lambda: one.client.get(f"{base}/report.html"),
        "tally": lambda: one.client.post(
            f"{base}/tally", {"weights": {"height": 2.0}}, content_type="application/json"
        ),
    }


def made_file(one: Made, what: str) -> float:
    """Seconds from asking for a file until it is fetched; what a worker does is done where it is asked for."""
    begun = time.perf_counter()
    answer = one.client.post(f"/api/trials/{one.trial.pk}/files", {"what": what}, content_type="application/json")
    fetched = one.client.get(answer.json()["href"])
    assert fetched.status_code == 200, (what, fetched.status_code, fetched.content[:300])
    return time.perf_counter() - begun


def main(sizes: tuple[int, ...]) -> None:
    """Print the table."""
    os.environ["FT_DB_NAME"] = "bench_scale"
    # What a worker does is done, and timed, where it is asked for.
    os.environ["FT_TASKS"] = "django_tasks.backends.immediate.ImmediateBackend"
    from fieldtally.server.ready import make_ready

    make_ready()
    from django.conf import settings
    from django.db import connection
    from django.utils import timezone

    from fieldtally.server.verdict import services as verdict_services

    settings.DEBUG = False
    settings.ALLOWED_HOSTS = ["testserver"]
    table: dict[str, dict[int, tuple[int, float, float, float]]] = {}
    for size in sizes:
        begun = time.perf_counter()
        one = made(size, timezone.now())
        print(f"{size:,} samples made in {time.perf_counter() - begun:.0f} s", flush=True)
        with connection.cursor() as cursor:
            # As the database does by itself within a minute.
            cursor.execute("ANALYZE")
        for name, call in running(one).items():
            table.setdefault(name, {})[size] = timed(call)
        one.trial.refresh_from_db()
        verdict_services.ask_to_open(one.trial, one.lead)
        verdict_services.open_key(one.trial, one.lead, one.trial.title)
        begun = time.perf_counter()
        first_verdict(one)
        table.setdefault("verdict first", {})[size] = (0, 0.0, time.perf_counter() - begun, 0.0)
        for name, call in opened(one).items():
            table.setdefault(name, {})[size] = timed(call)
        for name, what in FILES.items():
            table.setdefault(name, {})[size] = (0, 0.0, made_file(one, what), 0.0)
    for name, rows in table.items():
        told = [
            f"{size:>6,}: {row[0]:3} queries, {row[1]:6.3f} s SQL, {row[2]:7.3f} s ({row[3]:.3f} s CPU)"
            for size, row in rows.items()
        ]
        goal = f"  goal {GOALS[name]:g} s" if name in GOALS else ""
        if name in AT_MOST:
            goal += f", {AT_MOST[name]:g} s at 10,000"
        grown = (
            f"  from 1,000 to 10,000 {rows[10_000][2] / rows[1_000][2]:.1f} times"
            if {1_000, 10_000} <= set(rows)
            else ""
        )
        print(f"{name:>14}  " + "  ".join(told) + goal + grown)


def first_verdict(one: Made) -> None:
    """Have the verdict computed."""
    answer = one.client.get(f"/api/trials/{one.trial.pk}/verdict")
    assert answer.status_code in (200, 202), answer.content[:300]


if __name__ == "__main__":
    main(tuple(int(size) for size in sys.argv[1:]) or SIZES)
