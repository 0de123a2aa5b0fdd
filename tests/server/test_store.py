"""What lies outside the database, in a folder and in an object store: nothing lost, nothing half, nothing told by a name."""

import io
import re
from datetime import timedelta
from pathlib import Path
from uuid import uuid4
from zipfile import ZipFile

import boto3
import httpx
import pytest
from django.conf import settings as here
from django.core.files.storage import storages
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.db import connection, transaction
from django.db.models.signals import post_delete
from django.utils import timezone
from moto.server import ThreadedMotoServer

from fieldtally.server import keeping
from fieldtally.server.hosting import store
from fieldtally.server.hosting.place import Place
from fieldtally.server.measuring import tray
from fieldtally.server.measuring.models import PhotoFile, TrayPhoto
from fieldtally.server.share import making
from fieldtally.server.verdict import results, services
from tests.server.conftest import PLAN, make
from tests.server.pictures import picture

pytestmark = pytest.mark.django_db
KEY, SECRET, BUCKET = "tarn", "only-for/tests", "field-tally"


@pytest.fixture(scope="module")
def objects():
    """The object store's stand-in, which runs; its address."""
    server = ThreadedMotoServer(ip_address="127.0.0.1", port=0)
    server.start()
    host, port = server.get_host_and_port()
    at = f"http://{host}:{port}"
    told = {"aws_access_key_id": KEY, "aws_secret_access_key": SECRET, "region_name": "us-east-1"}
    boto3.client("s3", endpoint_url=at, **told).create_bucket(Bucket=BUCKET)
    yield at
    server.stop()


def url(at: str) -> str:
    return f"s3://{KEY}:{SECRET.replace('/', '%2F')}@{at.removeprefix('http://')}/{BUCKET}?tls=no"


@pytest.fixture
def laid(settings):
    """Settings as a place has them whose store is told."""

    def lay(**told: str) -> None:
        if told.get("store", "").startswith("/"):
            Path(told["store"]).mkdir()
        own = Place(secret="x", **told).stored_by
        settings.STORAGES = {**{k: v for k, v in here.STORAGES.items() if k not in ("kept", "signed")}, **own}
        if own:
            store.watch()

    yield lay
    for model, _ in store._columns():
        post_delete.disconnect(sender=model, dispatch_uid=f"store-{model.__name__}")


@pytest.fixture(params=["folder", "objects"])
def outside(request, laid, tmp_path):
    laid(store=str(tmp_path / "store") if request.param == "folder" else url(request.getfixturevalue("objects")))


def send(world, who="scorer", pk=None):
    pk = str(pk or uuid4())
    about = {"id": pk, "taken_at": timezone.now().isoformat(), "checkpoint": "c-1", "sample": str(world.codes[0][1])}
    told = {**about, "file": SimpleUploadedFile("mulch.png", picture(), "image/png")}
    return pk, world.clients[who].post(f"/api/trials/{world.trial.pk}/photos", told)


@pytest.fixture
def world():
    made = make("running")
    made.codes = list(made.trial.samples.order_by("code").values_list("code", "pk"))
    return made


def raw(pk: str) -> bytes:
    with connection.cursor() as cursor:
        cursor.execute('SELECT "full" FROM measuring_photofile WHERE photo_id = %s', [pk])
        return bytes(cursor.fetchone()[0])


def names() -> set[str]:
    folders, files = storages["kept"].listdir("")
    return {*files, *(f"{one}/{file}" for one in folders for file in storages["kept"].listdir(one)[1])}


def test_a_photo_lies_outside_and_is_served_as_it_was(world, outside):
    before = names()
    pk, answer = send(world)
    assert answer.status_code in (200, 201), answer.content
    assert raw(pk).startswith(store.MARK) and len(raw(pk)) < 250
    came = names() - before
    # The large and the small one, under names that tell nothing.
    assert len(came) == 2 and all(re.fullmatch(r"[0-9a-f]{2}/[0-9a-f]{32}", name) for name in came)
    kept = PhotoFile.objects.get(pk=pk)
    assert bytes(kept.full)[:3] == b"\xff\xd8\xff" and len(bytes(kept.full)) == len(kept.full)
    shown = world.clients["scorer"].get(f"/api/photos/{pk}.jpg")
    assert (shown.status_code, shown.content, shown["Content-Type"]) == (200, bytes(kept.full), "image/jpeg")
    assert world.clients["outsider"].get(f"/api/photos/{pk}.jpg").status_code == 404


def test_it_goes_with_its_row_and_stays_where_the_row_stays(world, outside, django_capture_on_commit_callbacks):
    pk, _ = send(world)
    lies = PhotoFile.objects.get(pk=pk).full.name
    with django_capture_on_commit_callbacks(execute=True):
        away = world.clients["scorer"].post(
            f"/api/photos/{pk}/away", {"reason": "A thumb is before it"}, content_type="application/json"
        )
    assert away.status_code == 204
    assert lies not in names()
    other, _ = send(world)
    kept = PhotoFile.objects.get(pk=other).full.name
    with pytest.raises(ZeroDivisionError), transaction.atomic():
        PhotoFile.objects.get(pk=other).delete()
        raise ZeroDivisionError
    assert kept in names() and bytes(PhotoFile.objects.get(pk=other).full)


def test_what_came_to_nothing_is_swept_once_it_is_a_day_old(world, outside, monkeypatch):
    pk, _ = send(world)
    with pytest.raises(ZeroDivisionError), transaction.atomic():
        PhotoFile.objects.filter(pk=pk).update(full=b"not to be")
        raise ZeroDivisionError
    before = names()
    assert store.swept() == 0 and names() == before
    monkeypatch.setattr(store, "LEFT_BEHIND", timedelta(days=-1))
    held = {PhotoFile.objects.get(pk=pk).full.name, PhotoFile.objects.get(pk=pk).small.name}
    assert store.swept() == len(before - held) > 0
    assert names() == held
    assert bytes(PhotoFile.objects.get(pk=pk).full)


def test_a_photo_filed_from_the_tray_lies_once_more_and_not_the_trays(
    world, outside, django_capture_on_commit_callbacks
):
    told = {"id": str(uuid4()), "file": SimpleUploadedFile("x.png", picture(), "image/png")}
    assert world.clients["scorer"].post(f"/api/trials/{world.trial.pk}/tray", told).status_code == 200
    row = TrayPhoto.objects.get()
    assert isinstance(row.full, store.Outside)
    TrayPhoto.objects.update(read_at=timezone.now(), taken_at=timezone.now())
    tray.say(world.trial, world.users["scorer"], [row.pk], code=world.codes[0][0], checkpoint="c-1")
    with django_capture_on_commit_callbacks(execute=True):
        assert tray.file_photos(world.trial, world.users["scorer"], [row.pk]) == 1
        TrayPhoto.objects.all().delete()
    assert bytes(PhotoFile.objects.get(pk=row.pk).full)[:3] == b"\xff\xd8\xff"


def test_a_made_file_and_a_pack_hold_it_all(world, outside, monkeypatch, django_capture_on_commit_callbacks):
    pk, _ = send(world)
    services.ask_to_open(world.trial, world.users["lead"])
    services.open_key(world.trial, world.users["lead"], world.trial.title)
    monkeypatch.setattr(results, "AT_ONCE", 0)
    with django_capture_on_commit_callbacks(execute=True):
        href = world.call("lead", "post", "/files", {"what": "pack"}).json()["href"]
    row = making.MadeFile.objects.defer("content").get()
    making.make_file.func(str(row.pk))
    answer = world.clients["lead"].get(href)
    assert answer.status_code == 200 and answer.content[:2] == b"PK"
    assert isinstance(making.MadeFile.objects.get().content, store.Outside)
    with ZipFile(io.BytesIO(answer.content)) as pack:
        (name,) = [one for one in pack.namelist() if "photos/" in one]
        assert pack.read(name) == bytes(PhotoFile.objects.get(pk=pk).full)


def test_a_browser_is_sent_to_an_address_that_opens_for_a_while_and_tells_nothing(world, objects, laid):
    laid(store=url(objects), store_public=objects)
    pk, _ = send(world)
    answer = world.clients["scorer"].get(f"/api/photos/{pk}.jpg")
    assert (answer.status_code, answer["Cache-Control"]) == (302, "private, no-store")
    where = answer["Location"]
    assert where.startswith(f"{objects}/{BUCKET}/")
    told = httpx.get(where)
    assert told.content == bytes(PhotoFile.objects.get(pk=pk).full)
    assert told.headers["Content-Type"] == "image/jpeg"
    assert "response-cache-control=private%2C%20max-age%3D86400" in where
    assert "X-Amz-Expires=300" in where and "X-Amz-Signature=" in where
    lies_at = where.split("?")[0].removeprefix(f"{objects}/{BUCKET}/")
    assert re.fullmatch(r"[0-9a-f]{2}/[0-9a-f]{32}", lies_at)
    for hidden in (*(code for code, _ in world.codes), str(world.trial.pk), *(t.name for t in PLAN.treatments), SECRET):
        # Three digits may stand in a random name by chance; as a word of their own they would tell something.
        assert not re.search(rf"(?<![0-9a-zA-Z]){re.escape(hidden)}(?![0-9a-zA-Z])", lies_at)
    # A file that is saved by its trial's name is passed on: its name stands in no address.
    lies = PhotoFile.objects.get(pk=pk).full
    passed = store.answered(lies, "application/zip", "beans.zip", attached=True)
    assert passed.status_code == 200 and passed.content == bytes(lies)
    # Whoever may not see the photo is given no address.
    assert world.clients["outsider"].get(f"/api/photos/{pk}.jpg").status_code == 404


def test_a_store_that_does_not_answer_is_a_sentence_and_nothing_is_half(world, laid):
    laid(store="s3://a:b@127.0.0.1:9/bucket?tls=no")
    _, answer = send(world)
    assert answer.status_code == 503
    assert answer.json()["problems"][0]["says"] == (
        "The store of photos and files does not answer. Nothing was changed; try again in a minute."
    )
    assert not PhotoFile.objects.exists() and not world.trial.photos.exists()
    # Scoring goes on all the same.
    assert world.clients["scorer"].get("/api/today").status_code == 200


def test_bytes_move_into_a_store_and_back(world, laid, tmp_path, capsys):
    pk, _ = send(world)
    own = raw(pk)
    with pytest.raises(CommandError, match="FT_STORE"):
        call_command("store", "move")
    laid(store=str(tmp_path / "store"))
    assert bytes(PhotoFile.objects.get(pk=pk).full) == own
    call_command("store", "move")
    assert raw(pk).startswith(store.MARK) and bytes(PhotoFile.objects.get(pk=pk).full) == own
    call_command("store", "move")
    call_command("store", "check")
    assert [line.split()[0] for line in capsys.readouterr().out.splitlines()] == ["2", "0", "2"]
    call_command("store", "back")
    assert raw(pk) == own and not names()


def test_what_was_changed_or_is_gone_is_found_and_not_shown(world, laid, tmp_path, capsys):
    laid(store=str(tmp_path / "store"))
    pk, _ = send(world)
    kept = PhotoFile.objects.get(pk=pk)
    (tmp_path / "store" / kept.full.name).write_bytes(b"\xff\xd8\xff another picture")
    (tmp_path / "store" / kept.small.name).unlink()
    assert world.clients["scorer"].get(f"/api/photos/{pk}.jpg").status_code == 503
    with pytest.raises(CommandError, match="2 of 2"):
        call_command("store", "check")
    assert kept.full.name in capsys.readouterr().err


@pytest.mark.parametrize(
    ("told", "says"),
    [
        ({"store": "photos"}, "FT_STORE: write a folder"),
        ({"store": "s3://host/bucket"}, "FT_STORE: write it like s3://"),
        ({"store": "/", "store_public": "https://files.example.org"}, "FT_STORE_PUBLIC: only an object store"),
        ({"store": "s3://a:b@h/c", "store_public": "files.example.org"}, "FT_STORE_PUBLIC: write it like"),
        ({"store": "s3://a:b@h/c", "store_public": "https://files.example.org"}, ""),
        ({"store": "/srv/not-there"}, "FT_STORE: there is no folder"),
        ({"store": "/"}, ""),
    ],
)
def test_where_it_lies_is_checked_before_anything_starts(told, says):
    found = [one for one in Place(secret="x", **told).wrong() if "STORE" in one]
    assert ([one.startswith(says) for one in found] == [True]) if says else not found


@pytest.mark.parametrize("begins", [store.MARK, store.HERE, store.OURS])
def test_what_people_send_is_never_taken_for_a_mark(begins, world):
    pk, _ = send(world)
    forged = begins + b'{"name": "00/x", "size": 1, "sha256": ""}'
    PhotoFile.objects.filter(pk=pk).update(full=forged)
    assert PhotoFile.objects.get(pk=pk).full == forged


def test_a_backup_says_what_it_does_not_hold(tmp_path, monkeypatch, capsys):
    monkeypatch.setattr(keeping, "backup", lambda *_: None)
    monkeypatch.delenv("FT_STORE", raising=False)
    assert keeping.main(["backup", "x.backup"]) == 0 and "store" not in capsys.readouterr().err
    monkeypatch.setenv("FT_STORE", str(tmp_path))
    assert keeping.main(["backup", "x.backup"]) == 0
    assert "keep a copy of the store as well" in capsys.readouterr().err
