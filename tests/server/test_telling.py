"""Sentences of the server that have to be true of this trial: who could know the key, what became of the plan, what was read twice."""

from dataclasses import replace
from datetime import timedelta
from html import escape
from uuid import uuid4

import pytest
from django.utils import timezone

from fieldtally.core.design.plan import Outcome, Stand
from fieldtally.core.rounds.written import Written
from fieldtally.core.scales import MeasurementScale
from fieldtally.server.panels.models import Assessor
from fieldtally.server.plan import services as plan_services
from fieldtally.server.plan.models import Sample
from fieldtally.server.prepare import services as prepare_services
from fieldtally.server.rounds.writing import write_readings
from fieldtally.server.verdict import services as verdict_services
from tests.server.conftest import PLAN, make, score
from tests.server.test_panels import all_judge, panel_in

pytestmark = pytest.mark.django_db


def standing(plan, stand):
    """``plan`` with that stand on an item of the fairness list."""
    return replace(plan, fairness=(*(one for one in plan.fairness if one.item != stand.item), stand))


BLIND = standing(PLAN, Stand("blind", True))


def opened(world):
    verdict_services.ask_to_open(world.trial, world.users["lead"])
    verdict_services.open_key(world.trial, world.users["lead"], world.trial.title)
    world.trial.refresh_from_db()
    return world.get("lead", "/verdict").json()


def blinding(world, role="scorer"):
    return world.get(role, "/course").json()["blinding"]


def test_the_board_promises_no_blindness_that_did_not_hold():
    world = make("running", BLIND, scored=False)
    assert blinding(world) == "Whoever scores sees codes alone."
    score(world, "c-1")
    assert blinding(world) == "Nobody who has scored had seen the key."
    world.call("lead", "post", "/key-looks", {})
    assert blinding(world) == "Nobody who has scored had seen the key."


def test_who_scored_with_the_key_in_sight_is_named():
    world = make("running", BLIND, scored=False)
    world.call("lead", "post", "/key-looks", {})
    score(world, "c-1", role="lead")
    says = blinding(world, "lead")
    assert says == "All rounds were scored by someone who had seen the key (Person lead)."
    assert opened(world)["blinding_told"] == says


def test_blindness_that_was_given_up_is_told_on_the_board():
    told = standing(PLAN, Stand("blind", False, "the green jars are seen from afar"))
    world = make("running", told)
    # The reason is read by who may know what is compared; to a blind scorer it could tell just that.
    assert blinding(world) == "Scoring blind was given up beforehand."
    assert blinding(world, "lead") == "Scoring blind was given up beforehand (the green jars are seen from afar)."


def test_a_look_taken_late_and_a_seal_after_the_start_are_told_first():
    world = make("draft", BLIND)
    now = timezone.now()
    plan_services.seal(world.trial, world.users["lead"], 1, seed="c0ffee", at=now - timedelta(days=1))
    world.trial.refresh_from_db()
    prepare_services.start_exposure(world.trial, world.users["preparer"], at=now - timedelta(days=4))
    world.trial.refresh_from_db()
    score(world, "c-2")
    told = opened(world)
    assert told["not_claimed"][0] == "That nothing was known when the plan was sealed: that was 3 days after the start."
    assert told["not_claimed"][1] == "That every look was taken when it was planned: Day 2 was taken 2 days late."
    assert "at day 4, planned for day 2" in told["findings"][0]["sentence"]
    looks = {look["key"]: look for look in told["outcomes"][0]["looks"]}
    assert looks["c-2"]["name"] == "Day 4, planned for day 2" and looks["c-2"]["offset"] == 4 * 1440
    report = world.get("lead", "/report.html").content.decode()
    assert "at day 4, planned for day 2" in report and "3 days after the start" in report


def test_what_was_read_again_and_what_was_noted_is_told():
    world = make("running", BLIND)
    sample = Sample.objects.filter(trial=world.trial).order_by("code").first()
    again = Written(uuid4(), world.rounds["c-1"], sample.pk, "o-height", "value", 20.0, "", timezone.now(), take=2)
    gone = Written(
        uuid4(), world.rounds["c-1"], sample.pk, "o-grade", "cannot", None, "tore at the seam", timezone.now()
    )
    write_readings(world.trial, world.users["scorer"], [again, gone])
    told = opened(world)
    assert any(
        one.startswith(f"{sample.code} was read 2 times on height at day 1 (12.5 cm, 20 cm); the middle one counts")
        for one in told["happened"]
    )
    assert told["notes"][0]["quotes"][0]["words"] == "tore at the seam"


def test_the_order_can_be_given_up_and_then_nothing_says_it_was_drawn():
    by_hand = standing(BLIND, Stand("order", False, "plots laid out by hand"))
    world = make("running", by_hand)
    told = opened(world)
    assert any(
        one
        == "That place and order played no part: they were not drawn at random. Given up beforehand: plots laid out by hand."
        for one in told["not_claimed"]
    )
    kept = world.get("lead", "/report.html").content.decode()
    assert "sealed with the plan" not in kept and "laid out by hand" in kept


def test_an_outcome_that_was_withdrawn_was_measured_all_the_same():
    world = make("running", BLIND)
    done = world.insist("lead", "post", "/methods", {"outcome": "o-height", "reason": "the ruler broke"})
    assert done.status_code == 204
    told = opened(world)
    assert any("height was measured and withdrawn, nothing else was measured" in one for one in told["not_claimed"])


def test_a_trial_of_panels_alone_opens_with_what_the_panel_found():
    world = make("running", scored=False)
    address = panel_in(world)
    all_judge(address)
    first = Assessor.objects.get(number=1)
    world.clients["lead"].post(
        f"/api/assessors/{first.pk}", {"left_out": "had a cold"}, content_type="application/json"
    )
    verdict = opened(world)
    assert verdict["panels_alone"]
    (panel,) = verdict["panels"]
    # Never its first sentence alone: who was left out stands beside it, and what it is with them.
    assert "Left out: Taster 0 (had a cold). With everybody counted:" in " ".join(panel["says"])
    html = world.get("viewer", "/report.html").content.decode()
    assert f'<p class="sentence">{escape(panel["says"][0])}</p>' in html
    assert "spoiled" not in html.casefold()


@pytest.mark.parametrize(
    ("unit", "tool"),
    [("ΔE2000", "a colour meter, or a camera and the colour card"), ("mm", "something that measures in mm")],
)
def test_what_to_bring_names_no_tool_that_there_is_not(unit, tool):
    measured = Outcome("o-faded", "Faded", MeasurementScale(unit), primary=False)
    world = make("running", replace(PLAN, outcomes=(*PLAN.outcomes, measured)))
    today = world.clients["scorer"].get("/api/today").json()
    assert tool in [one for entry in today["entries"] for one in entry["bring"]]
