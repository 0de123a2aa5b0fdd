"""What is looked at, and on what scale: found in what people say."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import Literal

from fieldtally.core.describing.grades import grades, in_words, shades
from fieldtally.core.describing.measures import by_unit_alone, measured
from fieldtally.core.describing.phrases import PHRASE, STATE_WORD, WORD, Add, behind_looks
from fieldtally.core.describing.reader import TAKEN, Reader
from fieldtally.core.describing.tallies import counts, percents
from fieldtally.core.describing.words import UNIT, unit_of
from fieldtally.core.scales import (
    CountScale,
    EventScale,
    GradeScale,
    Level,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    Scale,
)

LESS = re.compile(
    r"damage|loss|mould|rot|rust|stain|scab|weed|holes?|eaten|crack|flak|peeling|fad|"
    r"wear|streak|soot|pest|flies|dead|stale|slipper|spot|dug|"
    r"brows|moss|taken\s+up|slug|wilt|dry(?:ness)?\b|visits|mosquito|broken|awake",
    re.I,
)
STATES = (
    ("dead", "alive"),
    ("alive", "dead"),
    ("rotten", "sound"),
    ("intact", "broken"),
    ("pass", "fail"),
    ("passed", "failed"),
    ("broken", "whole"),
    ("good", "bad"),
    ("occupied", "empty"),
    ("open", "closed"),
    ("wet", "dry"),
    ("yes", "no"),
)
BAD = ("dead", "rotten", "broken", "fail", "failed", "bad")
NOT_NAMES = re.compile(
    r"^(?:the|a|an|its|their|how|each|of|all|number|score|count|share|my|our|them|it|those|these|and|also|plus)\s+|\s+(?:of|the|is|are|was|be|after|at|against|with)$",
    re.I,
)


Better = Literal["more", "less", "target", "none"]


@dataclass(frozen=True)
class ToldOutcome:
    """An outcome as it was told: its name, its scale, which side is better, and whether something of it is open: its ``unit``."""

    name: str
    scale: Scale
    better: Better
    open: str = ""


def outcomes_in(reader: Reader) -> list[ToldOutcome]:
    """The outcomes that the text tells of, in its order; they are marked in it."""
    found: list[tuple[int, ToldOutcome]] = []

    def add(begin: int, end: int, name: str, scale: Scale, open_: str = "") -> None:
        name = _named(name)
        if not name or any(one.name.casefold() == name.casefold() for _, one in found):
            return
        found.append((begin, ToldOutcome(name, scale, "less" if LESS.search(name) else "more", open_)))
        reader.take(begin, end, "outcome", f"{name}, {_scale_told(scale)}")

    for rule in (shades, in_words, grades, _states, _events, percents, counts, measured):
        rule(reader, add)
    by_unit_alone(reader, add, [at for at, _ in found])
    found = [(at, _with_its_unit(reader, at, one)) for at, one in found]
    return [one for _, one in sorted(found, key=lambda pair: pair[0])]


def _with_its_unit(reader: Reader, at: int, one: ToldOutcome) -> ToldOutcome:
    """``one`` with the unit that its sentence ends in, if it has none yet: weigh before and after, in g."""
    if one.open != "unit":
        return one
    end = next((end for begin, end in reader.sentences() if begin <= at < end), len(reader.text))
    unit = re.compile(rf"(?:,\s*|\bin\s+)(?P<unit>{UNIT})(?=[\s.;!]*$)", re.I).search(reader.rest, at, end)
    if unit is None:
        return one
    scale = MeasurementScale(unit_of(unit["unit"]))
    reader.take(unit.start(), end, "outcome", f"{one.name}, {_scale_told(scale)}")
    return replace(one, scale=scale, open="")


def _scale_told(scale: Scale) -> str:
    match scale:
        case MeasurementScale():
            return f"measured in {scale.unit}" if scale.unit else "measured, in a unit that is asked"
        case CountScale():
            return f"counted, of {scale.of}" if scale.of else "counted"
        case PercentScale():
            return "in percent"
        case GradeScale():
            return f"graded {scale.levels[0].label} to {scale.levels[-1].label}"
        case PassFailScale():
            return f"{scale.pass_word} or {scale.fail_word}"
        case EventScale():
            return "the day or hour it happens"
        case _:
            return "by a chart of shades"


def _named(name: str) -> str:
    name = " ".join(name.replace(TAKEN, " ").split()).strip(" ,:;.-–(")
    for _ in range(4):
        name = NOT_NAMES.sub("", name).strip()
    return name[:1].upper() + name[1:60]


JOINTS = (
    "the",
    "and",
    "with",
    "whether",
    "are",
    "were",
    "they",
    "for",
    "all",
    "each",
    "still",
    "note",
    "check",
    "look",
    "looks",
    "either",
    "plain",
)


def _states(reader: Reader, add: Add) -> None:
    _asked(reader, add)
    for match in reader.find(
        rf"\b(?P<a>{WORD}),\s+(?P<b>{WORD})\s+or\s+(?P<c>{WORD})(?=[,.;]|$|{TAKEN}|\s+(?:after|at|every|when))"
    ):
        if {match["a"].casefold(), match["b"].casefold(), match["c"].casefold()} & {
            "sound",
            "dead",
            "good",
            "rotten",
            "whole",
            "firm",
        }:
            words = (match["c"], match["b"], match["a"])
            add(
                match.start(),
                match.end(),
                match["a"],
                GradeScale(tuple(Level(float(i), one.casefold(), one.casefold()) for i, one in enumerate(words))),
            )
    for match in reader.find(
        rf"\b(?P<a>{WORD}(?:\s+(?:up|off|out))?)\s*(?:or|/|,\s+or)\s*not(?:\s+(?P=a))?\b(?!\s*\?|\s+[a-z]+ed\b)"
    ):
        add(match.start(), match.end(), match["a"], PassFailScale("yes", "no"))
    for match in reader.find(
        rf"\b(?P<a>{WORD})\s*(?:/|or)\s*(?:did|has|have|is|are|does|do)(?:\s+not|n['’]t)\s+{WORD}\b"
    ):
        add(match.start(), match.end(), match["a"], PassFailScale("yes", "no"))
    for match in reader.find(rf"(?P<what>{PHRASE})?\s*[:(]?\s*\b(?:yes\s*(?:/|or)\s*no|y\s*/\s*n)\b\)?"):
        begin, name = (match.start(), match["what"]) if match["what"] else behind_looks(reader.rest, match.start())
        add(begin, match.end(), name or "Yes or no", PassFailScale("yes", "no"))
    for match in reader.find(rf"(?P<what>{WORD}\s+(?:test|check))[\s:]+(?P<a>[a-z]+)\s*(?:/|or)\s*(?P<b>[a-z]+)"):
        add(match.start(), match.end(), match["what"], PassFailScale(match["a"].casefold(), match["b"].casefold()))
    for match in reader.find(
        rf"\b(?P<what>[a-z]{{3,20}})\s+(?P<a>{STATE_WORD.pattern})\s+or\s+(?P<b>[a-z]{{3,20}})(?=\s*(?:[.,;\n]|$|{TAKEN}))"
    ):
        if match["what"].casefold() not in JOINTS:
            add(match.start(), match.end(), match["what"], PassFailScale(match["a"].casefold(), match["b"].casefold()))
    for match in reader.find(r"\bdid\s+(?:it|they|the\s+[a-z]+)\s+(?P<what>[a-z]+)\s*\?"):
        add(match.start(), match.end(), match["what"], PassFailScale("no", "yes"))
    for good, bad in dict.fromkeys([*STATES, *((bad, good) for good, bad in STATES)]):
        for match in reader.find(rf"\b{good}\s*(?:or|/)\s*{bad}\b"):
            passed, failed = (bad, good) if good in BAD else (good, bad)
            add(match.start(), match.end(), match[0].split()[0].split("/")[0], PassFailScale(passed, failed))
    for match in reader.find(
        rf"\b(?:note|see|record|check|and)\s+(?:whether|if)\s+(?:it|they|the\s+{WORD}|any)\s+(?P<what>{WORD}(?:\s+{WORD})?)"
    ):
        add(match.start(), match.end(), match["what"], PassFailScale("yes", "no"))


def _asked(reader: Reader, add: Add) -> None:
    """Alive after three weeks?  Did it snap?"""
    for match in reader.find(rf"(?P<what>{WORD})\s*\(\s*[a-z]+\s+or\s+not\s*\)"):
        add(match.start(), match.end(), match["what"], PassFailScale("yes", "no"))
    for match in reader.find(
        rf"(?:^|[.;?!\n]\s*)(?P<what>[a-z]{{3,20}}s)\s+or\s+(?P<other>[a-z]{{3,20}}s)\s*(?={TAKEN})"
    ):
        words = match["what"].casefold(), match["other"].casefold()
        add(match.start("what"), match.end(), match["what"], PassFailScale(*words))
    for match in reader.find(rf"(?:^|[.?!\n]\s*)(?P<what>[a-z]{{3,20}})\s*{TAKEN}+\s*\?"):
        add(match.start("what"), match.end(), match["what"], PassFailScale("yes", "no"))


def _events(reader: Reader, add: Add) -> None:
    patterns = (
        r"\b(?:note\s+)?(?:the\s+)?(?:day|date|hour)s?\s+(?:when\s+|that\s+|on\s+which\s+)?"
        r"(?:it|they|each(?:\s+one)?|the\s+(?:first\s+)?\w+)\s+(?P<what>\w+(?:\s+(?:up|"
        r"out|off|over))?)",
        r"\b(?:how\s+(?:long|many\s+\w+)|hours?|days?|minutes?|seconds?|time|weeks?)\s+"
        r"(?:un)?(?:till|til)\s+(?:it\s+(?:is\s+)?|they\s+(?:are)?|the\s+(?:first\s+)?)?"
        r"(?P<what>[a-z]+(?:\s+(?!after|at|\()[a-z]+){0,2})(?:\s*\(\w+\))?",
        r"\b(?:days?|time|hours?)\s+to\s+(?P<what>(?:first\s+)?[a-z]+)\b(?!\s+(?:one|an?|the|each|all)\b)",
        r"\bfirst\s+(?:day|date|hour|week)\s+(?:on\s+which|when|that|of)\s+(?:the\s+)?(?P<what>[a-z]+)(?:\s+(?:is|are)\s+(?:seen|found|there|visible)|\s+(?:shows?|appears?))?",
        r"\b(?:date|day|hour)\s+when\s+(?:the\s+)?(?P<what>(?!it\b|they\b|each\b)[a-z]+)\s+(?:first\s+)?(?:shows?|appears?|opens?|is\s+seen|comes?)",
        r"(?<!\ban )(?<!\bsowing )(?<!\bplanting )\b(?:day|hour|date)\s+of\s+(?:first\s+|the\s+first\s+)?(?P<what>[a-z]+)",
        r"\bwhen\s+(?:it|they|the\s+first\s+\w+)\s+(?P<what>\w+(?:\s+(?:up|out|off))?)",
    )
    for pattern in patterns:
        for match in reader.find(pattern):
            what = re.sub(r"^(?:is|are)\s+", "", match["what"].strip())
            add(match.start(), match.end(), re.sub(r"^the\s+", "", what), EventScale(what[:80]))
