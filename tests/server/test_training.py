"""The grading trainer and scorers together, through their doors."""

from __future__ import annotations

import io
from dataclasses import replace
from datetime import timedelta
from uuid import uuid4

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from PIL import Image

from fieldtally.core.agreement.drift import Drift
from fieldtally.core.agreement.together import Agreement, Alone
from fieldtally.core.design.plan import Outcome
from fieldtally.core.scales import PercentScale
from fieldtally.server.log.models import LogNote
from fieldtally.server.people.models import Membership, Role
from fieldtally.server.plan.models import Sample
from fieldtally.server.rounds.models import Reading
from fieldtally.server.rounds.readiness import ready_until
from fieldtally.server.rounds.signals import round_begun
from fieldtally.server.training import drifting, practising
from fieldtally.server.training.agreement import Agreed
from fieldtally.server.training.models import Readiness, TrainingAnswer
from tests.server.conftest import PLAN, make, signed_in, user
from tests.server.pictures import picture

pytestmark = pytest.mark.django_db
RUST = Outcome("o-rust", "Rust", PercentScale("rust", 5), primary=False, practised=True)
TRAINED = replace(PLAN, outcomes=(*PLAN.outcomes, RUST))


@pytest.fixture
def world():
    return make("running", TRAINED)


def grade_set(world, apart: float, role: str = "scorer", outcome: str = "o-rust") -> dict:
    """A whole set graded, every answer off by ``apart``, up and down in turn."""
    begun = world.call(role, "post", "/training", {"outcome": outcome}).json()
    client = world.clients[role]
    for thing in begun["things"]:
        true = TrainingAnswer.objects.get(set=begun["id"], place=thing["place"]).truth
        off = apart if thing["place"] % 2 else -apart
        given = float(np.clip(true + off, 0, 100))
        answer = client.post(
            f"/api/training/{begun['id']}/grades", {"place": thing["place"], "given": given}, "application/json"
        )
        assert answer.status_code == 200, answer.content
    return answer.json()


def test_a_set_tells_no_truth_before_its_end_and_locks_each_answer(world):
    begun = world.call("scorer", "post", "/training", {"outcome": "o-rust"}).json()
    assert len(begun["things"]) == 12
    assert all(one["truth"] is None and one["given"] is None for one in begun["things"])
    client, path = world.clients["scorer"], f"/api/training/{begun['id']}"
    assert client.post(f"{path}/grades", {"place": 0, "given": 140}, "application/json").status_code == 422
    first = client.post(f"{path}/grades", {"place": 0, "given": 40}, "application/json").json()
    assert first["things"][0] == {"place": 0, "given": 40, "truth": None, "gauged": None}
    assert client.post(f"{path}/grades", {"place": 0, "given": 41}, "application/json").status_code == 409
    assert client.post(f"{path}/grades", {"place": 99, "given": 41}, "application/json").status_code == 404
    assert world.call("scorer", "post", "/training", {"outcome": "o-rust"}).json()["id"] == begun["id"]
    shown = client.get(f"{path}/3.jpg")
    assert Image.open(io.BytesIO(shown.content)).size == (800, 600)
    assert shown.content == client.get(f"{path}/3.jpg").content
    # It is nobody else's, and outsiders and viewers practise nothing here.
    assert world.clients["lead"].get(path).status_code == 404
    assert world.clients["lead"].get(f"{path}/3.jpg").status_code == 404
    assert world.get("viewer", "/training").status_code == 403


def test_two_good_sets_make_ready_and_only_then_it_is_scored(world):
    sample = Sample.objects.filter(trial=world.trial).first()
    reading = {
        "id": str(uuid4()),
        "round": str(world.rounds["c-1"]),
        "sample": str(sample.pk),
        "outcome": "o-rust",
        "kind": "value",
        "value": 20,
        "taken_at": timezone.now().isoformat(),
    }
    opened = world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"}).json()
    assert opened["practise"] == ["Rust"]
    assert "o-rust" not in [one["key"] for one in opened["outcomes"]]
    refused = world.call("scorer", "post", "/readings", {"readings": [reading]})
    assert refused.status_code == 422
    assert "practise first" in refused.json()["problems"][0]["says"]
    assert not Reading.objects.filter(outcome__key="o-rust").exists()
    one = grade_set(world, 3)
    assert one["learned"]["ready"] is False
    assert one["things"][0]["truth"] is not None
    two = grade_set(world, 4)
    assert two["learned"]["ready"] is True
    assert two["ready_until"] is not None
    assert world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"}).json()["practise"] == []
    assert world.call("scorer", "post", "/readings", {"readings": [reading]}).status_code == 200
    # It holds for so long, and for nobody else.
    far = timezone.now() + timedelta(days=120)
    assert ready_until(world.trial, world.users["scorer"], "o-rust", far) is None
    assert ready_until(world.trial, world.users["lead"], "o-rust") is None
    told = world.get("lead", "/training").json()
    rust = next(o for o in told["outcomes"] if o["outcome"]["key"] == "o-rust")
    assert {p["name"]: p["sets"] for p in rust["people"]} == {"Person lead": 0, "Person scorer": 2}
    own = world.get("scorer", "/training").json()
    assert next(o for o in own["outcomes"] if o["outcome"]["key"] == "o-rust")["people"] == []


def test_a_later_bad_set_takes_being_ready_back_until_a_better_one(world):
    for off in (3, 4):
        grade_set(world, off)
    assert ready_until(world.trial, world.users["scorer"], "o-rust") is not None
    assert grade_set(world, 25)["ready_until"] is None
    assert ready_until(world.trial, world.users["scorer"], "o-rust") is None
    assert world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"}).json()["practise"] == ["Rust"]
    assert Readiness.objects.count() == 2


def test_bad_sets_make_nobody_ready(world):
    grade_set(world, 22)
    found = grade_set(world, 22)["learned"]
    assert found["ready"] is False
    assert found["off"] > 15
    assert not Readiness.objects.exists()


def test_the_gauge_reads_the_same_pictures(world):
    done = grade_set(world, 12)
    assert done["duel"] is None
    practising.gauge_set.call(done["id"])
    told = world.clients["scorer"].get(f"/api/training/{done['id']}").json()
    assert told["duel"]["n"] >= 11
    assert told["duel"]["gauge"] < 2 < told["duel"]["eye"]
    assert "the gauge is nearer, by more than chance" in told["duel"]["says"]


def anchored(world, many):
    for number in range(many):
        file = SimpleUploadedFile("a.png", picture(seed=number), content_type="image/png")
        body = {
            "id": str(uuid4()),
            "taken_at": timezone.now().isoformat(),
            "outcome": "o-grade",
            "level": 2 * (number % 2),
            "file": file,
        }
        sent = world.clients["lead"].post(f"/api/trials/{world.trial.pk}/photos", body)
        assert sent.status_code == 200, sent.content


def test_words_are_practised_on_photos_of_the_trial_none_of_them_twice_in_a_month(world):
    assert world.call("scorer", "post", "/training", {"outcome": "o-grade"}).status_code == 422
    anchored(world, 20)
    client, seen = world.clients["scorer"], []
    for expected in (12, 8):
        begun = world.call("scorer", "post", "/training", {"outcome": "o-grade"}).json()
        rows = TrainingAnswer.objects.filter(set=begun["id"])
        assert set(rows.values_list("truth", flat=True)) == {0.0, 2.0}
        assert client.get(f"/api/training/{begun['id']}/0.jpg").status_code == 200
        assert rows.count() == expected
        seen += rows.values_list("photo_id", flat=True)
        for thing in begun["things"]:
            given = {"place": thing["place"], "given": 2}
            client.post(f"/api/training/{begun['id']}/grades", given, "application/json")
    assert len(set(seen)) == 20
    refused = world.call("scorer", "post", "/training", {"outcome": "o-grade"})
    assert refused.status_code == 422
    assert "You have seen these photos within a month" in refused.json()["problems"][0]["says"]
    # Others have not; and a month later they serve again.
    assert world.call("lead", "post", "/training", {"outcome": "o-grade"}).status_code == 200
    later = timezone.now() + timedelta(days=31)
    assert practising.begin_set(world.trial, world.users["scorer"], "o-grade", at=later).answers.count() == 12


def test_a_hand_that_moves_in_real_rounds_practises_again_before_the_next(world, monkeypatch):
    scorer, now = world.users["scorer"], timezone.now()
    ready = {"outcome": "o-rust", "by": scorer, "off": 2.0, "bias": 0.0, "sets": 2, "until": now + timedelta(days=60)}
    Readiness.objects.create(trial=world.trial, at=now - timedelta(days=9), **ready)
    asked = []

    def found(trial, plan, since=None):
        asked.append(since)
        alone = Alone("Person scorer", None, Drift(leaning=8.0, slope=slope, p=0.01))
        outcome = next(o for o in plan.outcomes if o.key == "o-rust")
        return [Agreed(outcome, Agreement((), (alone,), None, ()), [])]

    monkeypatch.setattr(drifting, "agreements", found)
    slope = 1.0
    drifting.see_drift(None, trial=world.trial, user=scorer, now=now)
    assert ready_until(world.trial, scorer, "o-rust") is not None
    slope = 4.0
    drifting.see_drift(None, trial=world.trial, user=scorer, now=now)
    assert ready_until(world.trial, scorer, "o-rust") is None
    # Only what was scored since they were ready counts.
    assert asked == [now - timedelta(days=9)] * 2
    told = str(world.get("scorer", "/log").json())
    assert "Person scorer practises Rust again before the next round" in told
    # A blind scorer learns neither what the others gave nor that samples came again.
    assert "against the others" not in told
    assert "second code" not in told
    assert world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"}).json()["practise"] == ["Rust"]


def test_it_is_looked_at_whenever_a_round_is_begun(world, monkeypatch):
    begun = []
    round_begun.connect(listening := (lambda sender, user, **more: begun.append(user)))
    try:
        for _ in range(2):
            world.call("scorer", "post", "/rounds", {"checkpoint": "c-2"})
    finally:
        round_begun.disconnect(listening)
    assert begun == [world.users["scorer"]]
    assert any("see_drift" in str(key) for key, *_ in round_begun.receivers)


def test_scorers_grade_five_together_and_see_each_other_only_at_the_end(world):
    second = user("second scorer")
    Membership.objects.create(trial=world.trial, user=second, role=Role.SCORER)
    world.clients["second"] = signed_in(second)
    begun = world.call("scorer", "post", "/together", {"checkpoint": "c-1", "outcome": "o-grade"}).json()
    assert len(begun["samples"]) == 5
    assert (
        world.call("second", "post", "/together", {"checkpoint": "c-1", "outcome": "o-grade"}).json()["id"]
        == begun["id"]
    )
    path = f"/api/together/{begun['id']}"

    def send(role, what, body=None):
        return world.clients[role].post(f"{path}/{what}", body or {}, "application/json")

    for i, sample in enumerate(begun["samples"]):
        assert send("scorer", "grades", {"sample": sample["id"], "value": i % 3}).status_code == 200
    assert send("scorer", "grades", {"sample": begun["samples"][0]["id"], "value": 1}).status_code == 409
    assert send("scorer", "show").status_code == 409
    other = world.get("second", "/together").json()["calibrations"][0]
    assert other["grades"] == []
    assert all(one["mine"] is None for one in other["samples"])
    assert other["finished"] == ["Person scorer"]
    assert send("second", "grades", {"sample": begun["samples"][0]["id"], "value": 7}).status_code == 422
    for sample in begun["samples"]:
        send("second", "grades", {"sample": sample["id"], "value": 1})
    assert send("second", "agreed", {"text": "x"}).status_code == 409
    shown = send("second", "show").json()
    assert len(shown["grades"]) == 10
    assert shown["told"]["mean"] > 0
    assert send("scorer", "agreed", {"text": "  "}).status_code == 422
    agreed = send("scorer", "agreed", {"text": "Two means lush all over."}).json()
    assert agreed["agreed"] == "Scorers together: Two means lush all over."
    assert "Person second scorer: 1" in LogNote.objects.get(trial=world.trial).working
    # None of it counts as a reading.
    assert not Reading.objects.filter(trial=world.trial, scorer=second).exists()
    assert world.get("viewer", "/together").status_code == 403
    body = {"sample": begun["samples"][0]["id"], "value": 1, "text": "x"}
    for what in ("grades", "show", "agreed"):
        assert send("viewer", what, body).status_code == 403
