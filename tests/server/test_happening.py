"""What happens on the way: conditions, accidents, methods that fail, second codes, beliefs, photos."""

import io
import zipfile
from datetime import timedelta
from uuid import uuid4

import pytest
from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import DatabaseError, transaction
from django.utils import timezone
from PIL import Image

from fieldtally.server.log.models import Condition, Deviation
from fieldtally.server.log.queries import left_out, set_aside
from fieldtally.server.measuring.models import Photo, PhotoFile
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import key_of
from fieldtally.server.rounds.models import Guess, Repeat
from fieldtally.server.verdict import services as verdict_services
from fieldtally.server.verdict.study import study_of
from tests.server.conftest import PLAN, make, replace, score
from tests.server.pictures import picture, wide
from tests.server.test_preparing import standin

pytestmark = pytest.mark.django_db


def problems(answer):
    return answer.status_code, [one["at"] for one in answer.json()["problems"]]


def opened(world):
    world.trial.refresh_from_db()
    verdict_services.ask_to_open(world.trial, world.users["lead"])
    verdict_services.open_key(world.trial, world.users["lead"], PLAN.title)
    world.trial.refresh_from_db()


def test_conditions_are_typed_or_read_and_each_bad_one_is_refused(settings):
    world = make("running")
    cache.clear()
    body = {"place": "b-west", "temperature": 7.5, "rain": 2}
    out = world.call("scorer", "post", "/conditions", body).json()["conditions"]
    assert [(one["place"], one["temperature"], one["rain"], one["device"]) for one in out] == [("West", 7.5, 2, "")]
    for bad, at in (
        ({"temperature": 99}, "temperature"),
        ({"humidity": 101}, "humidity"),
        ({"rain": -1}, "rain"),
        ({}, "temperature"),
        ({"place": "b-none", "light": 3}, "place"),
    ):
        assert problems(world.call("scorer", "post", "/conditions", bad)) == (422, [at])
    assert world.get("viewer", "/conditions").status_code == 403
    with standin(settings, "weather", "json"):
        for _ in range(3):
            out = world.call("preparer", "post", "/conditions", {"from_station": True}).json()["conditions"]
    # Asked three times within the hour, noted once.
    assert [one["device"] for one in out] == ["", "The weather"]
    assert out[1]["temperature"] == pytest.approx(12.8, abs=0.5)
    cache.clear()


def test_nothing_happens_to_a_draft():
    world = make("draft")
    assert world.call("lead", "post", "/conditions", {"temperature": 3}).status_code == 409
    assert world.call("lead", "post", "/accidents", accident([], "mark", timezone.now())).status_code == 409
    assert world.call("lead", "post", "/methods", {"outcome": "o-pods", "reason": "x"}).status_code == 409
    assert send(world, "lead", picture()).status_code == 409


def accident(codes, effect, since, **more):
    return {
        "accident": "eaten",
        "codes": codes,
        "effect": effect,
        "reason": "a mouse was in it",
        "since": since.isoformat(),
        **more,
    }


def test_an_accident_is_marked_left_out_from_then_on_or_altogether_and_the_verdict_tells_both():
    world = make("running")
    now = timezone.now()
    first, second, third, *_ = sorted(Sample.objects.filter(trial=world.trial), key=lambda s: s.code)
    for codes, effect in (
        ([first.code, second.code], "mark"),
        ([second.code], "from"),
        ([third.code], "exclude"),
        ([], "mark"),
    ):
        assert world.call("scorer", "post", "/accidents", accident(codes, effect, now)).status_code == 204
    assert set(set_aside(world.trial)) == {third.pk}
    assert set(left_out(world.trial)) == {second.pk}
    tags = {tag["code"]: tag["set_aside"] for tag in world.get("scorer", "/board").json()["tags"]}
    assert tags[second.code] == tags[third.code] == "a mouse was in it"
    assert tags[first.code] is None
    samples = world.call("scorer", "post", "/rounds", {"checkpoint": "c-2"}).json()["samples"]
    assert len(samples) == len(tags) - 2
    log = [e for e in world.get("scorer", "/log").json()["entries"] if e["accident"]]
    assert len(log) == 5
    assert {e["accident"] for e in log} == {"eaten or gnawed"}
    # What was read before it happened still counts; what is read afterwards on it does not.
    second_round = world.rounds["c-1"]
    opened(world)
    study = study_of(world.trial)
    assert second.code in study.data.values["o-grade", "c-1"]
    assert study.data.leaves_out
    verdict = world.get("lead", "/verdict").json()
    assert verdict["happened"][0].startswith("eaten or gnawed on ")
    assert f"{first.code}, {second.code}: a mouse was in it." in verdict["happened"][0]
    assert "all samples" in verdict["happened"][1]
    assert [one["left_out"] for one in verdict["samples"] if one["code"] == second.code] == ["a mouse was in it"]
    assert verdict["with_all"]
    assert second_round


def test_readings_from_the_moment_of_an_accident_on_do_not_count():
    world = make("running")
    sample = Sample.objects.filter(trial=world.trial).first()
    before = timezone.now() - timedelta(hours=20)
    assert world.call("lead", "post", "/accidents", accident([sample.code], "from", before)).status_code == 204
    opened(world)
    study = study_of(world.trial)
    assert sample.code not in study.data.values["o-grade", "c-1"]
    assert sample.code in study.data.all_values["o-grade", "c-1"]


def test_each_bad_accident_is_refused_at_its_field_and_stores_nothing():
    world = make("running")
    now = timezone.now()
    code = Sample.objects.filter(trial=world.trial).first().code
    for body, at in (
        (accident([code, "nope"], "exclude", now), "codes"),
        (accident([], "exclude", now), "codes"),
        (accident([code], "mark", now + timedelta(days=1)), "since"),
        (accident([code], "mark", now - timedelta(days=400)), "since"),
        (accident([code], "mark", now, reason=" "), "reason"),
    ):
        assert problems(world.call("lead", "post", "/accidents", body)) == (422, [at])
    assert not Deviation.objects.filter(trial=world.trial).exists()
    assert world.call("preparer", "post", "/accidents", accident([code], "exclude", now)).status_code == 403
    assert world.call("lead", "post", "/accidents", accident([code], "exclude", now)).status_code == 204
    assert problems(world.call("lead", "post", "/accidents", accident([code], "from", now))) == (422, ["codes"])


def test_a_withdrawn_outcome_is_not_scored_any_more_and_the_verdict_says_what_was_lost():
    world = make("running")
    body = {"outcome": "o-height", "reason": "the ruler had shrunk"}
    assert problems(world.call("lead", "post", "/methods", {**body, "reason": ""})) == (422, ["reason"])
    assert problems(world.call("lead", "post", "/methods", {**body, "outcome": "o-x"})) == (422, ["outcome"])
    assert world.call("lead", "post", "/methods", body).status_code == 204
    assert world.call("lead", "post", "/methods", body).status_code == 409
    round_ = world.call("scorer", "post", "/rounds", {"checkpoint": "c-2"}).json()
    assert "o-height" not in [one["key"] for one in round_["outcomes"]]
    reading = {
        "id": str(uuid4()),
        "round": round_["id"],
        "sample": round_["samples"][0]["id"],
        "outcome": "o-height",
        "kind": "value",
    }
    late = world.call(
        "scorer", "post", "/readings", {"readings": [{**reading, "value": 12, "taken_at": timezone.now().isoformat()}]}
    )
    assert problems(late) == (422, ["readings.0.outcome"])
    opened(world)
    verdict = world.get("lead", "/verdict").json()
    assert "o-height" not in [one["key"] for one in verdict["outcomes"]]
    told = next(one for one in verdict["happened"] if "Height was withdrawn" in one)
    assert "the ruler had shrunk" in told
    assert "12 readings stay in the log" in told
    assert any(told in limit for limit in verdict["not_claimed"])


def test_a_split_outcome_is_judged_on_one_side_of_the_split_alone():
    world = make("running", scored=True)
    since = timezone.now()
    body = {"outcome": "o-grade", "reason": "a new lamp", "since": since.isoformat()}
    assert problems(world.call("lead", "post", "/methods", {**body, "since": "2001-01-01T00:00:00Z"})) == (
        422,
        ["since"],
    )
    assert world.call("lead", "post", "/methods", body).status_code == 204
    score(world, "c-2")
    opened(world)
    study = study_of(world.trial)
    assert ("o-grade", "c-1") not in study.data.values
    assert len(study.data.values["o-grade", "c-2"]) == 12
    assert ("o-height", "c-1") in study.data.values
    told = world.get("lead", "/verdict").json()["happened"]
    assert any("Vigour was measured in another way" in one and "12 readings from before" in one for one in told)


REPEATED = replace(PLAN, repeats=0.34)


def test_samples_come_back_under_second_codes_that_lead_nowhere():
    world = make("running", REPEATED, scored=False)
    round_ = world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"}).json()
    again = [one for one in round_["samples"] if one["blind_repeat"]]
    codes = {s.code: s for s in Sample.objects.filter(trial=world.trial)}
    assert len(again) == 4
    assert not {one["code"] for one in again} & set(codes)
    assert not {one["id"] for one in again} & {str(s.pk) for s in codes.values()}
    assert {(one["block"], one["place"]) for one in again} == {("", 0)}
    written = [
        {
            "id": str(uuid4()),
            "round": round_["id"],
            "sample": one["id"],
            "outcome": "o-grade",
            "kind": "value",
            "value": float(i % 3),
            "taken_at": timezone.now().isoformat(),
        }
        for i, one in enumerate(round_["samples"])
    ]
    assert world.call("scorer", "post", "/readings", {"readings": written}).status_code == 200
    # The round gives them back under the ids it was read by, and nobody who scores sees which is which.
    back = {
        r["sample"]: r["value"]
        for r in world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"}).json()["readings"]
    }
    assert back == {one["sample"]: one["value"] for one in written}
    log = world.get("lead", "/log").json()["entries"]
    assert sorted(e["code"] for e in log if e["what"] == "value") == sorted([*codes, *(one["code"] for one in again)])
    assert all(tag["looks"] == 0 for tag in world.get("scorer", "/board").json()["tags"])
    for role in ("lead", "scorer", "viewer"):
        assert world.get(role, "/second-codes?checkpoint=c-1").status_code == 403
    told = world.get("preparer", "/second-codes?checkpoint=c-1").json()["codes"]
    assert {one["second"] for one in told} == {one["code"] for one in again}
    assert {one["code"] for one in told} <= set(codes)
    with zipfile.ZipFile(io.BytesIO(world.get("scorer", "/pack.zip").content)) as pack:
        rows = pack.read("readings.csv").decode()
    assert all(f",{one['code']}," in rows for one in again)
    # Another look has others, and what was read twice counts once.
    other = {
        one["code"]
        for one in world.call("scorer", "post", "/rounds", {"checkpoint": "c-2"}).json()["samples"]
        if one["blind_repeat"]
    }
    assert not other & {one["code"] for one in again}
    agreement = world.get("lead", "/agreement").json()["outcomes"][0]["found"]["alone"][0]["within"]
    assert (agreement["pairs"], agreement["blind"]) == (4, True)
    opened(world)
    by_sample = {r.sample_id: r for r in Repeat.objects.filter(checkpoint__key="c-1")}
    codes = dict(Sample.objects.values_list("pk", "code"))
    values = study_of(world.trial).data.values["o-grade", "c-1"]
    for pk, repeat in by_sample.items():
        assert values[codes[pk]] == (back[str(pk)] + back[str(repeat.pk)]) / 2
    assert any(e["source"].startswith("under the second code") for e in world.get("lead", "/log").json()["entries"])


def test_a_second_code_of_one_look_is_not_read_at_another():
    world = make("running", REPEATED, scored=False)
    first = world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"}).json()
    other = world.call("scorer", "post", "/rounds", {"checkpoint": "c-2"}).json()
    brought = next(one for one in first["samples"] if one["blind_repeat"])
    reading = {
        "id": str(uuid4()),
        "round": other["id"],
        "sample": brought["id"],
        "outcome": "o-grade",
        "kind": "value",
        "value": 1,
        "taken_at": timezone.now().isoformat(),
    }
    assert world.call("scorer", "post", "/readings", {"readings": [reading]}).status_code == 404


def test_what_scorers_believe_is_kept_and_tells_whether_the_blinding_held():
    world = make("running")
    key = key_of(world.trial)
    truth = {str(pk): "control" if treatment == "t-zebra" else "treated" for pk, treatment in key.items()}
    said = [{"sample": pk, "belief": "unknown"} for pk in truth]
    assert world.call("scorer", "post", "/guesses", {"guesses": said}).status_code == 200
    right = [{"sample": pk, "belief": belief} for pk, belief in truth.items()]
    for _ in range(2):
        out = world.call("scorer", "post", "/guesses", {"guesses": right}).json()
    assert out["asked"]
    assert {one["sample"]: one["belief"] for one in out["guesses"]} == truth
    assert Guess.objects.count() == 24
    assert world.get("lead", "/guesses").json()["guesses"] == []
    assert problems(
        world.call("scorer", "post", "/guesses", {"guesses": [{"sample": str(uuid4()), "belief": "control"}]})
    ) == (422, ["guesses"])
    opened(world)
    assert world.call("scorer", "post", "/guesses", {"guesses": right}).status_code == 409
    verdict = world.get("lead", "/verdict").json()
    (held,) = verdict["blinding"]
    assert (held["scorer"], held["treated"]["index"], held["control"]["right"]) == ("Person scorer", 1.0, 4)
    assert any(
        "guessed treated samples right more often than chance (8 right, 0 wrong of 8)" in one
        for one in verdict["not_claimed"]
    )


def test_previous_values_are_shown_only_where_the_plan_says_so_and_only_ones_own():
    world = make("running", replace(PLAN, show_previous=True))
    before = world.call("scorer", "post", "/rounds", {"checkpoint": "c-2"}).json()["previous"]
    assert len(before) == 36
    assert {one["look"] for one in before} == {"Day 1"}
    assert world.call("lead", "post", "/rounds", {"checkpoint": "c-2"}).json()["previous"] == []
    opened(world)
    assert any(
        "saw what they had given before" in limit for limit in world.get("lead", "/verdict").json()["not_claimed"]
    )


def test_previous_values_are_hidden_otherwise():
    assert make("running").call("scorer", "post", "/rounds", {"checkpoint": "c-2"}).json()["previous"] == []


def test_photos_are_written_anew_and_lose_everything_but_what_is_seen():
    world = make("running")
    sample = Sample.objects.filter(trial=world.trial).first()
    exif = Image.Exif()
    exif[0x0110] = "A telling camera"
    exif[0x0112] = 6
    exif.get_ifd(0x8825)[1] = "N"
    pk = str(uuid4())
    sent = [
        send(world, "scorer", picture("JPEG", (400, 300), exif=exif), id=pk, sample=str(sample.pk)) for _ in range(2)
    ]
    assert [one.status_code for one in sent] == [200, 200]
    assert Photo.objects.count() == 1
    out = sent[0].json()
    assert (out["code"], out["checkpoint"], out["width"], out["height"]) == (sample.code, "c-1", 300, 400)
    got = world.clients["preparer"].get(f"/api/photos/{pk}.jpg")
    assert (got["Content-Type"], got["Content-Disposition"]) == ("image/jpeg", 'inline; filename="photo.jpg"')
    with Image.open(io.BytesIO(got.content)) as kept:
        assert kept.size == (300, 400)
        assert not kept.getexif()
    assert b"telling" not in got.content
    small = world.clients["scorer"].get(f"/api/photos/{pk}.jpg?small=true")
    assert len(small.content) <= len(got.content)
    assert world.clients["viewer"].get(f"/api/photos/{pk}.jpg").status_code == 403
    assert world.clients["outsider"].get(f"/api/photos/{pk}.jpg").status_code == 404


def send(world, role, content, name="photo.jpg", **said):
    body = {"id": str(uuid4()), "taken_at": timezone.now().isoformat(), "checkpoint": "c-1", **said}
    file = SimpleUploadedFile(name, content, content_type="image/jpeg")
    return world.clients[role].post(f"/api/trials/{world.trial.pk}/photos", {**body, "file": file})


def test_what_is_no_plain_picture_is_refused_with_a_sentence_and_nothing_is_stored():
    world = make("running")
    archive = io.BytesIO()
    with zipfile.ZipFile(archive, "w") as files:
        files.writestr("x.txt", "hidden")
    for content, says in (
        (b"", "empty"),
        (b"MZ\x90 no picture", "whatever its name says"),
        (picture("JPEG") + archive.getvalue(), "something else besides"),
        (picture("PNG").replace(b"IEND", b"IEND<script>alert(1)</script>"), "something else besides"),
        (picture("JPEG")[:60], "damaged"),
        (wide(), "30,000 × 20 pixels"),
        (picture("PNG", (8, 8)), "only 8 × 8 pixels"),
        (picture("GIF"), "whatever its name says"),
    ):
        answer = send(world, "scorer", content)
        assert problems(answer) == (422, ["file"]), says
        assert says in answer.json()["problems"][0]["says"]
    huge = send(world, "scorer", b"\xff\xd8\xff" + bytes(26_500_000))
    assert problems(huge) == (413, ["file"])
    assert not Photo.objects.exists()


def test_a_photo_shows_a_sample_a_level_or_a_note_of_its_own_trial():
    world = make("running")
    for said, status in (
        ({"checkpoint": ""}, 422),
        ({"checkpoint": "c-9"}, 404),
        ({"sample": str(uuid4())}, 404),
        ({"outcome": "o-height", "level": "3"}, 422),
        ({"outcome": "o-grade", "level": "7"}, 422),
        ({"outcome": "o-none", "level": "1"}, 404),
        ({"note": str(uuid4())}, 404),
        ({"outcome": "o-grade", "level": "2"}, 200),
    ):
        assert send(world, "lead", picture(), **said).status_code == status, said
    assert send(world, "scorer", picture(), outcome="o-grade", level="2").status_code == 403
    note = world.call("scorer", "post", "/notes", {"text": "A slug"}).json()["id"]
    photo = send(world, "scorer", picture(), note=note).json()["id"]
    entry = next(e for e in world.get("scorer", "/log").json()["entries"] if e["what"] == "note")
    assert entry["photos"] == [photo]
    refused = world.clients["preparer"].post(
        f"/api/photos/{photo}/away", {"reason": "x"}, content_type="application/json"
    )
    assert refused.status_code == 403
    gone = world.clients["scorer"].post(
        f"/api/photos/{photo}/away", {"reason": "my thumb"}, content_type="application/json"
    )
    assert gone.status_code == 204
    assert not PhotoFile.objects.filter(photo_id=photo).exists()
    assert "was taken away: my thumb" in str(world.get("scorer", "/log").json())


def test_two_photos_in_plainly_different_light_are_said_to_be_so():
    world = make("running")
    day, lamp, also = (
        send(world, "scorer", picture("PNG", (200, 160), tint=tint, seed=seed)).json()["id"]
        for seed, tint in enumerate(((1, 1, 1), (1.2, 0.9, 0.55), (0.98, 1, 0.97)))
    )
    client = world.clients["scorer"]
    assert "one was warmer" in client.get(f"/api/photos/{day}/against/{lamp}").json()["says"]
    assert client.get(f"/api/photos/{day}/against/{also}").json()["says"] == ""


@pytest.mark.parametrize("table", [Condition, Guess, Deviation])
def test_the_database_refuses_to_change_what_was_noted(table):
    world = make("running")
    sample = Sample.objects.filter(trial=world.trial).first()
    world.call("lead", "post", "/conditions", {"temperature": 3})
    world.call("lead", "post", "/guesses", {"guesses": [{"sample": str(sample.pk), "belief": "control"}]})
    world.call("lead", "post", "/accidents", accident([sample.code], "mark", timezone.now()))
    with pytest.raises(DatabaseError, match="permission denied"), transaction.atomic():
        table.objects.all().delete()


def test_an_error_about_an_outcome_does_not_say_its_name_which_may_name_a_treatment():
    """Blind eyes read errors too."""
    named = replace(PLAN.outcomes[1], name="Height under Violet fleece")
    plan = replace(PLAN, outcomes=(PLAN.outcomes[0], named, *PLAN.outcomes[2:]))
    world = make("running", plan)
    world.call("lead", "post", "/methods", {"outcome": "o-height", "reason": "the ruler had shrunk"})
    round_ = world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"}).json()
    for outcome in ("o-height", "o-pods"):
        reading = {
            "id": str(uuid4()),
            "round": round_["id"],
            "sample": round_["samples"][0]["id"],
            "outcome": outcome,
            "kind": "value",
            "value": 12,
            "taken_at": timezone.now().isoformat(),
        }
        refused = world.call("scorer", "post", "/readings", {"readings": [reading]})
        assert problems(refused) == (422, ["readings.0.outcome"])
        assert "violet" not in refused.content.decode().casefold()
