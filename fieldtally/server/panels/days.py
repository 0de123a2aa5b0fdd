"""The day of a panel: in a calendar, and in a letter to those who gave an address; nothing in it tells what is compared."""

from __future__ import annotations

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from django.core.mail import send_mail
from django.db import transaction
from icalendar import Calendar, Event

from fieldtally.server.answers import Declined
from fieldtally.server.panels.models import Assessor, Panel
from fieldtally.server.panels.queries import planned_time

BEFOREHAND = timedelta(days=1)
USUAL = timedelta(hours=1)


def calendar_of(assessor: Assessor, link: str) -> bytes:
    """The day of the assessor's panel as an iCalendar file, with the ``link`` to their booth.

    :raises Declined: 404 where it has no date.
    """
    due, until = planned_time(assessor.panel)
    if due is None:
        raise Declined(404, "This panel has no date yet; ask the host.")
    calendar = Calendar()
    calendar.add("prodid", "-//Field Tally//panels//EN")
    calendar.add("version", "2.0")
    event = Event()
    event.add("uid", f"{assessor.pk}@field-tally")
    event.add("dtstamp", assessor.panel.created_at)
    event.add("dtstart", due)
    event.add("dtend", until or due + USUAL)
    event.add("summary", f"A panel: you judge, seat {assessor.number}")
    event.add("url", link)
    calendar.add_component(event)
    return bytes(calendar.to_ical())


def write_of_the_day(now: datetime, home: str) -> int:
    """A letter to each assessor with an address whose panel comes within a day, once; how many were sent.  ``home`` is the address of the
    app, with a slash."""
    sent = 0
    waiting = Panel.objects.filter(closed_at=None, assessors__told_at=None, assessors__address__gt="").distinct()
    for panel in waiting.select_related("trial"):
        due, until = planned_time(panel)
        if due is None or not due - BEFOREHAND <= now <= (until or due + USUAL):
            continue
        when = f"{due.astimezone(ZoneInfo(panel.trial.zone)):%A, %-d %B %Y, %H:%M} ({panel.trial.zone})"
        for one in panel.assessors.filter(told_at=None, erased_at=None, left_out="", stopped_at=None).exclude(
            address=""
        ):
            link = f"{home}booth/{one.token}"
            with transaction.atomic():
                # Marked first: nobody is written to twice.
                if not Assessor.objects.filter(pk=one.pk, told_at=None).update(told_at=now):
                    continue
                send_mail(
                    "A panel that you judge in",
                    f"It is on {when}. Your seat is {one.number}, and this link leads to it, from your own phone:\n\n{link}\n\n"
                    f"For your calendar: {home}api/booth/{one.token}/date.ics\n\n"
                    "Nobody has to take part; tell the host if you cannot come.\n",
                    None,
                    [one.address],
                )
                sent += 1
    return sent
