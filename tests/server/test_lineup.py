"""The line-up through its doors: the truth comes after the pick, once, and a pick that knew the result is told as that."""

from dataclasses import replace
from uuid import uuid4

import pytest
from django.test import Client
from django.utils import timezone

from fieldtally.core.rounds.written import Written
from fieldtally.server.plan.models import Sample
from fieldtally.server.rounds import services as round_services
from fieldtally.server.rounds.writing import write_readings
from fieldtally.server.verdict import services as verdict_services
from fieldtally.server.verdict.lining_up import drawn_for, member
from fieldtally.server.verdict.models import LineUpPick, ResultSeen
from tests.server.conftest import PLAN, make

pytestmark = pytest.mark.django_db


HEIGHT = next(one for one in PLAN.outcomes if one.key == "o-height")
TALL = replace(PLAN, outcomes=(replace(HEIGHT, primary=True, wait=None, wait_says=""),))


@pytest.fixture
def world():
    made = make("running", TALL, scored=False)
    opened = round_services.open_round(made.trial, made.users["scorer"], "c-2")
    samples = Sample.objects.filter(trial=made.trial).order_by("code")
    written = [
        Written(uuid4(), opened.pk, sample.pk, "o-height", "value", 10.0 + i * 1.7, "", timezone.now())
        for i, sample in enumerate(samples)
    ]
    write_readings(made.trial, made.users["scorer"], written)
    verdict_services.ask_to_open(made.trial, made.users["lead"])
    verdict_services.open_key(made.trial, made.users["lead"], TALL.title)
    made.trial.refresh_from_db()
    return made


def truth(world, role):
    return drawn_for(world.trial, member(world.trial, world.users[role])).truth


def test_the_truth_is_told_after_the_pick_and_not_before(world):
    before = world.get("lead", "/line-up").json()
    assert len(before["pictures"]) == 20 and before["outcome"] == "Height"
    assert (before["truth"], before["picked"], before["says"], before["knows"]) == (None, None, [], False)
    after = world.call("lead", "post", "/line-up", {"picture": truth(world, "lead")}).json()
    assert after["truth"] == after["picked"] == truth(world, "lead")
    assert after["says"][0].startswith("You picked the true one. By luck alone that happens 1 time in 20")
    assert world.get("lead", "/line-up").json() == after


def test_a_pick_stands(world):
    wrong = (truth(world, "viewer") + 1) % 20
    told = world.call("viewer", "post", "/line-up", {"picture": wrong}).json()
    assert told["says"][0].startswith("You took another for the true one: to your eye")
    again = world.call("viewer", "post", "/line-up", {"picture": truth(world, "viewer")})
    assert again.status_code == 409 and "already" in again.json()["problems"][0]["says"]
    assert LineUpPick.objects.get().picture == wrong


def test_whoever_has_read_the_verdict_knows_and_is_not_counted(world):
    assert world.get("scorer", "/verdict").status_code == 200
    assert world.get("scorer", "/verdict").status_code == 200
    assert ResultSeen.objects.filter(user=world.users["scorer"]).count() == 1
    assert world.get("scorer", "/line-up").json()["knows"] is True
    told = world.call("scorer", "post", "/line-up", {"picture": truth(world, "scorer")}).json()
    assert "but you had read the result" in told["says"][0]
    for role in ("lead", "viewer"):
        told = world.call(role, "post", "/line-up", {"picture": truth(world, role)}).json()
    assert told["says"][1].startswith("Of 2 people who had not read the result, 2 picked the true one")


def test_there_are_twenty_pictures_to_pick_from(world):
    refused = world.call("lead", "post", "/line-up", {"picture": 20})
    assert refused.status_code == 422 and refused.json()["problems"][0]["at"] == "picture"
    assert not LineUpPick.objects.exists()


def test_while_the_key_is_sealed_there_is_none():
    running = make("running")
    assert running.get("lead", "/line-up").status_code == 403
    assert running.call("scorer", "post", "/line-up", {"picture": 1}).status_code == 403


def test_a_trial_without_readings_has_none():
    opened = make("opened", scored=False)
    assert opened.get("lead", "/line-up").json()["pictures"] == []
    assert opened.call("lead", "post", "/line-up", {"picture": 1}).status_code == 409


def test_readers_of_a_published_page_pick_before_they_read(world):
    token = world.call("lead", "post", "/publish", {"out": True}).json()["token"]
    first, second = Client(), Client()
    address = f"/api/published/{token}/line-up"
    shown = first.get(address).json()
    assert shown["truth"] is None and len(shown["pictures"]) == 20
    assert second.get(address).json()["pictures"] != shown["pictures"]
    told = first.post(address, {"picture": 0}, content_type="application/json").json()
    assert told["picked"] == 0 and told["truth"] is not None
    assert first.post(address, {"picture": 1}, content_type="application/json").status_code == 409
    second.post(f"/api/published/{token}/expected", {}, content_type="application/json")
    late = second.post(address, {"picture": 0}, content_type="application/json").json()
    assert late["knows"] is True
    assert list(LineUpPick.objects.values_list("user", "knowing")) == [(None, False), (None, True)]
