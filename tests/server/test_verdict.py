"""Opening the key, and a verdict that is the core's."""

import csv
import io
import json
import zipfile

import numpy as np
import pytest

from fieldtally.cli import main
from fieldtally.core.compare.columns import Column, compare_columns
from fieldtally.server.plan.models import KeyEntry, Sample
from fieldtally.server.rounds.models import Reading
from fieldtally.server.verdict.models import KeyOpening
from tests.server.conftest import PLAN, make, replace, score

pytestmark = pytest.mark.django_db


def test_the_key_is_asked_for_twice_and_recorded():
    world = make("running")
    straight = world.call("lead", "post", "/key/open", {"title": PLAN.title})
    assert straight.status_code == 409
    assert "Ask for the key first" in straight.json()["problems"][0]["says"]
    assert world.call("lead", "post", "/key/ask").status_code == 200
    other = world.call("lead", "post", "/key/open", {"title": "Some other trial"})
    assert other.json()["problems"][0]["at"] == "title"
    assert world.call("lead", "post", "/key/open", {"title": PLAN.title.upper()}).status_code == 200
    assert [o.step for o in KeyOpening.objects.order_by("at")] == ["asked", "opened"]
    assert world.call("lead", "post", "/key/ask").status_code == 409
    assert world.call("scorer", "post", "/key/ask").status_code == 403


def test_there_is_no_verdict_before_the_key():
    for state in ("draft", "sealed", "running"):
        world = make(state)
        for role in ("lead", "scorer", "viewer"):
            assert world.get(role, "/verdict").status_code == 403
        world.trial.memberships.all().delete()
        for person in world.users.values():
            person.email = f"old-{person.pk}@x.example"
            person.save()


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
        assert names == [
            "treatments.csv",
            "samples.csv",
            "outcomes.csv",
            "checkpoints.csv",
            "readings.csv",
            "deviations.csv",
            "conditions.csv",
        ]
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
