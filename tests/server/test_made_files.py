"""Files of a large trial are made by a worker and fetched when they are ready, by whoever asked and still may have them."""

from datetime import timedelta

import pytest
from django.test import Client
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from fieldtally.server.people.models import AccessToken, Membership, Role
from fieldtally.server.share import making
from fieldtally.server.share.models import MadeFile, Report
from fieldtally.server.verdict import results
from tests.server.conftest import make

pytestmark = pytest.mark.django_db
FILES = (("readings", "readings.csv"), ("pack", "pack.zip"), ("workbook", "workbook.xlsx"), ("report", "report.pdf"))


def ask(world, who, what, capture, **more):
    with capture(execute=True):
        return world.call(who, "post", "/files", {"what": what, **more})


def work():
    """Do what was asked for, as a worker does."""
    for task in DBTaskResult.objects.filter(task_path__endswith="make_file", status="READY"):
        making.make_file.func(*task.args_kwargs["args"])


@pytest.mark.parametrize(("what", "address"), FILES)
def test_a_large_trials_file_is_the_same_as_a_small_ones(
    what, address, monkeypatch, django_capture_on_commit_callbacks
):
    world = make("opened")
    small = world.get("lead", f"/{address}")
    at_once = ask(world, "lead", what, django_capture_on_commit_callbacks).json()
    assert (at_once["state"], at_once["href"]) == ("at_once", f"/api/trials/{world.trial.pk}/{address}")
    monkeypatch.setattr(results, "AT_ONCE", 0)
    asked = ask(world, "lead", what, django_capture_on_commit_callbacks).json()
    assert asked["state"] == "waiting"
    client = world.clients["lead"]
    early = client.get(asked["href"])
    assert (early.status_code, early["Retry-After"], early.json()["says"]) == (
        202,
        "2",
        "It will be made in a moment …",
    )
    # Who asks again is given the same, and so is who follows the old address.
    assert ask(world, "lead", what, django_capture_on_commit_callbacks).json()["href"] == asked["href"]
    assert world.get("lead", f"/{address}")["Location"] == asked["href"]
    work()
    ready = client.get(asked["href"])
    assert ready.status_code == 200
    assert ready["Content-Disposition"] == small["Content-Disposition"]
    if what in ("readings", "pack"):
        assert ready.content == small.content
    assert client.get(asked["href"], {"ask": "true"}).json()["state"] == "done"
    assert MadeFile.objects.count() == 1


def test_nobody_else_fetches_it_and_nobody_who_may_not_any_more(monkeypatch, django_capture_on_commit_callbacks):
    world = make("opened")
    monkeypatch.setattr(results, "AT_ONCE", 0)
    href = ask(world, "lead", "pack", django_capture_on_commit_callbacks).json()["href"]
    work()
    for other in (world.clients["scorer"], world.clients["outsider"]):
        assert other.get(href).status_code == 404
    assert Client().get(href).status_code == 401
    assert world.clients["lead"].get(href).status_code == 200
    Membership.objects.filter(trial=world.trial, user=world.users["lead"]).delete()
    assert world.clients["lead"].get(href).status_code == 404


def test_who_reads_less_than_before_does_not_get_what_was_made_before(monkeypatch, django_capture_on_commit_callbacks):
    """A preparer who looked at the key takes a pack with it along, and scores from then on."""
    world = make("running")
    world.call("preparer", "post", "/key-looks")
    monkeypatch.setattr(results, "AT_ONCE", 0)
    href = ask(world, "preparer", "pack", django_capture_on_commit_callbacks).json()["href"]
    work()
    assert world.clients["preparer"].get(href).status_code == 200
    Membership.objects.filter(trial=world.trial, user=world.users["preparer"]).update(role=Role.SCORER)
    assert world.clients["preparer"].get(href).status_code == 404
    again = ask(world, "preparer", "pack", django_capture_on_commit_callbacks).json()["href"]
    work()
    pack = world.clients["preparer"].get(again)
    assert pack.status_code == 200 and b"treatments.csv" not in pack.content


def test_a_persons_own_program_is_led_to_its_file(monkeypatch, django_capture_on_commit_callbacks):
    world = make("opened")
    monkeypatch.setattr(results, "AT_ONCE", 0)
    token = "ft_" + "a" * 40
    AccessToken.objects.create(
        by=world.users["lead"], name="mine", hash=AccessToken.hash_of(token), scope="read", trial=world.trial
    )
    program = {"Authorization": f"Bearer {token}"}
    with django_capture_on_commit_callbacks(execute=True):
        led = Client().get(f"/api/trials/{world.trial.pk}/pack.zip", headers=program)
    assert led.status_code == 303
    work()
    assert Client().get(led["Location"], headers=program).content.startswith(b"PK")
    assert Client().get(led["Location"]).status_code == 401


def test_a_scorers_pack_is_theirs_while_the_key_is_sealed(monkeypatch, django_capture_on_commit_callbacks):
    world = make("running")
    monkeypatch.setattr(results, "AT_ONCE", 0)
    assert ask(world, "scorer", "report", django_capture_on_commit_callbacks).status_code == 403
    href = ask(world, "scorer", "readings", django_capture_on_commit_callbacks).json()["href"]
    work()
    text = world.clients["scorer"].get(href).content.decode()
    assert text.count("\n") > 3 and "treatment" not in text.splitlines()[0]
    assert str(world.trial.pk)[:8] in world.clients["scorer"].get(href)["Content-Disposition"]


def test_who_waits_in_a_browser_is_told_how_far_it_is(monkeypatch, django_capture_on_commit_callbacks):
    world = make("opened")
    monkeypatch.setattr(results, "AT_ONCE", 0)
    href = ask(world, "lead", "workbook", django_capture_on_commit_callbacks).json()["href"]
    MadeFile.objects.update(state="running", says="Writing the sheets …", done=20, total=80)
    page = world.clients["lead"].get(href, headers={"Accept": "text/html"})
    assert (page.status_code, page["Refresh"]) == (202, "2")
    assert "Writing the sheets" in page.content.decode() and 'value="20" max="80"' in page.content.decode()
    MadeFile.objects.update(moved_at=timezone.now() - timedelta(minutes=6))
    assert world.clients["lead"].get(href, {"ask": "true"}).json()["state"] == "failed"
    page = world.clients["lead"].get(href, headers={"Accept": "text/html"})
    assert "broken off" in page.content.decode() and "Refresh" not in page
    assert world.clients["lead"].get(href).status_code == 409
    # Asked for again, it is made anew.
    again = ask(world, "lead", "workbook", django_capture_on_commit_callbacks).json()
    assert (again["state"], again["href"] == href) == ("waiting", False)


def test_what_goes_wrong_ends_with_a_sentence(monkeypatch, django_capture_on_commit_callbacks):
    world = make("opened")
    monkeypatch.setattr(results, "AT_ONCE", 0)
    href = ask(world, "lead", "report", django_capture_on_commit_callbacks).json()["href"]
    monkeypatch.setattr(making, "report_pdf", None)
    work()
    told = world.clients["lead"].get(href, {"ask": "true"}).json()
    assert told["state"] == "failed" and told["says"].startswith("It could not be made.")


def test_readers_of_a_published_report_share_one_until_something_changes(
    monkeypatch, django_capture_on_commit_callbacks
):
    world = make("opened")
    assert world.get("lead", "/verdict").status_code == 200
    token = world.call("lead", "post", "/publish", {"out": True, "names": True}).json()["token"]
    monkeypatch.setattr(results, "AT_ONCE", 0)

    def asked():
        with django_capture_on_commit_callbacks(execute=True):
            return Client().post(f"/api/published/{token}/files", {"what": "report"}, content_type="application/json")

    href = asked().json()["href"]
    work()
    named = Client().get(href)
    assert named.status_code == 200 and asked().json()["href"] == href
    assert (
        Client().post(f"/api/published/{token}/files", {"what": "pack"}, content_type="application/json").status_code
        == 422
    )
    # Without names from now on: what was made with them is worth nothing.
    assert world.call("lead", "post", "/publish", {"out": True, "names": False}).status_code == 200
    assert Client().get(href).status_code == 404
    second = asked().json()["href"]
    assert second != href
    work()
    assert Client().get(second).status_code == 200
    world.call("lead", "post", "/publish", {"out": False})
    assert Client().get(second).status_code == 404 and Report.objects.get(pk=world.trial.pk).token == ""


def test_a_file_goes_after_a_day(monkeypatch, django_capture_on_commit_callbacks):
    world = make("opened")
    monkeypatch.setattr(results, "AT_ONCE", 0)
    ask(world, "lead", "pack", django_capture_on_commit_callbacks)
    MadeFile.objects.update(asked_at=timezone.now() - timedelta(days=2))
    ask(world, "lead", "readings", django_capture_on_commit_callbacks)
    assert [row.wanted["what"] for row in MadeFile.objects.all()] == ["readings"]
