"""Files come in: a table is looked at, corrected and becomes a trial with its verdict; a pack comes in whole, or not at all."""

from datetime import timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.utils import timezone

from fieldtally.core.design.fair.items import ITEMS
from fieldtally.server.log.models import Deviation, LogNote
from fieldtally.server.people.chain import entries_of
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.models import Sample
from fieldtally.server.rounds.models import Reading
from fieldtally.server.share import importing, pack_reader
from fieldtally.server.share.going_on import carry_on
from fieldtally.server.share.models import Import
from fieldtally.server.verdict.chain import faults_of, recorded
from tests.core.test_importing import WIDE
from tests.server.conftest import as_owner, make
from tests.server.test_packs import edited, packed

pytestmark = pytest.mark.django_db


def sent(client, content, name="Beans of last year.csv"):
    return client.post("/api/imports", {"file": SimpleUploadedFile(name, content)})


def put(client, path, body):
    return client.put(path, body, content_type="application/json")


def test_a_table_is_corrected_and_becomes_a_trial_with_its_verdict():
    client = make("draft").clients["outsider"]
    row = sent(client, WIDE.encode()).json()
    path = f"/api/imports/{row['id']}"
    table = client.get(f"{path}/table").json()
    assert table["treatments"] == ["water", "tea"] and table["problems"] == []
    assert (table["samples"], table["readings"], table["row_count"]) == (8, 24, 8)
    assert table["title"] == "Beans of last year"
    meaning = table["meaning"]
    meaning["columns"][1]["part"] = "nothing"
    meaning["control"] = ""
    again = put(client, f"{path}/table", {"meaning": meaning, "title": "Beans in tea"}).json()
    assert again["blocks"] == [] and again["title"] == "Beans in tea"
    assert client.post(f"{path}/in").status_code == 202
    importing.carry_in.func(row["id"])
    done = client.get(path).json()
    assert done["state"] == "done" and done["trial"]
    verdict = client.get(f"/api/trials/{done['trial']}/verdict").json()
    assert verdict["origin"] == "table" and verdict["rounds"][0]["blinding"] == "unknown"
    assert "tea" in verdict["findings"][0]["sentence"]
    assert verdict["not_claimed"][0].startswith("That this was foreseen")
    assert any("blind" in one for one in verdict["not_claimed"])
    for page in ("course", "board", "log", "plan", "agreement", "pack.zip", "readings.csv", "photos"):
        assert client.get(f"/api/trials/{done['trial']}/{page}").status_code == 200, page
    assert client.post(f"{path}/in").status_code == 409


def test_what_stands_in_the_way_is_told_beside_the_table_and_nothing_comes_in():
    client = make("draft").clients["outsider"]
    trials = Trial.objects.count()
    row = sent(client, b"treatment,cm\na,1\na,1\nb,2\nb,3\n").json()
    path = f"/api/imports/{row['id']}"
    table = client.get(f"{path}/table").json()
    assert table["problems"][0]["at"] == "doubled" and table["rows"][0] == ["a", "1"]
    client.post(f"{path}/in")
    importing.carry_in.func(row["id"])
    told = client.get(path).json()
    assert told["state"] == "refused" and told["problems"][0]["at"] == "doubled"
    assert Trial.objects.count() == trials
    body = {"meaning": table["meaning"], "choices": {"doubled": "keep"}}
    assert put(client, f"{path}/table", body).json()["problems"] == []
    client.post(f"{path}/in")
    importing.carry_in.func(row["id"])
    assert client.get(path).json()["state"] == "done" and Trial.objects.count() == trials + 1


def test_a_pack_comes_in_or_says_line_by_line_why_not():
    world = make("opened")
    client = world.clients["outsider"]
    pack = packed(world.trial)
    row = sent(client, pack, "beans.zip").json()
    assert row["kind"] == "pack"
    client.post(f"/api/imports/{row['id']}/in")
    importing.carry_in.func(row["id"])
    done = client.get(f"/api/imports/{row['id']}").json()
    assert done["state"] == "done"
    assert client.get(f"/api/trials/{done['trial']}/verdict").json()["origin"] == "pack"
    row = sent(client, edited(pack, "readings", 3, sample="999")).json()
    client.post(f"/api/imports/{row['id']}/in")
    importing.carry_in.func(row["id"])
    told = client.get(f"/api/imports/{row['id']}").json()
    assert told["problems"] == [{"at": "readings.csv, row 5", "says": "There is no sample 999.", "asks": False}]
    bad = sent(client, edited(pack, "readings", 3, value="many"))
    assert bad.status_code == 422 and bad.json()["problems"][0]["at"] == "readings.csv, line 5"


def test_whatever_goes_wrong_ends_with_a_sentence_and_nothing_stored(monkeypatch):
    world = make("opened")
    row = sent(world.clients["outsider"], packed(world.trial), "trial.zip").json()
    trials = Trial.objects.count()

    def broken(*_):
        Trial.objects.create(title="Half of it")
        raise RuntimeError("the ceiling came down")

    with monkeypatch.context() as patch:
        patch.setattr(importing, "bring_in", lambda *args: in_one(broken))
        importing.start(Import.objects.get(pk=row["id"]))
        importing.carry_in.func(row["id"])
    told = world.clients["outsider"].get(f"/api/imports/{row['id']}").json()
    assert told["state"] == "failed"
    assert "nothing of it was stored" in told["problems"][0]["says"]
    assert Trial.objects.count() == trials
    # Whatever carried it in was killed: it does not hang.
    Import.objects.filter(pk=row["id"]).update(state="running", moved_at=timezone.now() - timedelta(minutes=11))
    told = world.clients["outsider"].get(f"/api/imports/{row['id']}").json()
    assert (told["state"], "broken off" in told["problems"][0]["says"]) == ("failed", True)
    importing.start(Import.objects.get(pk=row["id"]))
    importing.carry_in.func(row["id"])
    assert world.clients["outsider"].get(f"/api/imports/{row['id']}").json()["state"] == "done"


@transaction.atomic
def in_one(act):
    return act()


def test_a_pack_with_a_value_that_its_scale_does_not_have_is_refused_at_its_row():
    world = make("opened")
    pack = edited(packed(world.trial), "readings", 1, value="-3")
    row = sent(world.clients["outsider"], pack, "trial.zip").json()
    importing.start(Import.objects.get(pk=row["id"]))
    importing.carry_in.func(row["id"])
    told = world.clients["outsider"].get(f"/api/imports/{row['id']}").json()
    assert told["state"] == "refused"
    assert told["problems"][0]["at"] == "readings.csv, row 3"


def test_what_is_on_its_way_is_ones_own_and_goes_when_it_is_taken_away():
    world = make("draft")
    client, other = world.clients["outsider"], world.clients["lead"]
    row = sent(client, WIDE.encode()).json()
    path = f"/api/imports/{row['id']}"
    assert [one["id"] for one in client.get("/api/imports").json()["bringings"]] == [row["id"]]
    assert other.get("/api/imports").json()["bringings"] == []
    for answer in (other.get(path), other.get(f"{path}/table"), other.post(f"{path}/in"), other.delete(path)):
        assert answer.status_code == 404
    assert client.delete(path).status_code == 204 and not Import.objects.exists()


@pytest.mark.parametrize(
    ("content", "says"), [(b"%PDF", "no table"), (b"one", "no table"), (b'a,b\n"1', "do not close")]
)
def test_what_is_no_table_is_not_kept(content, says):
    client = make("draft").clients["outsider"]
    answer = sent(client, content)
    assert answer.status_code == 422 and says in answer.json()["problems"][0]["says"]
    assert not Import.objects.exists()


def test_a_file_of_300_mb_is_declined_by_its_length_and_none_of_it_is_read():
    client = make("draft").clients["outsider"]
    body, form = b"--x\r\n", "multipart/form-data; boundary=x"
    answer = client.generic("POST", "/api/imports", body, form, headers={"content-length": "300000000"})
    assert answer.status_code == 413
    assert answer.json()["problems"] == [
        {"at": "file", "says": "This file is larger than 200 MB; take it smaller.", "asks": False}
    ]
    assert not Import.objects.exists()


def test_a_long_table_begins_its_chain_in_parts_and_nothing_of_it_differs(monkeypatch):
    monkeypatch.setattr(pack_reader, "COPIED_AT_ONCE", 5)
    world = make("running")
    row = importing.keep(world.users["lead"], "beans.csv", WIDE.encode())
    Import.objects.filter(pk=row.pk).update(state="running")
    importing.carry_in.func(str(row.pk))
    row.refresh_from_db()
    assert row.state == "done", row.problems
    assert [one.document["what"] for one in entries_of(row.trial)] == ["taken over"] * 5
    assert sum(len(one.document["items"]) for one in entries_of(row.trial)) == len(list(recorded(row.trial)))
    assert faults_of(row.trial) == []
    assert Reading.objects.filter(trial=row.trial).count() == 24
    with as_owner() as cursor:
        cursor.execute("UPDATE rounds_reading SET value = value + 1 WHERE trial_id = %s AND value > 5", [row.trial_id])
    assert faults_of(row.trial)


STILL = """pot,bench,given,height d7 (cm),height d14 (cm)
p1,north,water,3.1,5.2
p2,north,tea,3.4,6.0
p3,south,water,2.9,5.0
p4,south,tea,3.6,6.3
p5,north,water,3.0,5.1
p6,north,tea,3.3,6.1
p7,south,water,2.8,4.9
p8,south,tea,3.5,
"""


def going_on(start: str, table=STILL):
    world = make("draft")
    client = world.clients["outsider"]
    row = sent(client, table.encode(), "Beans on the bench.csv").json()
    path = f"/api/imports/{row['id']}"
    table = client.get(f"{path}/table").json()
    put(client, f"{path}/table", {"meaning": table["meaning"], "choices": {"start": start}, "zone": "Europe/London"})
    return client, path


def test_a_table_of_a_trial_that_goes_on_becomes_a_draft_and_its_readings_come_in_with_the_seal():
    began = timezone.now() - timedelta(days=16)
    client, path = going_on(f"{began:%Y-%m-%d}")
    answer = client.post(f"{path}/on")
    assert answer.status_code == 201, answer.content
    told = answer.json()
    assert told["state"] == "waits"
    trial = Trial.objects.get(pk=told["trial"])
    held = client.get(f"/api/trials/{trial.pk}/plan").json()
    plan = held["plan"]
    assert plan["begun"]["taken"] == [one["key"] for one in plan["checkpoints"]]
    # Block by block, as it is drawn and named.
    assert [one["name"] for one in plan["begun"]["samples"]] == ["p1", "p2", "p5", "p6", "p3", "p4", "p7", "p8"]
    assert Reading.objects.filter(trial=trial).count() == 0
    seal_the_rest(client, trial, held)
    carry_on.func(told["id"], Import.objects.get(pk=told["id"]).by_id)
    assert client.get(path).json()["state"] == "done", client.get(path).json()
    assert Reading.objects.filter(trial=trial).count() == 15
    trial.refresh_from_db()
    assert (trial.started_at.date(), trial.state) == (began.date(), "running")
    days = sorted({(one.taken_at - trial.started_at).days for one in Reading.objects.filter(trial=trial)})
    assert days == [7, 14]
    assert not faults_of(trial)
    assert "15 readings from before the seal" in client.get(f"/api/trials/{trial.pk}/log").content.decode()
    # It is done once, however often the worker is asked.
    carry_on.func(told["id"], Import.objects.get(pk=told["id"]).by_id)
    assert Reading.objects.filter(trial=trial).count() == 15


def seal_the_rest(client, trial, held):
    """What is still to come is planned, and the plan sealed as of now."""
    plan = held["plan"]
    plan |= {
        "question": "Does tea help?",
        "fairness": [{"item": i.key, "kept": False, "reason": "a test"} for i in ITEMS],
    }
    plan["begun"]["how"] = "as they came to hand"
    plan["checkpoints"].append({**plan["checkpoints"][-1], "key": "c-last", "name": "Day 21", "offset": 21 * 24 * 60})
    for outcome in plan["outcomes"]:
        outcome["checkpoints"] = []
    saved = put(client, f"/api/trials/{trial.pk}/plan", {"plan": plan, "version": held["version"]})
    assert saved.status_code == 200, saved.content
    body = {"version": saved.json()["version"], "stay_blind": False}
    sealed = client.post(f"/api/trials/{trial.pk}/seal", body, content_type="application/json")
    assert sealed.status_code == 200, sealed.content


@pytest.mark.parametrize("named", ["p", "planter-"])
def test_remarks_and_samples_set_aside_come_in_with_what_goes_on(named):
    head, *rows = STILL.strip().replace("\np", f"\n{named}").split("\n")
    said = {f"{named}2": "pale,", f"{named}3": ",slugs"}
    told_rows = [f"{row},{said.get(row.split(',')[0], ',')}" for row in rows]
    began = timezone.now() - timedelta(days=16)
    client, path = going_on(f"{began:%Y-%m-%d}", "\n".join([f"{head},note,left out", *told_rows]))
    told = client.post(f"{path}/on").json()
    trial = Trial.objects.get(pk=told["trial"])
    seal_the_rest(client, trial, client.get(f"/api/trials/{trial.pk}/plan").json())
    carry_on.func(told["id"], Import.objects.get(pk=told["id"]).by_id)
    assert client.get(path).json()["state"] == "done", client.get(path).json()
    trial = Trial.objects.get(pk=trial.pk)
    (deviation,) = Deviation.objects.filter(trial=trial, sample__isnull=False)
    assert (deviation.kind, deviation.reason, deviation.after_key) == ("set_aside", "slugs", False)
    notes = [one.text for one in LogNote.objects.filter(trial=trial)]
    (told,) = [text for text in notes if "pale" in text]
    # Under the code that it has in this trial; the codes that the table got would be those of others.
    assert told.split(",")[0].split(":")[0] in {sample.code for sample in Sample.objects.filter(trial=trial)}
    assert not any("got codes" in text for text in notes), notes
    assert not faults_of(trial)


def test_without_its_day_a_table_does_not_go_on_and_a_draft_that_is_thrown_away_leaves_the_table():
    client, path = going_on("")
    answer = client.post(f"{path}/on")
    assert answer.status_code == 422
    assert answer.json()["problems"][0]["at"] == "start"
    put(client, f"{path}/table", {**client.get(f"{path}/table").json(), "choices": {"start": "2026-01-05"}})
    told = client.post(f"{path}/on").json()
    # What waits is neither changed nor brought in a second way.
    table = client.get(f"{path}/table").json()
    assert client.post(f"{path}/on").status_code == client.post(f"{path}/in").status_code == 409
    assert put(client, f"{path}/table", {"meaning": table["meaning"]}).status_code == 409
    assert client.get(path).json()["state"] == "waits"
    assert client.delete(f"/api/trials/{told['trial']}").status_code == 204
    assert client.get(path).json()["state"] == "new"
    assert client.post(f"{path}/on").status_code == 201
