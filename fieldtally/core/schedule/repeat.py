"""Repeat rules: the looks that a phrase stands for, as people write it.

::

    every 5 days, eight times          at 8:00, 14:30 and so on: "daily at 08:00, 12 times"
    every 12 hours for 3 days          "weekly, 6 times"
    every 2 h until 24 h               "after every 5 washes, six times"
    after 1, 2, 5 and 10 days          "after 10, 20 and 40 firings"
    after 2 h and 24 h                 each with its own unit: "after 2 h, 3 days and 1 month"
    monthly, six times                 "every 3 months for 1 year"

A month is the twelfth part of a year, rounded to whole days; a look after some is called by months where all of its rule are.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from fieldtally.core.problems import Refused
from fieldtally.core.quantities.nouns import noun

MINUTES = {
    **dict.fromkeys(("minute", "minutes", "min", "mins"), 1),
    **dict.fromkeys(("hour", "hours", "h", "hr", "hrs"), 60),
    **dict.fromkeys(("day", "days", "d"), 1440),
    **dict.fromkeys(("week", "weeks", "w", "wk"), 10080),
    **dict.fromkeys(("month", "months", "mo"), 43_830),
    **dict.fromkeys(("year", "years", "yr"), 525_960),
}
LONG = 43_830
"""From a month on, times are rounded to whole days."""
COUNTED = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
WORDS = {"once": 1, "twice": 2, **{word: n for n, word in enumerate(COUNTED, start=1)}}
MOST_LOOKS = 120
SHORT = 4 * 1440
"""Minutes up to which looks of a rule in hours are all called by hours."""
NUMBER = rf"(\d+(?:[.,]\d+)?|{'|'.join(COUNTED)}|an?)"
UNIT = r"([^\W\d_]+)"
EXAMPLES = (
    "every 5 days, eight times",
    "daily at 08:00, 12 times",
    "after 1, 3, 7 and 14 days",
    "every 5 washes, 6 times",
)


@dataclass(frozen=True)
class Repeated:
    """One look of a rule: its name; ``offset`` in minutes after the start, with the hour of the day (``clock``, minutes
    after midnight) where one is given; or the ``cycle`` after which it comes, its offset None."""

    name: str
    offset: int | None
    clock: int | None = None
    cycle: int | None = None


def repeated(rule: str, *, cycle_word: str = "") -> tuple[Repeated, ...]:
    """The looks that ``rule`` stands for, in order; ``cycle_word`` is what the trial calls a cycle (``wash``).

    >>> [look.offset for look in repeated("every 12 hours for 2 days")]
    [720, 1440, 2160, 2880]
    >>> [look.cycle for look in repeated("after every 5 washes, three times", cycle_word="wash")]
    [5, 10, 15]

    :raises Refused: it is not understood; the sentence names the piece.
    """
    text = " ".join(rule.casefold().split()).rstrip(".")
    if not text:
        raise Refused("Write when you will look, as in “every 5 days, eight times”.")
    text, clock = _clock(text)
    looks = _every(text, cycle_word) or _listed(text, cycle_word)
    if looks is None:
        raise Refused(f"“{rule.strip()}” is not understood. It may read “{EXAMPLES[0]}” or “{EXAMPLES[2]}”.")
    amounts, unit = looks
    if len(amounts) > MOST_LOOKS:
        raise Refused(f"That makes {len(amounts)} looks; {MOST_LOOKS} at once are enough for anyone.")
    if unit == LONG or unit == 12 * LONG:
        months = [round(n * unit / LONG, 6) for n in amounts]
        if clock is None and all(month == round(month) for month in months):
            return tuple(Repeated(f"Month {round(month)}", _in_days(month * LONG), None) for month in months)
    if unit is None:
        if clock is not None:
            raise Refused("An hour of the day does not go with cycles.")
        return tuple(Repeated(f"After {round(n)} {_many(cycle_word, round(n))}", None, None, round(n)) for n in amounts)
    offsets = [_in_days(n * unit) if unit >= LONG or n * unit >= 3 * LONG else round(n * unit) for n in amounts]
    if clock is not None and any(offset % 1440 for offset in offsets):
        raise Refused("An hour of the day goes with whole days, as in “every 2 days at 08:00, six times”.")
    in_weeks = unit == MINUTES["week"] and not any(offset % unit for offset in offsets)
    in_hours = (
        bool(re.search(r"\d ?h", text))
        and len(offsets) > 1
        and max(offsets) <= SHORT
        and not any(o % 60 for o in offsets)
    )
    if in_hours and any(offset % 1440 for offset in offsets):
        # One style of names: no "Day 1" among hours.
        return tuple(Repeated(f"{offset // 60} h", offset, clock) for offset in offsets)
    return tuple(Repeated(name_of(offset, in_weeks=in_weeks), offset, clock) for offset in offsets)


def _in_days(minutes: float) -> int:
    """Minutes rounded to whole days."""
    return round(minutes / 1440) * 1440


def name_of(offset: int, *, in_weeks: bool = False) -> str:
    """What a look after ``offset`` minutes is called; ``in_weeks`` where all of its plan are told in weeks.

    >>> name_of(5 * 1440), name_of(21 * 1440), name_of(21 * 1440, in_weeks=True), name_of(90), name_of(120)
    ('Day 5', 'Day 21', 'Week 3', '1 h 30 min', '2 h')
    """
    if offset and offset % 10080 == 0 and in_weeks:
        return f"Week {offset // 10080}"
    if offset and offset % 1440 == 0:
        return f"Day {offset // 1440}"
    hours, minutes = divmod(offset, 60)
    return " ".join([*([f"{hours} h"] if hours else []), *([f"{minutes} min"] if minutes or not hours else [])])


def _many(word: str, count: int) -> str:
    return noun(word.strip() or "cycle").of(count)


def _number(text: str) -> float:
    return 1.0 if text in ("a", "an") else float(WORDS.get(text) or text.replace(",", "."))


def _clock(text: str) -> tuple[str, int | None]:
    found = re.search(r"\s*\bat (\d{1,2})(?::(\d{2}))?\s*(am|pm|h|o'clock)?(?=$|[\s,])", text)
    if found is None:
        return text, None
    hour, minute = int(found[1]), int(found[2] or 0)
    if found[3] == "pm" and hour < 12:
        hour += 12
    if hour > 23 or minute > 59:
        raise Refused(f"“{found[0].strip()}” is no hour of the day.")
    return (text[: found.start()] + text[found.end() :]).strip(" ,"), hour * 60 + minute


def _unit(word: str, cycle_word: str) -> int | None:
    """Minutes in the unit ``word``; None for cycles."""
    if word in MINUTES:
        return MINUTES[word]
    own = cycle_word.strip().casefold()
    if word in {"cycle", "cycles"} or (own and word in {own, noun(own).one, noun(own).many}):
        return None
    known = "minutes, hours, days, weeks or months" + (f", or {own}" if own else "")
    raise Refused(f"“{word}” is no unit of time here: {known}.")


def _every(text: str, cycle_word: str) -> tuple[list[float], int | None] | None:
    for word, said in (
        ("hourly", "hour"),
        ("daily", "day"),
        ("weekly", "week"),
        ("monthly", "month"),
        ("yearly", "year"),
    ):
        text = re.sub(rf"^{word}", f"every {said}", text)
    found = re.fullmatch(rf"(?:after )?every (?:{NUMBER} )?{UNIT}(?:,? (.+))?", re.sub(r"(\d)([a-z])", r"\1 \2", text))
    if found is None:
        return None
    step, unit = _number(found[1] or "1"), _unit(found[2], cycle_word)
    if step <= 0:
        raise Refused("Every nothing is no rule: give a time above 0.")
    rest = found[3] or ""
    times = re.fullmatch(rf"(?:{NUMBER} times|(once|twice)|x ?(\d+)|(\d+) ?x)", rest)
    if times is not None:
        count = int(_number(next(part for part in times.groups() if part)))
        return [step * (i + 1) for i in range(min(count, MOST_LOOKS + 1))], unit
    until = re.fullmatch(rf"(?:for|until|up to|over) {NUMBER} {UNIT}", rest)
    if until is None:
        raise Refused("How many times, or for how long? As in “every 5 days, eight times” or “every 2 h for 1 day”.")
    end_unit = _unit(until[2], cycle_word)
    if (end_unit is None) != (unit is None):
        raise Refused("Time and cycles do not mix in one rule.")
    end = _number(until[1]) * (end_unit or 1) / (unit or 1)
    return [step * (i + 1) for i in range(min(int(end / step + 1e-9), MOST_LOOKS + 1))], unit


def _listed(text: str, cycle_word: str) -> tuple[list[float], int | None] | None:
    told = [re.fullmatch(rf"{NUMBER} ?{UNIT}", piece) for piece in _pieces(text)]
    if len(told) > 1 and len({one[2].removesuffix("s") for one in told if one}) == 1 and None not in told:
        # The same unit with each of them, as in a list of names: day 1, day 3.
        text = f"{', '.join(one[1] for one in told if one)} {told[0][2] if told[0] else ''}"
    each = _each_with_its_unit(text, cycle_word)
    if each is not None:
        return each, 1
    found = re.fullmatch(rf"(?:after |on |at )?({NUMBER}(?:(?:, | and |, and |,){NUMBER})*) ?{UNIT}", text)
    if found is None:
        swapped = re.fullmatch(rf"(?:on |after )?{UNIT} ({NUMBER}(?:(?:, | and |, and |,){NUMBER})*)", text)
        if swapped is None:
            return None
        amounts, word = swapped[2], swapped[1]
    else:
        amounts, word = found[1], found[found.re.groups]
    unit = _unit(word, cycle_word)
    numbers = sorted({_number(part) for part in re.split(r", and |, | and |,", amounts)})
    if numbers[0] <= 0:
        raise Refused("A look comes after the start: give a time above 0.")
    return numbers, unit


def _pieces(text: str) -> list[str]:
    """The pieces of a list, each as its amount and its unit: day 3 is 3 day."""
    plain = [re.sub(r"^(?:after|on|at) ", "", piece.strip()) for piece in re.split(r", and | and |, ?", text)]
    return [re.sub(rf"^{UNIT} ({NUMBER})$", r"\2 \1", piece) for piece in plain]


def _each_with_its_unit(text: str, cycle_word: str) -> list[float] | None:
    """Minutes of a list in which more than one amount has a unit (``2 h and 24 h``, ``2, 4 h and 1 day``, ``day 1, day 3``); None where it
    is none."""
    pieces = _pieces(text)
    told = [re.fullmatch(rf"{NUMBER} ?{UNIT}?", piece.strip()) for piece in pieces]
    if (
        len(pieces) < 2
        or None in told
        or sum(bool(one and one[2]) for one in told) < 2
        or not (told[-1] and told[-1][2])
    ):
        return None
    found: list[float] = []
    unit: int | None = None
    for one in reversed(told):
        if one is None:
            return None
        unit = _unit(one[2], cycle_word) if one[2] else unit
        if unit is None:
            raise Refused("Time and cycles do not mix in one rule.")
        minutes = _number(one[1]) * unit
        found.append(float(_in_days(minutes)) if unit >= LONG else minutes)
    if min(found) <= 0:
        raise Refused("A look comes after the start: give a time above 0.")
    return sorted(set(found))
