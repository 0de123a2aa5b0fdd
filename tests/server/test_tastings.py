"""Tastings by themselves, and panels with keys of their own: sealed, held, opened, and asked again; what a swapped cup would show."""

import io
import zipfile
from dataclasses import asdict
from datetime import UTC, timedelta

import numpy as np
import pytest
from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.utils import timezone
from PIL import Image

from fieldtally import library
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.serving import is_right
from fieldtally.core.trialpack.reading import read_pack
from fieldtally.core.trialpack.study import problems_of
from fieldtally.server.log.models import LogNote
from fieldtally.server.panels import queries
from fieldtally.server.panels.days import write_of_the_day
from fieldtally.server.panels.models import Assessor, Judgement, Panel, Serving
from fieldtally.server.people.models import Mail, Trial, User
from fieldtally.server.share.pack_reader import bring_in
from fieldtally.server.verdict import services as verdict_services
from fieldtally.server.verdict.chain import faults_of
from tests.depth import cells
from tests.server.conftest import PLAN, SECRETS, as_owner, make
from tests.server.pictures import picture
from tests.server.test_packs import inside, packed
from tests.server.test_panels import Taster, all_judge, answer, panel_in, panel_of, post, problems, wav

pytestmark = pytest.mark.django_db
FAIR = [{"item": item, "kept": True} for item in ("placebo", "blind_pour", "same_cups")]
TASTING = {
    "zone": "Europe/London",
    "things": ["Crab apple", "Sloe"],
    "panel": asdict(PanelPlan("", allergens="none known", preference=True, chips=("crisp", "soft"))),
    "people": [{"name": f"Taster {n}"} for n in range(12)],
    "fairness": FAIR,
}


@pytest.fixture(autouse=True)
def nobody_has_guessed():
    cache.clear()


@pytest.fixture
def host():
    person = User.objects.create_user(email="host@tools.example", password="a long password 1", name="Odd Fenn")
    client = Client()
    client.force_login(person)
    return client


def held(host, **more):
    response = post(host, "/api/tastings", {**TASTING, **more})
    assert response.status_code == 200, response.json()
    return response.json()


def repacked(files, name, text):
    """A pack with one table changed."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as pack:
        for path, content in {**files, name: text.encode()}.items():
            pack.writestr(path, content)
    return out.getvalue()


def test_a_tasting_is_planned_sealed_and_poured_in_one_step(host):
    told = held(host)
    trial = Trial.objects.get(pk=told["trial"])
    assert (trial.is_tasting, trial.state, told["state"], len(told["seal"])) == (True, "running", "open", 64)
    assert trial.title.startswith("Tasting of ")
    assert [one["of"] for one in told["assessors"]] == [1] * 12
    sheet = post(host, f"/api/panels/{told['id']}/pour", {}).json()
    assert {cup["thing"] for one in sheet["sets"] for cup in one["cups"]} == {"Crab apple", "Sloe"}
    assert host.get(f"/api/trials/{trial.pk}/course").json()["is_tasting"]
    address = f"/api/panels/{told['id']}"
    all_judge(address)
    assert host.get(f"{address}/result").status_code == 403
    assert post(host, f"{address}/open", {}).status_code == 409
    assert post(host, f"{address}/close", {}).status_code == 200
    assert post(host, f"{address}/open", {}).json()["opened_at"]
    found = host.get(f"{address}/result").json()["finding"]
    assert found["sentence"].startswith("12 of 12 found the odd one")
    # The key of a tasting is the trial's: verdict, report, workbook and pack tell the same first sentence.
    trial.refresh_from_db()
    assert trial.state == "opened"
    verdict = host.get(f"/api/trials/{trial.pk}/verdict").json()
    assert (verdict["panels_alone"], verdict["panels"][0]["sentence"]) == (True, found["sentence"])
    assert found["sentence"] in host.get(f"/api/trials/{trial.pk}/report.html").content.decode()
    row = host.get(f"/api/trials/{trial.pk}/panels").json()["panels"][0]
    assert (row["sentence"], row["right"], row["of"]) == (found["sentence"], 12, 12)
    assert faults_of(trial) == []


@pytest.mark.parametrize(
    ("more", "at"),
    [
        ({"things": ["Sloe"]}, "things"),
        ({"things": ["Sloe", " sloe"]}, "things.1"),
        ({"things": ["Sloe", ""]}, "things.1"),
        ({"people": []}, "people"),
        ({"fairness": FAIR[:2]}, "fairness.same_cups"),
        ({"panel": {**TASTING["panel"], "allergens": " "}}, "panel.allergens"),
        ({"panel": {**TASTING["panel"], "method": "2-afc"}}, "panel.attribute"),
        ({"people": [{"name": "Fern", "address": "no address"}]}, "people.0.address"),
        ({"people": [{"name": ""}] * 501}, "people"),
        ({"zone": "Tarn/Lane"}, "zone"),
    ],
)
def test_what_is_wrong_with_a_tasting_is_said_and_nothing_is_kept(host, more, at):
    status, found = problems(post(host, "/api/tastings", {**TASTING, **more}))
    assert (status, at in found) == (422, True), found
    assert not Trial.objects.exists()
    assert not Panel.objects.exists()


def test_people_without_names_and_all_with_one_name_are_people(host):
    told = held(host, people=[{"name": ""}] * 3 + [{"name": "AB"}] * 3)
    assert [one["name"] for one in told["assessors"]] == ["Assessor 1", "Assessor 2", "Assessor 3", "AB", "AB", "AB"]
    address = f"/api/panels/{told['id']}"
    all_judge(address)
    post(host, f"{address}/close", {})
    post(host, f"{address}/open", {})
    assert host.get(f"{address}/result").json()["finding"]["people_counted"] == 6


def test_a_panel_has_a_key_of_its_own_and_a_fresh_one_follows_the_trials():
    world = make("running")
    lead = world.clients["lead"]
    address = panel_in(world)
    all_judge(address)
    assert post(world.clients["scorer"], f"{address}/open", {}).status_code == 403
    post(lead, f"{address}/close", {})
    assert post(lead, f"{address}/open", {}).status_code == 200
    assert post(lead, f"{address}/open", {}).status_code == 409
    world.trial.refresh_from_db()
    assert world.trial.state == "running"
    assert lead.get(f"{address}/result").status_code == 200
    # Whoever is blind learns nothing by it.
    for role in ("scorer", "preparer", "viewer"):
        told = world.clients[role].get(f"{address}/result")
        assert told.status_code == 403
        assert not any(secret in told.content.decode() for secret in SECRETS)
    verdict_services.ask_to_open(world.trial, world.users["lead"])
    verdict_services.open_key(world.trial, world.users["lead"], PLAN.title)
    assert world.clients["viewer"].get(f"{address}/result").status_code == 200
    again = panel_in(world)
    all_judge(again, right=lambda number: number < 3)
    assert lead.get(f"{again}/result").status_code == 403
    before = lead.get(f"/api/trials/{world.trial.pk}/verdict").json()["panels"]
    post(lead, f"{again}/close", {})
    post(lead, f"{again}/open", {})
    after = lead.get(f"/api/trials/{world.trial.pk}/verdict").json()["panels"]
    assert (len(before), len(after)) == (1, 2)
    world.trial.refresh_from_db()
    assert faults_of(world.trial) == []
    notes = LogNote.objects.filter(trial=world.trial).values_list("text", flat=True)
    assert sum("Opened the key of the panel" in one for one in notes) == 2


def test_the_trials_key_opens_panels_that_are_done_and_leaves_alone_those_that_go_on():
    world = make("running")
    lead = world.clients["lead"]
    closed, given, going = (panel_in(world, people=3) for _ in range(3))
    for address in (closed, given):
        all_judge(address)
    post(lead, f"{closed}/close", {})
    verdict_services.ask_to_open(world.trial, world.users["lead"])
    verdict_services.open_key(world.trial, world.users["lead"], PLAN.title)
    assert [lead.get(f"{one}/result").status_code for one in (closed, given, going)] == [200, 200, 403]
    assert lead.get(going).json()["state"] == "open"
    world.trial.refresh_from_db()
    assert faults_of(world.trial) == []
    assert inside(packed(world.trial))["panels.csv"].count(b"\r\n") == 3
    assert problems_of(read_pack(packed(world.trial))) == []


def test_cups_that_were_swapped_after_the_seal_are_found(host):
    told = held(host)
    address = f"/api/panels/{told['id']}"
    trial = Trial.objects.get(pk=told["trial"])
    all_judge(address)
    serving = Serving.objects.filter(assessor__panel_id=told["id"]).first()
    with as_owner() as cursor:
        cursor.execute(
            "UPDATE panels_serving SET \"order\" = translate(\"order\", 'AB', 'BA') WHERE id = %s", [serving.pk]
        )
    assert any("are not those that were sealed" in one for one in faults_of(trial))


def test_an_answer_changed_after_the_key_is_found_in_the_app_and_in_the_pack(host):
    told = held(host)
    address = f"/api/panels/{told['id']}"
    trial = Trial.objects.get(pk=told["trial"])
    all_judge(address)
    post(host, f"{address}/close", {})
    post(host, f"{address}/open", {})
    trial.refresh_from_db()
    sound = packed(trial)
    assert problems_of(read_pack(sound)) == []
    with zipfile.ZipFile(io.BytesIO(sound)) as pack:
        files = {name: pack.read(name) for name in pack.namelist()}
    # One answer changed in the table, and the pack made whole again around it.
    lines = files["judgements.csv"].decode().splitlines()
    first = next(i for i, line in enumerate(lines) if i and ",[0]," in line)
    lines[first] = lines[first].replace(",[0],", ",[1],", 1)
    says = [one.says for one in problems_of(read_pack(repacked(files, "judgements.csv", "\n".join(lines))))]
    assert any("What was answered in the panel" in one for one in says), says
    first = Judgement.objects.filter(serving__assessor__panel_id=told["id"]).first()
    with as_owner() as cursor:
        cursor.execute("UPDATE panels_judgement SET answer = '[2]', preference = 2 WHERE id = %s", [first.pk])
    if first.answer != [2]:
        assert any("What was answered in the panel" in one for one in faults_of(trial))


def test_a_pack_of_a_tasting_comes_in_again_as_it_was(host):
    told = held(host, panel={**TASTING["panel"], "stimuli": ["On bread", "By itself"], "cards": True})
    address = f"/api/panels/{told['id']}"
    all_judge(address)
    post(host, f"{address}/close", {})
    post(host, f"{address}/open", {})
    found = host.get(f"{address}/result").json()["finding"]
    pack = packed(Trial.objects.get(pk=told["trial"]))
    copy = bring_in(read_pack(pack), User.objects.get(email="host@tools.example"))
    again, first = inside(packed(copy)), inside(pack)
    differ = [name for name in first if again[name] != first[name]]
    assert differ == ["datapackage.json"]
    assert (copy.is_tasting, copy.state) == (True, "opened")
    other = copy.panels.get()
    assert host.get(f"/api/panels/{other.pk}/result").json()["finding"]["sentence"] == found["sentence"]
    assert faults_of(copy) == []


def test_every_sentence_of_a_tastings_report_is_true_of_a_tasting(host):
    fair = [*FAIR[:2], {"item": "same_cups", "kept": False, "reason": "two kinds of glass"}]
    more = {**TASTING["panel"], "stimuli": ["Bread", "Plain"]}
    told = held(host, fairness=fair, title="An evening of jelly", panel=more)
    address, trial = f"/api/panels/{told['id']}", f"/api/trials/{told['trial']}"
    all_judge(address)
    post(host, f"/api/assessors/{told['assessors'][2]['id']}", {"left_out": "had a cold"})
    post(host, f"{address}/close", {})
    post(host, f"{address}/open", {})
    verdict = host.get(f"{trial}/verdict").json()
    report = host.get(f"{trial}/report.html").content.decode()
    assert verdict["blinding_told"] == "Whoever judges sees codes alone."
    limits = " ".join(verdict["not_claimed"])
    assert "not how it was served. Given up beforehand: two kinds of glass." in limits
    untrue = ("no control", "samples stood", "but :", "Looked at .", "Measured: .", "0 cups", "Exposure began")
    assert not [one for one in untrue if one in limits or one in report]
    assert "12 people, 2 sets each, over Bread and Plain; 20 mL in each cup. Judged on" in report
    assert told["seal"] in report
    assert "All readings" not in report
    assert "Taster 2 (had a cold)" in report
    # Published, nobody is called by their name.
    token = post(host, f"{trial}/publish", {"out": True}).json()["token"]
    public = Client().get(f"/api/published/{token}/report.html").content.decode()
    assert Client().get(f"/api/published/{token}/card.png").status_code == 200
    assert verdict["panels"][0]["sentence"] in public
    # Nobody is asked which they expect to be best; the first sentence is the same there.
    stranger = Client()
    assert stranger.get(f"/api/published/{token}").json()["asks"] is False
    assert stranger.get(f"/api/published/{token}/line-up").json()["pictures"] == []
    read = post(stranger, f"/api/published/{token}/expected", {"treatment": ""}).json()
    assert (read["sentences"], read["level"]) == ([verdict["panels"][0]["sentence"]], "")
    assert ("seat 3 (had a cold)" in public, "Taster" in public) == (True, False)
    for path in ("workbook.xlsx", "report.pdf", "verdict.json", "pack.zip"):
        assert host.get(f"{trial}/{path}").status_code in (200, 202, 303), path
    again = post(host, f"{trial}/again", {})
    assert (again.status_code, "fresh panel" in again.json()["problems"][0]["says"]) == (409, True)


COUNTED = ["triangle", "preference", "naming", "ranking", "grading", "a-not-a", "same-different"]


@pytest.mark.parametrize("method", cells(COUNTED, ["triangle", "ranking", "grading"]))
def test_the_answers_of_a_panel_give_the_same_numbers_through_the_library(host, method, tmp_path):
    attributes = [{"name": "Crunch", "low": "none", "high": "much", "steps": 10}] if method == "grading" else []
    plan = {**TASTING["panel"], "method": method, "sets": 2, "preference": False, "attributes": attributes}
    people = [{"name": "AB"}, {"name": "AB"}, *({"name": f"T{n}"} for n in range(6))]
    many = 3 if method in ("naming", "ranking") else 2
    things = ["Crab apple", "Sloe", "Rowan"][:many]
    told = held(host, panel=plan, people=people, things=things)
    address = f"/api/panels/{told['id']}"
    rng = np.random.default_rng(4)
    for assessor in Assessor.objects.filter(panel_id=told["id"]):
        taster = Taster(assessor, f"phone {assessor.number}")
        taster.get()
        taster.agree()
        for serving in assessor.servings.all():
            cups = {
                "triangle": [int(rng.integers(3))],
                "preference": [int(rng.integers(-1, 2))],
                "grading": [],
                "a-not-a": [int(rng.integers(2))],
                "same-different": [int(rng.integers(2))],
            }.get(method, [int(one) for one in rng.permutation(many)])
            grades = [[int(one) for one in rng.integers(0, 11, 2)]] if attributes else []
            assert taster.give(answer(serving.pk, cups, grades=grades)).status_code == 200
    assert host.get(f"{address}/answers.csv").status_code == 403
    post(host, f"/api/assessors/{told['assessors'][7]['id']}", {"left_out": "had a cold"})
    post(host, f"{address}/close", {})
    post(host, f"{address}/open", {})
    found = host.get(f"{address}/result").json()["finding"]
    file = tmp_path / "answers.csv"
    file.write_bytes(host.get(f"{address}/answers.csv").content)
    again, _ = library.panel_answers(method, file)
    assert (again["persons"], again["n"]) == (7, 14) == (found["people_counted"], found["n"])
    p = {
        "triangle": lambda: found["found"]["p"],
        "preference": lambda: found["preference"]["everybody"][0]["p"],
        "naming": lambda: found["named"]["p"],
        "ranking": lambda: found["ranked"]["p"],
        "grading": lambda: found["graded"][0]["p"],
    }.get(method, lambda: found["told"]["p"])()
    # Where shuffles are drawn, from another seed.
    assert again["p"] == pytest.approx(p, abs=0.015)


# Stimuli


def test_over_three_songs_everybody_hears_each_and_it_is_told_apart_and_together(host):
    songs = ["The reel", "The air", "The march"]
    told = held(host, people=[{"name": f"T{n}"} for n in range(6)], panel={**TASTING["panel"], "stimuli": songs})
    address = f"/api/panels/{told['id']}"
    for one in Assessor.objects.filter(panel_id=told["id"]):
        assert sorted(one.servings.values_list("stimulus", flat=True)) == [0, 1, 2]
    firsts = Serving.objects.filter(assessor__panel_id=told["id"], place=0).values_list("stimulus", flat=True)
    assert len(set(firsts)) == 3
    panel = panel_of(address)
    for assessor in panel.assessors.all():
        taster = Taster(assessor, f"phone {assessor.number}")
        assert {one["over"] for one in taster.get().json()["sets"]} == set(songs)
        taster.agree()
        for serving in assessor.servings.all():
            good = next(p for p in range(3) if is_right("triangle", serving.order, [p]))
            cup = good if serving.stimulus == 0 else (good + 1) % 3
            assert taster.give(answer(serving.pk, [cup], preference=cup)).status_code == 200
    post(host, f"{address}/close", {})
    post(host, f"{address}/open", {})
    found = host.get(f"{address}/result").json()["finding"]
    assert (found["n"], found["people_counted"]) == (18, 6)
    assert [(one["name"], one["n"]) for one in found["stimuli"]] == [(name, 6) for name in songs]
    assert found["stimuli"][0]["sentence"].startswith("6 of 6 found the odd one")
    assert any(one.startswith("It differs by what it was asked over") for one in found["differs"])
    assert len(found["liking"]) == 2


@pytest.mark.parametrize(
    ("stimuli", "at"),
    [(["One"], "stimuli"), (["One", "one"], "stimuli.1"), (["One", ""], "stimuli.1"), (["x"] * 13, "stimuli")],
)
def test_stimuli_that_cannot_be_are_said(host, stimuli, at):
    status, found = problems(
        post(host, "/api/tastings", {**TASTING, "panel": {**TASTING["panel"], "stimuli": stimuli}})
    )
    assert (status, f"panel.{at}" in found) == (422, True), found


# Sounds and pictures


def sounding(world, **more):
    plan = PanelPlan("By ear", things=("t-zebra", "t-quartz"), material="sounds", **more)
    address = panel_in(world, plan, people=3, begin=False)
    for over in range(max(1, len(plan.stimuli))):
        for i, thing in enumerate(plan.things):
            file = SimpleUploadedFile("a.wav", wav(300 + 200 * i + 50 * over, 1 + 0.3 * i))
            sent = world.clients["lead"].post(f"{address}/materials/{thing}?stimulus={over}", {"file": file})
            assert sent.status_code == 200, sent.json()
    begun = post(world.clients["lead"], f"{address}/begin", {})
    assert begun.status_code == 200, begun.json()
    return address


def test_an_answer_on_sounds_counts_once_each_was_listened_to():
    world = make("running")
    sounding(world)
    taster = Taster(Assessor.objects.get(number=1))
    taster.get()
    taster.agree()
    serving = Serving.objects.get(assessor__number=1)
    unheard = taster.give(answer(serving.pk, heard=[1, 1, 1]))
    assert problems(unheard) == (422, ["judgements.0.heard"])
    for place in range(3):
        path = f"{taster.address}/sets/{serving.pk}/{place}"
        assert taster.client.get(path, headers={"X-Booth-Device": "phone"}).status_code == 200
    assert problems(taster.give(answer(serving.pk, heard=[1, 0, 2]))) == (422, ["judgements.0.heard"])
    assert problems(taster.give(answer(serving.pk, heard=[1, 1]))) == (422, ["judgements.0.heard"])
    assert taster.give(answer(serving.pk, heard=[1, 4, 2])).status_code == 200


def test_nothing_on_the_wire_solves_a_triangle():
    """Whoever guesses by headers and lengths is right no more often than chance; and the odd one is known to this test alone."""
    world = make("running")
    sounding(world, stimuli=("The reel", "The air"), sets=3)
    solved, tried = 0, 0
    for assessor in Assessor.objects.all():
        taster = Taster(assessor, f"phone {assessor.number}")
        taster.get()
        taster.agree()
        for serving in assessor.servings.all():
            seen = []
            for place in range(3):
                path = f"{taster.address}/sets/{serving.pk}/{place}"
                got = taster.client.get(path, headers={"X-Booth-Device": taster.device})
                content = b"".join(got) if got.streaming else got.content
                seen.append((len(content), content[:44], tuple(sorted(got.headers.items()))))
            tried += 1
            lone = [place for place in range(3) if seen.count(seen[place]) == 1]
            if len(lone) == 1:
                solved += serving.order.count(serving.order[lone[0]]) == 1
            assert len(set(seen)) == 1
    assert (solved, tried) == (0, 18)


def test_a_is_played_by_its_name_before_it_is_asked_for():
    world = make("running")
    sounding(world, method="a-not-a", sets=2)
    taster = Taster(Assessor.objects.get(number=1))
    assert taster.get().json()["shows_a"]
    path = f"{taster.address}/known/0"
    assert taster.client.get(path, headers={"X-Booth-Device": "phone"}).status_code == 409
    taster.agree()
    got = taster.client.get(path, headers={"X-Booth-Device": "phone"})
    assert (got.status_code, got.headers["Content-Type"]) == (200, "audio/wav")
    assert taster.client.get(f"{taster.address}/known/1", headers={"X-Booth-Device": "phone"}).status_code == 404
    for one in Assessor.objects.all():
        assert sorted(one.servings.values_list("order", flat=True)) == ["A", "B"]


def test_a_cup_of_a_is_poured_for_everybody_first():
    world = make("running")
    address = panel_in(world, PanelPlan("Is it A?", method="a-not-a", things=("t-zebra", "t-quartz")), people=4)
    sheet = post(world.clients["preparer"], f"{address}/pour", {}).json()
    assert "marked A: 4 of them" in sheet["first"]
    assert sum(one["cups"] for one in sheet["totals"]) == 4 + 4


def test_pictures_of_two_shapes_are_shown_at_one_size():
    world = make("running")
    plan = PanelPlan("By eye", things=("t-zebra", "t-quartz"), material="pictures")
    address = panel_in(world, plan, people=1, begin=False)
    for thing, size in (("t-zebra", (640, 320)), ("t-quartz", (300, 500))):
        file = SimpleUploadedFile("a.png", picture(size=size))
        assert world.clients["lead"].post(f"{address}/materials/{thing}", {"file": file}).status_code == 200
    assert post(world.clients["lead"], f"{address}/begin", {}).status_code == 200
    taster = Taster(Assessor.objects.get())
    taster.get()
    taster.agree()
    serving = Serving.objects.get()
    shown = [
        taster.client.get(f"{taster.address}/sets/{serving.pk}/{place}", headers={"X-Booth-Device": "phone"}).content
        for place in range(3)
    ]
    assert len({len(one) for one in shown}) == 1
    borders = [
        Image.open(io.BytesIO(one)).convert("RGB").crop((0, 0, 20, 720)).resize((1, 1)).getpixel((0, 0))
        for one in shown
    ]
    grey = [sum(abs(v - 119) for v in one) < 12 for one in borders]
    assert len(set(grey)) == 1


# Days, seats, cards


def test_people_are_written_to_of_the_day_once_and_have_it_in_their_calendar(host):
    on = (timezone.now() + timedelta(hours=20)).astimezone(UTC)
    people = [{"name": "Fern", "address": "fern@tools.example"}, {"name": "Moss"}]
    told = held(host, zone="UTC", people=people, panel={**TASTING["panel"], "on": f"{on:%Y-%m-%dT%H:%M}", "window": 90})
    assert told["until"] is not None
    now = timezone.now()
    assert write_of_the_day(now - timedelta(days=3), "https://tally.example/") == 0
    assert write_of_the_day(now, "https://tally.example/") == 1
    assert write_of_the_day(now, "https://tally.example/") == 0
    letter = Mail.objects.get(to="fern@tools.example")
    seat = Assessor.objects.get(name="Fern")
    assert f"https://tally.example/booth/{seat.token}" in letter.text
    assert "Crab" not in letter.subject + letter.text
    day = Client().get(f"/api/booth/{seat.token}/date.ics")
    assert day.headers["Content-Type"].startswith("text/calendar")
    assert f"DTSTART:{on:%Y%m%dT%H%M}00Z" in day.content.decode().replace(";TZID=UTC", "").replace("\r", "")
    assert "Crab" not in day.content.decode()


def test_a_panel_that_began_late_says_so_with_its_result(host):
    told = held(host, zone="UTC", panel={**TASTING["panel"], "on": "2026-01-04T19:00"})
    address = f"/api/panels/{told['id']}"
    all_judge(address)
    post(host, f"{address}/close", {})
    post(host, f"{address}/open", {})
    trial = told["trial"]
    says = host.get(f"/api/trials/{trial}/verdict").json()["panels"][0]["says"]
    assert any(one.startswith("Planned for 4 January 2026, 19:00, and begun") for one in says)


def test_a_seat_goes_to_another_phone_by_a_short_code_once(host):
    told = held(host)
    seat = told["assessors"][0]
    taster = Taster(Assessor.objects.get(pk=seat["id"]), "old phone")
    assert taster.get().status_code == 200
    noted = post(host, f"/api/assessors/{seat['id']}", {"move": True}).json()
    code = noted["assessors"][0]["move"]
    assert len(code) == 6
    assert post(Client(), "/api/seats", {"code": "0" if code != "0" else "1"}).status_code == 404
    moved = post(Client(), "/api/seats", {"code": f"{code[:3]} {code[3:]}"})
    assert moved.json() == {"link": seat["link"]}
    assert post(Client(), "/api/seats", {"code": code}).status_code == 404
    fresh = Taster(Assessor.objects.get(pk=seat["id"]), "new phone")
    assert fresh.get().status_code == 200
    assert taster.get().status_code == 409
    assert all("code" not in one or code not in one for one in LogNote.objects.values_list("text", flat=True))


def test_codes_are_not_guessed(host):
    held(host)
    for i in range(20):
        assert post(Client(), "/api/seats", {"code": f"{i:06d}"}).status_code == 404
    assert post(Client(), "/api/seats", {"code": "999999"}).status_code == 429


def test_a_card_tells_somebody_how_they_did_once_the_key_is_open_and_if_the_host_lets(host):
    told = held(host, people=[{"name": "Fern"}, {"name": "Moss"}], panel={**TASTING["panel"], "sets": 3, "cards": True})
    address = f"/api/panels/{told['id']}"
    all_judge(address, right=lambda number: number == 1)
    fern = Taster(Assessor.objects.get(number=1), "phone 1")
    card = fern.client.get(f"{fern.address}/card", headers={"X-Booth-Device": "phone 1"})
    assert card.status_code == 409
    assert not fern.get().json()["card"]
    post(host, f"{address}/close", {})
    post(host, f"{address}/open", {})
    assert fern.get().json()["card"]
    card = fern.client.get(f"{fern.address}/card", headers={"X-Booth-Device": "phone 1"}).json()
    assert card["own"][0] == "You found it in 3 of 3; guessing finds 1 on average."
    assert len(card["sets"]) == 3
    kept = held(host, people=[{"name": "Fern"}])
    lone = Taster(Assessor.objects.get(panel_id=kept["id"]), "x")
    all_judge(f"/api/panels/{kept['id']}")
    post(host, f"/api/panels/{kept['id']}/close", {})
    post(host, f"/api/panels/{kept['id']}/open", {})
    assert lone.client.get(f"{lone.address}/card", headers={"X-Booth-Device": "phone 1"}).status_code == 403


def test_a_card_tells_nothing_while_others_of_the_trial_are_blind():
    world = make("running")
    plan = PanelPlan("Crunch", things=("t-zebra", "t-quartz"), preference=True, chips=("crisp", "soft"), cards=True)
    address = panel_in(world, plan, people=2)
    all_judge(address)
    post(world.clients["lead"], f"{address}/close", {})
    post(world.clients["lead"], f"{address}/open", {})
    taster = Taster(Assessor.objects.get(number=1), "phone 1")
    assert taster.get().json()["card"] is False
    sealed = taster.client.get(f"{taster.address}/card", headers={"X-Booth-Device": "phone 1"})
    assert sealed.status_code == 409
    verdict_services.ask_to_open(world.trial, world.users["lead"])
    verdict_services.open_key(world.trial, world.users["lead"], PLAN.title)
    assert taster.client.get(f"{taster.address}/card", headers={"X-Booth-Device": "phone 1"}).status_code == 200


def test_what_a_panel_found_is_worked_out_once_however_many_ask(host, monkeypatch):
    told = held(host, people=[{"name": "Fern"}, {"name": "Moss"}], panel={**TASTING["panel"], "cards": True})
    address = f"/api/panels/{told['id']}"
    all_judge(address)
    post(host, f"{address}/close", {})
    post(host, f"{address}/open", {})
    found = host.get(f"{address}/result").json()["finding"]

    def never(*_args, **_more):
        raise AssertionError("worked out again")

    monkeypatch.setattr(queries, "panel_finding", never)
    assert host.get(f"{address}/result").json()["finding"] == found
    assert host.get(f"/api/trials/{told['trial']}/panels").json()["panels"][0]["sentence"] == found["sentence"]
    fern = Taster(Assessor.objects.get(number=1), "phone 1")
    card = fern.client.get(f"{fern.address}/card", headers={"X-Booth-Device": "phone 1"}).json()
    assert card["all"] == found["sentence"]
    # A name that is erased is told no more.
    monkeypatch.undo()
    post(host, f"/api/assessors/{told['assessors'][0]['id']}", {"erase": True})
    assert "Fern" not in host.get(f"{address}/result").content.decode()


def test_the_hosts_row_tells_who_is_done_late_and_spilt(host):
    told = held(host, people=[{"name": "Fern"}, {"name": "Moss"}])
    address = f"/api/panels/{told['id']}"
    spilt = Serving.objects.get(assessor__number=1)
    assert post(host, f"/api/servings/{spilt.pk}/spilt", {"what": "It fell."}).status_code == 200
    taster = Taster(Assessor.objects.get(number=2), "phone 2")
    taster.get()
    taster.agree()
    post(host, f"{address}/close", {})
    assert taster.give(answer(Serving.objects.get(assessor__number=2).pk)).status_code == 200
    rows = host.get(address).json()["assessors"]
    assert [(one["spilt"], one["late"]) for one in rows] == [(1, 0), (0, 1)]


def test_a_panel_begun_twice_is_one(host):
    told = held(host)
    again = post(host, f"/api/panels/{told['id']}/begin", {})
    assert (again.status_code, "has begun" in again.json()["problems"][0]["says"]) == (409, True)
    assert Serving.objects.filter(assessor__panel_id=told["id"]).count() == 12


def test_one_assessor_and_none(host):
    one = held(host, people=[{"name": "Fern"}])
    address = f"/api/panels/{one['id']}"
    post(host, f"{address}/close", {})
    post(host, f"{address}/open", {})
    assert host.get(f"{address}/result").json()["finding"]["sentence"] == "Nobody has judged yet."
