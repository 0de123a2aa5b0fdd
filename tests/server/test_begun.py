"""A trial that had begun: its true dates, its notebook, what is blind from now on, and what its verdict says of all that."""

import json
from dataclasses import replace
from datetime import timedelta
from html import unescape
from uuid import uuid4
from zoneinfo import ZoneInfo

import pytest
from django.utils import timezone

from fieldtally.core.design.document import document_of
from fieldtally.core.design.given import given_in
from fieldtally.core.design.plan import Begun, Checkpoint, Outcome, Summary
from fieldtally.core.rounds.written import Written
from fieldtally.core.scales import MeasurementScale
from fieldtally.core.trialpack.reading import read_pack
from fieldtally.server.answers import Declined
from fieldtally.server.log.models import Condition, Deviation
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.leaks import leaks_in
from fieldtally.server.plan.models import Sample, SealedPlan
from fieldtally.server.prepare.models import Exposure, KeyLook
from fieldtally.server.rounds import services as round_services
from fieldtally.server.rounds.models import Reading, Round
from fieldtally.server.rounds.writing import write_readings
from fieldtally.server.share.pack_reader import bring_in
from fieldtally.server.verdict import services as verdict_services
from tests.server.conftest import DAY, HOUR, PLAN, World, make
from tests.server.test_packs import packed
from tests.server.test_telling import opened

pytestmark = pytest.mark.django_db
LAYOUT = "East of the violet fleece:\nA B C A B C\nWest:\nC B A\nB A C"
LONDON = ZoneInfo("Europe/London")


def weeks_old(days: float = 21, **more):
    """A plan whose exposure began ``days`` ago, with two looks in a notebook and one due now."""
    began = (timezone.now() - timedelta(days=days)).astimezone(LONDON)
    plan = replace(
        PLAN,
        fairness=tuple(stand for stand in PLAN.fairness if stand.item != "order"),
        checkpoints=(
            Checkpoint("c-1", "Day 3", 3 * DAY, 12 * HOUR, 12 * HOUR),
            Checkpoint("c-2", "Day 10", 10 * DAY, 12 * HOUR, 12 * HOUR),
            Checkpoint("c-3", "Day 21", 21 * DAY, 12 * HOUR, 12 * HOUR),
        ),
        outcomes=(
            Outcome("o-height", "Height", MeasurementScale("cm", low=0, high=300), summary=Summary("value", "c-3")),
        ),
    )
    begun = Begun(
        f"{began:%Y-%m-%dT%H:%M}", "hand", "the stronger ones in front", ("c-1", "c-2"), given_in(LAYOUT, plan), **more
    )
    return replace(plan, begun=begun)


def taken_up(plan=None) -> World:
    world = make("draft", plan or weeks_old())
    answer = world.call("lead", "post", "/seal", {"version": 1, "stay_blind": False})
    assert answer.status_code == 200, answer.content
    world.trial.refresh_from_db()
    return world


def noted(world: World, look: str, day: float, **more):
    """Type a look in from the notebook; the answer of the last reading."""
    opened = world.call("lead", "post", "/rounds", {"checkpoint": look, **more})
    assert opened.status_code == 200, opened.content
    at = world.trial.started_at + timedelta(days=day)
    readings = [
        {
            "id": str(uuid4()),
            "round": opened.json()["id"],
            "sample": sample["id"],
            "outcome": "o-height",
            "kind": "value",
            "value": 10.0 + len(sample["name"]) % 5 + i % 3,
            "source": "paper",
            "taken_at": at.isoformat(),
        }
        for i, sample in enumerate(opened.json()["samples"])
    ]
    return opened.json(), world.call("lead", "post", "/readings", {"readings": readings})


def test_it_is_sealed_as_of_now_with_the_dates_and_places_that_were():
    world = taken_up()
    trial = world.trial
    assert trial.state == "running"
    assert abs((timezone.now() - trial.sealed_at).total_seconds()) < 60
    assert abs((timezone.now() - trial.started_at) - timedelta(days=21)) < timedelta(hours=2)
    assert Exposure.objects.filter(sample__trial=trial, started_at=trial.started_at).count() == 12
    key = {
        one["code"]: one["treatment"] for one in json.loads(SealedPlan.objects.get(pk=trial.pk).canonical)["allocation"]
    }
    east = [key[s.code] for s in Sample.objects.filter(trial=trial, block="b-east").order_by("place")]
    assert east == ["t-zebra", "t-quartz", "t-violet"] * 2
    assert [look.by for look in KeyLook.objects.filter(trial=trial)] == [world.users["lead"]]


def test_whoever_wrote_down_what_stands_where_cannot_stay_blind():
    world = make("draft", weeks_old())
    answer = world.call("lead", "post", "/seal", {"version": 1, "stay_blind": True})
    assert answer.status_code == 422
    assert "not blind" in answer.json()["problems"][0]["says"]
    world.trial.refresh_from_db()
    assert world.trial.sealed_at is None


def test_a_start_that_lies_ahead_is_planned_as_usual():
    world = make("draft", weeks_old(days=-2))
    answer = world.call("lead", "post", "/seal", {"version": 1, "stay_blind": False})
    assert [p["at"] for p in answer.json()["problems"]] == ["begun.on"]


def test_a_sample_that_starts_later_waits_for_it():
    plan = weeks_old()
    ahead = f"{(timezone.now() + timedelta(days=3)).astimezone(LONDON):%Y-%m-%dT%H:%M}"
    samples = (*plan.begun.samples[:-1], replace(plan.begun.samples[-1], started=ahead))
    world = taken_up(replace(plan, begun=replace(plan.begun, samples=samples)))
    assert Exposure.objects.filter(sample__trial=world.trial).count() == 11
    late = Sample.objects.filter(trial=world.trial, exposure=None).get()
    assert world.call("lead", "post", "/start", {"codes": [late.code]}).status_code == 200


def test_the_notebook_is_typed_in_by_name_with_its_own_days_and_by_who_knows():
    world = taken_up()
    blind = world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"})
    assert blind.status_code == 409
    assert "you go on blind" in blind.json()["problems"][0]["says"]
    out, stored = noted(world, "c-1", 3.1, looked_by="Aunt Person")
    assert stored.status_code == 200, stored.content
    assert out["notebook"] and out["looked_by"] == "Aunt Person"
    names = [sample["name"] for sample in out["samples"]]
    assert names[:4] == ["Zebra mulch 1", "Quartz grit 1", "Violet fleece 1", "Zebra mulch 2"]
    read = Reading.objects.filter(trial=world.trial).first()
    assert abs(read.taken_at - world.trial.started_at - timedelta(days=3.1)) < timedelta(minutes=1)
    assert abs((timezone.now() - read.stored_at).total_seconds()) < 60
    assert read.source == "paper"
    now = world.call("scorer", "post", "/rounds", {"checkpoint": "c-3"})
    assert now.status_code == 200
    assert {sample["name"] for sample in now.json()["samples"]} == {""}
    someone = world.call("scorer", "post", "/rounds", {"checkpoint": "c-3", "looked_by": "Somebody"})
    assert someone.json()["problems"][0]["at"] == "looked_by"


@pytest.mark.parametrize(("day", "says"), [(-2, "before there was anything"), (40, "in the future")])
def test_a_day_that_cannot_be_is_refused_and_nothing_is_stored(day, says):
    world = taken_up()
    _, answer = noted(world, "c-1", day)
    assert answer.status_code == 422
    assert says in answer.json()["problems"][0]["says"]
    assert answer.json()["problems"][0]["at"] == "readings.0.taken_at"
    assert Reading.objects.filter(trial=world.trial).count() == 0


def test_accidents_and_weather_have_days_since_the_start():
    world = taken_up()
    code = Sample.objects.filter(trial=world.trial).first().code
    first_hour = world.trial.started_at + timedelta(hours=1)
    body = {
        "accident": "eaten",
        "effect": "mark",
        "codes": [code],
        "reason": "bait stolen",
        "since": first_hour.isoformat(),
    }
    answer = world.call("lead", "post", "/accidents", body)
    assert answer.status_code in (200, 204), answer.content
    assert Deviation.objects.get(trial=world.trial, accident="eaten").since == first_hour
    early = {**body, "since": (world.trial.started_at - timedelta(days=1)).isoformat()}
    answer = world.call("lead", "post", "/accidents", early)
    assert "before exposure began" in answer.json()["problems"][0]["says"]
    answer = world.call("lead", "post", "/conditions", {"temperature": 3.5, "at": first_hour.isoformat()})
    assert answer.status_code == 200, answer.content
    kept = Condition.objects.get(trial=world.trial, temperature=3.5)
    assert kept.at == first_hour and kept.stored_at > first_hour
    long_ago = (world.trial.started_at - timedelta(days=400)).isoformat()
    answer = world.call("lead", "post", "/conditions", {"temperature": 3.5, "at": long_ago})
    assert answer.json()["problems"][0]["at"] == "at"
    lines = world.get("lead", "/log").json()["entries"]
    assert any(line["since"] and line["accident"] for line in lines)


def test_what_stands_where_is_no_part_of_a_sealed_plan_that_anybody_reads():
    world = make("draft", weeks_old())
    assert len(world.get("lead", "/plan").json()["plan"]["begun"]["samples"]) == 12
    world.call("lead", "post", "/seal", {"version": 1, "stay_blind": False})
    for role in ("lead", "preparer"):
        assert world.get(role, "/plan").json()["plan"]["begun"]["samples"] == []
    plan = world.get("lead", "/plan").json()["plan"]
    plan["checkpoints"][2]["after"] = 2 * DAY
    answer = world.call("lead", "post", "/changes", {"plan": plan})
    assert answer.json()["problems"] == []
    answer = world.call("lead", "post", "/amend", {"plan": plan, "reason": "rain"})
    assert answer.status_code == 200, answer.content
    world.trial.refresh_from_db()
    from fieldtally.server.plan.queries import plan_of

    assert len(plan_of(world.trial).begun.samples) == 12


def test_looks_of_the_notebook_are_due_to_nobody():
    world = taken_up()
    looks = {
        one["key"]: (one["standing"], one["noted"]) for one in world.get("scorer", "/course").json()["checkpoints"]
    }
    assert looks == {"c-1": ("missed", True), "c-2": ("missed", True), "c-3": ("due", False)}
    noted(world, "c-1", 3)
    assert world.get("lead", "/course").json()["checkpoints"][0]["standing"] == "taken"
    due = world.clients["lead"].get("/api/today").json()["entries"]
    assert [one["look"] for one in due] == ["c-3"]


def whole(plan=None) -> World:
    world = taken_up(plan)
    noted(world, "c-1", 3, looked_by="Aunt Person")
    noted(world, "c-2", 10.2)
    scored = world.call("scorer", "post", "/rounds", {"checkpoint": "c-3"}).json()
    written = [
        Written(uuid4(), Round.objects.get(pk=scored["id"]).pk, s.pk, "o-height", "value", 20.0 + i, "", timezone.now())
        for i, s in enumerate(Sample.objects.filter(trial=world.trial).order_by("code"))
    ]
    write_readings(world.trial, world.users["scorer"], written)
    return world


def test_the_verdict_says_what_was_blind_sealed_and_drawn_and_what_not():
    world = whole()
    told = opened(world)
    assert {(one["checkpoint"], one["blinding"]) for one in told["rounds"]} == {
        ("c-1", "before the seal"),
        ("c-2", "before the seal"),
        ("c-3", "scorer-blind"),
    }
    limits = told["not_claimed"]
    assert limits[0] == (
        "That nothing was known when the plan was sealed: that was 21 days after the start, with Day 3 and Day 10 seen. What is compared, "
        "by what and until when could still be chosen then."
    )
    assert limits[1].startswith("That hope did not help at Day 3 and Day 10: they were looked at before the seal")
    assert any("place and order played no part" in one and "the stronger ones in front" in one for one in limits)
    assert not any("seen the key" in one for one in limits)
    done = unescape(world.get("lead", "/report.html").content.decode())
    assert "they stood there before the plan was written, chosen by hand (the stronger ones in front)" in done
    assert "when Day 3 and Day 10 had been looked at" in done
    assert "drawn from a seed" not in done
    assert "Aunt Person" in done
    assert "2 before the seal, not blind, 1 blind" in done
    assert told["blinding_told"].startswith("2 of 3 rounds were looked at before the seal")


def test_a_pack_of_it_comes_back_as_it_was():
    world = whole()
    verdict_services.ask_to_open(world.trial, world.users["lead"])
    world.trial.refresh_from_db()
    verdict_services.open_key(world.trial, world.users["lead"], world.trial.title)
    trial = bring_in(read_pack(packed(Trial.objects.get(pk=world.trial.pk))), world.users["outsider"])
    assert trial.started_at == Trial.objects.get(pk=world.trial.pk).started_at
    assert Round.objects.get(trial=trial, checkpoint__key="c-1").looked_by == "Aunt Person"


def test_begin_again_is_a_plan_of_what_will_be():
    from fieldtally.server.plan.services import begin_again

    world = taken_up()
    again = begin_again(world.users["lead"], weeks_old(), ())
    from fieldtally.server.plan.queries import plan_of

    assert plan_of(again).begun is None


def test_a_round_of_the_notebook_is_nobody_elses():
    world = taken_up()
    with pytest.raises(Declined):
        round_services.open_round(world.trial, world.users["scorer"], "c-2")
    assert document_of(weeks_old())["begun"]["taken"] == ("c-1", "c-2")


def test_a_look_that_lies_ahead_cannot_have_been_taken():
    plan = weeks_old(days=15)
    world = make("draft", replace(plan, begun=replace(plan.begun, taken=("c-1", "c-3"))))
    answer = world.call("lead", "post", "/seal", {"version": 1, "stay_blind": False})
    assert [one["at"] for one in answer.json()["problems"]] == ["begun.taken"]
    world.trial.refresh_from_db()
    assert world.trial.sealed_at is None


def test_starts_that_go_by_treatment_are_said_before_the_seal_and_in_the_verdict():
    """A round says what is later and what is over: that cannot be hidden from who scores."""
    plan = weeks_old()
    begun = plan.begun
    assert begun is not None
    assert [one.at for one in leaks_in(plan) if one.at == "begun.samples"] == []
    later = f"{(timezone.now() - timedelta(days=20, hours=20)).astimezone(LONDON):%Y-%m-%dT%H:%M}"
    own = tuple(replace(one, started=later) if one.treatment == "t-zebra" else one for one in begun.samples)
    plan = replace(plan, begun=replace(begun, samples=own))
    (leak,) = [one.says for one in leaks_in(plan) if one.at == "begun.samples"]
    assert leak.startswith(plan.treatments[0].name)
    # One that began alone belongs to nobody that can be told.
    alone = (replace(begun.samples[0], started=later), *begun.samples[1:])
    assert [one.at for one in leaks_in(replace(plan, begun=replace(begun, samples=alone)))].count("begun.samples") == 0
    limits = opened(whole(plan))["not_claimed"]
    assert any(f"those of {plan.treatments[0].name} began at moments of their own" in one for one in limits), limits
