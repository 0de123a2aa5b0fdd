"""What is graded or matched to shades: found in what people say."""

from __future__ import annotations

import re

from fieldtally.core.describing.phrases import A_SCALE, GRADING, PHRASE, STATE_WORD, Add, before, behind_looks
from fieldtally.core.describing.reader import TAKEN, Reader
from fieldtally.core.describing.words import NUMBER, PEOPLE, UNIT, number
from fieldtally.core.scales import CountScale, GradeScale, Level, Shade, ShadeScale


def shades(reader: Reader, add: Add) -> None:
    chart = r"(?:(?:ripeness|colou?r|shade|grey|gray)\s+)+(?:chart|card|scale|guide)"
    for match in reader.find(
        rf"(?:(?P<what>{PHRASE})\s+)?(?:{GRADING}\s+)?(?:against|by|with|on|from)\s+(?:the|a|our)?\s*{chart}"
    ):
        add(match.start(), match.end(), match["what"] or "Shade", _shade())
    for match in reader.find(r"\bshades?\s+(?:guide|\d+\s*[-–]\s*\d+(?:\s+on\s+(?:the|a)\s+\w+\s+(?:card|chart))?)"):
        add(match.start(), match.end(), "Shade", _shade())


def _shade() -> ShadeScale:
    return ShadeScale(
        tuple(Shade(str(i), swatch) for i, swatch in enumerate(("#f2e8cf", "#dfc98f", "#bf9b4e", "#8f6a2a"), start=1))
    )


MOST_GRADED = 10


def grades(reader: Reader, add: Add) -> None:
    for match in reader.find(rf"[\s(]{{0,3}}{A_SCALE}\)?(?!\s*(?:{UNIT})(?!\w))"):
        low, high = (
            (0.0, number(match["of"]))
            if match["of"]
            else (0.0 if match["low"] == "zero" else number(match["low"]), number(match["high"]))
        )
        if not low < high <= 100 or high - low < 2:
            continue
        text = reader.rest
        graded = re.search(rf"(?P<verb>{GRADING})\s+(?:the\s+)?(?P<what>{PHRASE})?[\s,]*$", text[: match.start()], re.I)
        after = re.match(rf"\s+for\s+(?:its\s+)?(?P<what>{PHRASE})", text[match.end() :], re.I)
        begin, what = before(reader, match.start())
        told_by = re.search(
            rf"(?P<what>{PHRASE})\s+by\s+(?:{NUMBER}\s+)?{PEOPLE}[\s,:(]*$", text[: match.start()], re.I
        )
        if told_by:
            begin, what = told_by.start(), told_by["what"]
        if not what.strip() and text[: match.start()].rstrip(" (").endswith(","):
            begin, what = before(reader, text[: match.start()].rstrip(" (").rfind(","))
        verb_last = re.search(
            rf"\s*[,(]?\s*(?:\b(?:are|is)\s+)?\b{GRADING}\s*(?:on|from)?\s*$", text[: match.start()], re.I
        )
        end = match.end()
        if after:
            name, end = after["what"], match.end() + after.end()
            if verb_last:
                begin = verb_last.start()
        elif graded and graded["what"]:
            begin, name = graded.start(), graded["what"]
        elif verb_last:
            begin, name = before(reader, verb_last.start())
        else:
            name = (
                "" if re.search(rf"\bpanel(?:\s+of\s+\w+)?\s*$|^\s*(?:{NUMBER}\s+)?{PEOPLE}\s*$", what, re.I) else what
            )
            if not name.strip():
                begin, name = behind_looks(text, begin)
        told = graded or after or verb_last or "scale" in match[0].casefold() or what.strip() or name.strip()
        if not told:
            continue
        # Germinated out of 50 is counted.
        add(
            begin,
            end,
            name or "Score",
            CountScale(int(high)) if match["of"] and high > MOST_GRADED else grade(low, high),
        )
    for match in reader.find(rf"\b{GRADING}\s+(?:the\s+)?(?P<what>(?!(?:by|with|on|at|blind)\b){PHRASE})"):
        add(match.start(), match.end(), match["what"], grade(0, 5), "levels")


def grade(low: float, high: float) -> GradeScale:
    """Grades from ``low`` to ``high`` in whole steps, or in tens where that were more than eleven."""
    step = 1 if high - low <= 10 else 10 if (high - low) % 10 == 0 else 1
    return GradeScale(tuple(Level(low + i * step, f"{low + i * step:g}") for i in range(int((high - low) / step) + 1)))


_WORDS_LISTED = re.compile(r"\((?P<list>[a-z ]{2,20}(?:[,/]\s*(?:or\s+)?[a-z ]{2,20}){1,7})\)", re.I)
_ENDS = re.compile(
    r"\(\s*(?P<low>\d{1,2})\s*=?\s*[a-z][a-z ]{0,20}(?:[-–,]|\bto\b)\s*(?P<high>\d{1,2})\s*=?\s*[a-z][a-z ]{0,20}\)",
    re.I,
)
_HOW = re.compile(r"\s+(?:by|with|on|too|also)\b[^.;:\n()]{0,24}$", re.I)


def in_words(reader: Reader, add: Add) -> None:
    """Grades in brackets behind what is graded: by their words (soft, ok, hard), or by figures with words (0 none - 3 many)."""
    for match in _WORDS_LISTED.finditer(reader.rest):
        words = [re.sub(r"^or\s+", "", one.strip().casefold()) for one in re.split(r"[,/]", match["list"])]
        how = _HOW.search(reader.rest[max(0, match.start() - 60) : match.start()].rstrip())
        told = reader.rest[: match.start()].rstrip()
        begin, what = before(reader, len(told) - (len(how[0]) if how else 0))
        if (
            what.strip()
            and sum(bool(STATE_WORD.fullmatch(one)) for one in words) > 1
            and len(set(words)) == len(words) > 2
        ):
            # In the order in which they are said: which side is better is for people to say.
            levels = tuple(Level(float(i), one, one) for i, one in enumerate(words))
            add(begin, match.end(), what, GradeScale(levels))
    word = r"[a-z]{2,20}"
    for match in reader.find(
        rf"(?P<what>{PHRASE})(?:\s+(?:(?:is|are)\s+)?(?:{GRADING}|noted|told)\s*(?:as\s+)?:?|[{TAKEN}\s]*:|(?=\s+{word}\s*/))\s*"
        rf"(?P<list>{word}(?:\s*/\s*{word}){{2,6}}|{word}(?:\s*,\s*{word}){{1,5}}\s*(?:,\s*(?:or\s+|and\s+)?|\s+or\s+|\s+and\s+){word})\b"
    ):
        words = [one.strip().casefold() for one in re.split(r"/|,(?:\s*(?:or|and)\s)?|\s(?:or|and)\s", match["list"])]
        if len(set(words)) == len(words) and sum(bool(STATE_WORD.fullmatch(one)) for one in words) > 1:
            levels = tuple(Level(float(i), one, one) for i, one in enumerate(words))
            add(match.start(), match.end(), match["what"], GradeScale(levels))
    for match in reader.find(
        rf"(?P<what>{PHRASE})(?:\s+(?:(?:is|are)\s+)?{GRADING})?[\s,:]*(?:\b(?:from|on)\s+)?\(?(?P<low>\d{{1,2}})\s*\([^()\d]{{1,30}}\)\s*(?:to|-|–)\s*(?P<high>\d{{1,2}})\s*\([^()\d]{{1,30}}\)"
    ):
        if number(match["low"]) < number(match["high"]) <= 10:
            add(match.start(), match.end(), match["what"], grade(number(match["low"]), number(match["high"])))
    for match in reader.find(
        rf"(?P<what>{PHRASE})[{TAKEN}\s,:(]*(?P<low>\d{{1,2}})\s*=\s*[a-z][a-z ]{{1,20}}?"
        rf"\s*(?:\bto\b|,|-|–)\s*(?P<high>\d{{1,2}})\s*=\s*[a-z]+(?:\s+(?!in\b|at\b|after\b)[a-z]+)?"
    ):
        if number(match["low"]) < number(match["high"]) <= 10:
            add(match.start(), match.end(), match["what"], grade(number(match["low"]), number(match["high"])))
    for match in _ENDS.finditer(reader.rest):
        low, high = number(match["low"]), number(match["high"])
        begin, what = before(reader, match.start(), 5)
        what = re.sub(r"^\s*(?:look|check|watch)\s+for\s+", "", what, flags=re.I)
        if what.strip() and low < high <= 10:
            add(begin, match.end(), what, grade(low, high))
