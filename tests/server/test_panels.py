"""Panels: from the plan through the booth to what was found; and what no answer gives away."""

import json
from collections import Counter
from dataclasses import asdict, replace
from uuid import uuid4

import pytest
from django.core.cache import cache
from django.db import IntegrityError, transaction
from django.test import Client
from django.utils import timezone

from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.serving import is_right
from fieldtally.server.panels.models import Assessor, Judgement, Panel, Serving
from fieldtally.server.panels.records import judged_of
from fieldtally.server.verdict import acts as verdict_acts
from tests.server.conftest import PLAN, SECRETS, make

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


def opened(world):
    verdict_acts.ask_to_open(world.trial, world.users["lead"])
    verdict_acts.open_key(world.trial, world.users["lead"], PLAN.title)


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
    locked = taster.give(answer(serving, [0]))
    assert (locked.status_code, "locked" in locked.json()["problems"][0]["says"]) == (409, True)
    assert taster.get().json()["sets"][0]["answered"]
    with pytest.raises(IntegrityError), transaction.atomic():
        Judgement.objects.update(answer=[2])
    other = Taster(Assessor.objects.get(number=2), "another phone")
    other.get()
    other.agree()
    assert other.give(answer(serving)).status_code == 404
    assert other.give(first).status_code == 409
    post(world.clients["lead"], f"{address}/close", {})
    mine = other.get().json()["sets"][0]["id"]
    assert other.give(answer(mine)).status_code == 409
    # What was stored before is still acknowledged, since the device may not have heard.
    assert taster.give(first).status_code == 200


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
    Serving.objects.filter(pk=serving.pk).update(order="".join({"A": "B", "B": "A"}[one] for one in serving.order))
    assert taster.get().content.decode() == before
    right = taster.give(answer(serving.pk, [0])).json()
    assert set(right) == {"stored"}


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
