"""A trial that does not ask everything of every sample: rounds, counts, paper and what is refused follow the plan."""

from dataclasses import replace
from datetime import timedelta
from uuid import uuid4

import pytest
from django.utils import timezone

from fieldtally.core.design.plan import Done, Group, Plan, Some
from fieldtally.server.answers import Declined
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import key_of, plan_of
from fieldtally.server.rounds.models import Reading
from fieldtally.server.rounds.queries import progress_of
from tests.server.conftest import PLAN, World, make

pytestmark = pytest.mark.django_db
DONE = 0.0


def some_of(plan: Plan) -> Plan:
    """Heights of one kind, pods of the other; day 2 for one group; a pot whose vigour is 0 is done."""
    grade, height, pods, alive = plan.outcomes
    first, second = plan.checkpoints
    return replace(
        plan,
        groups=(Group("g-bark", "Barks", "dusty"),),
        kinds=("tall", "podded"),
        treatments=tuple(replace(one, group="g-bark" if one.key == "t-violet" else "") for one in plan.treatments),
        outcomes=(
            replace(grade, done=Done(DONE, "or less"), summary=replace(grade.summary, checkpoint="c-1")),
            replace(height, only=Some(kinds=("tall",))),
            replace(pods, only=Some(kinds=("podded",))),
            alive,
        ),
        checkpoints=(first, replace(second, only=Some(treatments=("t-zebra",), groups=("g-bark",)))),
    )


@pytest.fixture
def world() -> World:
    return make("running", some_of(PLAN), scored=False)


def opened(world: World, look: str) -> dict:
    answer = world.call("scorer", "post", "/rounds", {"checkpoint": look})
    assert answer.status_code == 200, answer.content
    return answer.json()


def read(world: World, held: dict, sample: dict, outcome: str, value: float):
    body = {
        "id": str(uuid4()),
        "round": held["id"],
        "sample": sample["id"],
        "outcome": outcome,
        "kind": "value",
        "value": value,
        "taken_at": timezone.now().isoformat(),
    }
    return world.call("scorer", "post", "/readings", {"readings": [body]})


VALUES = {"o-grade": 1.0, "o-height": 12.5, "o-pods": 3.0, "o-alive": 1.0}


def score_all(world: World, held: dict, **other: dict[str, float]) -> None:
    for sample in held["samples"]:
        for outcome in held["outcomes"]:
            if outcome["key"] not in sample["skips"]:
                value = other.get(sample["code"], VALUES).get(outcome["key"], VALUES[outcome["key"]])
                assert read(world, held, sample, outcome["key"], value).status_code == 200


def stands(world: World, look: str):
    world.trial.refresh_from_db()
    return next(one for one in progress_of(world.trial, plan_of(world.trial), timezone.now()) if one.key == look)


def test_a_round_asks_each_sample_for_its_own_and_counts_follow(world):
    held = opened(world, "c-1")
    skipped = [tuple(one["skips"]) for one in held["samples"]]
    # Pods are looked at on day 2 alone; heights of every second pot.
    assert sorted(map(len, skipped)) == [0] * 6 + [1] * 6
    before = stands(world, "c-1")
    assert (before.expected, before.samples, before.done) == (30, 12, 0)
    score_all(world, held)
    after = stands(world, "c-1")
    assert (after.done, after.samples_done, after.standing) == (30, 12, "taken")
    tags = world.get("scorer", "/board").json()["tags"]
    assert {tag["looks"] for tag in tags} == {1}


def test_each_treatment_has_its_share_of_every_kind_in_every_place(world):
    held, key = opened(world, "c-1"), key_of(world.trial)
    where = {str(one.pk): (key[one.pk], one.block) for one in Sample.objects.filter(trial=world.trial)}
    tall = [where[one["id"]] for one in held["samples"] if not one["skips"]]
    assert sorted(tall) == sorted(set(where.values()))


def test_what_the_plan_does_not_have_read_there_is_refused_and_nothing_else(world):
    held = opened(world, "c-1")
    short = next(one for one in held["samples"] if "o-height" in one["skips"])
    answer = read(world, held, short, "o-height", 10)
    assert answer.status_code == 422
    assert "does not have this read on this sample" in answer.json()["problems"][0]["says"]
    assert read(world, held, short, "o-grade", 1).status_code == 200
    assert Reading.objects.filter(trial=world.trial).count() == 1


def test_a_look_of_some_brings_those_and_one_that_is_done_no_more(world):
    held = opened(world, "c-1")
    key = {str(pk): treatment for pk, treatment in key_of(world.trial).items()}
    gone = next(one for one in held["samples"] if key[one["id"]] == "t-zebra")
    score_all(world, held, **{gone["code"]: {"o-grade": DONE}})
    world.trial.started_at = timezone.now() - timedelta(days=2)
    world.trial.save()
    later = opened(world, "c-2")
    assert {key[one["id"]] for one in later["samples"]} == {"t-zebra", "t-violet"}
    assert gone["id"] not in {one["id"] for one in later["samples"]} and len(later["samples"]) == 7
    assert stands(world, "c-2").samples == 7
    # What a device without a line read all the same is not lost.
    assert read(world, later, gone, "o-grade", DONE).status_code == 200


def test_paper_leaves_no_box_for_what_is_not_read(world):
    answer = world.call("scorer", "post", "/prints/scoring.pdf?checkpoint=c-1")
    assert answer.status_code == 200
    import pypdfium2

    text = "".join(page.get_textpage().get_text_range() for page in pypdfium2.PdfDocument(answer.content))
    assert text.count("not read") == 6


def test_samples_cannot_be_shuffled_by_hand_where_treatments_are_asked_for_different_things():
    world = make("sealed", some_of(PLAN))
    answer = world.call("preparer", "post", "/shuffle", {"kind": "samples"})
    assert answer.status_code == 422 and "has to know which is which" in answer.content.decode()


def test_a_plan_that_keeps_an_outcome_to_what_is_gone_is_not_sealed():
    plan = some_of(PLAN)
    with pytest.raises(Declined):
        make("sealed", replace(plan, groups=(), treatments=tuple(replace(t, group="") for t in plan.treatments)))
