"""Planning at the server: fairness before the seal, sealed predictions, amendments, what is held equal, the next trial."""

import hashlib
import json
from collections import Counter
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest
from django.db import DatabaseError, transaction
from django.utils import timezone

from fieldtally.core.blinding.seal import verify
from fieldtally.core.design.document import document_of
from fieldtally.core.design.plan import (
    Block,
    Checkpoint,
    Earlier,
    EndingRule,
    Factor,
    FactorLevel,
    Grid,
    HeldEqual,
    Layout,
    Outcome,
    Stand,
    Summary,
    Treatment,
)
from fieldtally.core.scales import CurveScale, EventScale, LadderScale, NoteScale, PercentScale, Shade, ShadeScale
from fieldtally.server.people.models import Membership, Role
from fieldtally.server.plan import services
from fieldtally.server.plan.models import Amendment, KeyEntry, Prediction, Rehearsal, Sample
from fieldtally.server.plan.queries import plan_of, sealed_document, sealed_plan
from fieldtally.server.prepare.models import Exposure
from fieldtally.server.rounds.models import Reading
from tests.server.conftest import DAY, PLAN, make, signed_in, user

pytestmark = pytest.mark.django_db


def as_json(plan):
    return json.loads(json.dumps(document_of(plan)))


def says(answer):
    return {p["at"]: p["says"] for p in answer.json()["problems"]}


def sealed_from(plan, lead="planner"):
    person = user(lead)
    trial = services.begin(person, plan)
    services.seal(trial, person, 1)
    trial.refresh_from_db()
    return trial, signed_in(person)


def post(client, path, body, method="post"):
    return getattr(client, method)(path, body, content_type="application/json")


def test_no_seal_before_each_item_is_kept_or_given_up_with_a_reason():
    world = make("draft")
    lead, path = world.clients["lead"], f"/api/trials/{world.trial.pk}"
    open_plan = replace(PLAN, fairness=(Stand("control", False, ""),))
    post(lead, f"{path}/plan", {"plan": as_json(open_plan), "version": 1}, "put")
    refused = post(lead, f"{path}/seal", {"version": 2, "stay_blind": True})
    assert refused.status_code == 422
    assert {"fairness.blind", "fairness.baseline", "fairness.prediction"} <= set(says(refused))
    assert "fairness.control" not in says(refused)
    post(lead, f"{path}/prediction", {"text": "The fleece."}, "put")
    assert "fairness.prediction" not in says(post(lead, f"{path}/seal", {"version": 2, "stay_blind": True}))
    assert not Sample.objects.filter(trial=world.trial).exists()


def test_what_was_given_up_is_told_with_the_verdict():
    claims = make("opened").get("viewer", "/verdict").json()["not_claimed"]
    assert any(claim.startswith("That hope did not help") and "only a test" in claim for claim in claims)


def test_a_prediction_is_read_by_nobody_else_before_the_key_opens():
    world = make("running")
    for role in ("lead", "scorer", "viewer"):
        answer = post(
            world.clients[role], f"/api/trials/{world.trial.pk}/prediction", {"text": f"as {role} thinks"}, "put"
        )
        assert answer.json()["text"] == f"as {role} thinks"
    assert world.get("scorer", "/prediction").json()["written"] == 3
    for role in ("lead", "preparer"):
        told = "".join(
            world.get(role, page).content.decode() for page in ("/plan", "/course", "/board", "/log", "/prediction")
        )
        assert "as scorer thinks" not in told
    post(world.clients["viewer"], f"/api/trials/{world.trial.pk}/prediction", {"text": ""}, "put")
    world.call("lead", "post", "/key/ask")
    world.call("lead", "post", "/key/open", {"title": PLAN.title})
    shown = world.get("viewer", "/verdict").json()["predictions"]
    assert [(p["text"], p["after_start"]) for p in shown] == [("as lead thinks", True), ("as scorer thinks", True)]
    late = post(world.clients["lead"], f"/api/trials/{world.trial.pk}/prediction", {"text": "knew it"}, "put")
    assert late.status_code == 409
    with pytest.raises(DatabaseError), transaction.atomic():
        Prediction.objects.update(text="knew it")


def test_the_same_prediction_twice_is_kept_once_and_a_book_is_not_taken():
    world = make("draft")
    path = f"/api/trials/{world.trial.pk}/prediction"
    for _ in range(2):
        post(world.clients["lead"], path, {"text": " The fleece. "}, "put")
    assert Prediction.objects.filter(trial=world.trial).count() == 1
    assert "text" in says(post(world.clients["lead"], path, {"text": "x" * 3000}, "put"))


BED = Factor("bed", "Bed", (FactorLevel("x", "Dug"), FactorLevel("y", "Mulched")), hard=True)
KIND = Factor("kind", "Kind", (FactorLevel("u", "Early"), FactorLevel("v", "Late")))
TWO = (Treatment("a", "Alder", samples=6), Treatment("b", "Birch", samples=6))
FOUR = tuple(Treatment(k, n, samples=4) for k, n in zip("abcd", ("Alder", "Birch", "Cedar", "Dogwood"), strict=True))


@pytest.mark.parametrize(
    ("layout", "treatments", "factors"),
    [
        (Layout(grid=Grid(4, 8, guard_columns=True)), FOUR, ()),
        (Layout("blocks", (Block("n", "North"), Block("s", "South", starts=30))), FOUR, ()),
        (Layout("latin"), FOUR, ()),
        (Layout("pairs"), TWO, ()),
        (
            Layout("split", whole_plots=3),
            tuple(
                replace(t, samples=2, levels={"bed": bed, "kind": kind})
                for t, bed, kind in zip(FOUR, "xxyy", "uvuv", strict=True)
            ),
            (BED, KIND),
        ),
    ],
)
def test_every_layout_comes_out_in_the_allocation_and_its_seal_can_be_checked(layout, treatments, factors):
    plan = replace(PLAN, title="Layouts", layout=layout, treatments=treatments, factors=factors, compare="all")
    trial, lead = sealed_from(plan)
    rows = list(KeyEntry.objects.filter(sample__trial=trial).select_related("sample"))
    assert Counter(r.treatment for r in rows) == {t.key: plan.per_treatment(t) for t in treatments}
    match layout.kind:
        case "latin":
            for line in ("row", "column"):
                counts = Counter((getattr(r.sample, line), r.treatment) for r in rows)
                assert set(counts.values()) == {1} and len(counts) == 16
        case "pairs":
            assert set(Counter((r.sample.plot, r.treatment) for r in rows).values()) == {1}
        case "split":
            level = {t.key: t.levels["bed"] for t in treatments}
            assert all(
                len({level[r.treatment] for r in rows if r.sample.plot == plot}) == 1
                for plot in {r.sample.plot for r in rows}
            )
        case "blocks":
            assert set(Counter((r.sample.block, r.treatment) for r in rows).values()) == {4}
        case _:
            assert {r.sample.column % 2 for r in rows} == {1}
    document = sealed_document(trial)
    assert verify(document, sealed_plan(trial).seal).same_allocation
    board = lead.get(f"/api/trials/{trial.pk}/board").json()["tags"]
    assert {(t["plot"], t["row"], t["column"]) for t in board} == {
        (r.sample.plot, r.sample.row, r.sample.column) for r in rows
    }
    post(lead, f"/api/trials/{trial.pk}/start", {})
    post(lead, f"/api/trials/{trial.pk}/key/ask", {})
    post(lead, f"/api/trials/{trial.pk}/key/open", {"title": plan.title})
    assert lead.get(f"/api/trials/{trial.pk}/verdict").status_code == 200


def test_starts_are_staggered_as_planned_and_the_look_waits_for_the_last():
    layout = replace(
        PLAN.layout, blocks=(PLAN.layout.blocks[0], replace(PLAN.layout.blocks[1], starts=120)), stagger=10
    )
    trial, lead = sealed_from(replace(PLAN, layout=layout))
    post(lead, f"/api/trials/{trial.pk}/start", {})
    starts = sorted(Exposure.objects.filter(sample__trial=trial).values_list("started_at", flat=True))
    assert [round((at - starts[0]).total_seconds() / 60) for at in starts] == [
        0,
        10,
        20,
        30,
        40,
        50,
        120,
        130,
        140,
        150,
        160,
        170,
    ]
    stop = lead.get(f"/api/trials/{trial.pk}/course").json()["checkpoints"][0]
    closes, due = (datetime.fromisoformat(stop[key]) for key in ("closes", "due"))
    assert closes - due == timedelta(hours=6, minutes=120 + 50)


def test_a_baseline_is_scored_between_the_seal_and_the_start():
    plan = replace(PLAN, checkpoints=(Checkpoint("base", "Before", 0, baseline=True), *PLAN.checkpoints))
    trial, lead = sealed_from(plan)
    course = lead.get(f"/api/trials/{trial.pk}/course").json()
    assert [(s["key"], s["standing"]) for s in course["checkpoints"]][:2] == [("base", "due"), ("c-1", "upcoming")]
    assert course["may_score"]
    assert post(lead, f"/api/trials/{trial.pk}/rounds", {"checkpoint": "c-1"}).status_code == 409
    opened = post(lead, f"/api/trials/{trial.pk}/rounds", {"checkpoint": "base"}).json()
    reading = {
        "id": str(uuid4()),
        "round": opened["id"],
        "sample": opened["samples"][0]["id"],
        "outcome": "o-grade",
        "kind": "value",
        "value": 2,
        "taken_at": (timezone.now() - timedelta(days=9)).isoformat(),
    }
    assert post(lead, f"/api/trials/{trial.pk}/readings", {"readings": [reading]}).status_code == 200
    assert Reading.objects.get(pk=reading["id"]).taken_at >= trial.sealed_at


MANY = (
    *PLAN.outcomes[:1],
    Outcome("percent", "Browning", PercentScale("brown"), "less", primary=False),
    Outcome("shade", "Shade", ShadeScale((Shade("pale"), Shade("deep"))), "none", primary=False),
    Outcome("event", "Wilt", EventScale("first wilt"), "less", primary=False),
    Outcome("ladder", "Load", LadderScale("kg", (5.0, 10.0)), primary=False),
    Outcome("curve", "Stretch", CurveScale("mm", "kg", (1.0, 2.0, 3.0)), "less", primary=False),
    Outcome("note", "Words", NoteScale("What struck you?"), primary=False),
)


def test_readings_on_every_scale_are_kept_and_wrong_ones_refused_at_their_field():
    trial, lead = sealed_from(replace(PLAN, outcomes=MANY))
    post(lead, f"/api/trials/{trial.pk}/start", {})
    opened = post(lead, f"/api/trials/{trial.pk}/rounds", {"checkpoint": "c-2"}).json()
    kept = {
        "percent": 35,
        "shade": 2,
        "event": 1,
        "ladder": 10,
        "curve": [2.0, 4.0, 6.0],
        "note": "the zebra mulch one smells",
    }
    wrong = {"percent": 101, "shade": 1.5, "event": 0.5, "ladder": 7, "curve": [2.0], "note": " "}

    def readings(values, samples):
        part = {list: "responses", str: "words"}
        return [
            {
                "id": str(uuid4()),
                "round": opened["id"],
                "sample": sample["id"],
                "outcome": outcome,
                "kind": "value",
                part.get(type(value), "value"): value,
                "taken_at": timezone.now().isoformat(),
            }
            for sample in samples
            for outcome, value in values.items()
        ]

    path = f"/api/trials/{trial.pk}/readings"
    for outcome, value in wrong.items():
        (where,) = says(post(lead, path, {"readings": readings({outcome: value}, opened["samples"][:1])}))
        assert where in ("readings.0.value", "readings.0.responses", "readings.0.words")
    assert post(lead, path, {"readings": readings(kept, opened["samples"])}).status_code == 200
    again = post(lead, f"/api/trials/{trial.pk}/rounds", {"checkpoint": "c-2"}).json()["readings"]
    first = {r["outcome"]: r for r in again if r["sample"] == opened["samples"][0]["id"]}
    assert first["curve"]["responses"] == [2.0, 4.0, 6.0]
    assert first["curve"]["value"] == pytest.approx(2.0)
    assert (first["note"]["words"], first["note"]["value"]) == ("the zebra mulch one smells", None)
    person = user("scribe")
    Membership.objects.create(trial=trial, user=person, role=Role.VIEWER)
    assert "smells" in lead.get(f"/api/trials/{trial.pk}/log").content.decode()
    post(lead, f"/api/trials/{trial.pk}/key/ask", {})
    post(lead, f"/api/trials/{trial.pk}/key/open", {"title": PLAN.title})
    found = signed_in(person).get(f"/api/trials/{trial.pk}/verdict").json()
    levels = {f["outcome"]: f["strength"]["level"] for f in found["findings"] if f["checkpoint"] is None}
    assert levels["shade"] == "undirected"
    assert "note" not in levels
    assert {"event", "ladder", "curve", "percent"} <= set(levels)


def amended(world, reason="rain", **change):
    world.trial.refresh_from_db()
    plan = replace(plan_of(world.trial), **change)
    return post(world.clients["lead"], f"/api/trials/{world.trial.pk}/amend", {"plan": as_json(plan), "reason": reason})


def test_an_amendment_is_a_new_version_with_its_reason_beside_the_sealed_one():
    world = make("running")
    seal = sealed_plan(world.trial).seal
    later = (*PLAN.checkpoints, Checkpoint("c-3", "Day 5", 5 * DAY, 60, 60))
    shown = post(
        world.clients["lead"],
        f"/api/trials/{world.trial.pk}/changes",
        {"plan": as_json(replace(PLAN, checkpoints=later))},
    ).json()
    assert shown == {"changes": ["Added: look “Day 5”."], "problems": []}
    assert amended(world, checkpoints=later).json()["number"] == 1
    assert amended(world, reason="more rain", hazards="boots").status_code == 200
    assert [s["name"] for s in world.get("scorer", "/course").json()["checkpoints"]] == ["Day 1", "Day 2", "Day 5"]
    out = world.get("lead", "/plan").json()
    assert next((a["reason"], a["changes"]) for a in out["amendments"]) == ("rain", ["Added: look “Day 5”."])
    assert sealed_plan(world.trial).seal == seal
    first, second = Amendment.objects.filter(trial=world.trial)
    assert json.loads(first.canonical)["follows"] == seal
    assert json.loads(second.canonical)["follows"] == first.seal == hashlib.sha256(first.canonical.encode()).hexdigest()
    with pytest.raises(DatabaseError), transaction.atomic():
        Amendment.objects.filter(trial=world.trial).delete()
    log = world.get("scorer", "/log").json()["entries"]
    assert [e["reason"] for e in log if e["what"] == "amended"][-1] == "rain Added: look “Day 5”."


def test_an_amendment_that_was_decided_earlier_says_both_moments():
    world = make("running")
    sealed, now = sealed_plan(world.trial).at, timezone.now()
    body = {"plan": as_json(replace(plan_of(world.trial), hazards="boots")), "reason": "rain"}

    def sent(decided, **more):
        told = {**body, **more, "decided": decided.isoformat()}
        return post(world.clients["lead"], f"/api/trials/{world.trial.pk}/amend", told)

    for never in (sealed - timedelta(hours=1), now + timedelta(hours=1)):
        assert "since the plan was sealed" in says(sent(never))["decided"]
    assert not Amendment.objects.exists()
    # A field for day and hour knows no seconds.
    then = (sealed + (now - sealed) / 2).replace(microsecond=0)
    assert sent(then).status_code == 200
    (one,) = world.get("lead", "/plan").json()["amendments"]
    assert datetime.fromisoformat(one["decided"]) == then < datetime.fromisoformat(one["at"])
    # It is sealed with it, and the log tells both.
    amendment = Amendment.objects.get()
    assert datetime.fromisoformat(json.loads(amendment.canonical)["decided"]) == then
    (entry,) = [e for e in world.get("scorer", "/log").json()["entries"] if e["what"] == "amended"]
    assert datetime.fromisoformat(entry["since"]) == then
    # The next one cannot have been decided before it was written down.
    world.trial.refresh_from_db()
    again = {"plan": as_json(replace(plan_of(world.trial), hazards="gloves"))}
    assert "decided" in says(sent(then, **again))


def test_an_amendment_without_reason_without_change_or_against_the_seal_changes_nothing():
    world = make("running")
    assert "reason" in says(amended(world, reason=" ", hazards="boots"))
    assert "plan" in says(amended(world))
    assert "alpha" in says(amended(world, alpha=0.1))
    taken = amended(world, checkpoints=PLAN.checkpoints[1:])
    assert "has readings already" in says(taken)["checkpoints"]
    assert not Amendment.objects.exists()


@pytest.mark.parametrize("state", ["draft", "opened"])
def test_a_draft_needs_no_amendment_and_an_opened_trial_takes_none(state):
    assert amended(make(state), hazards="boots").status_code == 409


def test_what_was_not_held_equal_after_all_limits_the_claim():
    world = make("running")
    sheet = world.get("scorer", "/held").json()["entries"]
    assert (sheet[0]["what"], sheet[0]["ticked_by"]) == ("Soil without ▇▇▇", "")
    for _ in range(2):
        assert world.call("preparer", "post", "/held/ticks", {"entry": "h-soil"}).status_code == 204
    assert world.get("lead", "/held").json()["entries"][0]["ticked_by"]
    assert world.call("scorer", "post", "/differences", {"about": "gone", "reason": "x"}).status_code == 422
    assert world.call("scorer", "post", "/differences", {"about": "h-soil", "reason": " "}).status_code == 422
    assert world.call("scorer", "post", "/differences", {"about": "h-soil", "reason": "two sacks"}).status_code == 204
    assert world.get("lead", "/held").json()["entries"][0]["differences"] == ["two sacks"]
    assert world.get("lead", "/course").json()["set_aside"] == 0
    world.call("lead", "post", "/key/ask")
    world.call("lead", "post", "/key/open", {"title": PLAN.title})
    assert any("two sacks" in claim for claim in world.get("viewer", "/verdict").json()["not_claimed"])


def test_the_next_trial_begins_with_the_weaknesses_of_this_one():
    world = make("opened")
    begun = world.call("viewer", "post", "/again", {})
    assert begun.status_code == 201
    plan = world.clients["viewer"].get(f"/api/trials/{begun.json()['id']}/plan").json()["plan"]
    assert plan["title"] == f"{PLAN.title}, again"
    assert plan["earlier"]["title"] == PLAN.title
    assert any("only a test" in weakness for weakness in plan["earlier"]["weaknesses"])
    assert plan["fairness"] == []


def test_a_follow_up_asks_some_of_them_again_with_what_its_parent_found_as_the_reference():
    world = make("opened")
    begun = world.call("lead", "post", "/again", {"only": ["t-quartz", "t-zebra"]})
    assert begun.status_code == 201
    plan = world.clients["lead"].get(f"/api/trials/{begun.json()['id']}/plan").json()["plan"]
    assert [one["key"] for one in plan["treatments"]] == ["t-zebra", "t-quartz"]
    assert plan["title"] == f"{PLAN.title}, followed up"
    claims = [one["sentence"] for one in world.get("lead", "/verdict").json()["findings"] if one["claim"]]
    assert claims and plan["earlier"]["found"] == claims
    for only in (["t-zebra"], ["t-zebra", "gone"]):
        assert "treatments" in says(world.call("lead", "post", "/again", {"only": only}))


def test_the_verdict_of_a_follow_up_tells_what_its_parent_found():
    parent = Earlier("Its parent", (), ("Zebra mulch did best.",))
    child = make("opened", replace(PLAN, earlier=parent))
    assert child.get("lead", "/verdict").json()["earlier"]["found"] == ["Zebra mulch did best."]
    assert "Zebra mulch did best." in child.get("viewer", "/report.html").content.decode()


def test_a_follow_up_of_a_trial_whose_key_is_sealed_has_nothing_found_yet():
    world = make("running")
    begun = world.call("lead", "post", "/again", {"only": ["t-quartz", "t-zebra"]})
    plan = world.clients["lead"].get(f"/api/trials/{begun.json()['id']}/plan").json()["plan"]
    assert plan["earlier"]["found"] == []


def test_before_the_key_opens_only_the_lead_begins_the_next_trial():
    world = make("running")
    assert world.call("viewer", "post", "/again", {}).status_code == 403
    assert world.call("lead", "post", "/again", {}).status_code == 201


def test_treatments_are_lent_by_trials_whose_treatments_one_may_know():
    world = make("running")
    names = {t["name"] for t in world.clients["lead"].get("/api/treatments").json()["treatments"]}
    assert names == {t.name for t in PLAN.treatments}
    assert world.clients["scorer"].get("/api/treatments").json()["treatments"] == []
    templates = world.clients["scorer"].get("/api/scales").json()["templates"]
    assert {"senses", "letters", "state-halves"} <= {t["key"] for t in templates}


def test_the_calendar_knows_the_persons_other_trials():
    world = make("running")
    start = world.trial.started_at.astimezone(UTC)
    plan = replace(PLAN, title="New", zone="UTC", starts_on=start.strftime("%Y-%m-%dT%H:%M"))
    out = post(world.clients["lead"], "/api/calendar", {"plan": as_json(plan)}).json()
    assert out["looks"][0]["clashes"] == [f"{PLAN.title}: Day 1"]
    own = post(world.clients["lead"], "/api/calendar", {"plan": as_json(plan), "trial": str(world.trial.pk)}).json()
    assert own["looks"][0]["clashes"] == []
    blind = post(world.clients["scorer"], "/api/calendar", {"plan": as_json(plan)}).json()["looks"][0]["clashes"][0]
    assert "zebra" not in blind.casefold()
    assert post(world.clients["lead"], "/api/calendar", {"plan": as_json(PLAN)}).json() == {"starts": None, "looks": []}


def test_a_possible_draw_is_shown_but_never_the_one_that_is_sealed():
    client = signed_in(user("drawer"))
    one, two, one_again = (
        post(client, "/api/layout", {"plan": as_json(PLAN), "draw": draw}).json()["slots"] for draw in (1, 2, 1)
    )
    assert one == one_again != two
    refused = post(client, "/api/layout", {"plan": as_json(replace(PLAN, layout=Layout("latin")))})
    assert "treatments.0.samples" in says(refused)


def test_dry_runs_are_played_at_once_and_in_the_background(settings, django_capture_on_commit_callbacks):
    settings.TASKS = {"default": {"BACKEND": "django_tasks.backends.immediate.ImmediateBackend"}}
    client, other = signed_in(user("player")), signed_in(user("other"))
    plan = as_json(PLAN)
    out = post(client, "/api/dry-run", {"plan": plan, "run": 4}).json()
    assert out["run"]["ended"] in ("right", "missed", "false_alarm")
    wrong = [{**out["imagined"][0], "means": {}}]
    assert post(client, "/api/dry-run", {"plan": plan, "imagined": wrong}).status_code == 422
    with django_capture_on_commit_callbacks(execute=True):
        begun = post(client, "/api/dry-runs", {"plan": plan, "imagined": out["imagined"], "runs": 20})
    assert begun.status_code == 202
    path = f"/api/dry-runs/{begun.json()['id']}"
    done = client.get(path).json()
    assert (done["done"], done["runs"]) == (20, 20)
    result = done["result"]
    assert result["right"] + result["missed"] + result["false_alarms"] + result["rightly_none"] == 20
    assert other.get(path).status_code == 404
    assert client.delete(path).status_code == 204
    assert Rehearsal.objects.get().cancelled
    huge = replace(PLAN, treatments=tuple(replace(t, samples=900) for t in PLAN.treatments))
    assert "too many" in says(post(client, "/api/dry-run", {"plan": as_json(huge)}))["plan.treatments"]


def test_who_else_changed_the_plan_is_told():
    world = make("draft")
    path = f"/api/trials/{world.trial.pk}/plan"
    before = world.get("lead", "/plan/version").json()
    post(world.clients["lead"], path, {"plan": as_json(replace(PLAN, why="curious")), "version": 1}, "put")
    after = world.get("lead", "/plan/version").json()
    assert (before["version"], after["version"], after["sealed"]) == (1, 2, False)
    assert after["saved_by"] == world.users["lead"].called


def test_looks_after_cycles_follow_the_count_of_cycles():
    washes = (
        Checkpoint("w1", "After 1 wash", DAY, after=600, cycle=1),
        Checkpoint("w3", "After 3 washes", 3 * DAY, cycle=3),
    )
    summary = replace(PLAN.outcomes[0], summary=Summary())
    trial, lead = sealed_from(
        replace(PLAN, checkpoints=washes, outcomes=(summary,), cycle_word="wash", cycle_minutes=DAY)
    )
    path = f"/api/trials/{trial.pk}"
    assert post(lead, f"{path}/cycles", {}).status_code == 409
    post(lead, f"{path}/start", {})

    def standings():
        course = lead.get(f"{path}/course").json()
        return course["cycles"], [stop["standing"] for stop in course["checkpoints"]]

    assert standings() == (0, ["upcoming", "upcoming"])
    assert post(lead, f"{path}/cycles", {"note": "40 °C, 1 h"}).json() == {"cycles": 1}
    assert standings() == (1, ["due", "upcoming"])
    post(lead, f"{path}/cycles", {})
    assert standings() == (2, ["missed", "upcoming"])
    post(lead, f"{path}/cycles", {})
    assert standings()[1][1] == "late"
    assert any(e["what"] == "cycle" and "40 °C" in e["reason"] for e in lead.get(f"{path}/log").json()["entries"])


def test_a_plan_without_cycles_counts_none():
    trial, lead = sealed_from(replace(PLAN, cycle_word=""))
    post(lead, f"/api/trials/{trial.pk}/start", {})
    assert post(lead, f"/api/trials/{trial.pk}/cycles", {}).status_code == 409


def test_a_look_is_skipped_with_a_reason_that_the_verdict_tells():
    world = make("running", scored=False)
    assert "reason" in says(world.call("scorer", "post", "/skips", {"checkpoint": "c-2", "reason": ""}))
    assert world.call("scorer", "post", "/skips", {"checkpoint": "gone", "reason": "storm"}).status_code == 404
    assert world.call("scorer", "post", "/skips", {"checkpoint": "c-2", "reason": "a storm"}).status_code == 204
    assert world.call("lead", "post", "/skips", {"checkpoint": "c-2", "reason": "again"}).status_code == 409
    stops = {s["key"]: s["standing"] for s in world.get("lead", "/course").json()["checkpoints"]}
    assert stops["c-2"] == "skipped"
    world.call("lead", "post", "/key/ask")
    world.call("lead", "post", "/key/open", {"title": PLAN.title})
    assert any("a storm" in claim for claim in world.get("viewer", "/verdict").json()["not_claimed"])


def test_an_unplanned_look_is_marked_and_carries_no_claim():
    world = make("running")
    assert world.call("scorer", "post", "/unplanned-looks", {"reason": " "}).status_code == 422
    made = world.call("scorer", "post", "/unplanned-looks", {"reason": "it smelled odd"}).json()["checkpoint"]
    stops = {s["key"]: s for s in world.get("scorer", "/course").json()["checkpoints"]}
    assert stops[made]["unplanned"]
    assert stops[made]["name"].startswith("Unplanned, ")
    assert world.call("scorer", "post", "/rounds", {"checkpoint": made}).status_code == 200
    plan = plan_of(world.trial)
    assert plan.judged_at(plan.outcomes[0]) == "c-2"
    world.call("lead", "post", "/key/ask")
    world.call("lead", "post", "/key/open", {"title": PLAN.title})
    out = world.get("viewer", "/verdict").json()
    assert {o["judged_at"] for o in out["outcomes"]} == {"c-2"}
    assert [a["reason"] for a in out["amendments"]] == ["it smelled odd"]


def test_how_the_stop_rule_stands_is_told_to_who_scores_and_names_no_treatment():
    plan = replace(PLAN, ending=EndingRule("half", "o-alive"))
    trial, lead = sealed_from(plan)
    post(lead, f"/api/trials/{trial.pk}/start", {})
    opened = post(lead, f"/api/trials/{trial.pk}/rounds", {"checkpoint": "c-1"}).json()
    dead = [
        {
            "id": str(uuid4()),
            "round": opened["id"],
            "sample": sample["id"],
            "outcome": "o-alive",
            "kind": "value",
            "value": float(i >= 7),
            "taken_at": timezone.now().isoformat(),
        }
        for i, sample in enumerate(opened["samples"])
    ]
    assert lead.get(f"/api/trials/{trial.pk}/course").json()["ending"]["met"] is False
    post(lead, f"/api/trials/{trial.pk}/readings", {"readings": dead})
    stop = lead.get(f"/api/trials/{trial.pk}/course").json()["ending"]
    assert stop == {"met": True, "says": "7 of 12 have failed on Alive: the rule to end once half have is met."}


def test_what_must_not_meet_is_told_while_it_is_planned():
    client = signed_in(user("cleaner"))
    plan = replace(
        PLAN,
        treatments=(replace(PLAN.treatments[0], name="Bleach 1:10"), *PLAN.treatments[1:]),
        held_equal=(HeldEqual("h", "Cleaning", "vinegar rinse between looks"),),
    )
    out = post(client, "/api/outlook", {"plan": as_json(plan)}).json()
    assert {c["key"] for c in out["cautions"]} == {"acid", "bleach"}
    (clash,) = out["clashes"]
    assert (clash["first"], clash["second"]) == ("treatments.0", "held_equal.0")
    assert "chlorine gas" in clash["says"] and "label and safety data sheet" in clash["says"]
    assert post(client, "/api/outlook", {"plan": as_json(PLAN)}).json()["clashes"] == []


def test_a_plan_begins_as_in_an_earlier_trial_without_what_happened_there():
    world = make("opened")
    lead = world.clients["lead"]
    assert lead.get("/api/patterns/earlier").json() == [{"trial": str(world.trial.pk), "title": PLAN.title}]
    like = world.call("lead", "get", "/pattern").json()
    assert [one["name"] for one in like["treatments"]] == [one.name for one in PLAN.treatments]
    assert (like["title"], like["fairness"], like["starts_on"], like["earlier"]) == ("", [], None, None)
    assert world.call("outsider", "get", "/pattern").status_code == 404


def test_nobody_who_is_blind_begins_with_the_treatments_of_a_trial():
    world = make("running")
    assert world.clients["scorer"].get("/api/patterns/earlier").json() == []
    assert world.call("scorer", "get", "/pattern").status_code == 403
    assert world.call("lead", "get", "/pattern").status_code == 200
