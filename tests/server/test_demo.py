"""The demo always has something due, loading it twice makes nothing double, and all of it prints, travels and is as it was recorded."""

from collections.abc import Iterator
from datetime import timedelta

import pytest
from django.db import transaction
from django.db.models import Count

from fieldtally.core.trialpack.reading import read_pack
from fieldtally.server.demo import practice
from fieldtally.server.demo.society import load_demo
from fieldtally.server.measuring.models import Photo
from fieldtally.server.panels.queries import panels_of
from fieldtally.server.people.models import Trial, User
from fieldtally.server.rounds.counting import MANY
from fieldtally.server.rounds.models import Reading, Taken
from fieldtally.server.share.pack_reader import bring_in
from fieldtally.server.training.models import TrainingAnswer
from fieldtally.server.verdict.chain import faults_of
from tests.depth import cells
from tests.server.conftest import signed_in
from tests.server.test_packs import inside, packed
from tests.server.test_paper import PAPERS, read, stand

pytestmark = [pytest.mark.django_db, pytest.mark.usefixtures("demo")]


@pytest.fixture(scope="module")
def demo(django_db_setup, django_db_blocker) -> Iterator[None]:
    """The demo, loaded once; each test's own changes are undone behind it."""
    with django_db_blocker.unblock(), transaction.atomic():
        load_demo()
        yield
        transaction.set_rollback(True)


def shelf():
    return signed_in(User.objects.get(email="lead@tarnlane.example")).get("/api/shelf").json()["trials"]


def test_the_demo_is_as_described():
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
    dahlias = Trial.objects.get(title="Cut dahlias in the vase")
    Trial.objects.filter(pk=dahlias.pk).update(started_at=dahlias.started_at - timedelta(days=20))
    load_demo()
    assert Trial.objects.count() == 12
    assert len(shelf()) == 6
    assert any(s["standing"] == "due" for t in shelf() for s in t["checkpoints"])


@pytest.mark.parametrize("paper", cells(PAPERS, ["a4"]))
def test_no_paper_of_the_demo_loses_anything_beyond_its_edges(paper):
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


def test_every_trial_of_the_demo_goes_out_and_comes_back_byte_for_byte():
    lead = User.objects.get(email="lead@tarnlane.example")
    trials = list(Trial.objects.order_by("created_at"))
    assert len(trials) >= 5
    for trial in trials:
        first = packed(trial)
        again = packed(bring_in(read_pack(first), lead))
        before, after = inside(first), inside(again)
        assert before.keys() == after.keys()
        for name in before:
            kept = before[name].replace(b'"origin": ""', b'"origin": "pack"')
            assert kept == after[name], (trial.title, name)
    assert (
        Photo.objects.filter(trial__imported_by=lead).count() == Photo.objects.exclude(trial__imported_by=lead).count()
    )


def test_every_trial_of_the_demo_is_as_it_was_recorded():
    assert {trial.title: faults_of(trial) for trial in Trial.objects.all()} == {
        trial.title: [] for trial in Trial.objects.all()
    }


def test_what_is_taken_is_counted_alike_a_few_at_a_time_and_many_at_once():
    lead = User.objects.get(email="lead@tarnlane.example")
    for trial in list(Trial.objects.all()):
        # The demo was written a few at a time, a pack comes in at once.
        for held in (trial, bring_in(read_pack(packed(trial)), lead)):
            stand = Reading.objects.current().filter(trial=held, repeat=None).exclude(kind="withdrawn")
            rows = (
                stand.values_list("checkpoint_id", "sample_id")
                .annotate(many=Count("outcome_id", distinct=True))
                .order_by()
            )
            taken = Taken.objects.filter(trial=held, outcomes__gt=0)
            assert set(rows) == set(taken.values_list("checkpoint_id", "sample_id", "outcomes")), trial.title
    assert Reading.objects.values("trial").annotate(many=Count("pk")).filter(many__gte=MANY).exists()


def test_what_is_shipped_as_read_by_the_gauge_is_what_it_reads():
    shipped = practice.shipped()
    drawn = {practice.name_of(one.truth, one.seed): one for one in practice.items()}
    assert drawn.keys() == shipped.keys()
    for name in cells(list(drawn), list(drawn)[::40]):
        assert practice.read_by_gauge(drawn[name]) == pytest.approx(shipped[name], abs=1e-6), name
    kept = TrainingAnswer.objects.values_list("truth", "seed", "gauged")
    assert len(kept) == len(shipped)
    assert all(gauged == shipped[practice.name_of(truth, seed)] for truth, seed, gauged in kept)
