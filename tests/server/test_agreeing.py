"""A trial that asks whether instruments agree: its verdict, report, workbook, link and pack tell of them, and of no winner."""

from dataclasses import replace
from uuid import uuid4

import pytest
from django.test import Client
from django.utils import timezone

from fieldtally import cli
from fieldtally.core.design.plan import Checkpoint
from fieldtally.core.rounds.written import Written
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import key_of
from fieldtally.server.rounds import services as round_services
from fieldtally.server.rounds.writing import write_readings
from fieldtally.server.share.again import found_by
from fieldtally.server.verdict import services as verdict_services
from tests.core.test_agreeing import NITRATE, TRUTH
from tests.server.conftest import make
from tests.server.test_packs import packed

pytestmark = pytest.mark.django_db
KITS = replace(NITRATE, checkpoints=(Checkpoint("now", "Now", 60, 60, 4 * 1440),))


def read(world):
    """The meter is right, the strip reads too much, the kit rings for salt as well."""
    held = round_services.open_round(world.trial, world.users["scorer"], "now")
    treatments = key_of(world.trial)
    written = []
    for sample in Sample.objects.filter(trial=world.trial).order_by("code"):
        treatment = treatments[sample.pk]
        true = TRUTH[treatment]
        values = {
            "meter": true / 1000,
            "strip": {0.0: 1.0, 10.0: 2.5, 40.0: 4.0, 22.0: 3.5}[true],
            "kit": 0.0 if true >= 25 or treatment == "salt" else 1.0,
        }
        written += [
            Written(uuid4(), held.pk, sample.pk, outcome, "value", value, "", timezone.now())
            for outcome, value in values.items()
        ]
    write_readings(world.trial, world.users["scorer"], written)


def test_instruments_are_told_in_verdict_report_workbook_link_and_pack_and_nothing_wins(tmp_path, capsys):
    world = make("running", KITS, scored=False)
    read(world)
    verdict_services.ask_to_open(world.trial, world.users["lead"])
    verdict_services.open_key(world.trial, world.users["lead"], world.trial.title)
    world.trial.refresh_from_db()

    assert world.get("lead", "/line-up").json()["pictures"] == []
    told = world.get("lead", "/verdict").json()
    assert (told["findings"], told["tally"], told["uses"], told["told"]) == ([], None, [], [])
    says = told["instruments"]["sentences"]
    assert says[0].startswith("Of 3 instruments") or "disagree" in says[0]
    assert any("reacts to the wrong substance in 4 of 4" in one for one in says)
    assert told["instruments"]["found"]["unit"] == "mg/L"
    assert not any("winner" in one or "control" in one for one in told["not_claimed"])
    assert any("Readings below 0" in one for one in told["not_claimed"])

    page = world.get("lead", "/report.html").content.decode()
    assert "Every two of them" in page and "reacts to the wrong substance in 4 of 4" in page
    assert "What stands behind" not in page
    assert found_by(world.trial) == tuple(says)

    token = world.call("lead", "post", "/publish", {"out": True}).json()["token"]
    stranger = Client()
    assert stranger.get(f"/api/published/{token}").json()["asks"] is False
    passed = stranger.post(f"/api/published/{token}/expected", {"treatment": ""}, content_type="application/json")
    assert passed.json()["sentences"] == says
    assert stranger.get(f"/api/published/{token}/card.png").status_code == 200
    content = packed(world.trial)
    kept = tmp_path / "kits.zip"
    kept.write_bytes(content)
    assert cli.main(["verdict", str(kept)]) == 0
    said = capsys.readouterr().out
    assert "reacts to the wrong substance in 4 of 4" in said


def test_what_such_a_plan_foretells_stands_beside_it_and_its_flaws_at_their_fields():
    world = make("draft", KITS)
    body = world.get("lead", "/plan").json()["plan"]
    body["agreement"]["limit"] = None
    told = world.clients["lead"].post("/api/outlook", {"plan": body}, content_type="application/json").json()
    assert told["outlook"] is None
    assert "With 20 readings of each" in told["foretold"][0]
    assert any(one["at"] == "agreement.limit" for one in told["problems"])


def test_methods_compared_become_such_a_trial_and_a_nameless_one_is_refused():
    lead = make("draft", KITS).clients["lead"]
    table = {"text": "strip [mg/L],meter [g/L],truth\n0,0,blank\n10,0.01,10\n20,0.03,\n", "limit": 15}
    answer = lead.post("/api/methods/trial", {**table, "title": "Again"}, content_type="application/json")
    assert answer.status_code == 201
    plan = lead.get(f"/api/trials/{answer.json()['id']}/plan").json()["plan"]
    assert (plan["title"], plan["agreement"]["limit"], len(plan["treatments"])) == ("Again", 15, 3)
    nameless = lead.post("/api/methods/trial", {**table, "title": " "}, content_type="application/json")
    assert nameless.status_code == 422 and nameless.json()["problems"][0]["at"] == "title"


def test_nothing_read_by_two_of_them_is_no_verdict():
    world = make("opened", KITS, scored=False)
    told = world.get("lead", "/verdict").json()
    assert told["instruments"] == {
        "sentences": ["No verdict: no two instruments have read the same three samples."],
        "found": None,
    }
    assert "No verdict" in world.get("lead", "/report.html").content.decode()
