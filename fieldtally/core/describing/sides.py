"""What is compared, told side by side: so many with this and so many with that, with and without, half and half."""

from __future__ import annotations

import re
from dataclasses import replace
from itertools import pairwise

from fieldtally.core.describing.pieces import ITEM_END, TAIL, Piece, listed, piece_of
from fieldtally.core.describing.reader import TAKEN, Reader
from fieldtally.core.describing.words import MONTHS, NUMBER, PEOPLE, UNIT, number
from fieldtally.core.quantities.nouns import noun


def by_counts(reader: Reader) -> list[Piece]:
    """20 in this, 20 in that; six of cotton and six of linen."""
    thing = r"(?!each\b|per\b|of\s+each\b|in\s+each\b|kinds?\b|different\b)"
    unit = rf"(?!{UNIT}\b|°|%|times\b|(?:days?|wks?|weeks?|months?|years?|hrs?|hours?|mins?|minutes?|seconds?|h|d)\b|{MONTHS}\b)"
    pattern = rf"\b(?P<n>{NUMBER})\s+{unit}{thing}(?P<what>{ITEM_END}*?)(?=\s*(?:,|;|\.(?:\s|$)|\n|$|\+|{TAKEN}|\band\s+{NUMBER}\b))"
    for begin, end in reader.sentences():
        found = [m for m in reader.find(pattern, begin, end) if m["what"].strip()]
        # Only what is told side by side, with the same or nearly the same number.
        if len(found) < 2 or any(re.match(rf"{PEOPLE}\b", m["what"], re.I) for m in found):
            continue
        if len(found) > 2 and number(found[0]["n"]) == sum(number(m["n"]) for m in found[1:]):
            # So many in all, and then what each part of them gets.
            found = found[1:]
        if any(
            reader.rest[a.end() : b.start()].strip(f" ,;+{TAKEN}").casefold() not in ("", "and", "&")
            for a, b in pairwise(found)
        ):
            continue
        apart = any(TAKEN in reader.rest[a.end() : b.start()] for a, b in pairwise(found))
        if apart and len({number(m["n"]) for m in found}) > 1:
            continue
        joints = [
            re.match(
                r"(?:(?P<noun>(?!with\b|in\b|of\b|on\b)[a-z][\w'’-]{0,40}+(?:\s+(?!with\b|in\b|of\b|on\b)[a-z]\w*){0,2})\s+)?"
                r"(?P<joint>with|without|in|of|on|get|under|from)\b\s*(?P<rest>.*)$",
                m["what"],
                re.I | re.S,
            )
            for m in found
        ]
        pieces = []
        for m, joint in zip(found, joints, strict=True):
            n = int(number(m["n"]))
            if joint is None:
                words = m["what"].split()
                first = found[0]["what"].split()
                shared = len(found[0]["what"].split()) > 1 and (words[0] == first[0] or m is found[0])
                text = " ".join(words[1:]) if shared and len(words) > 1 else m["what"]
                at = m.start("what") + m["what"].find(text)
                pieces.append(piece_of(text, at, n))
                continue
            rest = joint["rest"].strip()
            if joint["joint"].casefold() == "without":
                pieces.append(
                    replace(
                        piece_of(
                            "Without" + (f" {rest}" if rest and rest != "it" else ""),
                            m.start("what") + joint.start("joint"),
                            n,
                        ),
                        kind="untreated",
                    )
                )
            elif re.fullmatch(r"(?:it|them|an?\s+(?:spoonful|dose|pinch|bit|drop|handful)|some)?", rest, re.I):
                pieces.append(Piece(m.start("what") + joint.start("joint"), m.end("what"), "", "treatment", n))
            else:
                pieces.append(piece_of(rest, m.start("what") + joint.start("rest"), n))
        pieces = [replace(one, name=one.name or _it(reader, begin) or "With it", end=one.end) for one in pieces]
        if len({noun(one.name.casefold()).one for one in pieces}) > 1:
            return [replace(one, begin=m.start()) for one, m in zip(pieces, found, strict=True)]
    return []


def _it(reader: Reader, before: int) -> str:
    """What “with it” means: what the sentences before it ask about."""
    asked = reader.text[:before]
    patterns = (
        r"\b(?:does|do|would|will|can|whether|if|that)\s+(?:an?\s+|the\s+)?(?P<what>[a-z][\w'’-]{0,40}+"
        r"(?:\s+[a-z][\w'’-]{0,40}+){0,3}?)(?:\s+in\s+the\s+\w+)?\s+(?:make|help|keep|speed|stop|work|do|take|remove|lift|clean|reduce|prevent|change|"
        r"give|grow|kill|on\s+the)",
        r"\b(?:says?|reckons?|thinks?|claims?|believes?)\s+(?:that\s+)?(?P<what>[a-z][\w'’-]{0,40}+(?:\s+[a-z][\w'’-]{0,40}+){0,2}?)\s+"
        r"(?:makes?|helps?|keeps?|speeds?|stops?|works?|gives?|grows?|kills?)\b",
        r"\bswears\s+by\s+(?P<what>[A-Za-z][\w'’-]{0,40}+(?:\s+[a-z][\w'’-]{0,40}+)?)\s+for",
    )
    for pattern in patterns:
        found = list(re.finditer(pattern, asked, re.I))
        if found:
            return (
                re.sub(r"^(?:the|an?)\s+", "", re.sub(r"s$", "s", found[-1]["what"])).strip().capitalize()
                if found[-1]["what"].islower()
                else found[-1]["what"]
            )
    return ""


def halves(reader: Reader) -> list[Piece]:
    pattern = (
        rf"\bhalf\s+(?:of\s+(?:the\s+\w+|them)\s+)?(?:get\s+|are\s+|with\s+)?(?P<a>{ITEM_END}+?),?\s+"
        rf"(?:and\s+)?(?:the\s+other\s+half|the\s+rest|half)\s+(?:get\s+|are\s+|with\s+)?"
        rf"(?P<b>{ITEM_END}+)"
    )
    for match in reader.find(pattern):
        second = match["b"].strip()
        if re.fullmatch(r"(?:the\s+)?other", second, re.I):
            # Half of them get one, half the other: which two is told elsewhere.
            continue
        first = re.split(r"\s+in\s+(?:their|its)\s+", match["a"])[0]
        if re.match(r"(?:do(?:es)?n['’]t|do(?:es)?\s+not|none|nothing|not)$", second, re.I):
            return [
                piece_of(first, match.start("a")),
                replace(
                    piece_of(second, match.start("b")),
                    name=second.capitalize() if second[0] in "nN" else f"Without {first.strip()}",
                    kind="untreated",
                ),
            ]
        return [piece_of(first, match.start("a")), piece_of(second, match.start("b"))]
    return []


def one_with(reader: Reader) -> list[Piece]:
    """Two batches, one with fly ash."""
    for match in reader.find(
        rf"\b(?:two|2|both)\s+[a-z][a-z ]{{2,40}}?,\s*(?P<with>one\s+with\s+(?P<what>{ITEM_END}+?))"
        r"(?P<without>,?\s+and\s+(?:one|the\s+other)\s+without)?(?=\s*[,.;\n]|$)"
    ):
        name = match["what"].strip()
        return [
            Piece(match.start("with"), match.end("with"), name[:1].upper() + name[1:]),
            Piece(match.start("with"), match.end(), f"Without {name}", "untreated"),
        ]
    return []


def so_many_places(reader: Reader) -> list[Piece]:
    """Barley straw in two ponds, a lamp in two ponds, nothing in two ponds."""
    one = rf"(?P<what>[a-z][\w'’ -]{{1,60}}?)\s+(?:in|on|to|for|under)\s+(?P<n>{NUMBER})\s+(?P<thing>[a-z]+)"
    found = list(reader.find(rf"{one}(?=\s*(?:,|;|\.|\n|$|\band\b))"))
    if len(found) < 2 or len({m["thing"].casefold() for m in found}) > 1:
        return []
    if any(reader.rest[a.end() : b.start()].strip(" ,;").casefold() not in ("", "and") for a, b in pairwise(found)):
        return []
    return [
        replace(piece_of(m["what"].removeprefix("and "), m.start("what"), int(number(m["n"]))), end=m.end())
        for m in found
    ]


def put_and_left(reader: Reader) -> list[Piece]:
    """Put nails in eight pots and leave eight as they are."""
    for match in reader.find(
        rf"\b(?:put(?:ting)?|giv(?:e|ing)|us(?:e|ing)|add(?:ing)?)\s+(?:some\s+)?(?P<a>[a-z][\w'’ -]{{0,60}}?)"
        rf"\s+(?:in|on|to|into|under|round)\s+(?P<n>{NUMBER})\s+"
        rf"[a-z]+,?\s+and\s+(?P<b>leave\s+(?:the\s+(?:rest|others)|(?:the\s+)?(?:other\s+)?(?P<m>{NUMBER})(?:\s+(?:more\s+)?(?!as\b|alone\b|un)[a-z]+)?)\s+"
        r"(?P<how>as\s+they\s+are|alone|without|un\w+|bare|plain))"
    ):
        n = int(number(match["n"]))
        left = int(number(match["m"])) if match["m"] else n
        how = piece_of(match["how"], match.start("b"), left)
        return [piece_of(match["a"], match.start("a"), n), replace(how, end=match.end("b"), kind="untreated")]
    return []


def withouts(reader: Reader) -> list[Piece]:
    """With and without something; something or no something; something or not."""
    for match in reader.find(r"\bwith\s+(?:and|or|versus|vs\.?)\s+without\s+(?:an?\s+|the\s+)?(?P<what>[^,.;:\n]+)"):
        what = re.split(rf"\s+(?:{TAIL})\b", match["what"])[0].strip(f" {TAKEN}")
        return [
            Piece(match.start(), match.end(), f"With {what}"),
            Piece(match.start(), match.end(), f"Without {what}", "untreated"),
        ]
    for match in reader.find(
        r"\b(?P<what>[a-z][\w'’-]{0,40}+(?:\s+[a-z][\w'’-]{0,40}+)?)\s+(?P<half>on\s+(?:one|a)\s+(?:half|side)\s+of\s+(?:each|every|it|them))\b"
    ):
        name = match["what"]
        return [
            Piece(match.start(), match.start("half"), name[:1].upper() + name[1:]),
            Piece(match.start("half"), match.end(), f"Without {name}", "untreated"),
        ]
    for match in reader.find(
        r"\b(?P<what>[a-z][\w'’-]{0,40}+(?:\s+[a-z][\w'’-]{0,40}+)?)\s*(?:/|or|vs\.?|versus)\s*no\s+(?P=what)\b"
    ):
        name = match["what"]
        return [
            Piece(match.start(), match.start() + len(name), name.capitalize()),
            Piece(match.start() + len(name), match.end(), f"No {name}", "untreated"),
        ]
    return []


def crossed(reader: Reader) -> list[Piece]:
    """Two lists whose every combination is compared: by, times, or each with and without."""
    crossed = (
        rf"\((?P<a>[^)]+)\)\s*(?:,?\s*(?:by|x|×|times|crossed\s+with|and)\s+)(?:{NUMBER}\s+)?[a-z ]*\((?P<b>[^)]+)\)"
    )
    for match in reader.find(crossed):
        first, second = (
            listed(reader, match.start("a"), match.end("a"), prose=False),
            listed(reader, match.start("b"), match.end("b"), prose=False),
        )
        return [
            Piece(a.begin, b.end if a is first[-1] else a.end, f"{a.name}, {b.name[:1].lower() + b.name[1:]}")
            for a in first
            for b in second
        ]
    for match in reader.find(
        r"(?:^|[.;:\n]\s*)(?P<list>[^.;:\n]+?)\s+on\s+(?P<x>(?:un|not\s+)?[a-z]+)\s+(?:and|or|vs\.?|versus)\s+(?P<y>(?:un|not\s+)?[a-z]+)(?=\s|[.,;])"
    ):
        bare = {re.sub(r"^(?:un|not\s+)", "", match[side].casefold()) for side in "xy"}
        first = listed(reader, match.start("list"), match.end("list"), prose=True)
        if len(bare) == 1 and match["x"].casefold() != match["y"].casefold() and len(first) > 1:
            return [
                Piece(one.begin, match.end() if one is first[-1] else one.end, f"{one.name}, {how.casefold()}")
                for one in first
                for how in (match["x"], match["y"])
            ]
    for match in reader.find(
        r"\b(?:of\s+)?(?P<list>[^.;:\n]+?)\s+with\s+(?:an?\s+)?(?P<what>[a-z][\w'’ -]{0,80}?)\s+and\s+without(?:\s+it)?\b"
    ):
        first = listed(reader, match.start("list"), match.end("list"), prose=True)
        if len(first) > 1:
            return [
                Piece(one.begin, match.end() if one is first[-1] else one.end, f"{one.name}, {how}")
                for one in first
                for how in (match["what"].strip(), "without")
            ]
    return []
