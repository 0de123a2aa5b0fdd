"""A trial goes out as a pack and comes back as the same trial, with the same verdict; what does not fit comes in not at all."""

import copy
import csv
import io
import json
import zipfile
from dataclasses import replace
from datetime import UTC, datetime
from uuid import uuid4

import pytest
from django.db import transaction
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from fieldtally.cli import main
from fieldtally.core.design.document import document_of
from fieldtally.core.problems import Refused
from fieldtally.core.trialpack.pack import write_pack
from fieldtally.core.trialpack.reading import read_pack
from fieldtally.core.trialpack.schema import SCHEMAS
from fieldtally.core.trialpack.study import study_in_pack
from fieldtally.server.log.models import Condition, LogNote
from fieldtally.server.measuring.models import Photo
from fieldtally.server.people.models import Membership, Trial, User
from fieldtally.server.plan.models import Checkpoint as CheckpointRow
from fieldtally.server.plan.models import Outcome as OutcomeRow
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import amendments_of, drawn_key, key_of, plan_of, samples_of
from fieldtally.server.rounds.models import Reading, Round
from fieldtally.server.share.pack_reader import bring_in
from fieldtally.server.share.pack_writer import Outgoing
from fieldtally.server.verdict.chain import take_over
from tests.server.conftest import PLAN, as_owner, make, score, signed_in
from tests.server.test_sight import ask_kept, photo_form

pytestmark = pytest.mark.django_db


def packed(trial: Trial) -> bytes:
    out = Outgoing(trial)
    return write_pack(
        "field-tally-trial", trial.title, out.sheets(), out.documents(), out.moments(), out.files(), out.chain()
    )


def inside(pack: bytes) -> dict[str, bytes]:
    """Tables and documents of a pack; pictures are written anew when they come in."""
    with zipfile.ZipFile(io.BytesIO(pack)) as files:
        found = {name: files.read(name) for name in files.namelist() if not name.startswith("photos/")}
    if "chain.csv" in found:
        # The last row is the pack's own: it names the digests of all other files.
        found["chain.csv"] = b"".join(found["chain.csv"].splitlines(keepends=True)[:-1])
    return found


def changed(pack: bytes, **texts: bytes | None) -> bytes:
    """The pack with other files (dots as two underscores); None takes one out.  Its chain is out, as in packs of earlier versions, or it
    would tell of every change."""
    named = {"chain.csv": None, **{name.replace("__", "."): text for name, text in texts.items()}}
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(pack)) as files, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as again:
        for name in files.namelist():
            text = named.get(name, files.read(name))
            if text is not None:
                again.writestr(name, text)
    return out.getvalue()


def edited(pack: bytes, table: str, row: int, **cells: str) -> bytes:
    rows = list(csv.DictReader(io.StringIO(inside(pack)[f"{table}.csv"].decode())))
    rows[row].update(cells)
    out = io.StringIO()
    writer = csv.DictWriter(out, list(rows[0]), lineterminator="\r\n")
    writer.writeheader()
    writer.writerows(rows)
    return changed(pack, **{f"{table}__csv": out.getvalue().encode()})


LETTERS = st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs")), max_size=12)
READING = st.tuples(
    st.integers(0, 11),
    st.sampled_from(["o-grade", "o-height", "o-pods", "o-alive"]),
    st.sampled_from(["value", "cannot", "withdrawn"]),
    st.floats(0, 1, allow_nan=False),
    LETTERS,
    st.datetimes(datetime(2026, 1, 1), datetime(2026, 12, 1)),
)


@settings(max_examples=15, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(READING, min_size=1, max_size=12), LETTERS, st.floats(-40, 50))
def test_any_trial_however_odd_comes_back_byte_for_byte(read, note, warm):
    with transaction.atomic():
        world = make("running", scored=False)
        lead, trial = world.users["lead"], world.trial
        samples = list(Sample.objects.filter(trial=trial).order_by("code"))
        check = CheckpointRow.objects.get(trial=trial, key="c-2")
        round_ = Round.objects.create(trial=trial, checkpoint=check, scorer=lead, opened_at=timezone.now())
        for take, (place, outcome, kind, value, reason, at) in enumerate(read, start=1):
            Reading.objects.create(
                id=uuid4(),
                trial=trial,
                round=round_,
                checkpoint=check,
                sample=samples[place],
                outcome=OutcomeRow.objects.get(trial=trial, key=outcome),
                scorer=lead,
                kind=kind,
                value=None if kind != "value" else value if outcome == "o-height" else float(round(value)),
                reason=reason,
                take=take,
                taken_at=at.replace(tzinfo=UTC),
                stored_at=at.replace(tzinfo=UTC),
            )
        LogNote.objects.create(trial=trial, text=note, by=lead, at=timezone.now())
        Condition.objects.create(trial=trial, temperature=warm, by=lead, at=timezone.now())
        Trial.objects.filter(pk=trial.pk).update(opened_at=timezone.now(), opened_by=lead)
        with as_owner() as cursor:
            cursor.execute("DELETE FROM people_chainentry WHERE trial_id = %s", [trial.pk])
        take_over(Trial.objects.get(pk=trial.pk))
        first = packed(Trial.objects.get(pk=trial.pk))
        again = packed(bring_in(read_pack(first), world.users["outsider"]))
        before, after = inside(first), inside(again)
        for name in before:
            assert before[name].replace(b'"origin": ""', b'"origin": "pack"') == after[name], name
        transaction.set_rollback(True)


def test_the_tables_alone_give_the_same_verdict_as_the_server(tmp_path, capsys):
    world = make("opened")
    path = tmp_path / "pack.zip"
    path.write_bytes(world.get("viewer", "/pack.zip").content)
    told = json.loads(inside(path.read_bytes())["verdict.json"])
    study = study_in_pack(read_pack(path.read_bytes()))
    assert [one.sentence for one in study.concluded().findings] == [one["sentence"] for one in told["findings"]]
    assert main(["verdict", str(path), "--json"]) == 0
    said = json.loads(capsys.readouterr().out)["outcomes"]
    shown = world.get("viewer", "/verdict").json()["findings"]
    pairs = [[pair["p"] for pair in one["pairs"]] for one in said]
    assert pairs == [[pair["p"] for pair in one["comparison"]["pairs"]] for one in shown] and any(pairs)
    assert [one["verdict"]["level"] for one in said] == [one["strength"]["level"] for one in shown]
    assert main(["validate", str(path)]) == 0 and "its seals hold" in capsys.readouterr().out
    assert main(["verdict", str(path), "--control", "x"]) == 2
    path.write_bytes(edited(path.read_bytes(), "samples", 0, treatment="t-none"))
    capsys.readouterr()
    assert main(["validate", str(path)]) == 2
    assert "samples.csv, row 2: A sample needs its place" in capsys.readouterr().err


def test_what_comes_in_is_led_by_who_brought_it_and_its_people_cannot_sign_in():
    world = make("opened")
    outsider = world.users["outsider"]
    trial = bring_in(read_pack(packed(world.trial)), outsider)
    assert (trial.origin, trial.state) == ("pack", "opened")
    assert [(m.user, m.role) for m in Membership.objects.filter(trial=trial)] == [(outsider, "lead")]
    for scorer in User.objects.filter(readings__trial=trial).distinct():
        assert not scorer.is_active and not scorer.has_usable_password()
    client = signed_in(outsider)
    for page in ("course", "board", "log", "verdict", "agreement", "plan"):
        assert client.get(f"/api/trials/{trial.pk}/{page}").status_code == 200, page


def test_a_running_trial_comes_in_with_its_key_known_to_who_brought_it():
    world = make("running", scored=False)
    score(world, "c-1")
    outsider = world.users["outsider"]
    trial = bring_in(read_pack(packed(world.trial)), outsider)
    client = signed_in(outsider)
    before = client.get(f"/api/trials/{trial.pk}/course").json()
    assert (before["state"], before["checkpoints"][0]["samples_done"]) == ("running", 12)
    opened = client.post(
        f"/api/trials/{trial.pk}/rounds", {"checkpoint": "c-2"}, content_type="application/json"
    ).json()
    row = {
        "id": "5b0d2f0a-6a4b-4c1e-9d0e-0d8f2b7a1c11",
        "round": opened["id"],
        "sample": opened["samples"][0]["id"],
        "outcome": "o-grade",
        "kind": "value",
        "value": 2,
        "reason": "",
        "taken_at": timezone.now().isoformat(),
    }
    assert (
        client.post(
            f"/api/trials/{trial.pk}/readings", {"readings": [row]}, content_type="application/json"
        ).status_code
        == 200
    )
    rounds = {r["blinding"] for r in read_rounds(trial)}
    assert "open" in rounds


def read_rounds(trial):
    return read_pack(packed(Trial.objects.get(pk=trial.pk))).tables["rounds"]


def test_before_the_key_is_open_a_preparers_pack_holds_no_readings_of_others():
    """Key and readings together would be the verdict."""
    world = make("running")
    assert world.call("preparer", "post", "/key-looks").status_code == 200
    pack = inside(world.get("preparer", "/pack.zip").content)
    assert "plan.json" in pack
    assert "treatment" in pack["samples.csv"].decode().splitlines()[0]
    assert pack["readings.csv"].decode().count("\r\n") == 1
    assert "verdict.json" not in pack
    assert Reading.objects.filter(trial=world.trial).exists()
    for name in ("guesses.csv", "predictions.csv", "judgements.csv", "photos.csv", "notes.csv"):
        assert name not in pack, name


def test_a_lead_who_prepares_takes_all_along_but_what_others_foresaw():
    world = make("running")
    assert world.call("viewer", "put", "/prediction", {"text": "Zebra, by far"}).status_code == 200
    Membership.objects.filter(trial=world.trial, role="lead").update(blind=False)
    assert world.call("lead", "post", "/key-looks").status_code == 200
    pack = inside(world.get("lead", "/pack.zip").content)
    assert pack["readings.csv"].decode().count("\r\n") > 1
    for name in ("guesses.csv", "predictions.csv", "judgements.csv"):
        assert pack[name].decode().count("\r\n") == 1, name
    assert "by far" not in "".join(text.decode() for text in pack.values())


@pytest.mark.parametrize(
    ("table", "cells", "says"),
    [
        ("readings", {"sample": "999"}, "There is no sample 999"),
        ("readings", {"outcome": "o-none"}, "no outcome"),
        ("readings", {"checkpoint": "c-none"}, "no checkpoint"),
        ("readings", {"value": "a lot"}, "is no number"),
        ("readings", {"value": "nan"}, "is no number"),
        ("readings", {"value": ""}, "A value needs its number"),
        ("readings", {"kind": "guess"}, "not “guess”"),
        ("readings", {"taken_at": "yesterday"}, "is no moment"),
        ("readings", {"reading": "2"}, "twice"),
        ("readings", {"supersedes": "4000"}, "does not stand before it"),
        ("readings", {"scorer": "x" * 90, "source": "spoken"}, "not known here"),
        ("samples", {"place": ""}, "needs its place"),
        ("conditions", {}, ""),
    ],
)
def test_a_bad_cell_is_named_and_nothing_comes_in(table, cells, says):
    if not says:
        return
    world = make("opened")
    pack = edited(packed(world.trial), table, 0, **cells)
    trials, readings, samples = Trial.objects.count(), Reading.objects.count(), Sample.objects.count()
    with pytest.raises(Refused) as refused:
        bring_in(read_pack(pack), world.users["outsider"])
    assert says in refused.value.problems[0].says
    assert table in refused.value.problems[0].at
    assert (Trial.objects.count(), Reading.objects.count(), Sample.objects.count()) == (trials, readings, samples)


def test_other_formats_changed_seals_bombs_and_tricks_are_refused():
    world = make("opened")
    pack = packed(world.trial)
    package = json.loads(inside(pack)["datapackage.json"])
    other = json.dumps({**package, "format": "field-tally-pack/2"}).encode()
    plan = json.loads(inside(pack)["plan.json"])
    plan["sealed"]["plan"]["title"] = "Another"
    for bad, says in (
        (changed(pack, datapackage__json=other), "only field-tally-pack/1 can be read"),
        (changed(pack, plan__json=json.dumps(plan).encode()), "not the one that was sealed"),
        (changed(pack, plan__json=b"{" * 100_000), "not JSON"),
        (changed(pack, plan__json=None), "no sealed plan"),
        (changed(pack, readings__csv=b"\xff\xfe"), "not UTF-8"),
        (changed(pack, readings__csv=b"reading\r\n1\r\n"), "no column"),
        (changed(pack, samples__csv=b'sample\r\n"1'), "no column"),
        (zipped({"datapackage.json": inside(pack)["datapackage.json"], "../etc/passwd": b"x"}), "does not belong"),
        (zipped({"/photos/1.jpg": b"x"}), "does not belong"),
        (zipped({"readings.csv": b"0" * 60_000_000}), "larger than any"),
        (b"PK\x03\x04 no zip", "no zip file"),
    ):
        with pytest.raises(Refused) as refused:
            bring_in(read_pack(bad), world.users["outsider"])
        assert says in refused.value.problems[0].says, says


def zipped(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as pack:
        for name, content in files.items():
            pack.writestr(name, content)
    return out.getvalue()


def test_the_tables_are_those_of_the_schema_and_the_frictionless_library_agrees(tmp_path):
    from frictionless import Package

    world = make("opened", replace(PLAN, title="Beans, =SUM(1)"))
    with zipfile.ZipFile(io.BytesIO(packed(world.trial))) as files:
        files.extractall(tmp_path)
        package = json.loads(files.read("datapackage.json"))
    assert [one["name"] for one in package["resources"]] == list(SCHEMAS)
    report = Package(str(tmp_path / "datapackage.json")).validate()
    assert report.valid, report.flatten(["rowNumber", "fieldName", "message"])[:5]


def comes_back(world, trial=None):
    """The trial that a pack becomes, after a look that its own pack is the same byte for byte."""
    first = packed(trial or Trial.objects.get(pk=world.trial.pk))
    back = bring_in(read_pack(first), world.users["outsider"])
    before, after = inside(first), inside(packed(back))
    assert before.keys() == after.keys()
    for name in before:
        assert before[name].replace(b'"origin": ""', b'"origin": "pack"') == after[name], name
    return back


@pytest.mark.parametrize("kind", ["flasks", "samples"])
def test_a_key_that_was_found_under_covers_comes_back_with_what_was_drawn(kind):
    world = make("sealed")
    guide = world.get("preparer", "/shuffle").json()
    assert world.call("preparer", "post", "/shuffle", {"kind": kind}).status_code == 200
    world.call("preparer", "post", "/start", {})
    drawn = drawn_key(world.trial)
    letters = dict(zip(("t-zebra", "t-quartz", "t-violet"), "ABC", strict=True))
    found = dict(zip(guide["flasks"], "BCA", strict=True))
    if kind == "samples":
        found = {}
        for block in ("b-east", "b-west"):
            own = [sample for sample in samples_of(world.trial) if sample.block == block]
            found |= {s.code: letters[drawn[o.pk]] for s, o in zip(own, [*own[1:], own[0]], strict=True)}
    world.trial.refresh_from_db()
    assert world.call("lead", "post", "/uncover", {"letters": found}).status_code == 200
    back = comes_back(world)
    by_code = {sample.code: key_of(world.trial)[sample.pk] for sample in samples_of(world.trial)}
    assert {sample.code: key_of(back)[sample.pk] for sample in samples_of(back)} == by_code
    drawn_by_code = {sample.code: drawn[sample.pk] for sample in samples_of(world.trial)}
    assert {sample.code: drawn_key(back)[sample.pk] for sample in samples_of(back)} == drawn_by_code
    assert drawn_by_code != by_code


def test_a_pack_under_covers_is_not_handed_out():
    world = make("sealed")
    world.call("preparer", "post", "/shuffle", {"kind": "flasks"})
    pack = inside(world.get("lead", "/pack.zip").content)
    assert "plan.json" not in pack
    assert "treatment" not in pack["samples.csv"].decode().splitlines()[0]


def changed_plan(world, **change):
    plan = json.loads(json.dumps(document_of(replace(plan_of(world.trial), **change))))
    return world.call("lead", "post", "/amend", {"plan": plan, "reason": "boots got wet"})


def test_amendments_come_back_in_their_chain_and_a_broken_chain_does_not():
    world = make("running")
    assert changed_plan(world, hazards="wet boots").status_code == 200
    assert changed_plan(world, hazards="wet boots and mud").status_code == 200
    back = comes_back(world)
    assert plan_of(back).hazards == "wet boots and mud"
    assert [one.reason for one in amendments_of(back)] == ["boots got wet"] * 2
    pack = packed(world.trial)
    plan = json.loads(inside(pack)["plan.json"])
    for bend, says in (
        (lambda p: p["amendments"].pop(0), "Amendment 1 does not follow"),
        (lambda p: p["amendments"][1]["document"].update(reason="none"), "Amendment 2 is not the one"),
        (lambda p: p.update(amendments=[1]), "cannot be read"),
    ):
        bent = copy.deepcopy(plan)
        bend(bent)
        with pytest.raises(Refused) as refused:
            bring_in(read_pack(changed(pack, plan__json=json.dumps(bent).encode())), world.users["outsider"])
        assert says in refused.value.problems[0].says


def test_a_draft_comes_back_as_a_draft():
    world = make("draft")
    back = comes_back(world)
    assert back.state == "draft"
    assert plan_of(back) == plan_of(world.trial)
    with pytest.raises(Refused, match="draft"):
        study_in_pack(read_pack(packed(world.trial)))


def test_two_people_of_one_name_stay_two():
    world = make("running", scored=False)
    for role in ("scorer", "lead"):
        User.objects.filter(pk=world.users[role].pk).update(name="Robin")
        score(world, "c-1", role)
    first = packed(world.trial)
    names = {row["scorer"] for row in read_pack(first).tables["readings"]}
    assert names == {"Robin", "Robin (2)"}
    back = comes_back(world)
    assert User.objects.filter(readings__trial=back).distinct().count() == 2


def test_what_befell_samples_and_outcomes_counts_in_a_pack_as_it_does_on_the_server():
    world = make("running", scored=False)
    score(world, "c-1")
    score(world, "c-2")
    first, second = Sample.objects.filter(trial=world.trial).order_by("code")[:2]
    world.call("lead", "post", "/aside", {"code": first.code, "reason": "slugs"})
    world.call("lead", "post", "/methods", {"outcome": "o-alive", "reason": "nobody could tell"})
    hail = {"accident": "weather", "codes": [second.code], "effect": "from", "reason": "hail"}
    assert world.call("lead", "post", "/accidents", {**hail, "since": timezone.now().isoformat()}).status_code == 204
    world.call("lead", "post", "/key/ask")
    world.call("lead", "post", "/key/open", {"title": PLAN.title})
    back = comes_back(world)
    study = study_in_pack(read_pack(packed(back)))
    assert study.decisions.aside == {first.code}
    assert set(study.decisions.left_out) == {second.code}
    assert study.decisions.withdrawn == {"o-alive"}
    ours, theirs = (world.clients["lead"].get(f"/api/trials/{world.trial.pk}/verdict").json(), study.concluded())
    assert [f["sentence"] for f in ours["findings"]] == [f.sentence for f in theirs.findings]
    assert [f["sentence"] for f in ours["with_all"]] == [f.sentence for f in theirs.with_all if f.checkpoint is None]


def test_pictures_come_back_and_one_that_is_no_picture_does_not():
    world = make("running")
    assert ask_kept(world, photo_form(caption="at dusk")).status_code == 200
    back = comes_back(world)
    assert [photo.caption for photo in Photo.objects.filter(trial=back)] == ["at dusk"]
    pack = packed(world.trial)
    with zipfile.ZipFile(io.BytesIO(pack)) as files:
        (name,) = [one for one in files.namelist() if one.startswith("photos/")]
    for content, says in ((b"<script>alert(1)</script>", "no picture"), (None, "not in the pack")):
        trials = Trial.objects.count()
        with pytest.raises(Refused) as refused:
            bring_in(read_pack(changed(pack, **{name.replace(".", "__"): content})), world.users["outsider"])
        assert says in refused.value.problems[0].says
        assert Trial.objects.count() == trials
