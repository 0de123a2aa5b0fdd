"""Whoever administers a place: what they see of it, and what they may do; nobody else sees that there is such a door."""

from datetime import timedelta

import pytest
from django.core.management import CommandError, call_command
from django.test import Client
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from fieldtally.server.people.models import AccessToken, Audited, Happening, Mail, Post, User
from tests.server.conftest import make, signed_in, user

pytestmark = pytest.mark.django_db


def administrator():
    person = user("keeper")
    call_command("administrator", person.email.upper())
    person.refresh_from_db()
    return person, signed_in(person)


def test_a_place_is_told_in_amounts_and_no_trial_by_name():
    world = make("running")
    _, client = administrator()
    Mail.objects.create(to="gone@x.example", subject="Come", text="", state=Post.FAILED, says="SMTPRecipientsRefused")
    told = client.get("/api/place").json()
    assert told["members"] == User.objects.count() and told["storage"]["trials"] == 1
    assert told["storage"]["bytes"] > 1_000_000
    (letter,) = told["letters"]
    assert (letter["to"], letter["says"]) == ("gone@x.example", "SMTPRecipientsRefused")
    assert world.trial.title not in str(told) + client.get("/api/place/members").content.decode()
    assert world.call("lead", "get", "/course").status_code == 200
    assert client.get(f"/api/trials/{world.trial.pk}/course").status_code == 404


def test_for_everybody_else_there_is_no_such_door():
    person = user("member")
    client = signed_in(person)
    for path in ("/api/place", "/api/place/members", "/api/place/audit"):
        assert client.get(path).status_code == 404
    other = user("other")
    answer = client.post(f"/api/place/members/{other.pk}", {"on": False}, content_type="application/json")
    other.refresh_from_db()
    assert answer.status_code == 404 and other.is_active
    assert client.get("/api/me").json()["administers"] is False
    with pytest.raises(CommandError, match="Nobody here"):
        call_command("administrator", "nobody@x.example")
    call_command("administrator", person.email)
    assert client.get("/api/place").status_code == 200
    call_command("administrator", person.email, "--no")
    assert client.get("/api/place").status_code == 404


def test_members_are_found_among_two_thousand_in_the_same_few_questions(django_assert_max_num_queries):
    made = [User(email=f"m{n}@x.example", name=f"Member {n}", password="!") for n in range(2_000)]
    User.objects.bulk_create(made)
    _, client = administrator()
    with django_assert_max_num_queries(8):
        told = client.get("/api/place/members").json()
    assert told["found"] == 2_001 and len(told["members"]) == 50
    last = client.get("/api/place/members?beyond=2000").json()
    assert len(last["members"]) == 1
    (one,) = client.get("/api/place/members?sought=member 1999").json()["members"]
    assert (one["name"], one["on"], one["second_step"], one["trials"]) == ("Member 1999", True, False, 0)


def test_an_account_that_is_switched_off_opens_nothing_and_is_on_again_without_its_old_sign_ins():
    keeper, client = administrator()
    person = user("lost phone")
    theirs = signed_in(person)
    token = "ft_theirs"
    AccessToken.objects.create(by=person, name="x", hash=AccessToken.hash_of(token), scope="read")

    def switch(who, on):
        return client.post(f"/api/place/members/{who.pk}", {"on": on}, content_type="application/json").status_code

    assert theirs.get("/api/me").status_code == 200
    assert switch(person, on=False) == 204
    assert theirs.get("/api/me").status_code == 401
    assert Client().get("/api/me", headers={"Authorization": f"Bearer {token}"}).status_code == 401
    assert switch(person, on=True) == 204
    assert theirs.get("/api/me").status_code == 401
    assert switch(keeper, on=False) == 409
    told = client.get("/api/place/audit").json()
    assert [(one["what"], one["name"]) for one in told[:2]] == [
        (Happening.SWITCHED_ON, person.name),
        (Happening.SWITCHED_OFF, person.name),
    ]
    assert Audited.objects.filter(person=person.pk, what=Happening.SWITCHED_OFF).count() == 1


def test_the_queue_tells_what_waits_and_what_failed_last():
    _, client = administrator()
    now = timezone.now()
    common = {"args_kwargs": {"args": [], "kwargs": {}}, "queue_name": "default", "backend_name": "default"}
    DBTaskResult.objects.create(
        task_path="a.b.make_file", status="READY", enqueued_at=now - timedelta(minutes=9), **common
    )
    DBTaskResult.objects.create(
        task_path="a.b.make_verdict", status="FAILED", enqueued_at=now, finished_at=now, **common
    )
    told = client.get("/api/place").json()["queue"]
    assert (told["waiting"], told["failed"], told["last_failed"]) == (1, 1, ["make verdict"])
