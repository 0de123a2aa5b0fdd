"""When somebody else's table was looked at: days, hours and names of looks as they are written, in order of time."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date, datetime, time, timedelta

from fieldtally.core.problems import Refused
from fieldtally.core.tables.choices import Choices
from fieldtally.core.tables.entries import unstaged
from fieldtally.core.tables.meaning import minutes_of

HOUR, DAY = 60, 1440
MOST_LOOKS = 200


SLASHED = re.compile(r"^(\d{1,4})[./-](\d{1,2})[./-](\d{1,4})(?:[ T].*)?$")
BEFORE = re.compile(r"^(before|pre|un|dirty|first)", re.I)


def staged_looks(
    written: list[str], chosen: Choices, unit: str, began: date | None
) -> tuple[dict[str, tuple[str, int]], dict[str, date]]:
    """The same as :func:`_looks` for looks with stages: what is before stands before what is after, else in the order of the table."""
    own = {word: unstaged(word) for word in written}
    found, days = _looks(list(dict.fromkeys(look for look, _ in own.values())), chosen, unit, began)
    place = {look: i for i, look in enumerate(found)}
    order = sorted(own, key=lambda word: (place[own[word][0]], not BEFORE.match(own[word][1])))
    return {word: found[own[word][0]] for word in order}, {
        word: days[look] for word, (look, _) in own.items() if look in days
    }


def _looks(
    written: list[str], chosen: Choices, unit: str, began: date | None = None
) -> tuple[dict[str, tuple[str, int]], dict[str, date]]:
    """For each look as written its name and offset in minutes, in order of time; bare numbers count in ``unit``, days from the one on which
    it ``began``, if that is known.  And the day of each look that tells one.

    :raises Refused: a look lies before the start.
    """
    if written == [""]:
        return {"": ("The look", DAY)}, {}
    if len(written) > MOST_LOOKS:
        raise Refused(f"There are {len(written)} different looks; is that column one of looks?", "meaning")
    clocked = _by_the_clock(written) or _by_the_year(written)
    if clocked:
        return clocked, {}
    days = dates_in(written, chosen) if all(SLASHED.match(one) for one in written) else None
    if days is not None and len(set(days.values())) < len(days) and all(TIME.search(one) for one in written):
        # Several looks on one day: the hour tells them apart.
        return _by_the_hour(days, began)
    if days is not None:
        first = min(days.values())
        if began is not None and first < began:
            raise Refused(f"The first look was on {first}, before the day on which it is said to have begun.", "start")
        since = began or first - timedelta(days=1)
        found = {
            one: (f"Day {(day - since).days}" if began else day.isoformat(), max(HOUR, (day - since).days * DAY))
            for one, day in days.items()
        }
    else:
        offsets = {one: minutes_of(one, unit) for one in written}
        if all(one is not None for one in offsets.values()) and len(set(offsets.values())) == len(written):
            shift = min(one for one in offsets.values() if one is not None)
            shift = -shift if shift < 0 else 0
            found = {one: (_look_name(one, unit), (offsets[one] or 0) + shift) for one in written}
        else:
            found = {one: (one or "The look", (i + 1) * DAY) for i, one in enumerate(written)}
    return dict(sorted(found.items(), key=lambda one: one[1][1])), days or {}


CLOCK = re.compile(r"^(\d{1,2})[:.](\d{2})(?::\d{2})?$")
TIME = re.compile(r"[ T](\d{1,2}):(\d{2})")


def _by_the_clock(written: Sequence[str]) -> dict[str, tuple[str, int]]:
    """Looks that are called by times of one day, counted from the first; empty where they are not.

    >>> _by_the_clock(["09:30", "09:00", "11:00"])
    {'09:00': ('09:00', 0), '09:30': ('09:30', 30), '11:00': ('11:00', 120)}
    """
    times = {one: CLOCK.match(one) for one in written}
    if len(times) < 2 or not all(
        found and ":" in found[0] and int(found[1]) < 24 and int(found[2]) < HOUR for found in times.values()
    ):
        return {}
    minutes = {one: int(found[1]) * HOUR + int(found[2]) for one, found in times.items() if found}
    first = min(minutes.values())
    return {one: (one, at - first) for one, at in sorted(minutes.items(), key=lambda each: each[1])}


CALENDAR_YEAR = re.compile(r"^(?:19|20)\d\d$")
YEAR = 365 * DAY


def _by_the_year(written: Sequence[str]) -> dict[str, tuple[str, int]]:
    """Looks that are called by years of the calendar, the first at the end of its year; empty where they are not.

    >>> _by_the_year(["2025", "2024"])
    {'2024': ('2024', 525600), '2025': ('2025', 1051200)}
    """
    if len(written) < FEWEST_YEARS or not all(CALENDAR_YEAR.match(one) for one in written):
        return {}
    first = min(map(int, written))
    return {one: (one, (int(one) - first + 1) * YEAR) for one in sorted(written)}


FEWEST_YEARS = 2


def _by_the_hour(days: dict[str, date], began: date | None) -> tuple[dict[str, tuple[str, int]], dict[str, date]]:
    """Looks by their day and time of it, several on a day."""
    at: dict[str, date] = {}
    for one, day in days.items():
        found = TIME.search(one)
        at[one] = (
            datetime.combine(day, time(int(found[1]) % 24, int(found[2]) % HOUR))
            if found
            else datetime.combine(day, time(12))
        )
    first = min(at.values())
    since = datetime.combine(began, time(0)) if began else first
    looks = {
        one: (one.replace("T", " ")[:16], max(0, round((when - since).total_seconds() / 60)))
        for one, when in at.items()
    }
    return dict(sorted(looks.items(), key=lambda one: one[1][1])), at


def _look_name(written: str, unit: str) -> str:
    """What a look is called; a bare number is so many of its ``unit``.

    >>> _look_name("4", "days"), _look_name("24", "hours"), _look_name("harvest", "days")
    ('Day 4', '24 h', 'harvest')
    """
    if not re.fullmatch(r"[\d.,]+", written):
        return written
    word = {"h": "", "d": "Day", "w": "Week", "y": "Year"}.get(unit[0], "" if unit.startswith("min") else "Month")
    return f"{word} {written}" if word else f"{written} {'min' if unit.startswith('min') else 'h'}"


def dates_in(written: Sequence[str], chosen: Choices) -> dict[str, date] | None:
    """Days as they are written; asked about where day and month could be either."""
    parts = {one: tuple(int(part) for part in SLASHED.match(one).groups()) for one in written}  # type: ignore[union-attr]
    if all(re.fullmatch(r"\d{1,2}\.\d{1,2}\.\d{2,4}", one) for one in written):
        # With points between, the day comes first wherever people write so.
        order = "day first"
    elif all(first > 31 for first, _, _ in parts.values()):
        order = "year first"
    elif any(first > 31 for first, _, _ in parts.values()):
        raise Refused("Dates are written in two ways here: some begin with the year. Make them alike.", "dates")
    else:
        day_first = any(first > 12 for first, _, _ in parts.values())
        month_first = any(second > 12 for _, second, _ in parts.values())
        if day_first and month_first:
            odd = [one for one, part in parts.items() if part[1] > 12]
            raise Refused(f"Dates are written in two ways here, such as “{odd[0]}”. Make them alike.", "dates")
        if day_first or month_first:
            order = "day first" if day_first else "month first"
        elif chosen.dates == "ask":
            raise Refused(f"Does “{written[0]}” begin with the day or with the month?", "dates")
        else:
            order = chosen.dates
    found = {}
    for one, (first, second, third) in parts.items():
        year, month, day = {
            "year first": (first, second, third),
            "day first": (third, second, first),
            "month first": (third, first, second),
        }[order]
        try:
            found[one] = date(year + 2000 if year < 100 else year, month, day)
        except ValueError as error:
            raise Refused(f"“{one}” is no day.", "dates") from error
    return found
