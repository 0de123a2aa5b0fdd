"""Today, the calendar feed and letters: what is due across trials, in words that name no treatment."""

import time
from datetime import timedelta

import pytest
from django.core.cache import cache
from django.test import Client
from django.utils import timezone
from icalendar import Calendar

from fieldtally.server.people.models import Mail, Membership, Role
from fieldtally.server.plan import services as plan_services
from fieldtally.server.prepare import services as prepare_services
from fieldtally.server.rounds.feeds import send_reminders
from fieldtally.server.rounds.models import Reminded
from tests.server.conftest import PLAN, SECRETS, as_owner, make, replace
from tests.server.test_preparing import say, standin

pytestmark = pytest.mark.django_db


def entries(world, role="scorer"):
    return world.clients[role].get("/api/today").json()["entries"]


def test_what_is_due_comes_first_with_where_what_and_how_long():
    world = make("running", scored=False)
    found = entries(world)
    assert [(one["look"], one["standing"]) for one in found] == [("c-1", "due"), ("c-2", "upcoming")]
    first = found[0]
    assert (first["samples"], first["samples_left"]) == (12, 12)
    assert first["outcomes"] == ["Vigour", "Height", "Alive"]
    assert first["bring"] == ["something that measures in cm", "a watch"]
    assert first["places"][1] == "West"
    # Nothing learned yet: twelve seconds for each of 36 readings.
    assert (first["minutes"], first["learned"]) == (8, False)
    assert not any(secret in str(found).casefold() for secret in SECRETS)
    for role in ("viewer", "preparer", "outsider"):
        assert entries(world, role) == []


def test_how_long_a_round_takes_is_learned_from_ones_own():
    world = make("running")
    rounds = world.users["scorer"].readings.order_by("stored_at")
    # The acts of a test take no time: spread the readings as a person would have made them.
    now = timezone.now()
    with as_owner() as cursor:
        for i, row in enumerate(rounds):
            at = now - timedelta(seconds=5 * (len(rounds) - i))
            cursor.execute("UPDATE rounds_reading SET taken_at = %s, stored_at = %s WHERE id = %s", [at, at, row.pk])
    found = next(one for one in entries(world) if one["look"] == "c-2")
    assert found["learned"]
    # 12 pots × 4 outcomes at five seconds each.
    assert found["minutes"] == 4


def test_a_calendar_belongs_to_its_address_and_names_no_treatment():
    world = make("running", scored=False)
    told = world.clients["lead"].get("/api/feed").json()
    assert told["letters"] is False
    assert world.clients["lead"].get("/api/feed").json() == told
    calendar = Client().get(told["address"])
    assert calendar.headers["Content-Type"].startswith("text/calendar")
    events = Calendar.from_ical(calendar.content).walk("VEVENT")
    assert [str(one["summary"]).endswith(("Day 1", "Day 2")) for one in events] == [True, True]
    # The lead knows the treatments; whoever looks over a shoulder at their calendar must not.
    text = calendar.content.decode().replace("\r\n ", "").casefold()
    assert not any(secret in text for secret in SECRETS)
    assert str(events[0]["url"]).endswith(f"/trials/{world.trial.pk}/rounds/c-1")
    renewed = (
        world.clients["lead"].put("/api/feed", {"letters": True, "renew": True}, content_type="application/json").json()
    )
    assert renewed["letters"]
    assert Client().get(told["address"]).status_code == 404
    assert Client().get(renewed["address"]).status_code == 200
    assert Client().get("/api/calendars/guessed.ics").status_code == 404


def test_a_letter_is_sent_once_to_those_who_want_it():
    world = make("running", scored=False)
    now = timezone.now()
    assert send_reminders(now, "http://x/") == 0
    for role in ("scorer", "viewer"):
        world.clients[role].put("/api/feed", {"letters": True}, content_type="application/json")
    Mail.objects.all().delete()
    assert send_reminders(now, "http://x/") == 1
    assert send_reminders(now + timedelta(minutes=1), "http://x/") == 0
    (letter,) = Mail.objects.all()
    assert letter.to == world.users["scorer"].email
    assert "Day 1 is due" in letter.subject
    assert "12 to score" in letter.text
    assert not any(secret in (letter.subject + letter.text).casefold() for secret in SECRETS)
    # Who has left the trial is not written to any more.
    Membership.objects.filter(trial=world.trial, role=Role.SCORER).delete()
    Reminded.objects.all().delete()
    assert send_reminders(now, "http://x/") == 0


def test_many_trials_ask_the_database_no_more_than_one(django_assert_max_num_queries):
    first = make("running", scored=False)
    for i in range(3):
        trial = plan_services.begin(first.users["lead"], replace(PLAN, title=f"Beans {i}"))
        plan_services.seal(trial, first.users["lead"], 1)
        trial.refresh_from_db()
        prepare_services.start_exposure(trial, first.users["lead"], at=timezone.now() - timedelta(days=1))
    with django_assert_max_num_queries(20):
        assert len(entries(first, "lead")) == 8


def test_the_weather_is_told_in_words_and_is_no_matter_when_the_station_fails(settings):
    world = make("running")
    cache.clear()
    with standin(settings, "weather", "json"):
        told = world.clients["scorer"].get("/api/weather").json()["weather"]
        assert told["says"] == "13 °C, dry."
        # Its millimetres are of rain: no field of a sample offers to read them.
        assert world.clients["scorer"].get("/api/devices?unit=mm").json()["devices"] == []
        cache.clear()
        say(settings, '{"ask": "put", "channel": "rain", "value": 3.2}')
        say(settings, '{"ask": "put", "channel": "light", "value": 120}')
        end = time.monotonic() + 15
        while True:
            # The station tells what it felt a moment ago.
            cache.clear()
            says = world.clients["scorer"].get("/api/weather").json()["weather"]["says"]
            if "rain, 3.2 mm: cover the sheets" in says and "take a lamp" in says:
                break
            assert time.monotonic() < end, says
        cache.clear()
        say(settings, '{"ask": "fault", "mode": "nonsense"}')
        assert world.clients["scorer"].get("/api/weather").json()["weather"] is None
    cache.clear()
    assert world.clients["scorer"].get("/api/weather").json()["weather"] is None
    settings.DEVICES = []
    cache.clear()
    assert world.clients["scorer"].get("/api/weather").json()["weather"] is None
