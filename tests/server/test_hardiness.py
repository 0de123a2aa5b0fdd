"""Whatever is sent, the answer is a sentence and never a broken server, and nothing poisons what is read later.

Bodies that were right are broken at random places by values of every kind, from a fixed seed.
"""

import json
import random
from collections import Counter
from uuid import uuid4

import pytest
from django.test import Client

from fieldtally.core.design.document import document_of
from fieldtally.server.demo.plans import DAHLIAS, GHERKINS, PEAS, PENS, TWINES
from fieldtally.server.people.models import Trial, User
from tests.depth import cells
from tests.server.conftest import PLAN, make

pytestmark = pytest.mark.django_db
ODD = (
    0, -1, 1, 2, 3.5, 1e-300, 1e300, -1e300, 10**30, -(10**30), 2**63, "x", "", None, [], {}, "2", True, "\u202e", "🌱",
    "a" * 6000, 0.0001, "2026-02-30T00:00:00Z", "0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-14:00",
)  # fmt: skip


def paths(value, at=()):
    """The path of every value inside ``value``."""
    inner = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, one in inner:
        yield (*at, key)
        yield from paths(one, (*at, key))


def broken(value, chance, times):
    """A copy of ``value`` with odd values in so many random places."""
    copy = json.loads(json.dumps(value))
    for _ in range(times):
        path = chance.choice(list(paths(copy)) or [()])
        if not path:
            break
        inside = copy
        for key in path[:-1]:
            inside = inside[key]
        inside[path[-1]] = chance.choice(ODD)
    return copy


def strictly(text):
    """The JSON value of ``text``; NaN and infinities are no JSON."""

    def refuse(name):
        raise AssertionError(f"{name} in an answer")

    return json.loads(text, parse_constant=refuse)


def hardy(world):
    client = Client(raise_request_exception=False)
    client.cookies = world.clients["lead"].cookies
    return client


def checked(answer, what, seen):
    """Count an answer, which must be sound; a refusal must come with a sentence."""
    assert answer.status_code < 500, what
    seen[answer.status_code] += 1
    if answer.status_code != 204 and answer.headers.get("Content-Type", "").startswith("application/json"):
        body = strictly(answer.content)
        if answer.status_code >= 400:
            assert all(problem["says"].strip() for problem in body["problems"]), what
    return answer


@pytest.mark.parametrize("seed", cells(range(4), range(1)))
def test_no_plan_breaks_the_server_at_any_stage(seed):
    """Odd plans are judged, kept, sealed, begun, opened and concluded, as far as each of them is let."""
    client, chance, seen = hardy(make("draft")), random.Random(seed), Counter()

    def post(path, body, method="post"):
        return checked(getattr(client, method)(path, body, content_type="application/json"), (path, body), seen)

    sealed = 0
    for _ in range(40):
        plan = broken(
            document_of(chance.choice((PLAN, DAHLIAS, PEAS, PENS, GHERKINS, TWINES))),
            chance,
            chance.choice((1, 1, 2, 3)),
        )
        post("/api/outlook", {"plan": plan})
        post("/api/layout", {"plan": plan, "draw": 1})
        post("/api/calendar", {"plan": {**plan, "starts_on": "2027-03-01T09:00"}})
        if chance.random() < 0.3:
            post("/api/dry-run", {"plan": plan, "run": 1})
        trial = post("/api/trials", {"title": "odd", "zone": "UTC"}).json()["id"]
        if post(f"/api/trials/{trial}/plan", {"plan": plan, "version": 1}, "put").status_code != 200:
            continue
        for page in ("plan", "course", "board"):
            checked(client.get(f"/api/trials/{trial}/{page}"), (page, plan), seen)
        post(f"/api/trials/{trial}/prediction", {"text": "one will win"}, "put")
        if post(f"/api/trials/{trial}/seal", {"version": 2, "stay_blind": False}).status_code != 200:
            continue
        sealed += 1
        post(f"/api/trials/{trial}/start", {})
        odd = broken(plan, chance, 2)
        post(f"/api/trials/{trial}/changes", {"plan": odd})
        post(f"/api/trials/{trial}/amend", {"plan": odd, "reason": "odd"})
        for page in ("course", "board", "log", "readings.csv", "pack.zip"):
            checked(client.get(f"/api/trials/{trial}/{page}"), (page, plan), seen)
        post(f"/api/trials/{trial}/key/ask", {})
        post(f"/api/trials/{trial}/key/open", {"title": Trial.objects.get(pk=trial).title})
        checked(client.get(f"/api/trials/{trial}/verdict"), plan, seen)
    checked(client.get("/api/shelf"), "shelf", seen)
    assert sealed > 0
    assert seen[422] > 0


def test_no_reading_breaks_the_server_or_what_is_read_later():
    world = make("running", scored=False)
    client, chance, seen = world.clients["scorer"], random.Random(9), Counter()
    client.raise_request_exception = False
    trial = f"/api/trials/{world.trial.pk}"
    opened = world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"}).json()
    for _ in range(200):
        right = {
            "id": str(uuid4()),
            "round": opened["id"],
            "sample": chance.choice(opened["samples"])["id"],
            "outcome": chance.choice(("o-grade", "o-height", "o-alive")),
            "kind": chance.choice(("value", "cannot", "withdrawn")),
            "value": 1,
            "reason": "because",
            "taken_at": "2026-01-01T00:00:00Z",
        }
        body = {"readings": [broken(right, chance, chance.choice((0, 1, 2)))] * chance.choice((1, 2))}
        checked(client.post(f"{trial}/readings", body, content_type="application/json"), body, seen)
    assert seen[200] > 20
    assert seen[422] > 20
    world.call("lead", "post", "/key/ask")
    world.call("lead", "post", "/key/open", {"title": PLAN.title})
    for page in ("course", "board", "log", "verdict", "readings.csv", "pack.zip"):
        checked(client.get(f"{trial}/{page}"), page, seen)


def test_odd_words_and_ids_find_a_sentence_everywhere():
    world = make("running")
    client, chance, seen = hardy(world), random.Random(2), Counter()
    trial = f"/api/trials/{world.trial.pk}"
    small = (
        (f"{trial}/aside", {"code": "1", "reason": "fell", "back": False}),
        (f"{trial}/invitations", {"email": "a@b.example", "role": "scorer"}),
        (f"{trial}/rounds", {"checkpoint": "c-1"}),
        (f"{trial}/key/open", {"title": "x"}),
        ("/api/trials", {"title": "x", "zone": "UTC"}),
        (f"{trial}/differences", {"about": "h-soil", "reason": "two sacks"}),
        (
            "/api/bench",
            {"sum": "label", "given": {"rate": "4 mL/L", "size": "1 L", "tool": "1 mL by 0.1 mL"}, "system": "us"},
        ),
        (
            "/api/description",
            {"text": "jute or hemp", "righted": [{"begin": 0, "end": 4, "text": "jute", "part": "nothing"}]},
        ),
        ("/api/looks", {"rule": "every 5 days, eight times", "cycle_word": "wash"}),
    )
    for path, body in small * 30:
        odd = broken(body, chance, 1)
        checked(client.post(path, odd, content_type="application/json"), (path, odd), seen)
    for odd in ("0", "x", "%00", "🌱", "-1", "9" * 60, "..%2f", "a" * 900):
        for path in (f"/api/trials/{odd}/course", f"{trial}/people/{odd}", f"/api/invitations/{odd}"):
            method = "delete" if "people" in path else "get"
            answer = checked(getattr(client, method)(path), path, seen)
            assert answer.status_code == 404, path
    assert User.objects.filter(pk=world.users["lead"].pk).exists()
    assert seen[422] > 50
