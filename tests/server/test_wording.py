"""Words that tell a treatment are asked about when they are written, while others are blind; notes and conditions are stored once."""

from uuid import uuid4

import pytest
from django.utils import timezone

from fieldtally.server.log.models import Condition, LogNote
from fieldtally.server.plan import services as plan_services
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import plan_of
from tests.server.conftest import make, replace

pytestmark = pytest.mark.django_db
TELLING = "the zébra-mulches slid off"
NOW = "2026-01-01T00:00:00Z"


def writings(world):
    """Each way to write words that blind people read: who, where, the field, and the rest of the body."""
    code = Sample.objects.filter(trial=world.trial).order_by("code").values_list("code", flat=True)[0]
    accident = {"accident": "dropped", "codes": [code], "effect": "mark", "since": timezone.now().isoformat()}
    return {
        "note": ("scorer", "/notes", "text", {}),
        "accident": ("scorer", "/accidents", "reason", accident),
        "set aside": ("lead", "/aside", "reason", {"code": code}),
        "method": ("lead", "/methods", "reason", {"outcome": "o-alive"}),
        "difference": ("preparer", "/differences", "reason", {"about": "h-soil"}),
        "skip": ("scorer", "/skips", "reason", {"checkpoint": "c-2"}),
        "look now": ("scorer", "/unplanned-looks", "reason", {}),
        "cycle": ("preparer", "/cycles", "note", {"settings": {"s-warm": "20 °C"}}),
    }


@pytest.mark.parametrize("what", ["note", "accident", "set aside", "method", "difference", "skip", "look now", "cycle"])
def test_words_that_tell_a_treatment_are_asked_about_and_kept_only_when_that_is_said(what):
    world = make("running")
    role, path, field, body = writings(world)[what]
    answered = world.call(role, "post", path, {**body, field: TELLING})
    assert answered.status_code == 422, answered.content
    [problem] = answered.json()["problems"]
    assert (problem["at"], problem["asks"]) == (field, True)
    assert "zébra-mulch" in problem["says"] and "blackened" in problem["says"]
    assert not LogNote.objects.filter(trial=world.trial).exists()
    insisted = world.insist(role, "post", path, {**body, field: TELLING})
    assert insisted.status_code in (200, 204), insisted.content
    told = world.get("scorer", "/log").content.decode()
    assert "mulch" not in told.lower()
    assert "slid off" in told


def test_other_words_are_not_asked_about():
    world = make("running")
    for what, (role, path, field, body) in writings(world).items():
        if what not in ("skip", "method"):
            answered = world.call(role, "post", path, {**body, field: "rain came in"})
            assert answered.status_code in (200, 204), (what, answered.content)


def test_a_name_that_an_amendment_dropped_is_asked_about_too():
    world = make("running")
    plan = plan_of(world.trial)
    renamed = (replace(plan.products[0], name="Okapi brew"), *plan.products[1:])
    plan_services.amend(world.trial, world.users["lead"], replace(plan, products=renamed), "The maker renamed it", {})
    for words in ("zebra-tea again", "Okapi-Brews again"):
        assert world.call("scorer", "post", "/notes", {"text": words}).status_code == 422


@pytest.mark.parametrize("state", ["opened"])
def test_nothing_is_asked_where_nobody_is_blind(state):
    assert make(state).call("lead", "post", "/notes", {"text": TELLING}).status_code == 200


def test_a_note_is_stored_once_under_its_id_and_never_another_under_the_same():
    world = make("running")
    body = {"id": str(uuid4()), "text": "rain", "working": ""}
    for _ in range(2):
        answered = world.call("scorer", "post", "/notes", body)
        assert (answered.status_code, answered.json()["id"]) == (200, body["id"])
    assert LogNote.objects.filter(trial=world.trial).count() == 1
    assert world.call("scorer", "post", "/notes", {**body, "text": "snow"}).status_code == 409
    assert world.call("preparer", "post", "/notes", body).status_code == 409
    assert LogNote.objects.get(trial=world.trial).text == "rain"


def test_conditions_are_stored_once_under_their_id_at_the_moment_they_were_read():
    world = make("running")
    body = {"id": str(uuid4()), "temperature": 12.5, "at": NOW}
    for _ in range(2):
        assert world.call("scorer", "post", "/conditions", body).status_code == 200
    [kept] = Condition.objects.filter(trial=world.trial)
    assert (str(kept.pk), kept.temperature, kept.at.isoformat()) == (body["id"], 12.5, "2026-01-01T00:00:00+00:00")
    assert world.call("scorer", "post", "/conditions", {**body, "temperature": 30}).status_code == 409
    assert world.call("preparer", "post", "/conditions", body).status_code == 409
    assert Condition.objects.filter(trial=world.trial).count() == 1
