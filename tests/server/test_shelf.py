"""The shelf: filed away, renamed, copied and deleted; and the finder over all of it."""

from dataclasses import replace

import pytest

from fieldtally.server.people.models import Membership, Trial
from fieldtally.server.plan import services as plan_services
from tests.server.conftest import PLAN, make

pytestmark = pytest.mark.django_db


def on_shelf(world, role="lead"):
    return {one["id"]: one for one in world.clients[role].get("/api/shelf").json()["trials"]}


def found(world, role, text):
    answer = world.clients[role].get("/api/find", {"text": text})
    assert answer.status_code == 200
    return [(one["kind"], one["name"]) for one in answer.json()["found"]]


def test_a_trial_is_filed_away_by_one_and_stands_where_it_stood_for_all_others():
    world = make("running")
    trial = str(world.trial.pk)
    assert world.call("scorer", "put", "/filed", {"filed": True}).status_code == 204
    assert on_shelf(world, "scorer")[trial]["filed"]
    assert not on_shelf(world, "lead")[trial]["filed"]
    assert world.call("scorer", "put", "/filed", {"filed": False}).status_code == 204
    assert not on_shelf(world, "scorer")[trial]["filed"]


def test_a_draft_is_renamed_and_whoever_has_it_open_is_told():
    world = make("draft")
    assert world.call("lead", "put", "/title", {"title": "  Beans   again "}).status_code == 204
    assert on_shelf(world)[str(world.trial.pk)]["title"] == "Beans again"
    kept = world.get("lead", "/plan").json()
    assert (kept["plan"]["title"], kept["version"]) == ("Beans again", 2)
    stale = world.call("lead", "put", "/plan", {"plan": kept["plan"], "version": 1})
    assert stale.status_code == 409
    for bad in ("", "   ", "x" * 201):
        answer = world.call("lead", "put", "/title", {"title": bad})
        assert (answer.status_code, answer.json()["problems"][0]["at"]) == (422, "title")


def test_the_name_of_a_sealed_trial_stands():
    world = make("sealed")
    assert world.call("lead", "put", "/title", {"title": "Other"}).status_code == 403
    assert world.call("lead", "delete", "").status_code == 403
    assert Trial.objects.filter(pk=world.trial.pk).exists()


def test_a_draft_of_ones_own_is_deleted_with_all_it_holds_and_one_of_several_is_not():
    world = make("draft")
    assert world.call("lead", "delete", "").status_code == 409
    alone = plan_services.begin(world.users["lead"], replace(PLAN, title="Mine alone"))
    assert world.clients["lead"].delete(f"/api/trials/{alone.pk}").status_code == 204
    assert not Trial.objects.filter(pk=alone.pk).exists()
    assert not Membership.objects.filter(trial=alone.pk).exists()
    assert world.clients["lead"].get(f"/api/trials/{alone.pk}/plan").status_code == 404


def test_the_finder_finds_trials_codes_and_what_may_be_known():
    world = make("running", replace(PLAN, title="Vigour of beans"))
    code = world.trial.samples.order_by("code").first().code
    assert ("trial", "Vigour of beans") in found(world, "scorer", "beans")
    assert ("sample", code) in found(world, "scorer", code)
    assert ("treatment", "Zebra mulch") in found(world, "lead", "zebra")
    assert ("treatment", "Zebra mulch") in found(world, "preparer", "ZEBRA  mul")
    # Neither by name nor by an empty place where one would stand.
    assert found(world, "scorer", "zebra") == []
    assert found(world, "viewer", "zebra") == []
    assert found(world, "outsider", "beans") == []
    assert found(world, "lead", "   ") == []


def test_what_a_blind_reader_sees_blacked_out_is_not_found_by_its_word():
    world = make("running", replace(PLAN, title="Beans under Violet fleece"))
    assert found(world, "scorer", "violet") == []
    assert found(world, "scorer", "beans")[0][0] == "trial"
    assert ("trial", "Beans under Violet fleece") in found(world, "lead", "violet")
