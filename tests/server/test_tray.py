"""Photos dropped in a heap: what becomes of each, and that nothing is filed wrong, twice or by half."""

import io
from datetime import timedelta
from uuid import uuid4

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from PIL import Image

from benchmarks.filing import tag_font
from fieldtally.core.blinding.checking import check_letter
from fieldtally.core.photos.camera import Shot, photo_of
from fieldtally.core.photos.scenes import leaf
from fieldtally.core.photos.tagged import Tag, with_tag
from fieldtally.server.measuring import tray
from fieldtally.server.measuring.models import Photo, PhotoFile, TrayPhoto
from fieldtally.server.plan.models import Sample
from tests.server.conftest import make

pytestmark = pytest.mark.django_db
SHOT = Shot(width=1400)


@pytest.fixture
def world():
    made = make("running")
    made.samples = list(Sample.objects.filter(trial=made.trial).order_by("code"))
    return made


def shot_of(*codes, world, taken=None, camera="K1", seed=1, clock=None) -> bytes:
    """A photo (JPEG) with the tags of these samples, taken then (zone of its own: UTC)."""
    rng = np.random.default_rng(seed)
    scene = leaf(10, rng)
    for i, sample in enumerate(codes):
        letter = check_letter(sample.code, str(world.trial.pk))
        square = f"https://tally.tarnlane.example/s/{sample.pk}"
        at = ((75.0, 70.0), (230.0, 190.0))[i]
        scene = with_tag(scene, Tag(square, sample.code, letter, at=at, turn=20.0), tag_font())
    if clock is not None:
        square = f"https://tally.tarnlane.example/now/{clock:%Y-%m-%dT%H:%M:%SZ}"
        scene = with_tag(scene, Tag(square, "", ""), tag_font())
    return jpeg(photo_of(scene, SHOT, rng), taken, camera)


def jpeg(pixels, taken, camera="K1") -> bytes:
    exif = Image.Exif()
    exif[0x0110] = camera
    if taken is not None:
        own = exif.get_ifd(0x8769)
        own[0x9003], own[0x9011] = f"{taken:%Y:%m:%d %H:%M:%S}", "+00:00"
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG", quality=92, exif=exif)
    return out.getvalue()


def drop(world, content: bytes, role="scorer", pk=None, copied_at=None):
    told = {"id": str(pk or uuid4()), "file": SimpleUploadedFile("jute day 1.jpg", content, "image/jpeg")}
    if copied_at:
        told["copied_at"] = copied_at.isoformat()
    return world.clients[role].post(f"/api/trials/{world.trial.pk}/tray", told)


def read(world, role="scorer"):
    while TrayPhoto.objects.filter(ended_at=None, read_at=None).exists():
        tray.read_tags.call(str(world.trial.pk), world.users[role].pk)


def shown(world, role="scorer"):
    return world.get(role, "/tray").json()


def test_a_photo_with_its_tag_and_moment_files_itself(world):
    sample = world.samples[2]
    now = timezone.now()
    assert drop(world, shot_of(sample, world=world, taken=now - timedelta(minutes=20))).json() == {"twice": False}
    before = shown(world)
    assert before["unread"] == 1
    assert not before["photos"][0]["sure"]
    read(world)
    one = shown(world)["photos"][0]
    assert (one["code"], one["checkpoint"], one["sure"], one["says"]) == (sample.code, "c-1", True, "")
    filed = world.call("scorer", "post", "/tray/file", {"photos": [one["id"]]})
    assert filed.json() == {"filed": 1}
    photo = Photo.objects.get(pk=one["id"])
    assert (photo.sample, photo.checkpoint.key) == (sample, "c-1")
    assert abs(photo.taken_at - (now - timedelta(minutes=20))) < timedelta(seconds=2)
    assert not Image.open(io.BytesIO(bytes(PhotoFile.objects.get(photo=photo).full))).getexif()
    assert shown(world)["photos"] == []
    row = TrayPhoto.objects.get(pk=one["id"])
    assert (bytes(row.full), bytes(row.small), row.photo) == (b"", b"", photo)


def test_the_same_file_is_not_taken_twice_while_it_waits_nor_after_it_was_filed(world):
    content = shot_of(world.samples[0], world=world, taken=timezone.now() - timedelta(minutes=5))
    pk = uuid4()
    assert drop(world, content, pk=pk).json() == {"twice": False}
    # Sent again because the answer was lost on the way.
    assert drop(world, content, pk=pk).json() == {"twice": False}
    assert drop(world, content).json() == {"twice": True}
    digest = TrayPhoto.objects.get().digest
    assert world.call("scorer", "post", "/tray/known", {"digests": [digest, "0" * 64]}).json() == {"digests": [digest]}
    read(world)
    world.call("scorer", "post", "/tray/file", {"photos": [str(pk)]})
    assert drop(world, content).json() == {"twice": True}
    assert Photo.objects.count() == 1


def test_what_is_not_sure_is_not_filed_and_takes_the_others_along(world):
    now = timezone.now()
    drop(world, shot_of(world.samples[0], world=world, taken=now - timedelta(minutes=9)))
    drop(world, shot_of(*world.samples[1:3], world=world, taken=now - timedelta(minutes=8)))
    read(world)
    photos = shown(world)["photos"]
    assert [one["sure"] for one in photos] == [True, False]
    assert "Two tags" in photos[1]["says"]
    assert set(photos[1]["may_be"]) == {one.code for one in world.samples[1:3]}
    answer = world.call("scorer", "post", "/tray/file", {"photos": [one["id"] for one in photos]})
    assert answer.status_code == 409
    assert Photo.objects.count() == 0
    said = {"photos": [photos[1]["id"]], "code": world.samples[2].code}
    assert world.call("scorer", "post", "/tray/say", said).status_code == 204
    answer = world.call("scorer", "post", "/tray/file", {"photos": [one["id"] for one in photos]})
    assert answer.json() == {"filed": 2}
    assert {one.sample for one in Photo.objects.all()} == {world.samples[0], world.samples[2]}


def test_a_file_that_tells_no_moment_is_asked_about_and_never_guessed(world):
    drop(world, shot_of(world.samples[0], world=world), copied_at=timezone.now() - timedelta(minutes=3))
    read(world)
    one = shown(world)["photos"][0]
    assert (one["code"], one["checkpoint"], one["sure"]) == (world.samples[0].code, "c-1", False)
    assert "copied" in one["says"]
    world.call("scorer", "post", "/tray/say", {"photos": [one["id"]], "checkpoint": "c-1"})
    assert shown(world)["photos"][0]["sure"]


def test_one_photo_of_the_time_code_puts_the_cameras_clock_right(world):
    now = timezone.now()
    off = timedelta(days=400)
    drop(world, shot_of(world.samples[0], world=world, taken=now - timedelta(minutes=30) - off))
    read(world)
    assert "before the trial began" in shown(world)["photos"][0]["says"]
    drop(world, shot_of(world=world, taken=now - timedelta(minutes=1) - off, clock=now - timedelta(minutes=1), seed=2))
    read(world)
    found = shown(world)
    clock = next(one for one in found["photos"] if one["clock"])
    one = next(one for one in found["photos"] if not one["clock"])
    assert one["sure"]
    assert abs(found["shifts"][0]["seconds"] - off.total_seconds()) < 2
    answer = world.call("scorer", "post", "/tray/file", {"photos": [one["id"], clock["id"]]})
    assert answer.json() == {"filed": 1}
    assert shown(world)["photos"] == []
    assert abs(Photo.objects.get().taken_at - (now - timedelta(minutes=30))) < timedelta(seconds=3)


def test_the_time_on_any_clock_in_a_photo_does_too(world):
    now = timezone.now()
    drop(world, shot_of(world.samples[0], world=world, taken=now + timedelta(days=3)))
    drop(world, shot_of(world=world, taken=now + timedelta(days=3, minutes=2), seed=2))
    read(world)
    one, clock = shown(world)["photos"]
    assert "in the future" in one["says"]
    told = {"photos": [clock["id"]], "clock": (now - timedelta(minutes=3)).isoformat()}
    assert world.call("scorer", "post", "/tray/say", told).status_code == 204
    assert shown(world)["photos"][0]["sure"]
    # One that is still to come is not believed, nor one for several photos.
    told["clock"] = (now + timedelta(days=1)).isoformat()
    assert world.call("scorer", "post", "/tray/say", told).status_code == 422
    told |= {"clock": now.isoformat(), "photos": [one["id"], clock["id"]]}
    assert world.call("scorer", "post", "/tray/say", told).status_code == 422


@pytest.mark.parametrize(
    ("said", "says"),
    [({"code": "no"}, "no sample no"), ({"checkpoint": "c-99"}, "no such look")],
)
def test_what_is_said_by_hand_must_be_there(world, said, says):
    drop(world, shot_of(world=world, taken=timezone.now()))
    one = shown(world)["photos"][0]
    answer = world.call("scorer", "post", "/tray/say", {"photos": [one["id"]], **said})
    assert answer.status_code == 422
    assert says in answer.content.decode()


def test_a_photo_of_the_whole_board_is_said_so(world):
    drop(world, shot_of(world=world, taken=timezone.now() - timedelta(minutes=4)))
    read(world)
    one = shown(world)["photos"][0]
    assert one["says"] == "No tag could be read in it."
    world.call("scorer", "post", "/tray/say", {"photos": [one["id"]], "code": "-"})
    assert world.call("scorer", "post", "/tray/file", {"photos": [one["id"]]}).json() == {"filed": 1}
    assert Photo.objects.get().sample is None


def test_a_tray_is_its_owners_alone(world):
    drop(world, shot_of(world.samples[0], world=world, taken=timezone.now()))
    one = shown(world)["photos"][0]["id"]
    assert shown(world, "lead")["photos"] == []
    assert world.clients["lead"].get(f"/api/tray/{one}.jpg").status_code == 404
    assert world.clients["scorer"].get(f"/api/tray/{one}.jpg?small=true").status_code == 200
    for path in ("/tray/file", "/tray/out"):
        assert world.call("lead", "post", path, {"photos": [one]}).status_code == 404
    assert world.call("scorer", "post", "/tray/out", {"photos": [one]}).status_code == 204
    assert TrayPhoto.objects.count() == 0


def test_no_picture_no_row_and_no_file_name_is_kept(world):
    assert drop(world, b"not a picture").status_code == 422
    assert TrayPhoto.objects.count() == 0
    drop(world, shot_of(world=world, taken=timezone.now()))
    row = TrayPhoto.objects.get()
    assert "jute" not in str({field.name: getattr(row, field.name) for field in row._meta.concrete_fields})


@pytest.mark.parametrize("state", ["draft", "opened"])
def test_before_the_seal_and_after_the_opening_nothing_is_dropped(state):
    world = make(state)
    assert drop(world, shot_of(world=world, taken=timezone.now())).status_code in (403, 409)


def test_the_time_code_tells_this_moment(world):
    answer = world.clients["scorer"].get("/api/time-code.svg")
    assert answer["Content-Type"] == "image/svg+xml"
    assert answer["Cache-Control"] == "no-store"
