"""Drafts, the seal, and what a plan can tell, through their doors."""

import hashlib
import json

import pytest

from fieldtally.core.blinding.seal import verify
from fieldtally.core.design.document import document_of
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.models import KeyEntry, Sample, SealedPlan
from tests.server.conftest import PLAN, make, replace, signed_in, user

pytestmark = pytest.mark.django_db


def as_json(plan):
    return json.loads(json.dumps(document_of(plan)))


def test_a_trial_is_begun_with_a_name():
    client = signed_in(user("new"))
    assert (
        client.post("/api/trials", {"title": " "}, content_type="application/json").json()["problems"][0]["at"]
        == "title"
    )
    made = client.post("/api/trials", {"title": "Rust removers"}, content_type="application/json")
    assert made.status_code == 201
    (row,) = client.get("/api/shelf").json()["trials"]
    assert (row["title"], row["state"], row["role"]) == ("Rust removers", "draft", "lead")


def test_two_people_on_one_draft_never_overwrite_silently():
    world = make("draft")
    changed = as_json(replace(PLAN, question="Another question?"))
    assert world.call("lead", "put", "/plan", {"plan": changed, "version": 1}).json()["version"] == 2
    late = world.call("lead", "put", "/plan", {"plan": as_json(PLAN), "version": 1})
    assert late.status_code == 409
    assert "Person lead has changed" in late.json()["problems"][0]["says"]
    assert world.get("lead", "/plan").json()["plan"]["question"] == "Another question?"


def test_a_draft_may_be_unsound_and_says_so_at_the_fields():
    world = make("draft")
    plan = as_json(PLAN)
    plan["treatments"][1]["name"] = "zebra MULCH"
    plan["treatments"][2]["samples"] = 0
    plan["checkpoints"][0]["offset"] = -60
    out = world.call("lead", "put", "/plan", {"plan": plan, "version": 1}).json()
    said = {p["at"]: p["says"] for p in out["problems"]}
    assert "Two treatments are called" in said["treatments.1.name"]
    assert "No samples" in said["treatments.2.samples"]
    assert "before the start" in said["checkpoints.0.offset"]
    refused = world.call("lead", "post", "/seal", {"version": 2, "stay_blind": False})
    assert refused.status_code == 422
    assert {p["at"] for p in refused.json()["problems"]} == set(said)
    assert not Sample.objects.exists()
    assert not SealedPlan.objects.exists()


@pytest.mark.parametrize(
    ("change", "at"),
    [
        ({"treatments": "many"}, "plan.treatments"),
        ({"outcomes": [{"key": "o", "name": "x", "scale": {"kind": "colour"}}]}, "plan.outcomes.0.scale"),
        ({"treatments": [{"key": "k", "name": "x", "samples": 2.5}]}, "plan.treatments.0.samples"),
        ({"title": "x" * 300}, "title"),
        ({"treatments": [{"key": "k" * 50, "name": "x"}]}, "treatments.0.key"),
    ],
)
def test_a_plan_of_the_wrong_shape_is_turned_down(change, at):
    world = make("draft")
    answer = world.call("lead", "put", "/plan", {"plan": {**as_json(PLAN), **change}, "version": 1})
    assert answer.status_code == 422
    assert answer.json()["problems"][0]["at"].startswith(at)
    assert world.get("lead", "/plan").json()["version"] == 1


def test_the_seal_is_the_hash_of_plan_seed_and_key():
    world = make("draft")
    sealed = world.call("lead", "post", "/seal", {"version": 1, "stay_blind": True})
    assert sealed.status_code == 200
    row = SealedPlan.objects.get()
    assert sealed.json()["seal"] == row.seal == hashlib.sha256(row.canonical.encode()).hexdigest()
    document = json.loads(row.canonical)
    assert verify(document, row.seal).same_allocation
    key = dict(KeyEntry.objects.values_list("sample__code", "treatment"))
    assert key == {one["code"]: one["treatment"] for one in document["allocation"]}
    assert Sample.objects.count() == 12
    assert world.get("lead", "/course").json()["stays_blind"]
    again = world.call("lead", "post", "/seal", {"version": 1, "stay_blind": True})
    assert again.status_code == 409
    assert "sealed already" in again.json()["problems"][0]["says"]
    assert world.call("lead", "put", "/plan", {"plan": as_json(PLAN), "version": 1}).status_code == 409


def test_sealing_what_one_has_not_seen_is_refused():
    world = make("draft")
    world.call("lead", "put", "/plan", {"plan": as_json(replace(PLAN, question="New?")), "version": 1})
    assert world.call("lead", "post", "/seal", {"version": 1, "stay_blind": False}).status_code == 409
    assert Trial.objects.get().sealed_at is None


def test_texts_that_tell_scorers_too_much_are_pointed_out():
    leaks = {leak["at"] for leak in make("draft").get("lead", "/plan").json()["leaks"]}
    assert leaks == {"title", "question", "layout.blocks.0.name", "outcomes.0.scale.levels.1.anchor"}


def test_the_outlook_is_told_and_stores_nothing():
    client = signed_in(user("planner"))
    out = client.post("/api/outlook", {"plan": as_json(PLAN)}, content_type="application/json").json()["outlook"]
    assert out["headline"].startswith(("Not enough", "Hardly", "More often", "Enough"))
    assert out["smallest_p"] == pytest.approx(2 / 36)
    empty = client.post("/api/outlook", {"plan": {"title": ""}}, content_type="application/json").json()
    assert empty["outlook"] is None
    assert {item["standing"] for item in empty["fairness"]} == {"kept", "open"}
    assert not Trial.objects.exists()


def test_exposure_starts_once_and_only_after_the_seal():
    world = make("sealed")
    assert world.call("preparer", "post", "/start").status_code == 200
    assert "already" in world.call("lead", "post", "/start").json()["problems"][0]["says"]


def test_exposure_does_not_start_on_a_draft():
    world = make("draft")
    answer = world.call("lead", "post", "/start")
    assert answer.status_code == 409
    assert "Seal the plan first" in answer.json()["problems"][0]["says"]
