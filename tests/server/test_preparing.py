"""Preparing at the server: mix sheet, packs, application log, starts, shuffle, paper, devices, notes."""

import re
import socket
import threading
from contextlib import contextmanager
from datetime import timedelta
from uuid import uuid4

import pypdfium2
import pytest
import zxingcpp
from django.utils import timezone

from fieldtally.core.blinding.checking import check_letter
from fieldtally.core.design.plan import Checkpoint, StartValues
from fieldtally.server.devices.standins.serve import StandIn, server_for
from fieldtally.server.plan.queries import drawn_key, key_of, samples_of
from fieldtally.server.prepare.models import Application, Exposure, MixTick
from fieldtally.server.verdict import services as verdict_services
from tests.server.conftest import PLAN, SECRETS, make, replace

pytestmark = pytest.mark.django_db


def problems(answer):
    return {one["at"]: one["says"] for one in answer.json()["problems"]}


def words_on(pdf: bytes) -> str:
    return "\n".join(page.get_textpage().get_text_range() for page in pypdfium2.PdfDocument(pdf))


def squares_on(pdf: bytes) -> list[str]:
    pages = pypdfium2.PdfDocument(pdf)
    return [
        code.text
        for page in pages
        for code in zxingcpp.read_barcodes(page.render(scale=200 / 72).to_pil().convert("L"))
    ]


def by_treatment(world, treatment):
    key = key_of(world.trial)
    return [sample.code for sample in samples_of(world.trial) if key[sample.pk] == treatment]


def give(world, entries, role="preparer", **more):
    body = {"entries": [{"id": str(uuid4()), **one} for one in entries], **more}
    return world.call(role, "post", "/applications", body)


# The mix sheet


BLEACH = replace(PLAN, carrier="household bleach", cleaning="vinegar")


def test_a_step_is_ticked_once_and_only_after_its_cautions_are_read():
    world = make("sealed", BLEACH)
    sheet = world.get("preparer", "/mix").json()
    step = next(s for mix in sheet["mixes"] for s in mix["steps"] if s["cautions"] and s["kind"] == "top_up")
    names = {one["key"] for one in step["cautions"]}
    assert "bleach" in names
    assert "label" in sheet["defers"]
    refused = world.call("preparer", "post", "/mix/ticks", {"step": step["key"]})
    assert refused.status_code == 422
    assert "Read the cautions first" in problems(refused)["acknowledged"]
    assert MixTick.objects.count() == 0
    body = {"step": step["key"], "acknowledged": sorted(names)}
    ticked = world.call("preparer", "post", "/mix/ticks", body).json()
    found = next(s for mix in ticked["mixes"] for s in mix["steps"] if s["key"] == step["key"])
    assert found["ticked_by"] == "Person preparer"
    assert world.call("preparer", "post", "/mix/ticks", body).status_code == 409
    assert world.call("preparer", "post", "/mix/ticks", {"step": "t-none/clean"}).status_code == 422


def test_acid_after_bleach_in_one_vessel_is_found_and_the_wording_defers():
    world = make("sealed", BLEACH)
    sheet = world.get("preparer", "/mix").json()
    said = " ".join(one["says"] for one in sheet["clashes"])
    assert "Bleach and vinegar must not meet" in said
    for text in (said, sheet["defers"]):
        assert not re.search(r"\bsafe(ly)?\b", text)
    assert "safety data sheet" in sheet["defers"]
    assert "sheet" in words_on(world.get("preparer", "/prints/mix.pdf").content).casefold()


def test_the_sheet_shops_in_whole_packs_and_holds_dates_against_the_last_look():
    world = make("sealed")
    sheet = world.get("preparer", "/mix").json()
    zebra = next(one for one in sheet["shopping"] if one["product"] == "p-zebra")
    # 4 mL/L × 2 L × 4 pots and a tenth over.
    assert (zebra["needed"], zebra["packs"], zebra["left"]) == ("35.2 mL", 1, "214.8 mL")
    costs = {mix["name"]: mix["costs"] for mix in sheet["mixes"]}
    assert costs["Zebra mulch"]["sample"] == pytest.approx(8 / 250 * 5)
    assert costs["Quartz grit"]["use"] == pytest.approx(4 / 1000 * 4)
    assert costs["Quartz grit"]["sample"] == pytest.approx(2 * 4 / 1000 * 4)
    today = timezone.now().date()
    pack = {"product": "p-zebra", "lot": "Z 7", "expires": str(today), "opened": str(today - timedelta(days=29))}
    kept = world.call("preparer", "post", "/packs", pack).json()["packs"]
    assert [one["lot"] for one in kept] == ["Z 7"]
    assert kept[0]["problem"]
    good = {**pack, "lot": "Z 8", "expires": str(today + timedelta(days=90)), "opened": str(today)}
    assert [one["problem"] for one in world.call("preparer", "post", "/packs", good).json()["packs"]][1] == ""
    for body, at in (
        ({"product": "p-none", "lot": "1"}, "product"),
        ({"product": "p-zebra"}, "lot"),
        ({"product": "p-zebra", "lot": "x" * 61}, "lot"),
        ({"product": "p-zebra", "opened": str(today + timedelta(days=9))}, "opened"),
    ):
        refused = world.call("preparer", "post", "/packs", body)
        assert (refused.status_code, list(problems(refused))) == (422, [at])


# The application log


def test_what_is_given_is_stored_once_and_told_against_the_plan():
    world = make("sealed")
    assert world.call("preparer", "post", "/applications", {"entries": []}).status_code == 403
    rows = world.call("preparer", "post", "/key-looks").json()["rows"]
    zebra = [row for row in rows if row["treatment"] == "Zebra mulch"]
    assert {dose["planned"] for row in zebra for dose in row["doses"]} == {"8 mL"}
    one, two = zebra[0]["code"], zebra[1]["code"]
    entry = {"id": str(uuid4()), "code": one, "dose": "d-1", "given": "6"}
    for _ in range(3):
        out = give(world, [entry, {"code": two, "dose": "d-1"}] if not Application.objects.exists() else [entry])
        assert out.status_code == 200
    assert Application.objects.count() == 2
    told = {row["code"]: row["doses"][0] for row in out.json()["rows"]}
    assert told[one]["off"] == "6 mL given where 8 mL were planned: 25 % too little."
    assert (told[two]["given"], told[two]["matters"]) == ("8 mL", False)


def test_a_correction_stands_in_place_of_what_it_corrects_and_both_stay_in_the_log():
    world = make("running")
    world.call("preparer", "post", "/key-looks")
    code = by_treatment(world, "t-quartz")[0]
    for given, corrects in (("4 mL", False), ("1 mL", False), ("0.004 L", True)):
        out = give(world, [{"code": code, "dose": "d-2", "given": given, "corrects": corrects}])
    dose = next(row for row in out.json()["rows"] if row["code"] == code)["doses"][0]
    assert (dose["times"], dose["given_times"], dose["given"], dose["off"]) == (2, 2, "4 mL", "")
    verdict_services.ask_to_open(world.trial, world.users["lead"])
    verdict_services.open_key(world.trial, world.users["lead"], PLAN.title)
    log = [one for one in world.get("lead", "/log").json()["entries"] if one["what"] == "given"]
    assert sorted(one["replaced"] for one in log) == [False, False, True]
    assert next(one["reason"] for one in log if one["replaced"]).startswith("1 mL given where 4 mL")


def test_bad_amounts_are_each_refused_at_their_place_and_nothing_is_stored():
    world = make("sealed")
    world.call("preparer", "post", "/key-looks")
    code = by_treatment(world, "t-zebra")[0]
    bad = [
        {"code": "999", "dose": "d-1"},
        {"code": code, "dose": "d-2"},
        {"code": code, "dose": "d-1", "given": "5 g"},
        {"code": code, "dose": "d-1", "given": "lots"},
        {"code": code, "dose": "d-1", "note": "x" * 501},
    ]
    refused = give(world, [{"code": code, "dose": "d-1"}, *bad])
    assert refused.status_code == 422
    assert list(problems(refused)) == [
        "entries.1.code",
        "entries.2.dose",
        "entries.3.given",
        "entries.4.given",
        "entries.5.note",
    ]
    assert Application.objects.count() == 0


def test_a_smaller_dose_after_the_first_batch_is_an_amendment_that_knows_who_got_which():
    world = make("running")
    world.call("preparer", "post", "/key-looks")
    first, second, *_ = by_treatment(world, "t-zebra")
    give(world, [{"code": first, "dose": "d-1"}])
    plan = world.get("lead", "/plan").json()["plan"]
    plan["treatments"][0]["doses"][0]["rate"] = "2 mL/L"
    told = world.call("lead", "post", "/changes", {"plan": plan}).json()
    assert told == {
        "changes": ["Changed: what Zebra mulch gives (Zebra tea, from “4 mL/L” to “2 mL/L”)."],
        "problems": [],
    }
    assert world.call("lead", "post", "/amend", {"plan": plan, "reason": "leaves curled"}).status_code == 200
    out = give(world, [{"code": second, "dose": "d-1"}]).json()
    given = {row["code"]: row["doses"][0] for row in out["rows"]}
    assert (given[first]["given"], given[second]["given"], given[second]["off"]) == ("8 mL", "4 mL", "")
    verdict_services.ask_to_open(world.trial, world.users["lead"])
    verdict_services.open_key(world.trial, world.users["lead"], PLAN.title)
    said = str(world.get("viewer", "/verdict").json())
    assert re.search(rf"8 mL[^.]*{first}|{first}[^.]*8 mL", said)
    assert re.search(rf"4 mL[^.]*{second}|{second}[^.]*4 mL", said)


# Starts


def test_blocks_and_single_samples_start_by_themselves():
    world = make("sealed")
    key, samples = drawn_key(world.trial), samples_of(world.trial)
    one, other = (
        {s.code for s in samples if s.block == "b-east" and key[s.pk] == t}.pop() for t in ("t-zebra", "t-quartz")
    )
    assert world.call("preparer", "post", "/start", {"codes": [one, other]}).status_code == 200
    assert Exposure.objects.count() == 2
    assert world.call("preparer", "post", "/start", {"block": "b-west"}).status_code == 200
    blocks = {one["key"]: one for one in world.get("scorer", "/prepared").json()["blocks"]}
    assert (blocks["b-east"]["started"], blocks["b-west"]["started"]) == (2, 6)
    before = dict(Exposure.objects.values_list("sample_id", "started_at"))
    assert world.call("preparer", "post", "/start", {}).status_code == 200
    after = dict(Exposure.objects.values_list("sample_id", "started_at"))
    assert len(after) == 12
    assert before.items() <= after.items()
    assert world.call("preparer", "post", "/start", {}).status_code == 409
    assert problems(world.call("preparer", "post", "/start", {"codes": ["12"]})) == {
        "codes": "There is no sample 12 in this trial."
    }
    assert "block" in problems(world.call("preparer", "post", "/start", {"block": "b-none"}))


def test_a_part_of_a_trial_is_never_started_treatment_by_treatment():
    world = make("sealed")
    key = {
        sample.code: treatment
        for sample, treatment in ((s, drawn_key(world.trial)[s.pk]) for s in samples_of(world.trial))
    }
    block = {sample.code: sample.block for sample in samples_of(world.trial)}
    east = [code for code in key if block[code] == "b-east"]
    zebras, quartz, violets = ([c for c in east if key[c] == t] for t in ("t-zebra", "t-quartz", "t-violet"))
    start = lambda *codes: world.call("preparer", "post", "/start", {"codes": list(codes)})  # noqa: E731
    answer = start(*zebras)
    assert answer.status_code == 409
    assert "would see which belong together" in answer.json()["problems"][0]["says"]
    assert not Exposure.objects.filter(sample__trial=world.trial).exists()
    # Nor one after the other.
    assert start(zebras[0]).status_code == 200
    assert start(zebras[1]).status_code == 409
    assert start(quartz[0]).status_code == 200
    assert start(zebras[1]).status_code == 409
    # One of each in turn, and a whole block at once, tell nothing.
    assert start(violets[0]).status_code == 200
    assert start(zebras[1]).status_code == 200
    assert world.call("preparer", "post", "/start", {"block": "b-west"}).status_code == 200
    # What is left when all others run may start by itself.
    assert start(quartz[1]).status_code == 200
    assert start(violets[1]).status_code == 200


# The shuffle


@pytest.mark.parametrize("kind", ["flasks", "samples"])
def test_after_a_shuffle_nobody_knows_and_the_key_is_found_again(kind):
    world = make("sealed")
    guide = world.get("preparer", "/shuffle").json()
    assert [way["why_not"] for way in guide["ways"]] == ["", ""]
    assert world.call("preparer", "post", "/shuffle", {"kind": "cups"}).status_code == 422
    assert world.call("preparer", "post", "/shuffle", {"kind": kind}).status_code == 200
    assert world.call("preparer", "post", "/shuffle", {"kind": kind}).status_code == 409
    world.trial.refresh_from_db()
    handed = world.call("preparer", "post", "/key-looks").json()
    assert handed["covered"]
    assert not any(secret in str(handed["rows"]).casefold() for secret in ("zebra mulch", "quartz grit"))
    assert not any(row["letter"] for row in handed["rows"])
    assert world.call("lead", "post", "/uncover", {"letters": {}}).status_code == 409
    world.call("preparer", "post", "/start", {})
    verdict = world.call("lead", "post", "/key/ask")
    assert verdict.status_code == 409 or "cover" in str(verdict.content)
    letters = dict(zip(("t-zebra", "t-quartz", "t-violet"), "ABC", strict=True))
    drawn = drawn_key(world.trial)
    if kind == "flasks":
        found = dict(zip(guide["flasks"], "BCA", strict=True))
    else:
        # Turned round inside each block.
        found = {}
        for block in ("b-east", "b-west"):
            own = [sample for sample in samples_of(world.trial) if sample.block == block]
            for sample, other in zip(own, [*own[1:], own[0]], strict=True):
                found[sample.code] = letters[drawn[other.pk]]
    wrong = {**found, next(iter(found)): "D"}
    assert world.call("lead", "post", "/uncover", {"letters": wrong}).status_code == 422
    twice = dict.fromkeys(found, "A")
    assert "look again" in problems(world.call("lead", "post", "/uncover", {"letters": twice}))["letters"]
    assert world.call("preparer", "post", "/uncover", {"letters": found}).status_code == 403
    assert world.call("lead", "post", "/uncover", {"letters": found}).status_code == 200
    assert world.call("lead", "post", "/uncover", {"letters": found}).status_code == 409
    key = key_of(world.trial)
    if kind == "samples":
        assert {s.code: letters[key[s.pk]] for s in samples_of(world.trial)} == found
    assert sorted(key.values()) == sorted(drawn.values())


def test_a_plan_with_uneven_numbers_has_no_flasks_to_exchange():
    uneven = replace(PLAN, treatments=(replace(PLAN.treatments[0], samples=3), *PLAN.treatments[1:]))
    world = make("sealed", uneven)
    ways = {way["kind"]: way["why_not"] for way in world.get("preparer", "/shuffle").json()["ways"]}
    assert "equally many" in ways["flasks"]
    assert ways["samples"] == ""
    assert world.call("preparer", "post", "/shuffle", {"kind": "flasks"}).status_code == 422


# Paper


@pytest.mark.parametrize(
    "sheet", ["a4-tags", "a4-8", "a4-21", "a4-24", "letter-tags", "letter-6", "letter-10", "letter-30"]
)
def test_every_square_on_every_label_sheet_can_be_read_and_leads_to_its_sample(sheet):
    world = make("sealed")
    pdf = world.get("scorer", f"/prints/labels.pdf?sheet={sheet}&skip=3").content
    samples = samples_of(world.trial)
    assert sorted(squares_on(pdf)) == sorted(f"http://testserver/s/{sample.pk}" for sample in samples)
    text = words_on(pdf)
    for sample in samples:
        assert f"{sample.code} {check_letter(sample.code, str(world.trial.pk))}" in text
    sheets = world.clients["scorer"].get("/api/label-sheets").json()["sheets"]
    page = next(one["page"] for one in sheets if one["key"] == sheet)
    width, height = pypdfium2.PdfDocument(pdf)[0].get_size()
    assert (width / 72 * 25.4, height / 72 * 25.4) == pytest.approx(page, abs=0.2)


def test_neither_tags_nor_file_names_tell_the_key():
    world = make("sealed")
    answer = world.get("preparer", "/prints/labels.pdf")
    assert not any(secret in words_on(answer.content).casefold() for secret in SECRETS)
    for path, method in (("labels.pdf", "get"), ("mix.pdf", "get"), ("handout.pdf", "post"), ("key.pdf", "post")):
        out = (
            world.get("preparer", f"/prints/{path}")
            if method == "get"
            else world.call("preparer", "post", f"/prints/{path}")
        )
        assert re.search(r'filename="[a-z]+-[0-9a-f]{8}\.pdf"', out.headers["Content-Disposition"])
    for query, at in (("sheet=a4-99", "sheet"), ("skip=10", "skip"), ("copies=6", "copies")):
        assert list(problems(world.get("preparer", f"/prints/labels.pdf?{query}"))) == [at]
    assert world.get("viewer", "/prints/labels.pdf").status_code == 403


def test_printing_who_gets_what_is_a_look_at_the_key():
    world = make("sealed", blind=True)
    assert world.call("lead", "post", "/prints/handout.pdf").status_code == 403
    assert world.call("lead", "post", "/prints/key.pdf").status_code == 403
    out = world.call("preparer", "post", "/prints/handout.pdf?paper=letter").content
    assert "Zebra mulch" in words_on(out)
    looks = [one for one in world.get("lead", "/log").json()["entries"] if one["what"] == "key_look"]
    assert [one["by"] for one in looks] == ["Person preparer"]
    assert world.trial.sealed.seal[:16] in re.sub(
        r"\s", "", words_on(world.call("preparer", "post", "/prints/key.pdf").content)
    )


def test_a_scoring_sheet_begins_the_round_that_it_is_typed_into():
    world = make("running", scored=False)
    text = words_on(world.call("scorer", "post", "/prints/scoring.pdf?checkpoint=c-1").content)
    opened = world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"}).json()
    at = [text.index(sample["code"]) for sample in opened["samples"]]
    assert at == sorted(at)
    assert not any(secret in text.casefold() for secret in SECRETS)
    reading = {
        "id": str(uuid4()),
        "round": opened["id"],
        "sample": opened["samples"][0]["id"],
        "outcome": "o-height",
        "kind": "value",
        "value": 12,
        "source": "paper",
        "taken_at": timezone.now().isoformat(),
    }
    assert world.call("scorer", "post", "/readings", {"readings": [reading]}).status_code == 200
    assert world.get("scorer", "/log").json()["entries"][0]["source"] == "from paper"


# Finding a sample


def test_a_typed_code_finds_its_sample_and_its_letter_catches_a_slip():
    world = make("running", scored=False)
    sample = samples_of(world.trial)[0]
    letter = check_letter(sample.code, str(world.trial.pk))
    for text in (sample.code, f"{sample.code} {letter}", f" {sample.code}-{letter.lower()} "):
        assert world.get("scorer", f"/find?code={text}").json() == {"id": str(sample.pk)}
    for text in ("", "abc", f"{sample.code} {'A' if letter != 'A' else 'B'}", "100"):
        assert list(problems(world.get("scorer", f"/find?code={text}"))) == ["code"]
    told = world.clients["scorer"].get(f"/api/samples/{sample.pk}").json()
    assert (told["code"], told["check"], told["started"], told["score"]) == (sample.code, letter, True, "c-1")
    assert world.clients["outsider"].get(f"/api/samples/{sample.pk}").status_code == 404


# The baseline


MEASURED = replace(
    PLAN,
    checkpoints=(Checkpoint("c-0", "Before", 0, 0, 0, baseline=True), *PLAN.checkpoints),
    start_values=StartValues("Height", "cm", (*[10.0 + i / 10 for i in range(11)], 25.0), balance=True),
)


def test_start_values_become_the_baseline_and_odd_ones_are_told_by_code():
    world = make("sealed", MEASURED)
    told = world.get("lead", "/baseline").json()
    assert told["may_take_over"]
    assert world.call("scorer", "post", "/baseline").status_code == 403
    assert world.call("lead", "post", "/baseline").json() == {"readings": 12}
    assert world.call("lead", "post", "/baseline").status_code == 409
    odd = world.get("scorer", "/baseline").json()["odd"]
    last = samples_of(world.trial)[-1]
    assert [one["code"] for one in odd] == [last.code]
    assert "25 cm" in odd[0]["says"]


# Cycles


def test_a_cycle_is_noted_with_its_settings_and_what_differed():
    world = make("running")
    assert world.call("preparer", "post", "/cycles", {"settings": {"s-warm": "26 °C"}}).status_code == 200
    assert world.call("preparer", "post", "/cycles", {"settings": {"s-none": "1"}}).status_code == 422
    entry = next(one for one in world.get("lead", "/log").json()["entries"] if one["what"] == "cycle")
    assert "26 °C where 20 °C was planned" in entry["reason"]


# Devices


@contextmanager
def standin(settings, kind="scale", form="json"):
    made = StandIn(kind, form, 7)
    server = server_for(made, 0)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    units = [channel.unit for channel in made.nature.channels.values()]
    settings.DEVICES = [
        {
            "key": kind,
            "name": f"The {kind}",
            "form": form,
            "host": "127.0.0.1",
            "port": server.server_address[1],
            "units": units,
            "weather": kind == "weather",
        }
    ]
    try:
        yield made
    finally:
        server.shutdown()
        server.server_close()


def say(settings, line: str) -> str:
    """Say something to the stand-in itself."""
    with socket.create_connection(("127.0.0.1", settings.DEVICES[0]["port"]), timeout=2) as line_to:
        line_to.sendall(line.encode() + b"\n")
        return line_to.makefile().readline().strip()


@pytest.mark.parametrize("form", ["json", "text"])
def test_a_stable_reading_comes_in_the_unit_that_is_wanted(settings, form):
    world = make("running")
    put = {"json": '{"ask": "put", "channel": "mass", "value": 83.2}', "text": "P mass 83.2"}
    with standin(settings, form=form):
        assert [d["key"] for d in world.clients["scorer"].get("/api/devices?unit=kg").json()["devices"]] == ["scale"]
        assert world.clients["scorer"].get("/api/devices?unit=pH").json()["devices"] == []
        assert say(settings, put[form])
        for unit, value in (("g", 83.2), ("kg", 0.0832), ("oz", 2.935)):
            out = (
                world.clients["scorer"]
                .post("/api/devices/scale/read", {"unit": unit}, content_type="application/json")
                .json()
            )
            assert out["value"] == pytest.approx(value, rel=0.01)
            raw = "" if unit == "g" else ", read 83."
            assert (out["unit"], out["device"][: len("The scale" + raw)]) == (unit, "The scale" + raw)


FAULTS = [
    ("silent", "does not answer"),
    ("nonsense", "cannot be understood"),
    ("overload", "reports: overload"),
    ("unplugged", "was unplugged"),
    ("restless", "does not come to rest"),
]


@pytest.mark.parametrize("form", ["json", "text"])
@pytest.mark.parametrize(("mode", "says"), FAULTS)
def test_a_device_that_fails_says_so_and_leaves_typing_to_people(settings, form, mode, says):
    world = make("running")
    fault = {"json": f'{{"ask": "fault", "mode": "{mode}"}}', "text": f"F {mode}"}
    with standin(settings, form=form):
        assert say(settings, fault[form])
        out = world.clients["scorer"].post("/api/devices/scale/read", {"unit": "g"}, content_type="application/json")
        assert out.status_code == 503
        told = out.json()["problems"][0]["says"]
        assert says in told
        assert told.endswith("Type the value instead, or try again.")
    gone = world.clients["scorer"].post("/api/devices/scale/read", {"unit": "g"}, content_type="application/json")
    assert "is not there" in gone.json()["problems"][0]["says"]


def test_the_same_seed_gives_the_same_noise_and_faults_never_reach_the_server_unasked(settings):
    first, second = (StandIn("meter", "text", 3) for _ in range(2))
    for one in (first, second):
        one.nature.began = 0.0
    shown = [[one.nature.shows(t / 10)[0] for t in range(20)] for one in (first, second)]
    assert shown[0] == shown[1]
    assert len({str(one) for one in shown[0]}) > 5
    with standin(settings, "meter", "text"):
        assert say(settings, "R").endswith("; S")
        assert say(settings, "W").startswith("meter acidity")
        assert say(settings, "hello") == "E unknown request"


# Notes


def test_a_note_goes_into_the_log_with_its_working():
    world = make("running")
    body = {"text": "Dose by the label’s rate: 3 mL for each.", "working": "4 mL/L × 0.75 L = 3 mL."}
    assert world.call("scorer", "post", "/notes", body).status_code == 200
    entry = next(one for one in world.get("scorer", "/log").json()["entries"] if one["what"] == "note")
    assert (entry["words"], entry["reason"]) == (body["text"], body["working"])
    assert list(problems(world.call("scorer", "post", "/notes", {"text": "  "}))) == ["text"]
    assert world.call("viewer", "post", "/notes", body).status_code == 403
