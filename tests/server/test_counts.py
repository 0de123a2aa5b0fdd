"""What is asked of the database does not grow with the samples: counted, not timed, at two sizes of one trial."""

from dataclasses import replace
from uuid import uuid4

import pytest
from django.db import connection
from django.db.models import Count
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import checkpoints_of
from fieldtally.server.rounds.models import Reading, Taken
from tests.server.conftest import PLAN, make, score

pytestmark = pytest.mark.django_db
SIZES = (2, 12)
"""Samples of each treatment."""


def trial_of(each: int):
    treatments = tuple(replace(t, samples=each) for t in PLAN.treatments)
    return make("running", replace(PLAN, treatments=treatments))


@pytest.fixture(params=SIZES)
def world(request, django_db_blocker):
    return trial_of(request.param)


def asked(call) -> list[str]:
    """What a request asks of the database, without sign-in and transactions; warm, as the second of its kind."""
    with CaptureQueriesContext(connection) as queries:
        assert call().status_code == 200
    return [
        one["sql"]
        for one in queries.captured_queries
        if not one["sql"].startswith(("SAVEPOINT", "RELEASE"))
        and "django_session" not in one["sql"]
        and 'FROM "people_user" WHERE "people_user"."id"' not in one["sql"]
    ]


def sent(world, path: str, body):
    address = f"/api/trials/{world.trial.pk}{path}"
    return lambda: world.clients["scorer"].post(address, body, content_type="application/json")


def posted(world, many: int):
    round_ = world.rounds["c-1"]
    samples = list(Sample.objects.filter(trial=world.trial).order_by("code").values_list("pk", flat=True))[:many]
    body = [
        {
            "id": str(uuid4()),
            "round": str(round_),
            "sample": str(sample),
            "outcome": "o-height",
            "kind": "value",
            "value": 20.5,
            "taken_at": timezone.now().isoformat(),
        }
        for sample in samples
    ]
    return sent(world, "/readings", {"readings": body})


DOORS = {
    "one reading": (lambda world: posted(world, 1), 8),
    "many readings": (lambda world: posted(world, 6), 8),
    "a round": (lambda world: sent(world, "/rounds", {"checkpoint": "c-1"}), 7),
    "the course": (lambda world: lambda: world.get("scorer", "/course"), 8),
    "the board": (lambda world: lambda: world.get("scorer", "/board"), 4),
    "the log": (lambda world: lambda: world.get("scorer", "/log"), 12),
    "the shelf": (lambda world: lambda: world.clients["scorer"].get("/api/shelf"), 6),
    "today": (lambda world: lambda: world.clients["scorer"].get("/api/today"), 7),
}


@pytest.mark.parametrize("door", DOORS)
def test_a_door_asks_as_little_whatever_the_size(world, door):
    make_call, most = DOORS[door]
    make_call(world)()
    queries = asked(make_call(world))
    print(f"{door}: {len(queries)} queries")
    assert len(queries) <= most, "\n".join(queries)


def test_scoring_the_second_look_asks_no_more(world):
    score(world, "c-2")
    queries = asked(posted(world, 3))
    assert len(queries) <= 9, "\n".join(queries)


def test_what_is_counted_as_taken_is_what_counting_it_all_again_gives(world):
    """Corrections, what is taken back, second scorers and retests among it."""
    score(world, "c-2")
    first, second = Sample.objects.filter(trial=world.trial).order_by("code")[:2]
    for sample, kind, reason in ((first, "withdrawn", ""), (second, "cannot", "torn")):
        reading = {
            "id": str(uuid4()),
            "round": str(world.rounds["c-1"]),
            "sample": str(sample.pk),
            "outcome": "o-height",
            "kind": kind,
            "reason": reason,
            "taken_at": timezone.now().isoformat(),
        }
        assert sent(world, "/readings", {"readings": [reading]})().status_code == 200
    kept = set(Taken.objects.filter(trial=world.trial).values_list("checkpoint_id", "sample_id", "outcomes"))
    rows = Reading.objects.current().filter(trial=world.trial, repeat=None).order_by()
    again = rows.values_list("checkpoint_id", "sample_id").annotate(many=Count("outcome_id", distinct=True))
    assert kept == set(again)
    at_first = {key for key, pk in checkpoints_of(world.trial).items() if pk in {at for at, _, _ in kept}}
    assert at_first == {"c-1", "c-2"}
    assert Taken.objects.get(sample=first, checkpoint__key="c-1").outcomes == 2
