"""The demo always has something due, and loading it twice makes nothing double."""

from datetime import timedelta

import pytest
from django.utils import timezone

from fieldtally.server.demo.society import load_demo
from fieldtally.server.panels.queries import panels_of
from fieldtally.server.people.models import Trial, User
from tests.server.conftest import signed_in
from tests.server.test_paper import PAPERS, read, stand

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


@pytest.mark.parametrize("paper", PAPERS)
def test_no_paper_of_the_demo_loses_anything_beyond_its_edges(paper):
    load_demo()
    clients = {
        who: signed_in(User.objects.get(email=f"{who}@tarnlane.example")) for who in ("lead", "preparer", "scorer")
    }
    printed = set()
    for trial in Trial.objects.all():
        home = f"/api/trials/{trial.pk}"
        asked = [
            ("lead", "get", f"{home}/report.pdf?paper={paper}"),
            ("lead", "get", f"{home}/report.pdf?short=true&paper={paper}"),
            ("preparer", "get", f"{home}/prints/mix.pdf?paper={paper}"),
            ("preparer", "post", f"{home}/prints/handout.pdf?paper={paper}"),
            ("preparer", "post", f"{home}/prints/key.pdf?paper={paper}"),
            *(
                ("scorer", "post", f"{home}/prints/scoring.pdf?checkpoint={key}&paper={paper}")
                for key in trial.checkpoints.values_list("key", flat=True)[:1]
            ),
            *(("preparer", "post", f"/api/panels/{one.pk}/prints/pour.pdf?paper={paper}") for one in panels_of(trial)),
            *(("lead", "get", f"/api/panels/{one.pk}/prints/cards.pdf?paper={paper}") for one in panels_of(trial)),
        ]
        for who, method, path in asked:
            answer = getattr(clients[who], method)(path)
            if answer.status_code == 200:
                printed.add(path.split("?")[0].rsplit("/", 1)[1])
                text, _ = read(answer.content)
                if "report.pdf" in path:
                    stand(text, trial.title)
    assert printed >= {"report.pdf", "mix.pdf", "handout.pdf", "key.pdf", "scoring.pdf"}
