"""The demo always has something due, and loading it twice makes nothing double."""

from datetime import timedelta

import pytest
from django.utils import timezone

from fieldtally.server.demo.society import load_demo
from fieldtally.server.people.models import Trial, User
from tests.server.conftest import signed_in

pytestmark = pytest.mark.django_db


def shelf():
    return signed_in(User.objects.get(email="lead@tarnlane.example")).get("/api/shelf").json()["trials"]


def test_the_demo_is_as_described():
    load_demo()
    load_demo()
    assert Trial.objects.count() == 6
    trials = {t["title"]: t for t in shelf()}
    dahlias = trials["Cut dahlias in the vase"]
    assert (dahlias["state"], dahlias["samples"]) == ("running", 24)
    standings = [s["standing"] for s in dahlias["checkpoints"]]
    assert standings == ["taken"] * 5 + ["due"] + ["upcoming"] * 6
    late = [s for s in dahlias["checkpoints"] if (s["slip"] or 0) > 0]
    assert [s["name"] for s in late] == ["Day 4"]
    assert trials["Soaking peas before sowing"]["state"] == "opened"
    scorer = signed_in(User.objects.get(email="scorer@tarnlane.example"))
    peas = trials["Soaking peas before sowing"]["id"]
    out = scorer.get(f"/api/trials/{peas}/verdict").json()
    assert out["findings"][0]["strength"]["level"] == "clear"
    assert [s["set_aside"] for s in out["samples"] if s["set_aside"]] == ["tray knocked over by the cat"]
    corrected = [e for e in scorer.get(f"/api/trials/{peas}/log").json()["entries"] if e["old_value"] is not None]
    assert len(corrected) == 1
    assert trials["Plant-label pens"]["state"] == "draft"
    gherkins = trials["Crunch of bottled gherkins"]
    assert gherkins["state"] == "opened"
    told = scorer.get(f"/api/trials/{gherkins['id']}/verdict").json()["panels"]
    assert [(one["title"], one["of"]) for one in told] == [("Leaf or no leaf", 23), ("Which jar is which", 23)]
    assert "found the odd one" in told[0]["sentence"]
    assert {one["name"] for one in told[0]["liked"]} == {"No leaf", "Vine leaf"}


def test_a_demo_that_has_run_out_is_put_away_and_made_anew():
    load_demo(timezone.now() - timedelta(days=20))
    load_demo()
    assert Trial.objects.count() == 12
    assert len(shelf()) == 6
    assert any(s["standing"] == "due" for t in shelf() for s in t["checkpoints"])
