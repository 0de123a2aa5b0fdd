"""The photo gauge through its doors: tried, run over a look, kept as readings, blind; and brought along in a pack."""

from __future__ import annotations

import io
from dataclasses import replace
from datetime import timedelta
from uuid import uuid4

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import DatabaseError, transaction
from django.utils import timezone
from PIL import Image

from fieldtally.core.design.plan import Outcome
from fieldtally.core.photos.camera import Shot, marked, photo_of
from fieldtally.core.photos.colour import delta_e, lab_of_hex
from fieldtally.core.photos.scenes import SOUND, SPOILED, Scene, between, flower, leaf, speckled, stick, truth_of
from fieldtally.core.scales import CountScale, MeasurementScale, PercentScale, Shade, ShadeScale
from fieldtally.core.trialpack.reading import read_pack
from fieldtally.server.measuring import gauging
from fieldtally.server.measuring.models import Gauging, Photo, PhotoFile
from fieldtally.server.plan.models import Sample
from fieldtally.server.rounds.models import Reading
from fieldtally.server.share.models import Import
from fieldtally.server.share.pack_reader import bring_in
from tests.server.conftest import PLAN, make

pytestmark = pytest.mark.django_db
STEPS = ("#dd8a2c", "#ab6a38", "#6a4233")
OUTCOMES = (
    Outcome("o-rust", "Rusted, see Zebra mulch", PercentScale("rust", 5), primary=False),
    Outcome("o-shade", "Shade", ShadeScale(tuple(Shade(c, c) for c in STEPS)), primary=False),
    Outcome("o-faded", "Faded", MeasurementScale("ΔE2000", 0.1, 0, 80), primary=False),
)
GAUGED = replace(PLAN, outcomes=(*PLAN.outcomes, *OUTCOMES))
SHOT = Shot(width=700, kelvin=4800, stops=-0.3)


def jpeg(scene: Scene, shot: Shot = SHOT, seed: int = 3) -> bytes:
    written = io.BytesIO()
    Image.fromarray(photo_of(scene.with_card(), shot, np.random.default_rng(seed))).save(written, "JPEG", quality=92)
    return written.getvalue()


def form(**kw):
    marks = {"thing": {"kind": "polygon", "points": marked(leaf(5, np.random.default_rng(1)), SHOT).points}}
    recipe = {
        "measure": "cover",
        "outline": "stands_out",
        "counts": [lab_of_hex(SPOILED)],
        "ignores": [lab_of_hex(SOUND)],
    }
    return {"outcome": "o-rust", "recipe": recipe, "marks": marks, **kw}


@pytest.fixture
def world():
    made = make("running", GAUGED)
    made.samples = list(Sample.objects.filter(trial=made.trial).order_by("code"))
    return made


def send(world, sample, content: bytes, *, look: str = "c-1", role: str = "scorer", minutes: int = 0):
    pk = uuid4()
    taken = (timezone.now() - timedelta(minutes=30 - minutes)).isoformat()
    file = SimpleUploadedFile("x.jpg", content, "image/jpeg")
    body = {"id": str(pk), "taken_at": taken, "checkpoint": look, "sample": str(sample.pk), "file": file}
    answer = world.clients[role].post(f"/api/trials/{world.trial.pk}/photos", body)
    assert answer.status_code == 200, answer.content
    return pk


def with_leaves(world, shares=(5, 20, 40, 60, 10, 30)):
    """A photo of each sample at the first look, with the share that is rusted; the photos and the truths."""
    found = []
    for i, (sample, share) in enumerate(zip(world.samples, shares, strict=False)):
        scene = leaf(share, np.random.default_rng(50 + i))
        found.append((send(world, sample, jpeg(scene, seed=i), minutes=i), truth_of(scene).cover))
    return found


def test_what_photos_can_tell_is_listed_without_names(world):
    answer = world.get("scorer", "/gauge").json()
    assert [(one["key"], one["measures"][0]["key"]) for one in answer["outcomes"]][-3:] == [
        ("o-rust", "cover"),
        ("o-shade", "shade"),
        ("o-faded", "difference"),
    ]
    assert "zebra" not in str(answer).casefold()
    assert world.get("viewer", "/gauge").status_code == 403
    assert world.get("preparer", "/gauge").status_code == 403


def test_a_photo_is_tried_and_nothing_is_kept(world):
    photo, true = with_leaves(world, (30,))[0]
    answer = world.call("scorer", "post", "/gauge/try", form(photo=str(photo)))
    tried = answer.json()
    assert tried["value"] == pytest.approx(true, abs=2)
    assert tried["uncertainty"] > 0
    assert len(tried["card"]) == 4
    assert Image.open(io.BytesIO(__import__("base64").b64decode(tried["overlay"]))).format == "PNG"
    assert not Gauging.objects.exists()
    picked = world.call(
        "scorer", "post", "/gauge/pick", {"photo": str(photo), "marks": form()["marks"], "x": 0.0, "y": 0.0}
    )
    assert picked.json()["shown"].startswith("#")


@pytest.mark.parametrize(
    ("change", "at"),
    [
        ({"outcome": "o-grade"}, "outcome"),
        ({"recipe": {"measure": "shade"}}, "recipe.steps"),
        ({"recipe": {"measure": "cover", "tolerance": 900}}, "recipe.tolerance"),
        ({"marks": {"thing": {"kind": "polygon", "points": [[0, 0]]}}}, "marks.thing"),
    ],
)
def test_bad_settings_are_said_at_their_place(world, change, at):
    photo, _ = with_leaves(world, (30,))[0]
    answer = world.call("scorer", "post", "/gauge/try", form(photo=str(photo), **change))
    assert answer.status_code == 422
    assert at in [problem["at"] for problem in answer.json()["problems"]]


def test_one_recipe_runs_over_all_and_is_kept_once_as_readings(world, django_capture_on_commit_callbacks):
    found = with_leaves(world)
    again = send(world, world.samples[0], jpeg(leaf(5, np.random.default_rng(50)), replace(SHOT, kelvin=6500), 9))
    assert world.call("scorer", "post", "/gauge/c-1/o-rust/run", {}).status_code == 409
    assert world.call("scorer", "put", "/gauge/recipe", form(photo=str(found[0][0]))).status_code == 200
    with django_capture_on_commit_callbacks(execute=False):
        run = world.call("scorer", "post", "/gauge/c-1/o-rust/run", {})
    assert run.status_code == 202
    gauging.gauge_all.call(run.json()["id"])
    table = world.get("scorer", "/gauge/c-1/o-rust").json()
    assert table["run"] == {"id": run.json()["id"], "done": 7, "total": 7, "ended": True, "failed": ""}
    read = {one["photo"]: one["gauging"]["value"] for one in table["photos"]}
    for photo, true in found:
        assert read[str(photo)] == pytest.approx(true, abs=2)
    assert table["repeats"]["samples"] == 1
    assert table["repeats"]["deviation"] == pytest.approx(
        abs(read[str(again)] - read[str(found[0][0])]) / 2**0.5, abs=1e-9
    )
    kept = world.call("scorer", "post", "/gauge/c-1/o-rust/keep", {})
    assert kept.json() == {"written": 6}
    rows = Reading.objects.filter(trial=world.trial, outcome__key="o-rust").select_related("sample")
    values = {row.sample.code: row.value for row in rows}
    first = [read[str(found[0][0])], read[str(again)]]
    assert values[world.samples[0].code] == pytest.approx(np.mean(first), abs=0.06)
    assert all(row.source == "device" and row.device.startswith("photo gauge, ±") for row in rows)
    assert world.call("scorer", "post", "/gauge/c-1/o-rust/keep", {}).json() == {"written": 0}
    # Whoever lets it read, the gauge agrees with itself: that is no agreement of scorers, and is said.
    rust = next(one for one in world.get("lead", "/agreement").json()["outcomes"] if one["outcome"] == "o-rust")
    assert "measured in photos by the gauge" in rust["found"]["advice"][0]
    assert rust["found"]["pairs"] == []
    assert all(one["gauging"]["kept"] for one in world.get("scorer", "/gauge/c-1/o-rust").json()["photos"])
    # Another scorer sees neither values nor pictures of it before the key is open.
    other = world.get("lead", "/gauge/c-1/o-rust").json()
    assert all(one["gauging"] is None for one in other["photos"])
    mask = f"/api/gaugings/{table['photos'][0]['gauging']['id']}.png"
    assert world.clients["scorer"].get(mask)["Content-Type"] == "image/png"
    assert world.clients["viewer"].get(mask).status_code == 403


def test_a_photo_marked_by_hand_keeps_its_marks_in_the_next_run(world):
    found = with_leaves(world, (20, 40))
    world.call("scorer", "put", "/gauge/recipe", form(photo=str(found[0][0])))
    own = {"thing": {"kind": "ellipse", "points": [[0.5, 0.2], [0.7, 0.5]]}}
    one = world.call("scorer", "post", "/gauge-one/o-rust", {"photo": str(found[1][0]), "marks": own})
    assert one.status_code == 200
    row = gauging.recipe_of(world.trial, "o-rust")
    run = gauging.begin_run(row, world.users["scorer"], "c-1")
    gauging.gauge_all.call(str(run.pk))
    newest = gauging.newest(row, world.users["scorer"], Photo.objects.filter(trial=world.trial))
    assert newest[found[1][0]].marks["thing"]["kind"] == "ellipse"
    assert newest[found[0][0]].marks["thing"]["kind"] == "polygon"


def test_a_shade_between_two_steps_is_a_reading_of_the_gauge_alone(world):
    photo = send(world, world.samples[0], jpeg(flower(between(STEPS, 1.6), np.random.default_rng(4), uneven=0.5)))
    recipe = {"measure": "shade", "outline": "stands_out", "steps": [lab_of_hex(c) for c in STEPS]}
    world.call("scorer", "put", "/gauge/recipe", form(photo=str(photo), outcome="o-shade", recipe=recipe))
    gauging.gauge_photo(gauging.recipe_of(world.trial, "o-shade"), world.users["scorer"], Photo.objects.get(pk=photo))
    assert world.call("scorer", "post", "/gauge/c-1/o-shade/keep", {}).json() == {"written": 1}
    assert Reading.objects.get(outcome__key="o-shade").value == pytest.approx(1.6, abs=0.2)
    typed = {
        "id": str(uuid4()),
        "round": str(world.rounds["c-1"]),
        "sample": str(world.samples[1].pk),
        "outcome": "o-shade",
        "kind": "value",
        "value": 1.6,
        "taken_at": timezone.now().isoformat(),
    }
    assert world.call("scorer", "post", "/readings", {"readings": [typed]}).status_code == 422
    out = {**typed, "id": str(uuid4()), "source": "device", "device": "x", "value": 3.4}
    assert "chart" in world.call("scorer", "post", "/readings", {"readings": [out]}).json()["problems"][0]["says"]


def test_a_length_stays_in_the_unit_of_its_outcome(world):
    photos = [send(world, world.samples[0], jpeg(stick(104), SHOT, seed)) for seed in (1, 2)]
    recipe = {"measure": "length"}
    world.call("scorer", "put", "/gauge/recipe", form(photo=str(photos[0]), outcome="o-height", recipe=recipe))
    for photo in photos:
        row = gauging.recipe_of(world.trial, "o-height")
        gauging.gauge_photo(row, world.users["scorer"], Photo.objects.get(pk=photo))
    world.call("scorer", "post", "/gauge/c-1/o-height/keep", {})
    newest = Reading.objects.get(outcome__key="o-height", sample=world.samples[0], superseded_by=None)
    assert newest.value == pytest.approx(np.hypot(10.4, 1.2), rel=0.03)
    assert newest.source == "device"


def test_a_unit_that_names_a_treatment_is_not_told():
    counted = Outcome("o-seen", "Seen", CountScale(40, "Zebra mulch flecks"), primary=False)
    world = make("running", replace(PLAN, outcomes=(*PLAN.outcomes, counted)))
    sample = Sample.objects.filter(trial=world.trial).first()
    photo = send(world, sample, jpeg(speckled(7, np.random.default_rng(1))))
    recipe = {"measure": "spots", "outline": "stands_out"}
    asked = form(photo=str(photo), outcome="o-seen", recipe=recipe)
    world.call("scorer", "put", "/gauge/recipe", asked)
    row = gauging.recipe_of(world.trial, "o-seen")
    gauging.gauge_photo(row, world.users["scorer"], Photo.objects.get(pk=photo))
    assert world.call("scorer", "post", "/gauge/c-1/o-seen/keep", {}).json() == {"written": 1}
    begun = world.call("scorer", "post", "/training", {"outcome": "o-seen"}).json()
    client = world.clients["scorer"]
    for thing in begun["things"]:
        given = {"place": thing["place"], "given": 9}
        client.post(f"/api/training/{begun['id']}/grades", given, "application/json")
    answers = [
        world.call("scorer", "post", "/gauge/try", asked),
        *(world.get("scorer", p) for p in ("/gauge", "/gauge/c-1/o-seen", "/training", "/log", "/together")),
        client.get(f"/api/training/{begun['id']}"),
    ]
    for answer in answers:
        assert answer.status_code == 200
        assert "zebra" not in answer.content.decode().casefold()


def test_what_the_scale_does_not_hold_is_refused(world):
    photo = send(world, world.samples[0], jpeg(stick(60)))
    tight = replace(OUTCOMES[2], scale=MeasurementScale("mm", 1, 0, 20))
    tried = gauging.measured(
        world.trial,
        tight,
        gauging.recipes.validate_python({"measure": "length"}),
        gauging.marks_in.validate_python(form()["marks"]),
        gauging.Shown(Photo.objects.get(pk=photo)),
    )
    assert tried.value is None
    assert "above the plausible range" in tried.flags[-1].says


def test_a_difference_is_taken_from_the_same_sample_at_another_look(world):
    pale = flower(between(STEPS, 1.0), np.random.default_rng(4), uneven=0.5)
    dark = flower(between(STEPS, 2.0), np.random.default_rng(4), uneven=0.5)
    send(world, world.samples[0], jpeg(pale, replace(SHOT, kelvin=6500, stops=0.3)), look="c-1")
    later = send(world, world.samples[0], jpeg(dark), look="c-2")
    recipe = {"measure": "difference", "outline": "stands_out", "since_look": "c-1"}
    tried = world.call("scorer", "post", "/gauge/try", form(photo=str(later), outcome="o-faded", recipe=recipe)).json()
    assert tried["value"] == pytest.approx(float(delta_e(truth_of(pale).colour, truth_of(dark).colour)), abs=1)
    lone = {**recipe, "since_look": "", "since_sample": world.samples[1].code}
    found = world.call("scorer", "post", "/gauge/try", form(photo=str(later), outcome="o-faded", recipe=lone)).json()
    assert found["value"] is None
    assert [flag["key"] for flag in found["flags"] if flag["refuses"]] == ["no base"]


def test_what_was_measured_cannot_be_changed_and_a_photo_that_is_gone_fails_the_run(world):
    found = with_leaves(world, (20, 40))
    world.call("scorer", "put", "/gauge/recipe", form(photo=str(found[0][0])))
    row = gauging.recipe_of(world.trial, "o-rust")
    made = gauging.gauge_photo(row, world.users["scorer"], Photo.objects.get(pk=found[1][0]))
    with pytest.raises(DatabaseError, match="permission denied"), transaction.atomic():
        Gauging.objects.filter(pk=made.pk).update(value=99)
    PhotoFile.objects.filter(photo=found[1][0]).delete()
    run = gauging.begin_run(row, world.users["scorer"], "c-1")
    gauging.gauge_all.call(str(run.pk))
    run.refresh_from_db()
    assert run.ended_at is not None
    assert run.failed


def test_a_run_is_stopped_by_whoever_began_it(world):
    found = with_leaves(world, (20, 40))
    world.call("scorer", "put", "/gauge/recipe", form(photo=str(found[0][0])))
    run = gauging.begin_run(gauging.recipe_of(world.trial, "o-rust"), world.users["scorer"], "c-1")
    path = f"/api/gauge-runs/{run.pk}"
    assert world.clients["lead"].delete(path).status_code == 404
    assert world.clients["scorer"].delete(path).status_code == 204
    gauging.gauge_all.call(str(run.pk))
    assert not Gauging.objects.exists()
    assert world.get("scorer", "/gauge/c-1/o-rust").json()["run"]["ended"] is True


def test_nothing_is_measured_once_the_key_is_open(world):
    photo, _ = with_leaves(world, (20,))[0]
    world.call("scorer", "put", "/gauge/recipe", form(photo=str(photo)))
    world.call("lead", "post", "/key/ask", {})
    world.call("lead", "post", "/key/open", {"title": GAUGED.title})
    assert world.call("scorer", "put", "/gauge/recipe", form(photo=str(photo))).status_code == 409
    assert world.call("scorer", "post", "/gauge/c-1/o-rust/run", {}).status_code == 409
    assert (
        world.call("scorer", "post", "/gauge-one/o-rust", {"photo": str(photo), "marks": form()["marks"]}).status_code
        == 409
    )


def test_the_card_prints_and_is_found_in_a_photo_of_the_print(world):
    import pypdfium2

    from fieldtally.core.photos.lens import find_card

    sheet = world.get("scorer", "/prints/photo-card.pdf").content
    document = pypdfium2.PdfDocument(sheet)
    assert "Shade" in document[len(document) - 1].get_textpage().get_text_range()
    page = document[0].render(scale=110 / 72).to_pil().convert("RGB")
    upper = page.crop((0, 0, page.width, page.height // 2))
    found = find_card(np.asarray(upper))
    assert found is not None
    # 102 mm between the marks at 110 dots an inch.
    assert np.linalg.norm(found.marks[1] - found.marks[0]) == pytest.approx(102 / 25.4 * 110, rel=0.01)
    plain = world.clients["viewer"].get("/api/prints/photo-card.pdf?paper=letter")
    assert plain.content.startswith(b"%PDF")


def test_a_pack_brings_what_was_measured_along(world):
    found = with_leaves(world, (20, 40))
    world.call("scorer", "put", "/gauge/recipe", form(photo=str(found[0][0])))
    row = gauging.recipe_of(world.trial, "o-rust")
    for photo, _ in found:
        gauging.gauge_photo(row, world.users["scorer"], Photo.objects.get(pk=photo))
    world.call("scorer", "post", "/gauge/c-1/o-rust/keep", {})
    world.call("lead", "post", "/key/ask", {})
    world.call("lead", "post", "/key/open", {"title": GAUGED.title})
    sent = world.get("lead", "/pack.zip").content
    came = bring_in(read_pack(sent), world.users["outsider"], "pack", lambda done, total: None)
    before = list(Gauging.objects.filter(trial=world.trial).order_by("at").values_list("value", "flags", "marks"))
    assert list(Gauging.objects.filter(trial=came).order_by("at").values_list("value", "flags", "marks")) == before
    assert Reading.objects.filter(trial=came, gauged__isnull=False).count() == 2
    assert Import.objects.count() == 0
    back = world.clients["outsider"].get(f"/api/trials/{came.pk}/pack.zip").content
    again = bring_in(read_pack(back), world.users["outsider"], "pack", lambda done, total: None)
    assert Gauging.objects.filter(trial=again).count() == 2


def kept_at(world, look, outcome, photos):
    """The photos measured by the recipe that stands, and kept as readings."""
    row = gauging.recipe_of(world.trial, outcome)
    for photo in photos:
        gauging.gauge_photo(row, world.users["scorer"], Photo.objects.get(pk=photo))
    return world.call("scorer", "post", f"/gauge/{look}/{outcome}/keep", {}).json()["written"]


def test_a_photo_thrown_out_takes_its_reading_back_with_the_reason(world):
    found = with_leaves(world, (20, 40))
    world.call("scorer", "put", "/gauge/recipe", form(photo=str(found[0][0])))
    assert kept_at(world, "c-1", "o-rust", [photo for photo, _ in found]) == 2
    gone = world.clients["lead"].post(
        f"/api/photos/{found[1][0]}/away", {"reason": "a thumb over the lens"}, "application/json"
    )
    assert gone.status_code == 204
    standing = Reading.objects.current().filter(trial=world.trial, outcome__key="o-rust")
    assert [row.sample_id for row in standing] == [world.samples[0].pk]
    last = Reading.objects.newest().get(trial=world.trial, outcome__key="o-rust", sample=world.samples[1])
    assert (last.kind, last.scorer) == ("withdrawn", world.users["scorer"])
    assert last.reason == "The photo that it was read from was taken away: a thumb over the lens"
    assert last.supersedes.value == pytest.approx(found[1][1], abs=2)
    told = str(world.get("lead", "/log").json())
    assert "What was read from it was taken back (1 reading)." in told
    # Of the other photos it is measured anew.
    again = send(world, world.samples[1], jpeg(leaf(40, np.random.default_rng(51)), seed=9))
    assert kept_at(world, "c-1", "o-rust", [again]) == 1


def test_what_is_measured_again_alike_is_no_correction(world):
    found = with_leaves(world, (20, 40))
    world.call("scorer", "put", "/gauge/recipe", form(photo=str(found[0][0])))
    photos = [photo for photo, _ in found]
    assert kept_at(world, "c-1", "o-rust", photos) == 2
    assert kept_at(world, "c-1", "o-rust", photos) == 0
    assert Reading.objects.filter(trial=world.trial, outcome__key="o-rust").count() == 2
    # With other settings it is: and until then it is said that what stands was measured otherwise.
    other = {**form()["recipe"], "counts": [lab_of_hex("#6a4630")]}
    world.call("scorer", "put", "/gauge/recipe", form(photo=str(photos[0]), recipe=other))
    assert world.get("scorer", "/gauge/c-1/o-rust").json()["otherwise"] == 2
    assert kept_at(world, "c-1", "o-rust", photos[:1]) == 1
    assert world.get("scorer", "/gauge/c-1/o-rust").json()["otherwise"] == 1


def test_a_mark_on_bare_ground_is_said(world):
    found = with_leaves(world)
    world.call("scorer", "put", "/gauge/recipe", form(photo=str(found[0][0])))
    recipe = {**form()["recipe"], "outline": "marked"}
    world.call("scorer", "put", "/gauge/recipe", form(photo=str(found[0][0]), recipe=recipe))
    row = gauging.recipe_of(world.trial, "o-rust")
    bare = gauging.marks_in.validate_python({"thing": {"kind": "ellipse", "points": [[0.04, 0.06], [0.25, 0.34]]}})
    for i, (photo, _) in enumerate(found):
        gauging.gauge_photo(row, world.users["scorer"], Photo.objects.get(pk=photo), bare if i == 2 else None)
    told = world.get("scorer", "/gauge/c-1/o-rust").json()["photos"]
    unlike = [one["photo"] for one in told if "unlike" in {flag["key"] for flag in one["gauging"]["flags"]}]
    assert unlike == [str(found[2][0])]
    world.call("scorer", "post", "/gauge/c-1/o-rust/keep", {})
    assert Reading.objects.get(outcome__key="o-rust", sample=world.samples[2]).device.endswith(", marked")


def test_a_difference_reads_the_earlier_photo_where_the_thing_is_or_was_marked_there(world):
    pale = flower(between(STEPS, 1.0), np.random.default_rng(4), uneven=0.5)
    dark = flower(between(STEPS, 2.0), np.random.default_rng(4), uneven=0.5)
    aside = replace(
        pale,
        shapes=tuple(replace(s, outline=tuple((x + 48, y - 12) for x, y in s.outline)) for s in pale.shapes),
        centre=(pale.centre[0] + 48, pale.centre[1] - 12),
    )
    first = send(world, world.samples[0], jpeg(aside), look="c-1")
    later = send(world, world.samples[0], jpeg(dark), look="c-2")
    true = float(delta_e(truth_of(pale).colour, truth_of(dark).colour))
    recipe = {"measure": "difference", "outline": "stands_out", "since_look": "c-1"}
    asked = form(photo=str(later), outcome="o-faded", recipe=recipe)
    assert world.call("scorer", "post", "/gauge/try", asked).json()["value"] == pytest.approx(true, abs=1.5)
    # Marked there by hand, that counts: here on the bare bench, which is plainly another colour.
    world.call("scorer", "put", "/gauge/recipe", form(photo=str(later), outcome="o-faded", recipe=recipe))
    bare = {"thing": {"kind": "ellipse", "points": [[0.04, 0.06], [0.25, 0.34]]}}
    marked_all = {**recipe, "outline": "marked"}
    assert world.call("scorer", "post", "/gauge-one/o-faded", {"photo": str(first), "marks": bare}).status_code == 200
    tried = world.call("scorer", "post", "/gauge/try", {**asked, "recipe": marked_all}).json()
    assert tried["value"] is None or abs(tried["value"] - true) > 5
    # A refused earlier photo is told as refused, not as missing.
    dim = io.BytesIO()
    Image.fromarray(np.full((525, 700, 3), 40, np.uint8)).save(dim, "JPEG")
    send(world, world.samples[1], dim.getvalue(), look="c-1")
    second = send(world, world.samples[1], jpeg(dark), look="c-2")
    told = world.call("scorer", "post", "/gauge/try", {**asked, "photo": str(second)}).json()
    assert [flag["key"] for flag in told["flags"] if flag["refuses"]] == ["base refused"]
    assert "In the photo it is compared with" in str(told["flags"])
