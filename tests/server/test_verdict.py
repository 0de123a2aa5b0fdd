"""Opening the key, and a verdict that is the core's."""

import csv
import io
import json
import zipfile

import numpy as np
import pytest
from django.db import DatabaseError

from fieldtally.cli import main
from fieldtally.core.compare.columns import Column, compare_columns
from fieldtally.core.trialpack.schema import SCHEMAS
from fieldtally.server.plan.models import KeyEntry, Sample
from fieldtally.server.rounds.models import Reading
from fieldtally.server.verdict.models import InterimLook, KeyOpening, MethodsKept
from tests.server.conftest import PLAN, make, replace, score

pytestmark = pytest.mark.django_db


def test_the_key_is_asked_for_twice_and_recorded():
    world = make("running")
    straight = world.call("lead", "post", "/key/open", {"title": PLAN.title})
    assert straight.status_code == 409
    assert "Ask for the key first" in straight.json()["problems"][0]["says"]
    assert world.call("lead", "post", "/key/ask").status_code == 200
    other = world.call("lead", "post", "/key/open", {"title": "Some other trial"})
    assert other.json()["problems"][0]["at"] == "phrase"
    assert world.call("lead", "post", "/key/open", {"phrase": "open 1"}).status_code == 422
    # Its own phrase opens it, and its name does as well.
    assert world.call("lead", "post", "/key/open", {"title": PLAN.title.upper()}).status_code == 200
    assert [o.step for o in KeyOpening.objects.filter(trial=world.trial).order_by("at")] == ["asked", "opened"]
    assert world.call("lead", "post", "/key/ask").status_code == 409
    assert world.call("scorer", "post", "/key/ask").status_code == 403


def test_the_key_is_opened_by_a_short_phrase_of_its_own():
    world = make("running")
    phrase = world.call("lead", "post", "/key/ask").json()["phrase"]
    assert len(phrase) < 10
    assert world.call("lead", "post", "/key/open", {"phrase": phrase.upper()}).status_code == 200


@pytest.mark.parametrize("state", ["draft", "sealed", "running"])
def test_there_is_no_verdict_before_the_key(state):
    world = make(state)
    for role in ("lead", "scorer", "viewer"):
        assert world.get(role, "/verdict").status_code == 403


def opened(world):
    world.call("lead", "post", "/key/ask")
    assert world.call("lead", "post", "/key/open", {"title": world.trial.title}).status_code == 200


def test_the_verdict_shown_is_the_cores():
    world = make("running", scored=False)
    score(world, "c-2")
    aside = Sample.objects.order_by("code").first()
    world.call("scorer", "post", "/aside", {"code": aside.code, "reason": "slugs"})
    opened(world)
    out = world.get("viewer", "/verdict").json()
    key = dict(KeyEntry.objects.values_list("sample__code", "treatment"))
    order = [t.key for t in PLAN.treatments]
    rows = [
        (r.value, order.index(key[r.sample.code]), r.sample.block)
        for r in Reading.objects.filter(outcome__key="o-height").select_related("sample")
        if r.sample_id != aside.pk
    ]
    values, labels, blocks = zip(*rows, strict=True)
    (core,) = compare_columns(
        np.array(values)[:, None],
        [Column("measurement")],
        np.array(labels),
        [t.name for t in PLAN.treatments],
        np.unique(blocks, return_inverse=True)[1],
        np.random.default_rng(0),
    )
    shown = next(f for f in out["findings"] if f["outcome"] == "o-height" and f["checkpoint"] is None)
    assert shown["comparison"]["overall"]["p"] == pytest.approx(core.overall.p)
    for pair, theirs in zip(shown["comparison"]["pairs"], core.pairs, strict=True):
        assert (pair["a"], pair["p"], pair["difference"]) == (
            theirs.a,
            pytest.approx(theirs.p),
            pytest.approx(theirs.difference),
        )
    assert not shown["claim"]
    assert [w["outcome"] for w in out["with_all"]] == [o.key for o in PLAN.outcomes]
    assert next(s for s in out["samples"] if s["code"] == aside.code)["set_aside"] == "slugs"
    assert {r["blinding"] for r in out["rounds"]} == {"scorer-blind"}
    assert any("set aside" in limit for limit in out["not_claimed"])


def test_a_round_by_someone_who_had_seen_the_key_is_called_open():
    world = make("running", scored=False)
    world.call("lead", "post", "/key-looks")
    score(world, "c-1", "lead")
    score(world, "c-1", "scorer")
    opened(world)
    out = world.get("lead", "/verdict").json()
    assert {r["scorer"]: r["blinding"] for r in out["rounds"]} == {
        "Person lead": "open",
        "Person scorer": "scorer-blind",
    }
    assert any("1 of 2 rounds" in limit for limit in out["not_claimed"])


def test_setting_aside_after_the_key_is_marked_and_changes_the_verdict():
    world = make("opened")
    before = world.get("lead", "/verdict").json()
    code = Sample.objects.first().code
    assert world.call("scorer", "post", "/aside", {"code": code, "reason": "late idea"}).status_code == 403
    assert world.call("lead", "post", "/aside", {"code": code, "reason": "late idea"}).status_code == 204
    after = world.get("lead", "/verdict").json()
    assert next(s for s in after["samples"] if s["code"] == code)["aside_after_key"]
    assert after["findings"] != before["findings"]
    assert any("after the key" in e["reason"] for e in world.get("lead", "/log").json()["entries"])


def test_a_trial_opened_without_a_reading_has_a_verdict_that_says_so():
    world = make("running", scored=False)
    opened(world)
    out = world.get("lead", "/verdict").json()
    assert {f["strength"]["level"] for f in out["findings"]} == {"spoiled"}


def test_the_pack_and_the_table_carry_the_trial(tmp_path, capsys):
    world = make("opened", replace(PLAN, title="Beans, =SUM(1)"))
    answer = world.get("viewer", "/pack.zip")
    assert 'filename="beans-sum-1-trial-pack.zip"' in answer.headers["Content-Disposition"]
    with zipfile.ZipFile(io.BytesIO(answer.content)) as files:
        package = json.loads(files.read("datapackage.json"))
        names = [r["path"] for r in package["resources"]]
        assert names == [f"{name}.csv" for name in SCHEMAS]
        rows = {name: list(csv.DictReader(io.StringIO(files.read(name).decode()))) for name in names}
        for resource in package["resources"]:
            fields = [f["name"] for f in resource["schema"]["fields"]]
            assert all(list(row) == fields for row in rows[resource["path"]])
    assert len(rows["samples.csv"]) == 12
    assert len(rows["readings.csv"]) == Reading.objects.count()
    assert {row["treatment"] for row in rows["samples.csv"]} == {t.key for t in PLAN.treatments}
    path = tmp_path / "pack.zip"
    path.write_bytes(answer.content)
    assert main(["check-seal", str(path)]) == 0
    table = tmp_path / "long.csv"
    table.write_bytes(world.get("viewer", "/readings.csv").content)
    lines = [row for row in csv.DictReader(io.StringIO(table.read_text("utf-8-sig"))) if row["outcome"] == "Height"]
    heights = tmp_path / "heights.csv"
    with heights.open("w", newline="") as out:
        writer = csv.DictWriter(out, list(lines[0]))
        writer.writeheader()
        writer.writerows(lines)
    capsys.readouterr()
    assert (
        main(
            [
                "verdict",
                str(heights),
                "--treatment",
                "treatment",
                "--value",
                "value",
                "--block",
                "block",
                "--sample",
                "sample",
                "--json",
            ]
        )
        == 0
    )
    shown = next(
        f
        for f in world.get("viewer", "/verdict").json()["findings"]
        if f["outcome"] == "o-height" and f["checkpoint"] == "c-1"
    )
    headless = json.loads(capsys.readouterr().out)["outcomes"][0]
    ps = {frozenset((p["a"], p["b"])): p["p"] for p in shown["comparison"]["pairs"]}
    assert {frozenset((p["a"], p["b"])): pytest.approx(p["p"]) for p in headless["pairs"]} == ps


def test_the_tally_follows_the_weights_and_stays_sealed_before_the_key():
    world = make("running")
    asked = world.call("lead", "post", "/tally", {"weights": {"o-grade": 1}})
    assert asked.status_code == 403
    opened(world)
    told = world.call("viewer", "post", "/tally", {"weights": {"o-grade": 1, "o-pods": 0}}).json()["tally"]
    weights = dict(zip(told["outcomes"], told["weights"], strict=True))
    assert sum(weights.values()) == pytest.approx(1)
    heavier = world.call("viewer", "post", "/tally", {"weights": {"o-grade": 9}}).json()["tally"]
    assert dict(zip(heavier["outcomes"], heavier["weights"], strict=True))["o-grade"] > weights["o-grade"]
    refused = world.call("lead", "post", "/tally", {"weights": {"o-grade": -1}})
    assert (refused.status_code, refused.json()["problems"][0]["at"]) == (422, "weights")


INTERIM = replace(PLAN, interim=("c-1",))


def test_an_interim_look_is_taken_once_when_planned_and_its_round_is_finished():
    world = make("running", INTERIM, scored=False)
    before = world.get("lead", "/progress").json()
    assert before["price"].startswith("With 1 interim look and the end, each is judged at 2.5 %")
    assert [(one["checkpoint"], one["ready"], one["stop"]) for one in before["interim"]] == [("c-1", False, None)]
    assert before["outcomes"] == []
    early = world.call("lead", "post", "/interim", {"checkpoint": "c-1"})
    assert early.status_code == 409 and "not scored to its end" in early.json()["problems"][0]["says"]
    score(world, "c-1")
    told = world.call("lead", "post", "/interim", {"checkpoint": "c-1"})
    assert told.status_code == 200 and told.json()["stop"] is False and told.json()["says"].startswith("Go on")
    assert world.call("lead", "post", "/interim", {"checkpoint": "c-1"}).json() == told.json()
    assert InterimLook.objects.count() == 1
    spread = {one["outcome"]: one["looks"] for one in world.get("lead", "/progress").json()["outcomes"]}
    assert spread["o-grade"][0]["values"] == sorted(spread["o-grade"][0]["values"])
    assert len(spread["o-grade"][0]["values"]) == Sample.objects.count()


def test_no_interim_look_that_nobody_planned():
    world = make("running")
    answer = world.call("lead", "post", "/interim", {"checkpoint": "c-1"})
    assert answer.status_code == 409 and "No interim look was planned" in answer.json()["problems"][0]["says"]
    assert not InterimLook.objects.exists()
    opened(world)
    assert world.call("lead", "post", "/interim", {"checkpoint": "c-1"}).status_code == 409


def test_an_interim_look_cannot_be_unsaid():
    world = make("running", INTERIM, scored=False)
    score(world, "c-1")
    world.call("lead", "post", "/interim", {"checkpoint": "c-1"})
    with pytest.raises(DatabaseError, match="permission denied"):
        InterimLook.objects.update(stop=True)


def test_the_next_trial_takes_the_number_that_would_settle_it():
    world = make("opened")
    begun = world.call("lead", "post", "/again", {"samples": 9})
    assert begun.status_code == 201
    plan = world.clients["lead"].get(f"/api/trials/{begun.json()['id']}/plan").json()["plan"]
    assert [t["samples"] for t in plan["treatments"]] == [9, 9, 9]
    assert world.call("lead", "post", "/again", {"samples": 0}).status_code == 422


METHODS = "sample,strip,meter,truth,other\n1,0,0,blank,\n2,5,0.2,0,\n3,20,19,20,\n4,25,21,20,\n5,50,41,40,\n6,25,0,0,x\n7,-,20,,\n"


def test_methods_in_a_table_are_guessed_compared_and_can_be_corrected():
    world = make("draft")
    ask = world.clients["scorer"].post
    answer = ask("/api/methods", {"text": METHODS, "unit": "mg/L", "limit": 25}, content_type="application/json")
    assert answer.status_code == 200
    told = answer.json()
    assert {one["name"]: one["meaning"] for one in told["columns"]} == {
        "sample": "nothing",
        "strip": "method",
        "meter": "method",
        "truth": "truth",
        "other": "other",
    }
    (pair,) = told["found"]["pairs"]
    assert pair["n"] == 6 and pair["limit"]["only_a"] == 2 and pair["limit"]["only_b"] == 0
    strip = told["found"]["against_truth"][0]
    assert (strip["alarms"]["many"], strip["alarms"]["of"]) == (0, 2)
    assert "reacts to the wrong substance in 1 of 1" in strip["says"]
    meaning = {"strip": "method", "meter": "method", "truth": "nothing"}
    plain = ask("/api/methods", {"text": METHODS, "meaning": meaning}, content_type="application/json").json()
    assert plain["found"]["against_truth"] == []


KITS = "sample,Kit,Meter [g/L],Strip (mg/L)\n1,pass,0.009,0-10\n2,fail,0.03,25\n3,fail,0.012,10\n4,pass,0.04,50\n"


def test_a_comparison_is_kept_opened_again_by_whoever_kept_it_and_thrown_away():
    world = make("draft")
    scorer, lead = world.clients["scorer"], world.clients["lead"]
    body = {"text": KITS, "limit": 20, "name": "  Well   water "}
    told = scorer.post("/api/methods", {"text": KITS, "limit": 20}, content_type="application/json").json()
    assert told["between"] == 1 and told["found"]["unit"] == "g/L" and told["found"]["methods"][0] == "Kit"
    refused = scorer.post("/api/methods/kept", {**body, "text": "a\n1"}, content_type="application/json")
    assert refused.status_code == 422 and scorer.get("/api/methods/kept").json() == {"kept": []}
    one = scorer.post("/api/methods/kept", body, content_type="application/json").json()
    again = scorer.post("/api/methods/kept", {**body, "limit": 21}, content_type="application/json").json()
    assert (one["id"], one["name"]) == (again["id"], "Well water")
    opened = scorer.get(f"/api/methods/kept/{one['id']}").json()
    assert (opened["text"], opened["limit"]) == (KITS, 21)
    assert lead.get("/api/methods/kept").json() == {"kept": []}
    for ask in (lead.get, lead.delete):
        assert ask(f"/api/methods/kept/{one['id']}").status_code == 404
    nameless = scorer.post("/api/methods/kept", {**body, "name": " "}, content_type="application/json")
    assert nameless.json()["problems"][0]["at"] == "name"
    assert scorer.delete(f"/api/methods/kept/{one['id']}").status_code == 204
    assert not MethodsKept.objects.exists()


@pytest.mark.parametrize(
    ("body", "at", "says"),
    [
        ({"text": "a (pH),b (mg/L)\n1,2\n2,3\n2,3"}, "unit", "b reads mg/L, which is no amount of pH"),
        ({"text": "a,b\npass,2\nfail,3\npass,3"}, "limit", "from which reading of b"),
        ({"text": ""}, "line 1", "empty"),
        ({"text": "a,b\n1,2\n2,x\n3,3", "meaning": {"a": "method", "b": "method"}}, "line 3", "not a number"),
        ({"text": "a,b\n1,2\n2,3"}, "rows", "nothing to compare"),
        ({"text": "a\n1\n2"}, "methods", "at least two"),
        ({"text": "a,b,truth\n1,2,-4\n2,3,1\n2,3,1"}, "line 2", "no amount"),
        ({"text": "a,b,c\n1,2,3", "meaning": {"a": "truth", "b": "truth"}}, "meaning", "Only one column"),
    ],
)
def test_tables_of_methods_that_cannot_be_read(body, at, says):
    world = make("draft")
    answer = world.clients["scorer"].post("/api/methods", body, content_type="application/json")
    assert answer.status_code == 422
    problem = answer.json()["problems"][0]
    assert problem["at"] == at and says in problem["says"]
