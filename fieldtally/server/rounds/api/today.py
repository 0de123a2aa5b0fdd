"""Today: what is to be looked at across all trials; the weather; a calendar address of one's own, and letters when something is due."""

from collections.abc import Sequence
from datetime import datetime

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router, Schema, Status

from fieldtally.server.answers import missing
from fieldtally.server.devices.weather import WeatherTold, weather_now
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.rounds.agenda import Entry, agenda_of
from fieldtally.server.rounds.feeds import calendar_of
from fieldtally.server.rounds.models import Feed
from fieldtally.server.rounds.models.reminding import fresh_token

router = Router()


class TodayOut(Schema):
    """What is due, late and coming, in order, and the server's now."""

    entries: Sequence[Entry]
    now: datetime


@router.get("/today", response=TodayOut)
def today(request: SignedIn) -> TodayOut:
    """What this person may score now and in the next days."""
    now = timezone.now()
    return TodayOut(entries=agenda_of(request.user, now), now=now)


class WeatherOut(Schema):
    """What the weather station says; None where there is none or it does not answer."""

    weather: WeatherTold | None


@router.get("/weather", response=WeatherOut)
def weather(request: SignedIn) -> WeatherOut:
    """The weather at the station."""
    return WeatherOut(weather=weather_now())


class FeedOut(Schema):
    """The address of this person's calendar, and whether letters are sent when a look is due."""

    address: str
    letters: bool


def _out(request: SignedIn, feed: Feed) -> FeedOut:
    return FeedOut(address=request.build_absolute_uri(f"/api/calendars/{feed.token}.ics"), letters=feed.letters)


@router.get("/feed", response=FeedOut)
def feed(request: SignedIn) -> FeedOut:
    """This person's calendar address; made when it is first asked for."""
    return _out(request, Feed.objects.get_or_create(user=request.user)[0])


class FeedIn(Schema):
    """Whether letters are wanted; ``renew`` makes a new address, and the old one stops."""

    letters: bool
    renew: bool = False


@router.put("/feed", response=FeedOut)
def change_feed(request: SignedIn, body: FeedIn) -> FeedOut:
    """Change it."""
    found, _ = Feed.objects.get_or_create(user=request.user)
    found.letters = body.letters
    if body.renew:
        found.token = fresh_token()
    found.save()
    return _out(request, found)


@router.get("/calendars/{token}.ics", auth=None, response={200: None})
def calendar(request: HttpRequest, token: str) -> HttpResponse | Status[None]:
    """The calendar of whoever has this address, in words that name no treatment."""
    found = Feed.objects.select_related("user").filter(token=token).first()
    if found is None or not found.user.is_active:
        raise missing()
    body = calendar_of(found.user, timezone.now(), request.build_absolute_uri("/"))
    return HttpResponse(
        body, content_type="text/calendar; charset=utf-8", headers={"Cache-Control": "private, max-age=300"}
    )
