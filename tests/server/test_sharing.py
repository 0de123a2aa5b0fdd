"""Tokens for one's own programs, what is known over all trials, leaving with one's data, and a backup that comes back."""

from uuid import uuid4

import pytest
from django.test import Client
from django.utils import timezone

from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.trialpack.reading import read_pack
from fieldtally.server.panels import planning
from fieldtally.server.panels.models import Assessor
from fieldtally.server.people.models import AccessToken, Trial, User
from fieldtally.server.plan.models import Sample
from fieldtally.server.rounds.models import Reading
from fieldtally.server.share.pack_reader import bring_in
from tests.core.test_importing import WIDE, brought
from tests.server.conftest import PLAN, make, score
from tests.server.test_packs import packed

pytestmark = pytest.mark.django_db


def bearer(client, token):
    return {"HTTP_AUTHORIZATION": f"Bearer {token}"}


def made(client, **said):
    return client.post("/api/tokens", {"name": "Shed computer", **said}, content_type="application/json")


def test_a_token_lets_in_as_far_as_it_goes_and_no_longer_than_it_stands():
    world = make("opened")
    lead = world.clients["lead"]
    begun = lead.post("/api/trials", {"title": "Another", "zone": "UTC"}, content_type="application/json").json()
    other = Trial.objects.get(pk=begun["id"])
    told = made(lead).json()
    program = Client(enforce_csrf_checks=True)
    header = bearer(program, told["token"])
    assert program.get("/api/shelf", **header).status_code == 200
    assert program.get(f"/api/trials/{world.trial.pk}/verdict", **header).status_code == 200
    denied = program.post("/api/trials", {"title": "x", "zone": "UTC"}, content_type="application/json", **header)
    assert denied.status_code == 403 and "only read" in denied.json()["problems"][0]["says"]
    writes = made(lead, scope="write").json()["token"]
    answer = program.post(
        "/api/trials", {"title": "x", "zone": "UTC"}, content_type="application/json", **bearer(program, writes)
    )
    assert answer.status_code == 201
    one = made(lead, trial=str(world.trial.pk)).json()["token"]
    assert program.get(f"/api/trials/{world.trial.pk}/course", **bearer(program, one)).status_code == 200
    for path in (f"/api/trials/{other.pk}/course", "/api/shelf", f"/api/trials/{world.trial.pk}0/course"):
        assert program.get(path, **bearer(program, one)).status_code == 403, path
    assert AccessToken.objects.get(pk=told["id"]).used_at is not None
    assert lead.delete(f"/api/tokens/{told['id']}").status_code == 204
    assert program.get("/api/shelf", **header).status_code == 401
    assert program.get("/api/shelf", **bearer(program, "ft_nonsense")).status_code == 401


def test_tokens_are_told_once_are_ones_own_and_make_no_others():
    world = make("draft")
    lead, scorer = world.clients["lead"], world.clients["scorer"]
    told = made(lead, scope="write").json()
    listed = lead.get("/api/tokens").json()["tokens"]
    assert [one["name"] for one in listed] == ["Shed computer"] and "token" not in listed[0]
    assert told["token"] not in str(list(AccessToken.objects.values()))
    assert (
        scorer.get("/api/tokens").json()["tokens"] == []
        and scorer.delete(f"/api/tokens/{told['id']}").status_code == 404
    )
    program = Client()
    assert program.get("/api/tokens", **bearer(program, told["token"])).status_code == 401
    assert (
        program.post(
            "/api/account/leave", {"email": "x"}, content_type="application/json", **bearer(program, told["token"])
        ).status_code
        == 401
    )
    assert made(lead, name=" ").json()["problems"][0]["at"] == "name"
    assert made(scorer, trial=str(uuid4())).json()["problems"][0]["at"] == "trial"


def test_the_reference_lists_every_door_and_fetches_nothing():
    page = Client().get("/api/reference")
    html = page.content.decode()
    assert page.status_code == 200 and "<script" not in html and "http://" not in html
    for said in ("GET /api/shelf", "POST /api/trials/{trial_id}/readings", "Authorization: Bearer"):
        assert said in html


def concluded_world():
    world = make("running", scored=False)
    score(world, "c-1")
    score(world, "c-2")
    world.call("lead", "post", "/key/ask")
    world.call("lead", "post", "/key/open", {"title": PLAN.title})
    world.trial.refresh_from_db()
    return world


def test_what_is_known_is_found_over_all_trials():
    world = concluded_world()
    lead = world.clients["lead"]
    known = lead.get("/api/known?about=zebra").json()
    assert [one["title"] for one in known["trials"]] == [PLAN.title]
    assert known["fared"][0]["treatment"] == "Zebra mulch" and known["fared"][0]["of"] == 3
    assert {one["outcome"] for one in known["fared"]} >= {"Vigour", "Height"}
    assert lead.get("/api/known?about=no such thing").json() == {"trials": [], "fared": []}
    assert lead.get("/api/known?about=").json() == {"trials": [], "fared": []}
    assert world.clients["outsider"].get("/api/known?about=zebra").json() == {"trials": [], "fared": []}


def test_a_search_before_the_key_tells_a_scorer_nothing_of_treatments():
    world = make("running")
    for words in ("zebra", "quartz grit", "violet"):
        assert world.clients["scorer"].get(f"/api/known?about={words}").json() == {"trials": [], "fared": []}
    assert world.clients["lead"].get("/api/known?about=zebra").json()["trials"]


def test_the_same_question_of_several_trials_is_taken_together():
    world = concluded_world()
    lead, user = world.clients["lead"], world.users["lead"]
    years = [WIDE, WIDE.replace("3,2", "3,6"), WIDE.replace("6,0", "5,1")]
    for year in years:
        bring_in(brought(year).pack, user, "table")
    # One that comes in again as a pack is not another trial.
    first = Trial.objects.filter(origin="table").first()
    copy = bring_in(read_pack(packed(first)), user)
    questions = lead.get("/api/shared-questions").json()["questions"]
    alive = next(one for one in questions if one["outcome"] == "alive")
    assert (alive["a"], alive["b"]) == ("tea", "water")
    assert len(alive["trials"]) == 3

    def ask(client, **said):
        body = {k: alive[k] for k in ("trials", "a", "b", "outcome")} | said
        return client.post("/api/combined", body, content_type="application/json")

    told = ask(lead).json()
    assert told["agree"]
    assert told["says"].startswith("Over 3 trials")
    assert len(told["trials"]) == 3
    turned = ask(lead, a="water", b="tea").json()
    assert turned["fixed"]["difference"] == pytest.approx(-told["fixed"]["difference"])
    assert ask(lead, outcome="smell").json()["problems"][0]["at"] == "trials"
    assert ask(lead, trials=alive["trials"][:1]).status_code == 422
    twice = ask(lead, trials=[str(first.pk), str(copy.pk)])
    assert "brought in again" in twice.json()["problems"][0]["says"]
    assert ask(world.clients["outsider"]).status_code == 422


def test_scales_and_assessors_of_earlier_trials_are_lent_to_the_next():
    world = make("running")
    lead, scorer = world.clients["lead"], world.clients["scorer"]
    mine = [one for one in lead.get("/api/scales").json()["templates"] if one["name"] == PLAN.title]
    assert [part["name"] for part in mine[0]["attributes"]] == [o.name for o in PLAN.outcomes]
    assert not any("zebra" in str(one).casefold() for one in scorer.get("/api/scales").json()["templates"])
    plan = PanelPlan("Zebra or quartz", things=("t-zebra", "t-quartz"))
    panel = planning.begin_planning(world.trial, world.users["lead"], plan)
    planning.invite(panel, [planning.Invited("Bea", "regular"), planning.Invited("Cai")])
    Assessor.objects.filter(name="Cai").update(erased_at=timezone.now())
    assert lead.get("/api/earlier-assessors").json()["assessors"] == [
        {"name": "Bea", "experience": "regular", "panels": 1}
    ]
    assert scorer.get("/api/earlier-assessors").json()["assessors"] == []


def leave(client, email):
    return client.post("/api/account/leave", {"email": email}, content_type="application/json")


def test_leaving_takes_ones_own_trials_along_and_leaves_others_theirs_under_no_name():
    world = concluded_world()
    outsider = world.users["outsider"]
    alone = bring_in(read_pack(packed(world.trial)), outsider)
    scorer, client = world.users["scorer"], world.clients["scorer"]
    name, email = scorer.name, scorer.email
    readings = Reading.objects.filter(trial=world.trial).count()
    assert leave(client, "someone@else.example").json()["problems"][0]["at"] == "email"
    assert leave(client, email).status_code == 204
    assert client.get("/api/me").status_code in (401, 403)
    assert Reading.objects.filter(trial=world.trial).count() == readings
    told = world.get("lead", "/verdict").content.decode() + world.get("lead", "/log").content.decode()
    assert "Somebody who left" in told and (not name or name not in told)
    assert not User.objects.filter(email=email).exists()
    # A trial that was theirs alone goes with all it holds.
    assert world.clients["outsider"].get("/api/account/leaving").json() == {
        "alone": [PLAN.title],
        "shared": 0,
        "held": [],
    }
    assert leave(world.clients["outsider"], outsider.email).status_code == 204
    assert not Trial.objects.filter(pk=alone.pk).exists() and not Sample.objects.filter(trial_id=alone.pk).exists()
    assert not Reading.objects.filter(trial_id=alone.pk).exists()
    with pytest.raises(Exception, match="permission denied"):
        Reading.objects.filter(trial=world.trial)._raw_delete("default")


def test_whoever_alone_leads_others_has_to_hand_over_first():
    world = make("running")
    answer = leave(world.clients["lead"], world.users["lead"].email)
    assert answer.status_code == 409 and "no lead but you" in answer.json()["problems"][0]["says"]
    assert User.objects.get(pk=world.users["lead"].pk).is_active
