"""An amendment that adds samples: under own codes, by their own clock, hidden as all others are, told in verdict and pack."""

from dataclasses import replace
from datetime import timedelta

import pytest
from django.utils import timezone

from fieldtally.core.blinding.codes import plain_codes
from fieldtally.core.design.document import document_of
from fieldtally.core.design.plan import Added, Block, Layout, Plan, Treatment
from fieldtally.server.plan.models import Checkpoint, Draft, KeyEntry, Sample
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.plan.services import begin_again
from fieldtally.server.rounds.models import Repeat
from fieldtally.server.rounds.queries import progress_of
from fieldtally.server.verdict import services as verdict_services
from fieldtally.server.verdict.chain import faults_of
from tests.server.conftest import PLAN, World, make, score
from tests.server.test_packs import comes_back
from tests.server.test_planning import as_json, says

pytestmark = pytest.mark.django_db
NEW = Treatment("t-gravel", "Gravel crust", samples=0)
MORE = {"t-zebra": 3, "t-gravel": 3}
LOOSE = replace(PLAN, layout=Layout(), treatments=tuple(replace(one, samples=4) for one in PLAN.treatments))


def more_of(plan: Plan, samples: dict[str, int] | None = None, key: str = "b-later") -> Plan:
    first = plan.layout.blocks if plan.layout.in_blocks else (Block("", "From the start"),)
    block = Block(key, f"Added as {key}", added=Added(MORE if samples is None else samples))
    fresh = () if any(one.key == NEW.key for one in plan.treatments) else (NEW,)
    layout = replace(plan.layout, kind="blocks", blocks=(*first, block))
    return replace(plan, treatments=(*plan.treatments, *fresh), layout=layout)


def amended(world: World, plan: Plan, role: str = "lead"):
    return world.call(role, "post", "/amend", {"plan": as_json(plan), "reason": "a new mulch came"})


@pytest.mark.parametrize("plan", [PLAN, LOOSE], ids=["blocks", "loose"])
def test_samples_are_added_to_a_running_trial_scored_and_judged_with_what_stands_beside_them(plan):
    world = make("running", plan)
    before = {one.pk: (one.code, one.block, one.place) for one in Sample.objects.filter(trial=world.trial)}
    after = more_of(plan_of(world.trial))
    told = world.call("lead", "post", "/changes", {"plan": as_json(after)}).json()
    assert told["problems"] == [] and "3 of Gravel crust (new)" in told["changes"][0]
    assert amended(world, after).status_code == 200
    world.trial.refresh_from_db()
    rows = {one.pk: one for one in Sample.objects.filter(trial=world.trial)}
    assert {pk: (rows[pk].code, rows[pk].block, rows[pk].place) for pk in before} == before
    new = [one for pk, one in rows.items() if pk not in before]
    assert len(new) == 6 and {one.block for one in new} == {"b-later"}
    assert (
        sorted(KeyEntry.objects.filter(sample__in=new).values_list("treatment", flat=True))
        == ["t-gravel"] * 3 + ["t-zebra"] * 3
    )
    stands = plan_of(world.trial)
    assert stands.added_blocks[0].added.at[:10] == timezone.now().date().isoformat()
    assert faults_of(world.trial) == []

    # Whoever scores blind learns that something was added, and not what.
    for path in ("/board", "/log", "/course"):
        answer = world.get("scorer", path)
        assert answer.status_code == 200 and b"ravel" not in answer.content, path
    # They start by themselves, and are due by their own clock.
    assert world.call("preparer", "post", "/start", {"block": "b-later"}).status_code == 200
    board = world.get("scorer", "/board").json()
    assert len(board["tags"]) == len(rows)
    world.trial.refresh_from_db()
    score(world, "c-2")
    verdict_services.ask_to_open(world.trial, world.users["lead"])
    verdict_services.open_key(world.trial, world.users["lead"], plan.title)
    world.trial.refresh_from_db()
    verdict = world.get("lead", "/verdict").json()
    assert any(
        limit.startswith("How Gravel crust does against Quartz grit or Violet fleece: it was added later")
        for limit in verdict["not_claimed"]
    )
    assert not any("started later than planned" in str(one) for one in verdict["not_claimed"])
    assert faults_of(world.trial) == []
    back = comes_back(world)
    assert plan_of(back) == plan_of(world.trial) and faults_of(back) == []


def test_what_cannot_be_added_is_refused_with_nothing_stored():
    world = make("running")
    count = Sample.objects.filter(trial=world.trial).count()
    plan = plan_of(world.trial)
    for wrong in (
        more_of(plan, {"t-zebra": 3}),
        more_of(plan, {"t-gravel": -1, "t-zebra": 3}),
        replace(more_of(plan), treatments=(replace(plan.treatments[0], samples=3), *more_of(plan).treatments[1:])),
    ):
        answer = amended(world, wrong)
        assert answer.status_code == 422, answer.content
    assert amended(world, more_of(plan), "scorer").status_code == 403
    assert Sample.objects.filter(trial=world.trial).count() == count
    assert KeyEntry.objects.filter(sample__trial=world.trial).count() == count


def test_no_second_code_is_given_to_what_is_added():
    world = make("running")
    samples = list(Sample.objects.filter(trial=world.trial))
    first = {one.code for one in samples}
    looks = list(Checkpoint.objects.filter(trial=world.trial))
    left = iter(code for code in plain_codes(3) if code not in first)
    back = [
        Repeat(trial=world.trial, checkpoint=look, sample=one, code=next(left)) for look in looks for one in samples
    ]
    Repeat.objects.bulk_create(back)
    second = {one.code for one in back}
    for i in range(6):
        assert amended(world, more_of(plan_of(world.trial), key=f"b-{i}")).status_code == 200
    codes = set(Sample.objects.filter(trial=world.trial).values_list("code", flat=True))
    assert len(codes - first) == 36 and not second & codes


def test_what_has_just_started_is_not_due_for_looks_that_were_taken_of_all_others():
    world = make("running")
    assert amended(world, more_of(plan_of(world.trial))).status_code == 200
    assert world.call("preparer", "post", "/start", {"block": "b-later"}).status_code == 200
    found = looks(world)
    assert found["c-1"] == ("upcoming", 12, 18)
    assert found["c-2"][0] == "upcoming"


def test_after_a_shuffle_by_hand_nothing_is_added():
    world = make("sealed")
    assert world.call("preparer", "post", "/shuffle", {"kind": "flasks"}).status_code == 200
    answer = amended(world, more_of(plan_of(world.trial)))
    assert answer.status_code == 409 and "shuffled by hand" in says(answer).get("", answer.content.decode())


def test_a_draft_adds_nothing_and_an_amended_trial_is_planned_again_as_one():
    world = make("running", LOOSE)
    assert amended(world, more_of(plan_of(world.trial))).status_code == 200
    again = begin_again(world.users["lead"], plan_of(world.trial), ())
    plan = plan_of(again)
    assert plan.layout.kind == "random" and not plan.added_blocks
    assert [one.samples for one in plan.treatments] == [4, 4, 4, 4]
    row = Draft.objects.get(pk=again.pk)
    row.document = document_of(more_of(plan, {"t-zebra": 3, "t-gravel": 3}))
    row.save()
    answer = world.clients["lead"].post(
        f"/api/trials/{again.pk}/seal", {"version": 1, "stay_blind": False}, content_type="application/json"
    )
    assert answer.status_code == 422 and b"not sealed yet" in answer.content


def looks(world: World) -> dict[str, tuple[str, int, int]]:
    world.trial.refresh_from_db()
    found = progress_of(world.trial, plan_of(world.trial), timezone.now())
    return {one.key: (one.standing, one.samples_done, one.samples) for one in found}


def test_what_is_added_later_waits_for_its_own_looks_and_not_for_those_that_are_over():
    world = make("running")
    before = looks(world)
    assert before["c-1"] == ("taken", 12, 12) and before["c-2"][0] == "upcoming"
    assert amended(world, more_of(plan_of(world.trial))).status_code == 200
    # What has not started is not looked at.
    assert looks(world) == before
    start = timezone.now() - timedelta(hours=25)
    assert world.call("preparer", "post", "/start", {"block": "b-later", "at": start.isoformat()}).status_code == 200
    opened = world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"})
    assert opened.status_code == 200, opened.content
    assert looks(world)["c-1"] == ("due", 12, 18)
    waiting = [one for one in opened.json()["samples"] if one["block"] == "Added as b-later"]
    assert len(waiting) == 6
