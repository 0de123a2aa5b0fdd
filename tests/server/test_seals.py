"""The chain of a trial: what was changed behind the application's back is told, and what was not never is."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from uuid import uuid4

import psycopg
import pytest
from django.db import DatabaseError, connection, transaction
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from fieldtally.cli import main
from fieldtally.core.blinding.chain import Entry, faults, numbered
from fieldtally.core.problems import Refused
from fieldtally.core.trialpack.reading import read_pack
from fieldtally.server.grants import APPLICATION
from fieldtally.server.people.chain import append, entries_of
from fieldtally.server.people.models import ChainEntry, Membership, Trial, User
from fieldtally.server.plan.models import Sample
from fieldtally.server.rounds.models import Reading
from fieldtally.server.share.erasing import own_trials
from fieldtally.server.share.pack_reader import bring_in
from fieldtally.server.verdict.chain import faults_of, recorded, take_over
from tests.server.conftest import APPLICATION_PASSWORD, PLAN, STATES, as_owner, make, score
from tests.server.test_packs import packed

pytestmark = pytest.mark.django_db


def busy_world():
    """A trial in which all that can be recorded was: two looks, a correction, exclusions, an amendment, a look at the key, its opening."""
    world = make("running")
    score(world, "c-2")
    first = Sample.objects.filter(trial=world.trial).order_by("code").first()
    opened = world.call("scorer", "post", "/rounds", {"checkpoint": "c-2"}).json()
    again = {
        "id": str(uuid4()),
        "round": opened["id"],
        "sample": str(first.pk),
        "outcome": "o-height",
        "kind": "value",
        "value": 14.25,
        "reason": "misread",
        "taken_at": timezone.now().isoformat(),
    }
    assert world.call("scorer", "post", "/readings", {"readings": [again]}).status_code == 200
    assert world.call("lead", "post", "/aside", {"code": first.code, "reason": "slugs"}).status_code == 204
    assert (
        world.call("lead", "post", "/methods", {"outcome": "o-alive", "reason": "nobody could tell"}).status_code == 204
    )
    assert world.call("preparer", "post", "/key-looks").status_code == 200
    assert world.call("lead", "post", "/notes", {"text": "hail", "working": ""}).status_code == 200
    assert world.call("lead", "post", "/key/ask").json()["faults"] == []
    assert world.call("lead", "post", "/key/open", {"title": PLAN.title}).status_code == 200
    world.trial.refresh_from_db()
    return world


@pytest.mark.parametrize("state", STATES)
def test_what_was_only_ever_recorded_has_no_fault(state):
    world = make(state)
    assert faults_of(world.trial) == []
    assert (ChainEntry.objects.filter(trial=world.trial).count() > 0) == (state != "draft")


CHANGES = {
    "a reading": (
        "UPDATE rounds_reading SET value = value + 1 WHERE id = (SELECT id FROM rounds_reading LIMIT 1)",
        "A reading of",
    ),
    "a reading taken out": (
        "DELETE FROM rounds_reading WHERE id = (SELECT id FROM rounds_reading WHERE supersedes_id IS NOT NULL)",
        "not there any more",
    ),
    "a moment": ("UPDATE rounds_reading SET taken_at = taken_at - interval '1 hour'", "A reading of"),
    "an exclusion": ("DELETE FROM log_deviation WHERE kind = 'set_aside'", "is not there any more"),
    "two codes": ("", "Sample"),
    "a key": (
        "UPDATE plan_keyentry SET treatment = 't-quartz' WHERE treatment = 't-zebra'",
        "does not stand with the treatment",
    ),
    "a block": ("UPDATE plan_sample SET block = 'b-west' WHERE block = 'b-east'", "does not stand in the block"),
    "a place": ("UPDATE plan_sample SET place = place + 100", "does not stand in the place"),
    "a start": ("UPDATE prepare_exposure SET started_at = started_at - interval '1 day'", "The start of"),
    "a plan": (
        "UPDATE plan_sealedplan SET canonical = replace(canonical, 'Zebra', 'Okapi')",
        "The plan is not the one",
    ),
    "a look at the key": ("DELETE FROM prepare_keylook", "is not there any more"),
    "an opening": ("UPDATE people_trial SET opened_at = opened_at - interval '1 day'", "The opening of the key"),
    "an entry": ("DELETE FROM people_chainentry WHERE number = 3", "Entry 3 of the chain does not follow"),
    "the last entry": (
        "DELETE FROM people_chainentry WHERE number = (SELECT max(number) FROM people_chainentry)",
        "The opening of the key",
    ),
    "an entry's text": (
        "UPDATE people_chainentry SET text = replace(text, 'readings', 'start') WHERE text LIKE '%readings%'",
        "was changed",
    ),
}


@pytest.mark.parametrize("what", CHANGES)
def test_what_is_changed_in_the_database_is_told(what):
    world = busy_world()
    statement, says = CHANGES[what]
    with as_owner() as cursor:
        if what == "two codes":
            cursor.execute("SELECT code FROM plan_sample ORDER BY code")
            (one,), (other,) = cursor.fetchall()[:2]
            for before, after in ((one, "x"), (other, one), ("x", other)):
                cursor.execute("UPDATE plan_sample SET code = %s WHERE code = %s", [after, before])
        else:
            cursor.execute(statement)
            assert cursor.rowcount > 0
    found = faults_of(Trial.objects.get(pk=world.trial.pk))
    assert found
    assert any(any(part in one for part in says.split("|")) for one in found), found
    assert not any(name in one for one in found for name in ("Zebra", "t-zebra", "Quartz", "t-quartz"))


def test_a_key_that_was_exchanged_does_not_open_without_a_word():
    world = make("running")
    with as_owner() as cursor:
        cursor.execute("UPDATE plan_keyentry SET treatment = 't-zebra' WHERE treatment = 't-quartz'")
    asked = world.call("lead", "post", "/key/ask").json()
    assert "does not stand with the treatment that it was drawn for" in asked["faults"][0]
    refused = world.call("lead", "post", "/key/open", {"title": PLAN.title})
    assert refused.status_code == 409
    assert refused.json()["problems"][0]["at"] == "record"
    assert Trial.objects.get(pk=world.trial.pk).state == "running"
    assert world.call("lead", "post", "/key/open", {"title": PLAN.title, "despite": True}).status_code == 200
    limits = world.get("lead", "/verdict").json()["not_claimed"]
    assert limits[0].startswith("That the record is as it was made: Sample ")


def test_a_chain_that_is_made_anew_ends_in_another_link_than_a_receipt():
    world = busy_world()
    receipt = world.get("viewer", "/receipt").json()
    assert receipt["entries"] == len(entries_of(world.trial))
    again = world.call("lead", "post", "/receipt/check", {"receipt": json.dumps(receipt)}).json()
    assert again == {"number": receipt["entries"], "entries": receipt["entries"]}
    with as_owner() as cursor:
        cursor.execute("UPDATE rounds_reading SET value = value + 1 WHERE value IS NOT NULL")
        cursor.execute("DELETE FROM people_chainentry")
    take_over(world.trial)
    assert faults_of(world.trial) == []
    assert world.call("lead", "post", "/receipt/check", {"receipt": receipt["link"]}).json()["number"] is None
    assert world.call("lead", "post", "/receipt/check", {"receipt": "nothing"}).status_code == 422


def test_a_receipt_is_for_those_in_the_trial_and_begins_with_the_seal():
    world = make("draft")
    assert world.get("lead", "/receipt").status_code == 409
    assert world.clients["outsider"].get(f"/api/trials/{world.trial.pk}/receipt").status_code == 404


def test_the_chain_is_written_with_what_it_tells_or_not_at_all():
    world = make("running")
    before = entries_of(world.trial)
    with pytest.raises(ZeroDivisionError), transaction.atomic():
        append(world.trial, "erased")
        raise ZeroDivisionError
    assert entries_of(world.trial) == before


def test_entries_cannot_be_taken_out_put_in_or_exchanged():
    at, chain = timezone.now(), []
    for number in range(1, 6):
        chain.append(numbered(number, chain[-1].link if chain else "0" * 64, "readings", [f"{number}"], at, "ab"))
    assert faults(chain, [])[0].startswith("5 of what was recorded as entry 1 (readings, ")
    for bent in (
        chain[1:],
        chain[:2] + chain[3:],
        [chain[1], chain[0], *chain[2:]],
        [*chain[:2], chain[1], *chain[2:]],
    ):
        assert "does not follow" in faults(bent, [])[0]
    assert (
        "was changed" in faults([Entry(chain[0].text.replace("readings", "start"), chain[0].link), *chain[1:]], [])[0]
    )
    assert "was changed" in faults([Entry("[]", chain[0].link)], [])[0]


# The pack


def cells(pack: bytes):
    """Each table of a pack as rows of cells."""
    with zipfile.ZipFile(io.BytesIO(pack)) as files:
        for name in files.namelist():
            if name.endswith(".csv"):
                rows = list(csv.reader(io.StringIO(files.read(name).decode(), newline="")))
                if len(rows) > 1:
                    yield name, rows


def with_table(pack: bytes, name: str, rows: list[list[str]]) -> bytes:
    text = io.StringIO()
    csv.writer(text, lineterminator="\r\n").writerows(rows)
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(pack)) as files, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as again:
        for one in files.namelist():
            again.writestr(one, text.getvalue() if one == name else files.read(one))
    return out.getvalue()


def checked(path, capsys, *more) -> tuple[int, str]:
    code = main(["check-seal", str(path), *more])
    told = capsys.readouterr()
    return code, told.out + told.err


def test_a_pack_with_two_treatments_exchanged_is_told_everywhere(tmp_path, capsys):
    world = busy_world()
    pack, path = packed(world.trial), tmp_path / "pack.zip"
    path.write_bytes(pack)
    assert checked(path, capsys)[0] == 0
    rows = dict(cells(pack))["samples.csv"]
    at = rows[0].index("treatment")
    turn = {"t-zebra": "t-quartz", "t-quartz": "t-zebra"}
    for row in rows[1:]:
        row[at] = turn.get(row[at], row[at])
    path.write_bytes(with_table(pack, "samples.csv", rows))
    code, told = checked(path, capsys)
    assert code == 1
    assert (
        f"samples.csv: Sample {rows[1][0]} does not stand with the treatment" in told or "does not stand with" in told
    )
    for command in ("validate", "verdict"):
        assert main([command, str(path)]) == 2
        assert "does not stand with the treatment" in capsys.readouterr().err
    with pytest.raises(Refused):
        bring_in(read_pack(path.read_bytes()), world.users["outsider"])
    # Without its chain, as in a pack of an earlier version, the exchange is found all the same.
    with zipfile.ZipFile(io.BytesIO(path.read_bytes())) as files, zipfile.ZipFile(path, "w") as again:
        for name in files.namelist():
            if name != "chain.csv":
                again.writestr(name, files.read(name))
    assert checked(path, capsys)[0] == 1


def test_any_single_cell_that_is_altered_is_told_and_a_clean_pack_never_is(tmp_path, capsys):
    world = busy_world()
    pack, path = packed(world.trial), tmp_path / "pack.zip"
    path.write_bytes(pack)
    assert checked(path, capsys) == checked(path, capsys)
    assert checked(path, capsys)[0] == 0
    tables = dict(cells(pack))
    assert {"samples.csv", "readings.csv", "deviations.csv", "notes.csv", "chain.csv", "rounds.csv"} <= set(tables)

    @settings(max_examples=120, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
    @given(st.data())
    def altered(data):
        name = data.draw(st.sampled_from(sorted(tables)))
        rows = [list(row) for row in tables[name]]
        row = data.draw(st.integers(1, len(rows) - 1))
        column = data.draw(st.integers(0, len(rows[0]) - 1))
        old = rows[row][column]
        new = data.draw(st.sampled_from([old + "1", old[:-1], "x", "0", "true", "2020-01-01T00:00:00Z", f"{old} "]))
        if new == old:
            return
        rows[row][column] = new
        path.write_bytes(with_table(pack, name, rows))
        code, told = checked(path, capsys)
        # A cell that cannot even be read is told as such.
        assert code in (1, 2), (name, row, column, old, new)
        assert told.strip()

    altered()


def test_a_receipt_is_held_against_a_pack(tmp_path, capsys):
    world = make("running")
    early = world.get("scorer", "/receipt").json()
    score(world, "c-2")
    world.call("lead", "post", "/key/ask")
    world.call("lead", "post", "/key/open", {"title": PLAN.title})
    path, receipt = tmp_path / "pack.zip", tmp_path / "receipt.json"
    path.write_bytes(packed(Trial.objects.get(pk=world.trial.pk)))
    receipt.write_text(json.dumps(early))
    code, told = checked(path, capsys, "--receipt", str(receipt))
    assert code == 0
    assert f"nothing up to entry {early['entries']} was changed" in told
    assert checked(path, capsys, "--receipt", "f" * 64)[0] == 1
    assert checked(path, capsys, "--receipt", "what")[0] == 2


def test_the_chain_goes_on_in_a_trial_that_was_brought_in():
    world = busy_world()
    back = bring_in(read_pack(packed(world.trial)), world.users["outsider"])
    assert [one.link for one in entries_of(back)] == [one.link for one in entries_of(world.trial)]
    assert faults_of(back) == []
    append(back, "erased")
    assert faults_of(back) == []


def test_a_trial_of_an_earlier_version_begins_its_chain_with_what_there_is():
    world = busy_world()
    with as_owner() as cursor:
        cursor.execute("DELETE FROM people_chainentry")
    assert faults_of(world.trial)
    take_over(world.trial)
    take_over(world.trial)
    (only,) = entries_of(world.trial)
    assert only.document["what"] == "taken over"
    assert len(only.document["items"]) == len(list(recorded(world.trial)))
    assert faults_of(world.trial) == []


# The role


def applications_own():
    """A connection signed in as the application is."""
    place = connection.settings_dict
    return psycopg.connect(
        host=place["HOST"],
        port=place["PORT"],
        user=APPLICATION,
        password=APPLICATION_PASSWORD,
        dbname=place["NAME"],
        autocommit=True,
    )


def growing() -> list[str]:
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT c.relname FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid WHERE t.tgname = 'append_only' ORDER BY 1"
        )
        return [name for (name,) in cursor.fetchall()]


def test_the_application_cannot_undo_a_record_whatever_it_sends():
    make("opened")
    tables = growing()
    assert {"people_chainentry", "rounds_reading", "plan_sample", "prepare_exposure", "rounds_round"} <= set(tables)
    statements = [
        "SET session_replication_role = replica",
        "COPY (SELECT 1) TO PROGRAM 'true'",
        "COPY people_user FROM PROGRAM 'echo'",
        "CREATE TABLE mine (x int)",
        "CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN RETURN NEW; END'",
        "DROP FUNCTION refuse_change() CASCADE",
        "ALTER ROLE fieldtally_app SUPERUSER",
        "SET ROLE fieldtally",
        *[f"DELETE FROM {table}" for table in ("people_trial", "panels_serving", "panels_panel", "measuring_photo")],
        "UPDATE django_migrations SET name = 'x'",
        *[f"TRUNCATE {table} CASCADE" for table in tables],
        *[f"DELETE FROM {table}" for table in tables],
        *[f"ALTER TABLE {table} DISABLE TRIGGER ALL" for table in tables],
        *[f"DROP TRIGGER append_only ON {table}" for table in tables],
    ]
    with connection.cursor() as cursor:
        for table in tables:
            cursor.execute("SELECT column_name FROM information_schema.columns WHERE table_name = %s LIMIT 1", [table])
            (column,) = cursor.fetchone()
            statements.append(f'UPDATE {table} SET "{column}" = "{column}"')
    with applications_own() as there:
        assert there.execute("SELECT current_user").fetchone() == (APPLICATION,)
        for statement in statements:
            # A trigger that lets account erasing through is no way round: the right to delete is missing before it is asked.
            there.execute("SELECT set_config('fieldtally.erasing', 'account', false)")
            try:
                there.execute(statement)
            except psycopg.Error:
                continue
            pytest.fail(f"{statement} was let through")


ONCE = [
    "UPDATE people_trial SET sealed_at = now()",
    "UPDATE people_trial SET opened_at = NULL",
    "UPDATE people_trial SET started_at = now() + interval '1 day'",
    "UPDATE people_trial SET created_at = now()",
]


@pytest.mark.parametrize("statement", ONCE)
def test_moments_of_a_trial_are_set_once(statement):
    make("opened")
    with connection.cursor() as cursor, pytest.raises(DatabaseError, match="is set once"), transaction.atomic():
        cursor.execute(statement)


# Erasing


def test_a_lead_cannot_erase_what_another_scored_by_leaving_them_out_first():
    world = make("running")
    readings = Reading.objects.filter(trial=world.trial).count()
    for membership in Membership.objects.filter(trial=world.trial).exclude(user=world.users["lead"]):
        assert world.call("lead", "delete", f"/people/{membership.pk}").status_code in (204, 404, 405)
    Membership.objects.filter(trial=world.trial).exclude(user=world.users["lead"]).delete()
    lead = world.users["lead"]
    assert own_trials(lead) == []
    leaving = world.clients["lead"].get("/api/account/leaving").json()
    assert (leaving["alone"], leaving["held"]) == ([], [PLAN.title])
    gone = world.clients["lead"].post("/api/account/leave", {"email": lead.email}, content_type="application/json")
    assert gone.status_code == 204
    assert Reading.objects.filter(trial=world.trial).count() == readings
    assert entries_of(world.trial)[-1].document["what"] == "erased"
    assert faults_of(world.trial) == []


def test_the_database_lets_go_of_nothing_that_others_have_a_part_in():
    world = make("running")
    for person in (world.users["lead"], world.users["scorer"]):
        with (
            connection.cursor() as cursor,
            pytest.raises(DatabaseError, match="nothing is erased"),
            transaction.atomic(),
        ):
            cursor.execute("SELECT erase_trials(%s, %s)", [person.pk, [world.trial.pk]])
    assert User.objects.filter(pk=world.users["lead"].pk).exists()
