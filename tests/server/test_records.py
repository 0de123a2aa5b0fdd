"""Readings: stored once, never changed, corrected by what supersedes them; bad input stores nothing."""

import itertools
import re
from uuid import UUID, uuid4

import pytest
from django.db import DatabaseError, IntegrityError, connection, transaction
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from fieldtally.core.trialpack.reading import read_pack
from fieldtally.server.log.models import Deviation
from fieldtally.server.plan import services as plan_services
from fieldtally.server.plan.models import Sample
from fieldtally.server.rounds.models import Reading
from fieldtally.server.share.pack_reader import bring_in
from fieldtally.server.verdict.study import study_of
from tests.server.conftest import PLAN, make, score
from tests.server.test_packs import packed

pytestmark = pytest.mark.django_db


def begun(world, role="scorer", checkpoint="c-1"):
    return world.call(role, "post", "/rounds", {"checkpoint": checkpoint}).json()


def reading(round_, sample, outcome="o-grade", kind="value", value=2, **more):
    return {
        "id": str(uuid4()),
        "round": round_["id"],
        "sample": sample,
        "outcome": outcome,
        "kind": kind,
        "value": value,
        "reason": "",
        "taken_at": timezone.now().isoformat(),
        **more,
    }


def send(world, *readings, role="scorer"):
    return world.call(role, "post", "/readings", {"readings": list(readings)})


@pytest.fixture
def running(db):
    return make("running", scored=False)


def test_a_round_goes_through_every_sample_once_in_its_own_order(running):
    mine, again, other = begun(running), begun(running), begun(running, "lead")
    codes = [s["code"] for s in mine["samples"]]
    assert sorted(codes) == sorted(Sample.objects.values_list("code", flat=True))
    assert again == mine
    assert [s["code"] for s in other["samples"]] != codes
    blocks = [s["block"] for s in mine["samples"]]
    assert len([1 for a, b in itertools.pairwise(blocks) if a != b]) == 1
    assert [o["key"] for o in mine["outcomes"]] == ["o-grade", "o-height", "o-alive"]


def test_sent_twice_stored_once(running):
    round_ = begun(running)
    one = reading(round_, round_["samples"][0]["id"])
    assert send(running, one).json() == send(running, one).json() == {"stored": [one["id"]], "odd": []}
    assert send(running, one, one).status_code == 200
    assert Reading.objects.count() == 1


def test_a_correction_supersedes_and_the_old_value_stays(running):
    round_ = begun(running)
    sample = round_["samples"][0]
    for value, reason in ((2, ""), (1, "misread"), (0, "")):
        send(running, reading(round_, sample["id"], value=value, reason=reason))
    (now,) = begun(running)["readings"]
    assert now["value"] == 0
    entries = [e for e in running.get("scorer", "/log").json()["entries"] if e["code"] == sample["code"]]
    assert sorted((e["value"], e["old_value"], e["replaced"], e["reason"]) for e in entries) == [
        (0, 1, False, "entered again"),
        (1, 2, True, "misread"),
        (2, None, True, ""),
    ]
    send(running, reading(round_, sample["id"], kind="withdrawn", value=None))
    assert begun(running)["readings"] == []
    assert Reading.objects.count() == 4


def test_two_scorers_on_one_sample_keep_two_readings(running):
    mine, other = begun(running), begun(running, "lead")
    sample = mine["samples"][0]["id"]
    send(running, reading(mine, sample, value=2))
    send(running, reading(other, sample, value=1), role="lead")
    assert Reading.objects.filter(sample_id=sample, superseded_by=None).count() == 2


@pytest.mark.parametrize(
    ("change", "at", "word"),
    [
        ({"value": 7}, "readings.0.value", "0, 1, 2"),
        ({"value": None}, "readings.0.value", "no value"),
        ({"outcome": "o-height", "value": -3}, "readings.0.value", "below"),
        ({"outcome": "o-pods"}, "readings.0.outcome", "not looked at"),
        ({"kind": "cannot", "value": None}, "readings.0.reason", "why"),
        ({"kind": "guess"}, "readings.0.kind", "understood"),
        ({"value": "many"}, "readings.0.value", "number"),
        ({"taken_at": "yesterday"}, "readings.0.taken_at", "moment"),
        ({"taken_at": "2026-01-01T00:00:00"}, "readings.0.taken_at", "moment"),
        ({"id": "1"}, "readings.0.id", "identifier"),
        ({"reason": "x" * 600}, "readings.0.reason", "500"),
    ],
)
def test_a_bad_reading_is_said_at_its_field_and_nothing_is_stored(running, change, at, word):
    round_ = begun(running)
    samples = [s["id"] for s in round_["samples"]]
    answer = send(running, {**reading(round_, samples[0]), **change}, reading(round_, samples[1]))
    assert answer.status_code == 422
    (problem,) = answer.json()["problems"]
    assert problem["at"] == at
    assert word in problem["says"]
    assert Reading.objects.count() == 0


@pytest.mark.parametrize(
    "body", [b"", b"{", b"\xff\xfe", b'{"readings": NaN}', b'{"readings": "\\ud800"}', b'"\\u0000"', b"[" * 100_000]
)
def test_a_broken_body_is_turned_down(running, body):
    answer = running.clients["scorer"].post(
        f"/api/trials/{running.trial.pk}/readings", body, content_type="application/json"
    )
    assert answer.status_code in (400, 422)
    assert answer.json()["problems"][0]["says"]


def test_foreign_rounds_samples_and_ids_are_not_there(running):
    round_ = begun(running)
    sample = round_["samples"][0]["id"]
    assert send(running, reading({"id": str(uuid4())}, sample)).status_code == 404
    assert send(running, reading(round_, str(uuid4()))).status_code == 404
    assert send(running, reading(begun(running, "lead"), sample)).status_code == 404
    assert send(running, {**reading(round_, sample), "outcome": "nothing"}).status_code == 404
    one = reading(round_, sample)
    send(running, one)
    taken = {**reading(begun(running, "lead"), sample), "id": one["id"]}
    assert send(running, taken, role="lead").status_code == 409
    assert running.call("scorer", "post", "/rounds", {"checkpoint": "c-9"}).status_code == 404


@pytest.mark.parametrize(("state", "word"), [("draft", "draft"), ("sealed", "not started"), ("opened", "concluded")])
def test_nothing_is_scored_before_the_start_or_after_the_end(state, word):
    world = make(state)
    answer = world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"})
    assert answer.status_code == 409
    assert word in answer.json()["problems"][0]["says"]
    if state == "opened":
        old = Reading.objects.first()
        sent = {
            "id": str(uuid4()),
            "round": str(old.round_id),
            "sample": str(old.sample_id),
            "outcome": "o-grade",
            "kind": "value",
            "value": 1,
            "reason": "",
            "taken_at": timezone.now().isoformat(),
        }
        assert send(world, sent).status_code == 409
        own = {**sent, "id": str(old.pk), "outcome": old.outcome.key, "value": old.value}
        assert send(world, own).status_code == 200


def test_an_id_that_comes_with_another_body_is_turned_down_and_nothing_is_stored(running):
    round_ = begun(running)
    first, second = (one["id"] for one in round_["samples"][:2])
    one = reading(round_, first)
    assert send(running, one).status_code == 200
    assert send(running, one).status_code == 200
    new = reading(round_, second)
    for change in (
        {"value": 0},
        {"sample": second},
        {"outcome": "o-height", "value": 1},
        {"kind": "withdrawn", "value": None},
        {"take": 2},
    ):
        answer = send(running, new, {**one, **change})
        assert answer.status_code == 409, change
        assert answer.json()["problems"][0]["at"] == "readings.1.id"
        assert Reading.objects.count() == 1
    # Twice in one body, but not alike.
    assert send(running, new, {**new, "value": 0}).status_code == 409
    assert send(running, new, new).status_code == 200
    assert Reading.objects.count() == 2


def test_words_with_a_number_are_turned_down_and_the_number_before_them_stands(running):
    round_ = begun(running)
    sample = round_["samples"][0]["id"]
    height = {**reading(round_, sample), "outcome": "o-height", "value": 12.5}
    assert send(running, height).status_code == 200
    answer = send(running, {**height, "id": str(uuid4()), "value": 14, "words": "leaned over"})
    assert answer.status_code == 422
    assert answer.json()["problems"][0]["at"] == "readings.0.words"
    assert list(Reading.objects.values_list("value", flat=True)) == [12.5]


@pytest.mark.parametrize("at", ["9999-12-31T23:59:59-14:00", "0001-01-01T00:00:00+14:00", "1970-01-01T00:00:00Z"])
def test_a_clock_that_is_wrong_scores_neither_before_the_start_nor_in_the_future(running, at):
    round_ = begun(running)
    assert send(running, reading(round_, round_["samples"][0]["id"], taken_at=at)).status_code == 200
    assert running.trial.started_at <= Reading.objects.get().taken_at <= timezone.now()
    assert running.get("scorer", "/log").status_code == 200


APPEND_ONLY = {
    "rounds_reading": "value = 0",
    "log_deviation": "reason = ''",
    "verdict_keyopening": "step = 'asked'",
    "prepare_keylook": "at = now()",
    "plan_sealedplan": "seal = ''",
    "plan_keyentry": "treatment = ''",
}


@pytest.mark.parametrize("table", APPEND_ONLY)
@pytest.mark.parametrize(
    "statement", ["UPDATE {table} SET {change}", "DELETE FROM {table}", "TRUNCATE {table} CASCADE"]
)
def test_postgresql_itself_refuses_to_change_records(table, statement):
    world = make("opened")
    code = Sample.objects.first().code
    world.call("lead", "post", "/aside", {"code": code, "reason": "fell over"})
    world.call("preparer", "post", "/key-looks")
    with connection.cursor() as cursor:
        cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
        if table == "prepare_keylook":
            cursor.execute(
                "INSERT INTO prepare_keylook (trial_id, by_id, at) VALUES (%s, %s, now())",
                [world.trial.pk, world.users["preparer"].pk],
            )
        cursor.execute(f"SELECT count(*) FROM {table}")
        assert cursor.fetchone()[0] > 0
        change = statement.format(table=table, change=APPEND_ONLY[table])
        with pytest.raises(DatabaseError, match="permission denied"), transaction.atomic():
            cursor.execute(change)
        # Its owner may, as far as rights go, and is refused all the same.
        cursor.execute("RESET ROLE")
        with pytest.raises(DatabaseError, match="append-only"), transaction.atomic():
            cursor.execute(change)


def test_a_sample_is_set_aside_with_its_reason_and_put_back():
    world = make("running")
    code = Sample.objects.first().code
    assert world.call("scorer", "post", "/aside", {"code": code, "reason": " "}).json()["problems"][0]["at"] == "reason"
    assert world.call("scorer", "post", "/aside", {"code": "nope", "reason": "x"}).status_code == 422
    assert world.call("scorer", "post", "/aside", {"code": code, "reason": "fell over"}).status_code == 204
    assert world.call("scorer", "post", "/aside", {"code": code, "reason": "again"}).status_code == 409
    tag = next(t for t in world.get("scorer", "/board").json()["tags"] if t["code"] == code)
    assert tag["set_aside"] == "fell over"
    assert code not in [s["code"] for s in begun(world)["samples"]]
    assert world.call("lead", "post", "/aside", {"code": code, "reason": "mistaken", "back": True}).status_code == 204
    assert code in [s["code"] for s in begun(world)["samples"]]
    assert Deviation.objects.count() == 2


def test_the_course_counts_what_is_done():
    world = make("running")
    first, second = world.get("scorer", "/course").json()["checkpoints"]
    assert (first["standing"], first["done"], first["expected"]) == ("taken", 36, 36)
    assert (first["samples_done"], first["samples"]) == (12, 12)
    assert (second["standing"], second["done"], second["expected"]) == ("upcoming", 0, 48)
    assert {t["looks"] for t in world.get("scorer", "/board").json()["tags"]} == {1}


def test_a_sample_is_done_when_all_its_outcomes_are(running):
    round_ = begun(running)
    one, two = (s["id"] for s in round_["samples"][:2])
    send(running, *[reading(round_, one, outcome=o, value=1) for o in ("o-grade", "o-height", "o-alive")])
    send(
        running,
        reading(round_, two),
        reading(round_, two, outcome="o-height", kind="cannot", value=None, reason="gone"),
    )
    first = running.get("scorer", "/course").json()["checkpoints"][0]
    assert (first["done"], first["samples_done"], first["standing"]) == (5, 1, "due")
    running.call("lead", "post", "/aside", {"code": round_["samples"][0]["code"], "reason": "fell"})
    first = running.get("scorer", "/course").json()["checkpoints"][0]
    assert (first["done"], first["expected"], first["samples_done"], first["samples"]) == (2, 33, 0, 11)


def test_queries_do_not_grow_with_the_readings(django_assert_max_num_queries):
    world = make("running")
    score(world, "c-1")
    score(world, "c-1")
    for path in ("/course", "/board", "/log"):
        with django_assert_max_num_queries(23):
            assert world.get("scorer", path).status_code == 200


def test_a_full_shelf_asks_no_more_than_a_short_one():
    world = make("running")

    def queries():
        with CaptureQueriesContext(connection) as asked:
            assert world.clients["lead"].get("/api/shelf").status_code == 200
        return len(asked)

    queries()
    before = queries()
    for _ in range(4):
        trial = plan_services.begin(world.users["lead"], PLAN)
        plan_services.seal(trial, world.users["lead"], 1)
    queries()
    assert queries() == before


def test_an_odd_value_is_pointed_out_and_a_retest_stands_beside_it():
    world = make("running")
    opened = world.call("scorer", "post", "/rounds", {"checkpoint": "c-2"}).json()
    samples = [one["id"] for one in opened["samples"]]

    def send(values, take=1):
        rows = [
            {
                "id": str(uuid4()),
                "round": opened["id"],
                "sample": sample,
                "outcome": "o-height",
                "kind": "value",
                "value": value,
                "take": take,
                "taken_at": timezone.now().isoformat(),
            }
            for sample, value in values
        ]
        return rows, world.call("scorer", "post", "/readings", {"readings": rows})

    _, answer = send([(sample, 20 + i % 3) for i, sample in enumerate(samples[:-1])])
    assert answer.json()["odd"] == []
    (odd,), answer = send([(samples[-1], 2.0)])
    assert [one["id"] for one in answer.json()["odd"]] == [odd["id"]]
    # By its step, or by its level where the others' steps were all alike.
    assert re.search("smaller step from the look before|far below the others", answer.json()["odd"][0]["says"])
    _, answer = send([(samples[-1], 21.0), (samples[-1], 22.0)], take=2)
    assert answer.status_code == 200
    send([(samples[-1], 21.5)], take=3)
    # The second send of take 2 corrected the first: three takes stand.
    read = list(world.call("scorer", "post", "/rounds", {"checkpoint": "c-2"}).json()["readings"])
    assert sorted((r["take"], r["value"]) for r in read if r["sample"] == samples[-1]) == [
        (1, 2.0),
        (2, 22.0),
        (3, 21.5),
    ]
    assert send([(samples[0], 20)], take=10)[1].status_code == 422
    study = study_of(world.trial)
    assert study.data.values["o-height", "c-2"][Sample.objects.get(pk=samples[-1]).code] == 21.5


@pytest.mark.parametrize("wrong", ["round_id", "checkpoint_id", "scorer_id", "sample_id", "outcome_id", "trial_id"])
def test_postgresql_itself_refuses_a_reading_that_does_not_fit_its_round(wrong):
    world = make("running")
    other = bring_in(read_pack(packed(world.trial)), world.users["outsider"])
    there = Reading.objects.filter(trial=world.trial).values().first()
    elsewhere = Reading.objects.filter(trial=other).values().first()
    columns = [name for name in there if name not in ("responses", "supersedes_id", "repeat_id")]
    fitting = {**there, "id": uuid4(), "take": 7}

    def write(row):
        with connection.cursor() as cursor, transaction.atomic():
            cursor.execute(
                f"INSERT INTO rounds_reading ({', '.join(columns)}) VALUES ({', '.join(['%s'] * len(columns))})",
                [row[name] for name in columns],
            )

    write(fitting)
    with pytest.raises(IntegrityError, match="of its round"):
        write({**fitting, "id": uuid4(), wrong: elsewhere[wrong]})
    with pytest.raises(IntegrityError, match="of its round"):
        write({**fitting, "id": uuid4(), wrong: uuid4() if isinstance(there[wrong], UUID) else 987_654})
