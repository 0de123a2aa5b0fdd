"""Calendars and letters: looks that come, in words that name no treatment, whoever reads over a shoulder."""

from __future__ import annotations

from datetime import datetime, timedelta

from django.core.mail import send_mail
from django.db import IntegrityError, transaction
from icalendar import Alarm, Calendar, Event

from fieldtally.server.people.models import User
from fieldtally.server.rounds.agenda import Entry, agenda_of
from fieldtally.server.rounds.models import Feed, Reminded

SHORTEST = timedelta(minutes=5)


def calendar_of(user: User, now: datetime, home: str) -> bytes:
    """The looks of ``user`` as an iCalendar file; ``home`` is the address of the app, with a slash."""
    calendar = Calendar()
    calendar.add("prodid", "-//Field Tally//looks//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", "Field Tally")
    for entry in agenda_of(user, now, for_all_eyes=True):
        if entry.due is None or entry.opens is None:
            continue
        event = Event()
        event.add("uid", f"{entry.trial}-{entry.look}@field-tally")
        event.add("dtstamp", now)
        event.add("dtstart", entry.due)
        event.add("dtend", entry.due + max(SHORTEST, timedelta(minutes=entry.minutes)))
        event.add("summary", f"{entry.title}: {entry.name}")
        event.add("description", _told(entry))
        event.add("url", f"{home}trials/{entry.trial}/rounds/{entry.look}")
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", f"{entry.title}: {entry.name}")
        alarm.add("trigger", timedelta(0))
        event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())


def _told(entry: Entry) -> str:
    parts = [f"{', '.join(entry.outcomes)}, {entry.samples_left} to score, about {entry.minutes} min."]
    if entry.places:
        parts.append(f"At: {', '.join(entry.places)}.")
    if entry.bring:
        parts.append(f"Bring {', '.join(entry.bring)}.")
    return "\n".join(parts)


def send_reminders(now: datetime, home: str) -> int:
    """A letter to each person who wants them for each look that is due, once; how many were sent."""
    sent = 0
    for feed in Feed.objects.filter(letters=True, user__is_active=True).select_related("user"):
        for entry in agenda_of(feed.user, now, for_all_eyes=True):
            if entry.standing not in ("due", "late") or not entry.samples_left:
                continue
            try:
                with transaction.atomic():
                    Reminded.objects.create(user=feed.user, trial_id=entry.trial, look=entry.look, at=now)
                    send_mail(
                        f"{entry.title}: {entry.name} is {entry.standing}",
                        f"{_told(entry)}\n\n{home}trials/{entry.trial}/rounds/{entry.look}\n",
                        None,
                        [feed.user.email],
                    )
            except IntegrityError:
                continue
            sent += 1
    return sent
