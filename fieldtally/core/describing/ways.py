"""Where treatments stand in what people say, from the surest way of telling them to the least."""

from __future__ import annotations

import re
from dataclasses import replace

from fieldtally.core.describing.pieces import HEAD, ITEM_END, TAIL, Piece, listed, piece_of, told_apart
from fieldtally.core.describing.reader import TAKEN, Reader
from fieldtally.core.describing.rows import labelled, lines
from fieldtally.core.describing.sides import (
    by_counts,
    crossed,
    halves,
    one_with,
    put_and_left,
    so_many_places,
    withouts,
)
from fieldtally.core.describing.words import MONTHS, NUMBER, PEOPLE, TIMES, UNIT, number
from fieldtally.core.quantities.nouns import noun

COMPARE = r"(?:compar(?:e|es|ing)|test(?:s|ing)?|try(?:ing)?(?:\s+out)?|trial(?:l?ing)?|pit(?:ting)?)"
MANY = (
    rf"(?P<n>{NUMBER})\s+(?:different\s+|(?:kinds|types|sorts|varieties|brands|makes)\s+of\s+|ways\s+"
    rf"(?:of|to)\s+)?(?P<what>[a-z][\w'’-]{{0,40}}+(?:\s+[a-z][\w'’-]{{0,40}}+)?)"
)
NOT_COMPARED = (
    "blocks",
    "beds",
    "benches",
    "days",
    "weeks",
    "hours",
    "months",
    "times",
    "places",
    "people",
    "years",
    "minutes",
    "plots",
    "samples",
)
WHO = re.compile(rf"^(?:{NUMBER}\s+{PEOPLE}$|triangle\b)", re.I)
"""Who tells them apart, and how, is none of what is compared."""
LOOKED_AT = re.compile(
    rf"{WHO.pattern}|"
    r"^(?:are|is|do|does|did|can|will)\s+(?:they|it|we|you|the)\b|^(?:each|every|which|who|how|date|day|looked|measured|weighed|counted|graded|scored|checked|rated|washed|watched|noted|recorded|judged|goes?|went)\b|"
    r"\b(?:goes|go|went)\s+on\b",
    re.I,
)
"""What is done with samples is none of what is compared."""
NOT_BESIDE = re.compile(
    r"(?:i|we|then|want|wants|would|wonder|like|need|see|know|find|ask|measure|weigh|count|look|grade|score|check|note|record)\b",
    re.I,
)


def _numbered(reader: Reader) -> list[Piece]:
    """Recipe 1 to recipe 5."""
    for match in reader.find(
        rf"\b(?P<what>(?!(?:{TIMES}|{MONTHS}|grade[ds]?|scored?|scores?|rated?|from|scale|points?|of|and|to|page|on|in|at)\b)[a-z]{{3,20}})\s+1\s*(?:to|-|–)\s*"
        rf"(?P=what)\s+(?P<n>{NUMBER})\b"
    ):
        name = f"{match['what'][:1].upper()}{match['what'][1:]}"
        return [
            Piece(match.start(), match.end(), f"{name} {i}")
            for i in range(1, min(MOST_UNNAMED, int(number(match["n"]))) + 1)
        ]
    for match in reader.find(
        rf"\b{NUMBER}\s+[a-z]+(?:\s+[a-z]+)?\s*\(?\b(?P<a>(?-i:[A-G]))\s*(?:-|–|to)\s*(?P<b>(?-i:[B-H]))\)?(?!\w)"
    ):
        letters = [chr(code) for code in range(ord(match["a"]), ord(match["b"]) + 1)]
        if len(letters) > 1:
            return [Piece(match.start(), match.end(), letter) for letter in letters]
    return []


def _tested_with(reader: Reader) -> list[Piece]:
    """Each measured with the kit, the strips and the meter."""
    for match in reader.find(r"\b(?:tested|measured|weighed|read|checked)\s+(?:with|by|on)\s+(?P<list>[^.;:\n?]+)"):
        found = listed(reader, match.start("list"), match.end("list"), prose=False)
        if len(found) > 1 and all(len(one.name.split()) <= 4 for one in found):
            return found
    return []


def _in_brackets(reader: Reader) -> list[Piece]:
    """Three mulches (straw, bark, wool)."""
    for match in reader.find(r"\b[a-z][\w'’ -]{0,80}\s*\((?P<list>[^)]*[,/][^)]*|[^)]*\bor\b[^)]*)\)"):
        if re.search(r"\byes\b|\d\s*(?:-|–|to)\s*\d", match["list"]):
            continue
        found = listed(reader, match.start("list"), match.end("list"), prose=False)
        if len(found) > 1:
            return found
    return []


def _after_intro(reader: Reader) -> list[Piece]:
    """Something and a colon or a dash, then the list; or so many of something, then their names."""
    for match in reader.find(
        rf"(?:^|[.;\n]\s*|\b)(?P<intro>[^.;:\n{TAKEN}]{{2,90}}?)\s*(?:[:]\s+|\s[-–]\s+)(?P<list>[^.\n?]+)"
    ):
        # What comes after a semicolon is no more of a list with commas.
        first, _, _ = match["list"].partition(";")
        end = match.start("list") + len(first) if "," in first else match.end("list")
        found = listed(reader, match.start("list"), end, prose=False)
        if len(found) > 1 and all(len(one.name.split()) <= 6 and not LOOKED_AT.search(one.name) for one in found):
            return found
    for match in reader.find(rf"\b{MANY}(?:\s+(?:for|against|on|to|of)\s+[a-z]+)?,\s+(?P<list>[^.;\n]+)"):
        if match["what"].split()[-1].casefold() in NOT_COMPARED:
            continue
        n = int(number(match["n"]))
        found = listed(reader, match.start("list"), match.end("list"), prose=True)
        if len(found) == n and not any(LOOKED_AT.search(one.name) for one in found):
            return found
    return []


def _versus(reader: Reader) -> list[Piece]:
    joint = r"(?:\s+(?:vs?\.?|versus|or\s+rather|compared\s+(?:with|to)|against|rather\s+than)\s+)"
    for match in reader.find(
        r"\b(?:compar(?:e|es|ing)|tell|distinguish)\s+(?P<a>(?!them\b|these\b|it\b)[a-z][\w'’ -]{0,80}?)\s+"
        r"(?:with|from|to)\s+(?P<b>[a-z][\w'’ -]{0,80})"
    ):
        second = re.split(rf"\s+(?:{TAIL})\b", match["b"])[0]
        told = piece_of(match["a"], match.start("a"))
        return [told, told_apart(told, piece_of(second, match.start("b")))]
    for match in reader.find(
        rf"(?P<a>{ITEM_END}{{1,120}}?){joint}(?P<more>(?:{ITEM_END}{{1,80}}?{joint})*)(?P<z>{ITEM_END}+)"
    ):
        pieces, at = [], match.start("a")
        later = set(re.findall(r"\w+", match["z"].casefold()))
        head = [
            m
            for m in re.finditer(rf"\b(?:{HEAD}|feeding\s+\w+|{COMPARE})\b\s+", match["a"], re.I)
            if m[0].strip().casefold() not in {*later, "in", "on", "for", "at"}
        ]
        text, begin = match["a"], at
        if head and match["a"][head[-1].end() :].strip():
            text, begin = match["a"][head[-1].end() :], at + head[-1].end()
        pieces.append(
            (begin, re.split(r"\s+(?:in|for|on)\s+", text)[0] if joint and " in " not in f" {match['z']}" else text)
        )
        where = match.start("more")
        for one in re.split(joint, match["more"]):
            if one.strip():
                pieces.append((reader.rest.find(one, where), one))
        last = _cut_tail(match["z"], f"{match['a']} {match['more']}", TAKEN)
        pieces.append((match.start("z"), last.split(TAKEN)[0]))
        if (
            re.search(r"\b(?:slugs|pests|flies|moss|weeds|rust|mould|the\s+\w+)\s*$", last, re.I)
            and "against" in match[0]
        ):
            continue
        listed_before = (
            re.search(r",|\bor\b", match["a"]) and re.search(r"\sagainst\s", match[0], re.I) and not match["more"]
        )
        if listed_before:
            # Whatever they are against is none of them: tape or pellets against slugs.
            continue
        # So many of this against so many of that, the last as it was told.
        whole = [*pieces[:-1], (match.start("z"), match["z"].split(TAKEN)[0])]
        numbered = [
            re.match(rf"\s*(?P<n>{NUMBER})\s+(?!{UNIT}\b|%)(?P<what>[a-z]\S*)", text, re.I) for _, text in whole
        ]
        if all(numbered):
            found = [
                replace(
                    piece_of(one["what"], begin + one.start("what"), int(number(one["n"]))),
                    begin=begin + one.start("n"),
                )
                for one, (begin, _) in zip(numbered, whole, strict=True)
                if one is not None
            ]
        else:
            found = [piece_of(text, begin) for begin, text in pieces]
        if all(one.name for one in found):
            return [found[0], *(told_apart(found[0], one) for one in found[1:])]
    return []


def _cut_tail(text: str, before: str, *more: str) -> str:
    """``text`` up to the first word that goes on with the sentence, unless that stands in what is told ``before`` as well."""
    earlier = set(re.findall(r"\w+", before.casefold()))
    first = noun(text.split(maxsplit=1)[0].casefold()).one if text.split() else ""
    if first in {noun(word).one for word in earlier}:
        # Onion sets, onions from seed: what comes after the same word tells them apart.
        earlier |= {"from", "in", "with", "on", "by", "under", "at"}
    for m in re.finditer(rf"(?<=\S)\s+(?:{'|'.join((TAIL, *more))})\b", text, re.I):
        if m[0].strip().casefold() not in earlier:
            return text[: m.start()]
    return text


def _better_than(reader: Reader) -> list[Piece]:
    pattern = (
        r"\b(?:is|are|does|do|whether|if|think|that)\s+(?:the\s+)?(?P<a>[a-z][\w'’ -]{0,80}?)\s+"
        r"(?:really\s+)?(?:(?:\w+er|worse|more\s+\w+|less\s+\w+)|(?:draws?|gives?|makes?|"
        r"holds?|lasts?|keeps?|works?|grows?|tastes?|kills?)\b[^.;,\n?]*?)\s+(?:than|as\s+(?:long|good|well|much|strong|fast|often)\s+as)\s+(?:the\s+)?"
        r"(?P<b>[a-z][\w'’ -]{0,80})"
    )
    for match in reader.find(pattern):
        second = _cut_tail(match["b"], match["a"], "so", "and")
        told = piece_of(match["a"], match.start("a"))
        return [told, told_apart(told, piece_of(second, match.start("b")))]
    return []


def _whether(reader: Reader) -> list[Piece]:
    """Whether this or that gives more."""
    for match in reader.find(
        r"\b(?:whether|if)\s+(?!or\b|it\b|they\b)(?P<list>[^.;:?\n]*?\s+or\s+(?!not\b)[^.;:?\n]*)"
    ):
        found = listed(reader, match.start("list"), match.end("list"), prose=True)
        if len(found) > 1 and all(len(one.name.split()) <= 5 for one in found):
            return found
    return []


def _compared(reader: Reader) -> list[Piece]:
    for match in reader.find(rf"\b(?:{COMPARE}|which\s+of|between)\s+(?P<list>[^.;:\n?]+)"):
        found = listed(reader, match.start("list"), match.end("list"), prose=True)
        if len(found) > 1:
            return found
    return []


def _usual_then(reader: Reader) -> list[Piece]:
    """We use this now; would that or that be better?"""
    for match in reader.find(
        r"\b(?:we|i)\s+(?:now\s+)?use\s+(?P<now>[a-z][\w'’ -]{0,80}?)\s+(?:now|at\s+present|"
        r"today)\b[.,;]?\s+(?:would|could|will|should)\s+(?P<list>[^.?\n]+)"
    ):
        others = listed(reader, match.start("list"), match.end("list"), prose=True)
        if others:
            return [replace(piece_of(match["now"], match.start("now")), kind="standard"), *others]
    return []


def _alternatives(reader: Reader) -> list[Piece]:
    """This, that or the other, in a question or a statement; or a row of names between commas."""
    for begin, end in reader.sentences():
        text = reader.rest[begin:end]
        for run in re.finditer(rf"[^;:{TAKEN}]+", text):
            part = run[0]
            names = part.count(",") + len(re.findall(r"\bor\b|\s/\s|/|\s&\s", part))
            parted = (
                re.search(r"\bor\b|&|/", part)
                or part.count(",") > 1
                or (part.count(",") == 1 and re.search(r"\band\b|,[^,]+$", part))
            )
            if not names or not parted:
                continue
            pieces = listed(reader, begin + run.start(), begin + run.end(), prose=True)
            if any(LOOKED_AT.search(one.name) for one in pieces):
                continue
            if len(pieces) > 1 and all(0 < len(one.name.split()) <= 6 for one in pieces):
                return pieces
    return []


def _of_them(reader: Reader) -> list[Piece]:
    """Something, and how many there are of it: chilli sauces, 6 of them."""
    for match in reader.find(
        rf"(?:^|[.;:\n]\s*|\b(?:compar\w+|test\w*|try\w*)\s+)(?P<what>[a-z][\w'’-]{{0,40}}+(?:\s+[a-z][\w'’-]{{0,40}}+){{0,2}}?),?\s+\(?(?P<n>{NUMBER})\s+of\s+them\b"
    ):
        n, name = int(number(match["n"])), noun(match["what"].casefold()).one
        if 2 <= n <= MOST_UNNAMED and not re.search(rf"\b{PEOPLE}$", match["what"], re.I):
            return _unnamed(match.start("what"), match.end(), name, n)
    return []


MOST_UNNAMED = 60


def _unnamed(begin: int, end: int, name: str, n: int) -> list[Piece]:
    """So many treatments whose names are not told."""
    return [Piece(begin, end, f"{name[:1].upper()}{name[1:]} {i}", unnamed=True) for i in range(1, n + 1)]


def _counted(reader: Reader) -> list[Piece]:
    """So many of something, whose names are not told yet; and what is told beside them."""
    for match in reader.find(rf"(?<![\w.]){MANY}"):
        words = match["what"].split()
        if words[-1].casefold() in (
            "on",
            "and",
            "in",
            "for",
            "with",
            "at",
            "each",
            "per",
            "of",
            "against",
            "after",
            "to",
        ):
            words = words[:-1]
        if words and re.fullmatch(TAIL, words[-1], re.I):
            words = words[:-1]
        if (
            not words
            or words[-1].casefold() in NOT_COMPARED
            or re.fullmatch(PEOPLE, words[-1], re.I)
            or re.search(r"\b(?:in|into|on|to)\s+$", reader.rest[: match.start()], re.I)
            or (noun(words[-1]).one == words[-1] and " of " not in match[0][: match.start("what") - match.start()])
        ):
            continue
        n = int(number(match["n"]))
        if not 2 <= n <= MOST_UNNAMED:
            continue
        end = match.start("what") + len(" ".join(words)) + (match["what"].find(words[0]))
        name = noun(" ".join(words)).one
        pieces = _unnamed(match.start(), end, name, n)
        beside = re.match(r"\s*(?:,\s*)?(?:and|plus)\s+(?P<what>[^,.;:\n]+)", reader.rest[end:])
        before = re.search(r"(?P<what>[a-z][\w'’ -]{0,80}?)\s+and\s+$", reader.rest[: match.start()], re.I)
        if beside and not NOT_BESIDE.match(beside["what"]):
            other = re.split(rf"\s+(?:{TAIL})\b", beside["what"])[0]
            pieces.append(piece_of(other, end + beside.start("what")))
        if before:
            pieces.insert(0, piece_of(before["what"], before.start("what")))
        return pieces
    return []


def _both(reader: Reader) -> list[Piece]:
    """This and that, with nothing else to tell that they are compared."""
    for begin, end in reader.sentences():
        found = listed(reader, begin, end, prose=True)
        if len(found) == 2 and all(len(one.name.split()) <= 5 and not WHO.search(one.name) for one in found):
            return found
    return []


def _works(reader: Reader) -> list[Piece]:
    """Does it help?  One thing, and a control that is asked for."""
    pattern = (
        r"\b(?:does|do|will|would|can|whether|if)\s+(?:an?\s+|the\s+)?(?P<what>[a-z][\w'’ -]{0,80}?)\s+"
        r"(?:really\s+)?(?:help|work|make|matter|do|keep|stop|speed|kill|improve|give|"
        r"prevent|reduce)s?\b"
    )
    for match in reader.find(pattern):
        return [piece_of(match["what"], match.start("what"))]
    return []


RULES = (
    lines, labelled, _of_them, _numbered, crossed, one_with, so_many_places, by_counts, _usual_then, put_and_left, withouts, halves,
    _in_brackets, _after_intro, _versus, _tested_with, _better_than, _whether, _compared, _alternatives, _counted, _both, _works,
)  # fmt: skip
ALONE = (_works,)
