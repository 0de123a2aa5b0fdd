"""When it is looked at: rules and moments found in what people say."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import islice

from fieldtally.core.describing.reader import Reader
from fieldtally.core.describing.words import CYCLES, DURATION, MONTHS, NUMBER, PEOPLE, TIMES, UNIT, number
from fieldtally.core.problems import Refused
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.schedule.repeat import MOST_LOOKS, repeated

SEASON = r"(?:spring|summer|autumn|winter)s?"
WEEKDAY = r"(?:mon|tues|wednes|thurs|fri|satur|sun)days?"
_LIST = rf"{NUMBER}(?:\s*(?:,\s*and\s+|,\s*or\s+|,|\s+and\s+|\s+or\s+|\s*&\s*)\s*{NUMBER})*"
_LONG = rf"(?:half\s+an?\s+(?:year|hour|day)|(?:{_LIST}\s*|an?\s+){TIMES}\b)"
_EVERY = (
    rf"(?:(?:once\s+)?(?:every|each|per|a(?=\s+(?:day|week|month|year)\b))\s+(?:other\s+|{NUMBER}\s+)?(?P<unit>day|days|week|weeks|month|months|"
    rf"year|years|hour|hours|h|minutes?|mins?|fortnight|morning|evening|night|half[\s-]?years?|quarters?(?:\s+of\s+a\s+year)?|{SEASON}|{WEEKDAY}|{CYCLES})\b|"
    rf"\b(?P<adverb>hourly|daily|nightly|weekly|fortnightly|monthly|yearly)|\b(?:on\s+)?(?P<weekday>{WEEKDAY}(?<=s))(?=\s*,?\s*(?:for|over)\b))"
)
_CLOCK = r"(?:\s*,?\s*at\s+\d{1,2}[:.]\d{2})?"
_SPAN = (
    rf"(?:\s*,?\s*(?P<times>{NUMBER})\s+times|\s*,?\s*(?:up\s+to|to|until|till?)\s+(?P<upto>{NUMBER})(?:\s*{CYCLES})?(?!\s*{TIMES}\b)(?=[\s.,;]|$)|\s*,?\s*(?:for|over|until|till?|up\s+to|to|through)\s+(?:the\s+(?:first|next)\s+)?"
    rf"(?P<span>{DURATION})|"
    # Weekly, 6 weeks; every day until they squeak, at most 60 days.
    rf"\s*,\s*(?P<bare>{NUMBER}\s*{TIMES}\b)(?=\s*(?:[.;\n]|$))|"
    rf"\s*,?\s*until\s+(?:they|it|all|each)\b[^.;\n,]{{0,30}}[,\s]+(?:max(?:imum)?\.?|at\s+most|up\s+to|no\s+longer\s+than)\s+"
    rf"(?P<most>{NUMBER}\s*{TIMES}\b))"
)
TWICE = (
    rf"\b(?:twice\s+a\s+week|(?:on\s+)?{WEEKDAY}\s+and\s+{WEEKDAY})"
    rf"(?:\s*,?\s*(?:for|over)\s+(?P<span>(?:{NUMBER}\s*|an?\s+)(?:weeks?|months?)\b))"
)
RULE = (
    rf"(?P<begun>\b(?:for|over)\s+(?P<first>{DURATION})\s*,?\s*)?{_EVERY}{_CLOCK}"
    rf"(?:\s+from\s+(?:mid[\s-]|late\s+|early\s+)?{MONTHS}\b)?{_SPAN}?"
)
AFTER = (
    rf"\b(?:after|at|by|within|on|in(?!\s+an?\s+hour))\s+(?:about\s+)?(?P<list>{_LONG}(?:\s*"
    rf"(?:,\s*and\s+|,|\s+and\s+(?:again\s+)?)\s*(?:after\s+|at\s+)?{_LONG})*)"
)
LATER = (
    rf"\b(?P<list>{_LONG}(?:\s*(?:,\s*and\s+|,|\s+and\s+)\s*{_LONG})*)\s+(?:later|after\s+\w+ing|after(?=\s*(?:[.,;\n]|$))|"
    rf"from\s+(?:the\s+)?(?:start|sowing|planting))\b"
)
RANGE = (
    rf"\b(?:on\s+|from\s+)?(?:(?P<unit>days?|weeks?|months?|hours?)\s+(?P<a>{NUMBER})\s*(?:-|–|to|until|till|through)\s*(?:(?P=unit)\s+)?"
    rf"(?P<b>{NUMBER})\b|(?P<each>daily|every\s+day|weekly|every\s+week)\s+from\s+(?:day|week)\s+(?P<c>{NUMBER})\s+to\s+(?:(?:day|week)\s+)?(?P<d>{NUMBER})\b)"
)
IN_BRACKETS = rf"\b(?:after|at|in)\s+(?:the\s+)?[a-z ]{{2,30}}\((?:after\s+)?(?P<list>{_LONG})\)"
NAMED = rf"\b(?:on\s+|at\s+|by\s+|in\s+|after\s+)?(?P<unit>days?|weeks?|months?|hours?)\s+(?P<list>{_LIST})\b"
SAME = (
    rf"\b(?:on\s+|at\s+|by\s+|after\s+)?(?P<unit>day|week|month|hour)\s+{NUMBER}(?:\s*(?:,\s*and\s+|"
    rf",|\s+and\s+)\s*(?:on\s+|by\s+)?(?P=unit)\s+{NUMBER})+\b"
)
IN_CYCLES = (
    rf"\b(?:after|at)\s+{NUMBER}(?:\s*{CYCLES})?(?:\s*(?:,\s*and\s+|,|\s+and\s+)\s*{NUMBER}(?:\s*{CYCLES})?)*"
    rf"(?:(?<=[a-z])|\s+{CYCLES})\b"
)
IN_ANYTHING = (
    rf"\b(?:after|at)\s+(?P<list>{NUMBER}(?:\s*(?:,\s*and\s+|,|\s+and\s+)\s*{NUMBER})+)\s+(?!{TIMES}\b|{PEOPLE}\b|{UNIT}\b|of\b|or\b|and\b|in\b)"
    rf"(?P<what>[a-z]{{3,20}}s)\b|\b(?:after|at)\s+(?P<one>{NUMBER})\s+(?!{TIMES}\b|{PEOPLE}\b|{UNIT}\b)(?P<done>[a-z]{{2,20}}ings)\b"
)
OF_SOMETHING = rf"\bafter\s+(?P<list>{_LIST})\s+(?:hours|h)\s+of\s+\w+"
FOR_SO_LONG = rf"\b(?:for|over)\s+(?:the\s+(?:next|first)\s+)?(?P<span>{DURATION})"
WORDED = (
    r"\b(?:(?:after|at)\s+(?:a\s+(?P<one>day|week|month|year|fortnight)|(?P<night>overnight))|"
    r"the\s+(?:next|following)\s+(?P<next>day|morning|week))\b"
)
BEFORE = (
    r"\b(?:before\s+and\s*(?=\s(?:after|at|on)\b|\s*\ue000)|before(?=\s*,\s*\ue000)|before(?=\s+and\s+after\b)|before\s+(?:(?:we|they|it)\s+"
    r"(?:start|begin)s?|the\s+start)|at\s+the\s+start|(?:right|straight)\s+away|(?:immediately|right\s+after)(?=\s+and\b)|new(?=\s*,\s*(?:and\s+)?\ue000))\b"
)
UNSAID = (
    r"\b(?:at|by)\s+(?:the\s+end(?:\s+of\s+(?:the\s+)?(?:season|summer|year|winter))?|"
    r"harvest)\b|(?<=\ue000\sand\s)after(?=\s*(?:[.,;\n]|in\s|$))|\bnext\s+(?:spring|summer|autumn|winter)\b"
)
WEEKS_A_MONTH = 4
HALVES = {
    r"half\s+a\s+year": "6 months",
    r"half\s+an\s+hour": "30 minutes",
    r"half\s+a\s+day": "12 hours",
    r"a\s+year\s+and\s+a\s+half": "18 months",
}
NIGHTS = r"\b(?:mornings?|evenings?|nights?)\b"


@dataclass(frozen=True)
class ToldLook:
    """A look as it was told: its name, ``offset`` in minutes after the start or the ``cycle`` after which it comes, or a ``baseline``."""

    name: str
    offset: int | None
    cycle: int | None = None
    baseline: bool = False


@dataclass(frozen=True)
class ToldLooks:
    """All looks that were told, in order; what a cycle is called (empty: there are none); and moments (as written) of which nobody can say
    how long after the start they come."""

    looks: tuple[ToldLook, ...]
    cycle_word: str = ""
    unsaid: tuple[str, ...] = ()


@dataclass
class _Looks:
    """The looks found so far, by offset and cycle."""

    reader: Reader
    found: dict[tuple[int, int], ToldLook] = field(default_factory=dict)
    cycle_word: str = ""

    def add(self, match: re.Match[str], rule: str, cycle: str = "") -> None:
        """The looks of a ``rule``; what is no rule is left to others."""
        zero = re.match(r"after 0(?:,| and) ", rule)
        try:
            looks = repeated(rule.replace(zero[0], "after ") if zero else rule, cycle_word=cycle)
        except Refused:
            return
        self.cycle_word = self.cycle_word or cycle
        for look in looks:
            self.found.setdefault((look.offset or 0, look.cycle or 0), ToldLook(look.name, look.offset, look.cycle))
        if zero:
            self.found.setdefault((-1, 0), ToldLook("At the start", 0, None, baseline=True))
        names = ", ".join(look.name for look in looks[:4]) + (f" … {looks[-1].name}" if len(looks) > 4 else "")
        self.reader.take(match.start(), match.end(), "look", names)


def looks_in(reader: Reader) -> ToldLooks:
    """The looks that the text tells of; they are marked in it."""
    told = _Looks(reader)
    _by_rule(reader, told)
    _in_cycles(reader, told)
    _moments(reader, told)
    if not told.found:
        for match in reader.find(FOR_SO_LONG):
            told.add(match, f"after {_in_figures(match['span'])}")
    looks = [*_before(reader, told), *(told.found[key] for key in sorted(told.found))]
    return ToldLooks(tuple(looks), told.cycle_word, tuple(_unsaid(reader, bool(looks))))


def _by_rule(reader: Reader, told: _Looks) -> None:
    """Every so many days for so long; each day from one to another."""
    for match in reader.find(TWICE):
        told.add(match, _twice_a_week(match["span"]))
    for match in reader.find(RULE):
        told.add(match, *_every(match, reader.text))
    if not told.found:
        _with_a_span(reader, told)
    for match in reader.find(RANGE):
        for rule in _between(match):
            told.add(match, rule)


def _in_cycles(reader: Reader, told: _Looks) -> None:
    """After so many washes, or so many of anything else that is done."""
    for match in reader.find(OF_SOMETHING):
        told.add(match, f"after {_in_figures(match['list'])} hours", "hour")
    for match in reader.find(IN_CYCLES):
        for said in re.findall(rf"\b{CYCLES}\b", match[0], re.I)[-1:]:
            word = {"washing": "wash", "us": "use"}.get(noun(said.casefold()).one, noun(said.casefold()).one)
            told.add(match, f"after {_listed(match[0])} {noun(word).many}", word)
    for match in reader.find(IN_ANYTHING):
        word = noun((match["what"] or match["done"]).casefold()).one
        told.add(match, f"after {_listed(match['list'] or match['one'])} {noun(word).many}", word)


def _moments(reader: Reader, told: _Looks) -> None:
    """Day 3, after two weeks, the next morning."""
    for pattern in (SAME, NAMED):
        for match in reader.find(pattern):
            told.add(match, f"after {_listed(match[0])} {match['unit']}")
    for pattern in (AFTER, LATER, IN_BRACKETS):
        for match in reader.find(pattern):
            told.add(match, f"after {_in_figures(match['list'])}")
    for match in reader.find(WORDED):
        long = "12 h" if match["night"] else f"1 {match['one'] or match['next'].replace('morning', 'day')}"
        told.add(match, f"after {_in_figures(long)}")


def _with_a_span(reader: Reader, told: _Looks) -> None:
    """A rule whose length is told elsewhere: ten hens on each for six weeks; one egg every week."""
    rules, spans = list(reader.find(RULE)), list(reader.find(FOR_SO_LONG))
    for match, span in zip(rules[:1], spans[:1], strict=False):
        rule, cycle = _every(match, reader.text)
        told.add(match, f"{rule} for {_in_figures(span['span'])}", cycle)
        if told.found:
            reader.take(span.start(), span.end(), "look", f"for {span['span']}")


def _before(reader: Reader, told: _Looks) -> Iterator[ToldLook]:
    """A look before the start, once."""
    for match in islice(reader.find(BEFORE), 0 if (-1, 0) in told.found else 1):
        name = "Before the start" if "before" in match[0].casefold() else "At the start"
        reader.take(match.start(), match.end(), "look", name.casefold())
        yield ToldLook(name, 0, None, baseline=True)


def _unsaid(reader: Reader, told: bool) -> Iterator[str]:
    """Moments of which nobody can say how long after the start they come; passed over where other looks are ``told``."""
    for match in reader.find(UNSAID):
        if told:
            reader.blank(match.start(), match.end())
            continue
        reader.take(match.start(), match.end(), "look", "when that is, is asked")
        yield match[0]


def _listed(text: str) -> str:
    """All numbers of ``text``, in figures."""
    return ", ".join(_figure(one) for one in re.findall(NUMBER, text, re.I))


def _between(match: re.Match[str]) -> Iterator[str]:
    """The rule of a match of ``RANGE``: each day from one to another."""
    first, last = round(number(match["a"] or match["c"])), round(number(match["b"] or match["d"]))
    unit = match["unit"] or ("days" if "da" in match["each"].casefold() else "weeks")
    if 0 < first < last <= first + MOST_LOOKS:
        yield f"after {', '.join(str(one) for one in range(first, last + 1))} {unit.rstrip('s')}s"


def _in_all(text: str, cycle: str, step: float) -> str:
    """How often something is looked at every ``step`` cycles of all that ``text`` tells of: 3 times in 300 km, every 100."""
    told = [
        number(one["n"])
        for one in re.finditer(rf"(?P<n>{NUMBER})\s*(?P<what>{CYCLES})\b", text, re.I)
        if noun(one["what"].casefold()).one == cycle
    ]
    many = max(told, default=0.0) / step
    return f", {round(many)} times" if 1 < many <= MOST_LOOKS and many == round(many) else ""


def _every(match: re.Match[str], text: str) -> tuple[str, str]:
    """The rule of a match of ``RULE`` in ``text``, and what its cycle is called."""
    said = match[0].casefold()
    unit = (match["unit"] or match["adverb"] or match["weekday"] or "").casefold()
    adverbs = {
        "hourly": "hour",
        "daily": "day",
        "nightly": "day",
        "weekly": "week",
        "fortnightly": "fortnight",
        "monthly": "month",
        "yearly": "year",
    }
    unit = adverbs.get(unit, unit)
    step = 1.0
    stepped = re.search(rf"(?:every|each)\s+(other|{NUMBER})\s", said)
    if stepped:
        step = 2.0 if stepped[1] == "other" else number(stepped[1])
    if unit == "fortnight":
        unit, step = "week", 2 * step
    if unit.startswith(("half", "quarter")):
        unit, step = "month", step * (6 if unit.startswith("half") else 3)
    unit = (
        "week" if re.fullmatch(WEEKDAY, unit) else "year" if re.fullmatch(SEASON, unit) else re.sub(NIGHTS, "day", unit)
    )
    cycle = "" if re.fullmatch(TIMES, unit) else noun(unit).one
    at = re.search(r"at\s+(\d{1,2})[:.](\d{2})", said)
    clock = f" at {at[1]}:{at[2]}" if at else ""
    rest = ""
    span = match["span"] or match["bare"] or match["most"] or match["first"]
    if match["times"]:
        rest = f", {round(number(match['times']))} times"
    elif span:
        rest = f" for {_in_figures(span)}"
    elif match["upto"]:
        rest = f", {round(number(match['upto']) / step)} times"
    elif cycle:
        rest = _in_all(text, cycle, step)
    return f"every {step:g} {unit}{clock}{rest}", cycle


def _twice_a_week(span: str) -> str:
    """The rule for two looks in each week of a ``span``: the third and the seventh day.

    >>> _twice_a_week("2 weeks"), _twice_a_week("a month")[:26]
    ('after 3, 7, 10, 14 days', 'after 3, 7, 10, 14, 17, 21')
    """
    found = re.match(rf"(?P<n>{NUMBER}|an?)\s*(?P<unit>\w+)", span, re.I)
    many = 1.0 if found is None or found["n"].casefold() in ("a", "an") else number(found["n"])
    weeks = round(many * (1 if found and found["unit"].casefold().startswith("week") else WEEKS_A_MONTH))
    return f"after {', '.join(str(7 * week + day) for week in range(min(weeks, 60)) for day in (3, 7))} days"


def _figure(text: str) -> str:
    return f"{number(text):g}"


def _in_figures(text: str) -> str:
    """``text`` with numbers in figures, and with units that rules know."""
    text = text.casefold()
    for said, meant in HALVES.items():
        text = re.sub(rf"\b{said}\b", meant, text)
    text = re.sub(r"\b(?:a|an)\s+(?=[a-z])", "1 ", text)
    text = re.sub(rf"\b{NUMBER}", lambda one: _figure(one[0]), text, flags=re.I)
    text = re.sub(r"(\d+)\s+fortnights?", lambda one: f"{2 * int(one[1])} weeks", text)
    text = re.sub(NIGHTS, "days", re.sub(r"\bwks?\b", "weeks", text))
    text = re.sub(r"\b(?:again|after|at|about)\s+|&", lambda one: "and" if one[0] == "&" else "", text)
    # A span of a month or so goes with weeks and days alike.
    return " ".join(text.split())
