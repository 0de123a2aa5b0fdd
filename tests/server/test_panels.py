"""Panels: from the plan through the booth to what was found; and what no answer gives away."""

import inspect
import io
import json
import re
from collections import Counter
from dataclasses import asdict, replace
from uuid import uuid4

import numpy as np
import pypdfium2
import pytest
import soundfile
from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import DatabaseError, connection, transaction
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from fieldtally.core.panels.grading import PanelAttribute
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.serving import CYCLES, is_right
from fieldtally.server.log.models import LogNote
from fieldtally.server.panels import judging, planning
from fieldtally.server.panels.models import Assessor, Judgement, Material, Panel, PracticeSet, Serving
from fieldtally.server.panels.queries import judged_of
from fieldtally.server.plan.queries import key_of, samples_of
from fieldtally.server.prepare.queries import key_looks
from fieldtally.server.verdict import services as verdict_services
from tests.server.conftest import PLAN, SECRETS, as_owner, make
from tests.server.pictures import picture

pytestmark = pytest.mark.django_db
PANEL = PanelPlan("Crunch", things=("t-zebra", "t-quartz"), assessors=6, preference=True, chips=("crisp", "soft"))


@pytest.fixture(autouse=True)
def nobody_has_guessed():
    cache.clear()


def panel_in(world, plan=PANEL, people=6, begin=True):
    """A panel of that many people, begun."""
    out = world.call("lead", "post", "/panels", {"plan": asdict(plan)}).json()
    address = f"/api/panels/{out['id']}"
    client = world.clients["lead"]
    names = [{"name": f"Taster {n}", "experience": ("naive", "trained")[n % 2]} for n in range(people)]
    post(client, f"{address}/assessors", {"assessors": names})
    if begin:
        out = post(client, f"{address}/begin", {}).json()
        assert out["state"] == "open", out
    return address


def post(client, address, body, **headers):
    return client.post(address, json.dumps(body), content_type="application/json", headers=headers)


class Taster:
    """Somebody with a link, on a device of their own."""

    def __init__(self, assessor, device="phone"):
        self.assessor, self.client, self.device = assessor, Client(), device
        self.address = f"/api/booth/{assessor.token}"

    def get(self):
        return self.client.get(self.address, headers={"X-Booth-Device": self.device})

    def agree(self, **more):
        return post(self.client, f"{self.address}/consent", {"agreed": True, **more}, **{"X-Booth-Device": self.device})

    def give(self, *judgements):
        return post(
            self.client,
            f"{self.address}/judgements",
            {"judgements": list(judgements)},
            **{"X-Booth-Device": self.device},
        )


def answer(serving, cups=(0,), **more):
    return {
        "id": str(uuid4()),
        "serving": str(serving),
        "answer": list(cups),
        "given_at": timezone.now().isoformat(),
        **more,
    }


def problems(response):
    return response.status_code, [one["at"] for one in response.json()["problems"]]


def all_judge(address, right=None):
    """Everybody answers their sets: right, wrong, or as ``right(number)`` says."""
    panel = Panel.objects.get(pk=address.rsplit("/", 1)[1])
    for assessor in panel.assessors.all():
        taster = Taster(assessor, f"phone {assessor.number}")
        assert taster.get().status_code == 200
        taster.agree(adult=True)
        for serving in assessor.servings.all():
            good = next(p for p in range(3) if is_right("triangle", serving.order, [p]))
            cup = good if right is None or right(assessor.number) else (good + 1) % 3
            given = answer(serving.pk, [cup], preference=cup, chips=["crisp"])
            assert taster.give(given).status_code == 200


def panel_of(address):
    return Panel.objects.get(pk=address.rsplit("/", 1)[1])


def opened(world):
    """The key of the trial, after its panels are closed."""
    for panel in Panel.objects.filter(trial=world.trial, closed_at=None).exclude(begun_at=None):
        planning.close(panel)
    verdict_services.ask_to_open(world.trial, world.users["lead"])
    verdict_services.open_key(world.trial, world.users["lead"], PLAN.title)


def test_a_panel_goes_from_its_plan_to_what_it_found():
    world = make("running")
    address = panel_in(world)
    host = world.clients["lead"].get(address).json()
    assert (host["outlook"]["needed"], [one["of"] for one in host["assessors"]]) == (5, [1] * 6)
    all_judge(address, right=lambda number: number != 3)
    host = world.clients["lead"].get(address).json()
    assert [one["done"] for one in host["assessors"]] == [1] * 6
    sealed = world.clients["lead"].get(f"{address}/result")
    assert sealed.status_code == 403
    assert post(world.clients["lead"], f"{address}/close", {}).status_code == 200
    opened(world)
    out = world.clients["scorer"].get(f"{address}/result").json()
    assert out["finding"]["sentence"].startswith("5 of 6 found the odd one; 5 were needed.")
    assert out["finding"]["found"]["p"] == pytest.approx(13 / 729)
    assert [one["name"] for one in out["things"]] == ["Zebra mulch", "Quartz grit"]
    assert out["with_all"] is None
    assert sum(sum(own.values()) for own in out["finding"]["words"].values()) == 6


def test_an_answer_is_stored_once_and_then_locked():
    world = make("running")
    address = panel_in(world)
    taster = Taster(Assessor.objects.get(number=1))
    serving = taster.get().json()["sets"][0]["id"]
    early = taster.give(answer(serving))
    assert early.status_code == 409
    taster.agree()
    first = answer(serving, [1], preference=-1, words="snaps")
    assert [taster.give(first).status_code for _ in range(3)] == [200, 200, 200]
    assert Judgement.objects.count() == 1
    # Another answer under the same id is not taken for the first.
    for other in ({"answer": [0]}, {"words": "soft"}, {"preference": 1}):
        swapped = taster.give({**first, **other})
        assert (swapped.status_code, "something else" in swapped.json()["problems"][0]["says"]) == (409, True)
    locked = taster.give(answer(serving, [0]))
    assert (locked.status_code, "locked" in locked.json()["problems"][0]["says"]) == (409, True)
    assert taster.get().json()["sets"][0]["answered"]
    with pytest.raises(DatabaseError, match="permission denied"), transaction.atomic():
        Judgement.objects.update(answer=[2])
    other = Taster(Assessor.objects.get(number=2), "another phone")
    other.get()
    other.agree()
    assert other.give(answer(serving)).status_code == 404
    assert other.give(first).status_code == 409
    post(world.clients["lead"], f"{address}/close", {})
    mine = other.get().json()["sets"][0]["id"]
    assert other.give(answer(mine)).status_code == 200
    assert judged_of(panel_of(address))[-1].left_out == "answered after the panel was closed"
    # What was stored before is still acknowledged, since the device may not have heard.
    assert taster.give(first).status_code == 200


def test_an_answer_given_before_the_panel_closed_counts_however_late_it_comes():
    world = make("running")
    address = panel_in(world)
    early, late, stopped = (Taster(Assessor.objects.get(number=n), f"phone {n}") for n in (1, 2, 3))
    for one in (early, late, stopped):
        one.get()
        one.agree()
    served = {n: Serving.objects.get(assessor__number=n).pk for n in (1, 2, 3)}
    before = timezone.now()
    judging.stop(Assessor.objects.get(number=3))
    assert post(world.clients["lead"], f"{address}/close", {}).status_code == 200
    after = timezone.now()
    assert early.give({**answer(served[1]), "given_at": before.isoformat()}).status_code == 200
    # What comes after closing is kept, and marked: it does not count.
    assert late.give({**answer(served[2]), "given_at": after.isoformat()}).status_code == 200
    assert stopped.give({**answer(served[3]), "given_at": after.isoformat()}).status_code == 409
    assert stopped.give({**answer(served[3]), "given_at": before.isoformat()}).status_code == 200
    opened(world)
    told = world.clients["lead"].get(f"{address}/result").json()
    assert (told["late"], told["finding"]["n"]) == (2, 2)
    assert told["finding"]["left_out"] == [["Taster 1", "answered after the panel was closed"]]
    assert told["with_all"]["n"] == 3
    # Once the key is open what still comes is kept too, whatever the device says of when it was given, and counts no more.
    fourth = Taster(Assessor.objects.get(number=4), "phone 4")
    Assessor.objects.filter(number=4).update(consented_at=before)
    fourth.get()
    mine = Serving.objects.get(assessor__number=4).pk
    assert fourth.give({**answer(mine), "given_at": before.isoformat()}).status_code == 200
    told = world.clients["lead"].get(f"{address}/result").json()["finding"]
    assert (told["n"], told["left_out"][1]) == (2, ["Taster 3", "came in after the key was open"])


@pytest.mark.parametrize(
    ("wrong", "at"),
    [
        ({"answer": [3]}, "answer"),
        ({"answer": []}, "answer"),
        ({"confidence": 2}, "confidence"),
        ({"preference": 7}, "preference"),
        ({"chips": ["foul"]}, "chips"),
        ({"words": "x" * 1001}, "words"),
    ],
)
def test_an_answer_that_cannot_be_is_refused_and_nothing_is_stored(wrong, at):
    panel_in(make("running"))
    taster = Taster(Assessor.objects.get(number=1))
    serving = taster.get().json()["sets"][0]["id"]
    taster.agree()
    assert problems(taster.give(answer(serving, **({"cups": wrong["answer"]} if "answer" in wrong else wrong)))) == (
        422,
        [f"judgements.0.{at}"],
    )
    assert not Judgement.objects.exists()


def test_a_link_is_one_persons_on_one_device_and_is_not_guessed():
    world = make("running")
    address = panel_in(world)
    assessor = Assessor.objects.get(number=1)
    assert Taster(assessor, "phone").get().status_code == 200
    second = Taster(assessor, "tablet").get()
    assert (second.status_code, "another device" in second.json()["problems"][0]["says"]) == (409, True)
    post(world.clients["lead"], f"/api/assessors/{assessor.pk}", {"free": True})
    assert Taster(assessor, "tablet").get().status_code == 200
    assert Taster(assessor, "").get().status_code == 422
    guesses = [Client().get(f"/api/booth/guess-{n}", headers={"X-Booth-Device": "x"}).status_code for n in range(30)]
    assert Counter(guesses) == {404: 20, 429: 10}
    # One who guesses does not silence those of the panel who sit behind the same address.
    assert Taster(assessor, "tablet").get().status_code == 200
    assert address


def test_the_booth_gives_nothing_away():
    """Whichever cup is which, the booth and its answers are the same; and no name of a treatment is in them."""
    world = make("running")
    plan = replace(PANEL, words_to_say="Taste the zebra mulch one first", attribute="crunchy", allergens="celery")
    panel_in(world, plan)
    taster = Taster(Assessor.objects.get(number=1))
    taster.get()
    taster.agree()
    before = taster.get().content.decode()
    for secret in SECRETS:
        assert secret not in before.casefold()
    assert world.trial.title not in before
    serving = Serving.objects.get(assessor__number=1)
    turned = "".join({"A": "B", "B": "A"}[one] for one in serving.order)
    with as_owner() as cursor:
        cursor.execute('UPDATE panels_serving SET "order" = %s WHERE id = %s', [turned, serving.pk])
    assert taster.get().content.decode() == before
    right = taster.give(answer(serving.pk, [0])).json()
    assert set(right) == {"stored"}


def test_a_right_answer_takes_the_same_way_through_the_server_as_a_wrong_one():
    """Timing tells nothing: the same queries, the same size of answer, and nothing compares it with what was in the cups."""
    world = make("running")
    panel_in(world)
    seen = []
    for number in (1, 2):
        taster = Taster(Assessor.objects.get(number=number), f"phone {number}")
        taster.get()
        taster.agree()
        serving = Serving.objects.get(assessor__number=number)
        good = next(p for p in range(3) if is_right("triangle", serving.order, [p]))
        with CaptureQueriesContext(connection) as asked:
            given = taster.give(answer(serving.pk, [good if number == 1 else (good + 1) % 3]))
        assert given.status_code == 200
        seen.append((len(given.content), [shape(one["sql"]) for one in asked.captured_queries]))
    assert seen[0] == seen[1]
    assert "is_right" not in inspect.getsource(judging)


def shape(sql: str) -> str:
    """A query without its values."""
    return re.sub(r"'[^']*'|\d+", "?", sql)


def test_who_hosts_sees_who_is_done_and_never_who_was_right():
    world = make("running")
    address = panel_in(world)
    before = world.clients["lead"].get(address).json()
    all_judge(address, right=lambda number: number % 2 == 0)
    one = world.clients["lead"].get(address).json()
    # The same counts, whatever was answered.
    told = json.dumps(
        {**one, "assessors": [{**a, "done": 0, "consented": False, "on_a_device": False} for a in one["assessors"]]}
    )
    same = json.dumps(
        {
            **before,
            "assessors": [{**a, "done": 0, "consented": False, "on_a_device": False} for a in before["assessors"]],
        }
    )
    assert told == same
    assert "order" not in told
    for role in ("scorer", "viewer"):
        assert world.clients[role].get(address).status_code == 403
        assert world.clients[role].get(f"{address}/result").status_code == 403
        assert world.get(role, "/panels").status_code == 403
    assert world.clients["outsider"].get(address).status_code == 404
    assert world.clients["preparer"].get(address).json()["assessors"][0]["link"] == ""


def test_who_pours_sees_the_cups_and_the_log_says_so():
    world = make("running")
    address = panel_in(world)
    sheet = post(world.clients["preparer"], f"{address}/pour", {}).json()
    cups = [cup for one in sheet["sets"] for cup in one["cups"]]
    assert Counter(cup["thing"] for cup in cups) == {"Zebra mulch": 9, "Quartz grit": 9}
    assert len({cup["code"] for cup in cups}) == 18
    assert "Looked at what goes into the cups" in str(world.get("lead", "/log").json())
    spilt = sheet["sets"][0]
    assert problems(post(world.clients["preparer"], f"/api/servings/{spilt['serving']}/spilt", {"what": " "})) == (
        422,
        ["what"],
    )
    fresh = post(
        world.clients["preparer"], f"/api/servings/{spilt['serving']}/spilt", {"what": "the tray tipped"}
    ).json()
    assert not set(fresh["codes"]) & {cup["code"] for cup in spilt["cups"]}
    again = post(world.clients["preparer"], f"{address}/pour", {}).json()["sets"]
    poured = next(one for one in again if one["serving"] == fresh["serving"])
    assert [cup["thing"] for cup in poured["cups"]] == [cup["thing"] for cup in spilt["cups"]]
    assert post(world.clients["preparer"], f"/api/servings/{spilt['serving']}/spilt", {"what": "x"}).status_code == 409


def test_one_who_was_not_blind_is_left_out_and_told_both_ways():
    world = make("running")
    address = panel_in(world)
    all_judge(address)
    first, second = Assessor.objects.filter(number__in=(1, 2))
    post(world.clients["lead"], f"/api/assessors/{first.pk}", {"blind": False})
    post(world.clients["lead"], f"/api/assessors/{second.pk}", {"left_out": "had a cold"})
    opened(world)
    out = world.clients["lead"].get(f"{address}/result").json()
    assert (out["finding"]["n"], out["with_all"]["n"]) == (4, 6)
    assert sorted(out["finding"]["left_out"]) == [["Taster 0", "was not blind"], ["Taster 1", "had a cold"]]


def test_a_name_is_erased_and_the_answers_stay_under_a_number():
    world = make("running")
    address = panel_in(world)
    all_judge(address)
    assessor = Assessor.objects.get(number=1)
    kept = world.clients["lead"].get(f"/api/assessors/{assessor.pk}").json()
    # Who hosts may have seen the cups: with the answers they would know who was right.
    assert (kept["name"], kept["consented"], kept["answers"]) == ("Taster 0", True, [])
    link = assessor.token
    out = post(world.clients["lead"], f"/api/assessors/{assessor.pk}", {"erase": True}).json()
    assert (out["assessors"][0]["name"], out["assessors"][0]["link"]) == ("Assessor 1", "")
    assert Client().get(f"/api/booth/{link}", headers={"X-Booth-Device": "phone 1"}).status_code == 404
    assert "Taster 0" not in json.dumps(out)
    assert len(judged_of(Panel.objects.get())) == 6
    opened(world)
    kept = world.clients["lead"].get(f"/api/assessors/{assessor.pk}").json()
    assert (kept["name"], len(kept["answers"])) == ("", 1)
    assert "order" not in str(kept)


def test_late_comers_keep_the_balance():
    world = make("running")
    address = panel_in(world, people=5)
    post(world.clients["lead"], f"{address}/assessors", {"assessors": [{"name": "Late"}, {"name": "Later"}]})
    counts = Counter(Serving.objects.values_list("order", flat=True))
    assert sum(counts.values()) == 7
    assert max(counts.values()) <= 2


def test_a_seat_that_stays_empty_leaves_its_order_to_who_comes_late():
    world = make("running")
    address = panel_in(world)
    gone = Assessor.objects.get(number=3)
    order = Serving.objects.get(assessor=gone).order
    post(world.clients["lead"], f"/api/assessors/{gone.pk}", {"left_out": "did not come"})
    post(world.clients["lead"], f"{address}/assessors", {"assessors": [{"name": "Late"}]})
    assert Serving.objects.get(assessor__name="Late").order == order


def test_one_more_session_keeps_the_balance_and_is_logged():
    world = make("running")
    address = panel_in(world, people=4)
    out = post(world.clients["lead"], f"{address}/sessions", {}).json()
    assert out["sessions"] == 2
    assert [one["of"] for one in out["assessors"]] == [2] * 4
    counts = Counter(Serving.objects.values_list("order", flat=True))
    assert max(counts.values()) - min(counts.values()) <= 1
    assert "A session was added" in LogNote.objects.latest("at").text
    late = post(world.clients["lead"], f"{address}/assessors", {"assessors": [{"name": "Late"}]}).json()
    assert late["assessors"][-1]["of"] == 2


def test_a_panel_that_is_looked_at_tells_its_host_to_go_on_or_stop_and_no_count():
    world = make("running")
    address = panel_in(world, replace(PANEL, looks=2))
    assert [one["says"] for one in world.clients["lead"].get(address).json()["looks"]] == ["", ""]
    assert world.clients["preparer"].get(address).json()["looks"] == []
    assert post(world.clients["lead"], f"{address}/sessions", {}).status_code == 409
    all_judge(address)
    told = world.clients["lead"].get(address).json()["looks"]
    assert [one["n"] for one in told] == [3, 6]
    assert {one["says"] for one in told} <= {"go on", "stop: a difference is shown"}
    assert told[1]["says"] == "stop: a difference is shown"
    opened(world)
    found = world.clients["lead"].get(f"{address}/result").json()["finding"]
    assert found["monitored"]["crossed"] is not None


def test_a_panel_that_is_broken_off_says_why_in_log_and_result():
    world = make("running")
    address = panel_in(world)
    assert problems(post(world.clients["lead"], f"{address}/close", {"because": "x" * 900})) == (422, ["because"])
    post(world.clients["lead"], f"{address}/close", {"because": "two felt unwell"})
    assert "two felt unwell" in LogNote.objects.latest("at").text
    opened(world)
    told = world.clients["lead"].get(f"{address}/result").json()
    assert told["closed_because"] == "two felt unwell"
    assert told["finding"]["sentence"] == "Nobody has judged yet."


def test_who_stops_is_asked_nothing_and_gives_no_more_answers():
    world = make("running")
    address = panel_in(world)
    taster = Taster(Assessor.objects.get(number=1))
    taster.agree()
    out = post(taster.client, f"{taster.address}/stop", {}, **{"X-Booth-Device": "phone"}).json()
    assert out["stopped"]
    assert taster.give(answer(Serving.objects.get(assessor__number=1).pk)).status_code == 409
    assert world.clients["lead"].get(address).json()["assessors"][0]["stopped"]


def test_grades_are_asked_in_the_booth_and_told_with_the_result():
    world = make("running")
    address = panel_in(world, replace(PANEL, attributes=(PanelAttribute("Crunch"),)), people=3)
    for number in (1, 2, 3):
        taster = Taster(Assessor.objects.get(number=number), f"phone {number}")
        assert taster.get().json()["attributes"] == [
            {"name": "Crunch", "low": "none", "high": "very much", "steps": 10}
        ]
        taster.agree()
        serving = Serving.objects.get(assessor__number=number)
        assert problems(taster.give(answer(serving.pk, preference=0))) == (422, ["judgements.0.grades"])
        grades = [[9 if one == "A" else 2 for one in serving.order]]
        assert taster.give(answer(serving.pk, preference=0, grades=grades)).status_code == 200
    opened(world)
    told = world.clients["lead"].get(f"{address}/result").json()["finding"]["graded"][0]
    assert (told["people"], told["means"]) == (3, [9, 2])


def test_cups_from_the_trials_own_samples_are_drawn_in_turn_and_told_as_a_look_at_the_key():
    world = make("running")
    address = panel_in(world, replace(PANEL, own_samples=True), people=4)
    world.trial.memberships.filter(user=world.users["lead"]).update(blind=True)
    # A lead who stays blind would learn the key from it.
    for door in ("pour", "prints/pour.pdf"):
        assert world.clients["lead"].post(f"{address}/{door}").status_code == 403
    assert not [look for look in key_looks(world.trial) if look.by_id == world.users["lead"].pk]
    sheet = world.clients["preparer"].post(f"{address}/pour").json()
    key = {one.code: key_of(world.trial)[one.pk] for one in samples_of(world.trial)}
    names = {t.key: t.name for t in PLAN.treatments}
    cups = [cup for one in sheet["sets"] for cup in one["cups"]]
    assert all(names[key[cup["sample"]]] == cup["thing"] for cup in cups)
    for thing in {cup["thing"] for cup in cups}:
        drawn = Counter(cup["sample"] for cup in cups if cup["thing"] == thing)
        assert max(drawn.values()) - min(drawn.values()) <= 1
    assert sum(one["cups"] for one in sheet["totals"]) == 12
    assert sum(one["amount"] for one in sheet["totals"]) == 12 * PANEL.amount
    assert world.users["preparer"].pk in {look.by_id for look in key_looks(world.trial)}


# A tablet that is handed round


def test_a_tablet_seats_all_and_its_link_can_be_taken_back():
    world = make("running")
    address = panel_in(world, people=3)
    out = post(world.clients["lead"], f"{address}/table", {"lay": True}).json()
    link = out["table"].removeprefix("/table/")
    at = lambda: Client().get(f"/api/tables/{link}", headers={"X-Booth-Device": "tablet"})  # noqa: E731
    seats = at().json()["seats"]
    assert [(one["number"], one["done"], one["of"], one["elsewhere"]) for one in seats] == [
        (n, 0, 1, False) for n in (1, 2, 3)
    ]
    for secret in SECRETS:
        assert secret not in at().content.decode().casefold()
    Taster(Assessor.objects.get(number=2), "own phone").get()
    first = Taster(Assessor.objects.get(token=seats[0]["token"]), "tablet")
    first.get()
    first.agree()
    assert first.give(answer(Serving.objects.get(assessor__number=1).pk, preference=0)).status_code == 200
    assert [(one["done"], one["elsewhere"]) for one in at().json()["seats"]] == [(1, False), (0, True), (0, False)]
    assert world.clients["preparer"].get(address).json()["table"] == ""
    post(world.clients["lead"], f"{address}/table", {"lay": False})
    assert at().status_code == 404
    assert Client().get("/api/tables/", headers={"X-Booth-Device": "tablet"}).status_code == 404


# Sounds and pictures


def wav(frequency=440.0, seconds=1.0, loud=0.5):
    at = np.arange(round(seconds * 22_050)) / 22_050
    written = io.BytesIO()
    soundfile.write(written, loud * np.sin(2 * np.pi * frequency * at), 22_050, format="WAV")
    return written.getvalue()


def send(world, address, thing, content, name="Zebra hum.wav"):
    return world.clients["lead"].post(
        f"{address}/materials/{thing}", {"file": SimpleUploadedFile(name, content, content_type="audio/wav")}
    )


def sounding(world, **more):
    out = world.call("lead", "post", "/panels", {"plan": asdict(replace(PANEL, material="sounds", **more))}).json()
    address = f"/api/panels/{out['id']}"
    post(world.clients["lead"], f"{address}/assessors", {"assessors": [{"name": "Ear"}]})
    return address


@pytest.mark.parametrize("content", [b"", b"RIFF....WAVE", b"<html>", wav(seconds=0.1), wav(loud=0.0)])
def test_what_is_no_sound_is_refused_and_nothing_kept(content):
    world = make("running")
    address = sounding(world)
    assert problems(send(world, address, "t-zebra", content)) == (422, ["file"])
    assert not Material.objects.exists()


def test_a_sound_of_two_gigabytes_is_turned_away_by_its_length():
    world = make("running")
    address = sounding(world)
    refused = world.clients["lead"].post(
        f"{address}/materials/t-zebra",
        b"--x\r\n",
        content_type="multipart/form-data; boundary=x",
        headers={"Content-Length": str(2 << 30)},
        CONTENT_LENGTH=str(2 << 30),
    )
    assert refused.status_code == 413
    assert "25 MB" in refused.json()["problems"][0]["says"]


def test_sounds_are_played_level_and_no_copy_tells_which_it_is():
    world = make("running")
    address = sounding(world)
    assert problems(post(world.clients["lead"], f"{address}/begin", {})) == (422, ["material"])
    assert problems(send(world, address, "t-grape", wav())) == (422, ["thing"])
    assert send(world, address, "t-zebra", wav(440, 1.5, 0.9)).status_code == 200
    out = send(world, address, "t-quartz", wav(450, 1.0, 0.05)).json()
    assert {one["thing"] for one in out["materials"]} == {"t-zebra", "t-quartz"}
    assert post(world.clients["lead"], f"{address}/begin", {}).status_code == 200
    assert send(world, address, "t-zebra", wav()).status_code == 409
    taster, serving = Taster(Assessor.objects.get()), Serving.objects.get()

    def cup(place, device="phone"):
        # As browsers ask: squeezed on the way, the length would tell which sound it is.
        asked = {"X-Booth-Device": device, "Accept-Encoding": "gzip, deflate, br"}
        return taster.client.get(f"{taster.address}/sets/{serving.pk}/{place}", headers=asked)

    assert taster.get().json()["material"] == "sounds"
    assert cup(0).status_code == 409
    taster.agree()
    copies = [cup(place) for place in range(3)]
    assert {one["Content-Type"] for one in copies} == {"audio/wav"}
    assert len({len(one.content) for one in copies}) == 1
    assert len({one.content for one in copies}) == 3
    assert cup(0).content == copies[0].content
    levels = [soundfile.read(io.BytesIO(one.content))[0].std() for one in copies]
    assert max(levels) / min(levels) < 1.05
    assert (cup(7).status_code, cup(0, "other").status_code) == (404, 409)
    everything = b"".join(one.content[:200] for one in copies) + str([dict(one.headers) for one in copies]).encode()
    for secret in SECRETS:
        assert secret.encode() not in everything.lower()


def test_pictures_are_shown_in_one_frame():
    world = make("running")
    out = world.call("lead", "post", "/panels", {"plan": asdict(replace(PANEL, material="pictures"))}).json()
    address = f"/api/panels/{out['id']}"
    post(world.clients["lead"], f"{address}/assessors", {"assessors": [{"name": "Eye"}]})
    assert problems(send(world, address, "t-zebra", wav())) == (422, ["file"])
    for thing in ("t-zebra", "t-quartz"):
        assert send(world, address, thing, picture(), "zebra.png").status_code == 200
    assert post(world.clients["lead"], f"{address}/begin", {}).status_code == 200
    taster, serving = Taster(Assessor.objects.get()), Serving.objects.get()
    taster.agree()
    copies = [
        taster.client.get(
            f"{taster.address}/sets/{serving.pk}/{place}",
            headers={"X-Booth-Device": "phone", "Accept-Encoding": "gzip"},
        )
        for place in range(3)
    ]
    assert {one["Content-Encoding"] for one in copies} == {"identity"}
    assert len({len(one.content) for one in copies}) == 1
    assert len({one.content for one in copies}) == 3


def test_a_panel_of_cups_takes_no_sound():
    world = make("running")
    address = panel_in(world, begin=False)
    assert problems(send(world, address, "t-zebra", wav())) == (422, ["material"])


def test_who_counts_is_fixed_when_the_key_opens_and_the_hosts_acts_are_in_the_log():
    world = make("running")
    address = panel_in(world, people=4)
    lead, first = world.clients["lead"], Assessor.objects.first()
    door = f"/api/assessors/{first.pk}"
    for body in ({"left_out": "had a cold"}, {"left_out": ""}, {"blind": False}, {"free": True}):
        assert post(lead, door, body).status_code == 200
    # A reason goes into the log, which those who are blind read.
    told = post(lead, door, {"left_out": "said it was the zebra"})
    assert (told.status_code, told.json()["problems"][0]["asks"]) == (422, True)
    # All that is asked at once is done, or none of it.
    first.refresh_from_db()
    assert first.left_out == ""
    old = first.token
    assert post(lead, door, {"new_link": True}).status_code == 200
    assert Client().get(f"/api/booth/{old}").status_code == 404
    post(lead, f"{address}/assessors", {"assessors": [{"name": "Late"}]})
    told = " ".join(LogNote.objects.values_list("text", flat=True))
    for said in (
        "Began the panel",
        "had a cold",
        "Counts seat 1",
        "not blind",
        "another device",
        "new link",
        "Added 1 person",
    ):
        assert said in told, said
    assert "Taster 0" not in told
    post(lead, f"{address}/close", {"because": ""})
    assert "Closed the panel" in LogNote.objects.latest("at").text
    verdict_services.ask_to_open(world.trial, world.users["lead"])
    verdict_services.open_key(world.trial, world.users["lead"], world.trial.title)
    for body in ({"left_out": "chose badly"}, {"blind": True}):
        answer = post(lead, door, body)
        assert answer.status_code == 409
        assert "who counts was fixed" in answer.json()["problems"][0]["says"]
    assert post(lead, door, {"erase": True, "new_link": True}).status_code == 409
    first.refresh_from_db()
    assert (first.left_out, first.blind, first.erased_at) == ("", False, None)


def test_two_people_with_the_same_initials_are_two_people():
    world = make("running")
    address = panel_in(world, people=3)
    Assessor.objects.update(name="J. W.")
    panel = Panel.objects.get()
    all_judge(address)
    people = {one.person for one in judged_of(panel)}
    assert people == {"J. W. (seat 1)", "J. W. (seat 2)", "J. W. (seat 3)"}


def test_orders_are_even_for_each_person_and_over_all_also_in_an_added_session():
    world = make("running")
    address = panel_in(world, replace(PANEL, sets=4), people=5)
    post(world.clients["lead"], f"{address}/sessions", {})
    rows = list(Serving.objects.values_list("assessor", "order"))
    for own in ([order for _, order in rows], *([o for a, o in rows if a == pk] for pk in {a for a, _ in rows})):
        counts = Counter(own)
        assert max(counts.values()) - min(counts[order] for order in CYCLES["triangle"]) <= 1


# Paper


def test_cards_and_the_pour_sheet_are_printed():
    world = make("running")
    address = panel_in(world, people=3)
    sheet = world.clients["preparer"].post(f"{address}/prints/pour.pdf")
    text = words_of(sheet.content)
    serving = Serving.objects.first()
    assert all(code in text for code in serving.codes)
    assert "Looked at what goes into the cups" in LogNote.objects.latest("at").text
    cards = world.clients["lead"].get(f"{address}/prints/cards.pdf")
    told = words_of(cards.content)
    assert all(code in told for code in serving.codes)
    for secret in SECRETS:
        assert secret not in told.casefold()
    code = world.clients["lead"].get(f"/api/assessors/{Assessor.objects.first().pk}/qr.svg")
    assert b'xmlns="http://www.w3.org/2000/svg"' in code.content


def words_of(content: bytes) -> str:
    document = pypdfium2.PdfDocument(content)
    return "\n".join(page.get_textpage().get_text_range() for page in document)


# Practice


def test_practice_is_ones_own_and_tells_the_truth_at_the_end():
    world = make("running")
    mine = world.clients["scorer"]
    run = post(mine, "/api/practice", {"method": "triangle", "sets": 3, "source": "sounds", "step": 5}).json()
    assert {one["order"] for one in run["sets"]} == {""}
    assert run["told"] is None
    assert world.clients["lead"].get(f"/api/practice/{run['id']}").status_code == 404
    heard = [mine.get(f"/api/practice/{run['id']}/sets/0/{place}").content for place in range(3)]
    assert len({len(one) for one in heard}) == 1
    assert len(set(heard)) == 3
    answers = f"/api/practice/{run['id']}/answers"
    assert problems(post(mine, answers, {"place": 0, "answer": [7]})) == (422, ["answer"])
    for one in PracticeSet.objects.order_by("place"):
        good = next(p for p in range(3) if is_right("triangle", one.order, [p]))
        told = post(mine, answers, {"place": one.place, "answer": [good]}).json()
    assert post(mine, answers, {"place": 0, "answer": [0]}).status_code == 409
    assert (told["told"]["right"], told["told"]["passed"]) == (3, True)
    assert all(one["right"] and one["order"] for one in told["sets"])
    assert len(mine.get("/api/practice").json()["runs"]) == 1
    assert mine.delete(f"/api/practice/{run['id']}").status_code == 204
    assert not Judgement.objects.exists()


def test_a_helper_pours_for_practice_from_a_sheet_of_their_own():
    world = make("running")
    body = {"method": "duo-trio", "sets": 2, "source": "cups", "first": "tap water", "second": "a pinch of salt"}
    run = post(world.clients["lead"], "/api/practice", body).json()
    sheet = Client().get(f"/api{run['helper']}").json()
    assert [len(one["cups"]) for one in sheet["sets"]] == [3, 3]
    assert sheet["sets"][0]["cups"][0]["code"] == "R"
    assert {cup["thing"] for one in sheet["sets"] for cup in one["cups"]} == {"tap water", "a pinch of salt"}
    assert Client().get("/api/helper/nothing").status_code == 404
    assert world.clients["lead"].get(f"/api/practice/{run['id']}/sets/0/0").status_code == 404


@pytest.mark.parametrize(
    ("body", "at"),
    [
        ({"method": "naming"}, ["method"]),
        ({"method": "nonsense"}, ["method"]),
        ({"sets": 0}, ["sets"]),
        ({"step": 9}, ["step"]),
        ({"source": "smells"}, ["source"]),
        ({"source": "cups"}, ["first", "second"]),
        ({"source": "cups", "first": "tea", "second": "tea"}, ["second"]),
    ],
)
def test_practice_that_cannot_be_is_refused_at_its_field(body, at):
    world = make("running")
    assert problems(post(world.clients["lead"], "/api/practice", body)) == (422, at)


def test_a_panel_begins_only_when_it_can():
    world = make("draft")
    out = world.call("lead", "post", "/panels", {"plan": asdict(replace(PANEL, things=()))}).json()
    assert [one["at"] for one in out["problems"]] == ["things"]
    address = f"/api/panels/{out['id']}"
    assert post(world.clients["lead"], f"{address}/begin", {}).status_code == 409
    changed = world.clients["lead"].put(
        address, json.dumps({"plan": asdict(PANEL), "version": 1}), content_type="application/json"
    )
    assert (changed.json()["version"], changed.json()["problems"]) == (2, [])
    stale = world.clients["lead"].put(
        address, json.dumps({"plan": asdict(PANEL), "version": 1}), content_type="application/json"
    )
    assert stale.status_code == 409
    found = post(world.clients["lead"], "/api/panel-outlook", {"plan": asdict(PANEL), "treatments": ["t-zebra"]}).json()
    assert [one["at"] for one in found["problems"]] == ["things"]


def test_what_a_running_panel_asks_is_fixed():
    world = make("running")
    address = panel_in(world)
    put = world.clients["lead"].put(
        address, json.dumps({"plan": asdict(PANEL), "version": 1}), content_type="application/json"
    )
    assert put.status_code == 409
    assert post(world.clients["lead"], f"{address}/begin", {}).status_code == 409
    many = [{"name": "x"}] * 600
    assert problems(post(world.clients["lead"], f"{address}/assessors", {"assessors": many})) == (422, ["assessors"])


def test_alcohol_is_for_adults():
    world = make("running")
    panel_in(world, replace(PANEL, adults=True))
    taster = Taster(Assessor.objects.get(number=1))
    taster.get()
    assert problems(taster.agree()) == (422, ["adult"])
    assert taster.agree(adult=True).json()["consented"]
