"""How many samples of each, and what one is: found in what people say."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from itertools import chain

from fieldtally.core.describing.reader import TAKEN, Reader
from fieldtally.core.describing.words import CONTAINER, NUMBER, PEOPLE, TIMES, UNIT, number
from fieldtally.core.quantities.nouns import noun

ONE_WORD = (
    r"(?!(?:of|each|counted|measured|weighed|marked|under|into|along|per|for|in|on|with|without|to|and|or|by|from|at|apiece)\b)"
    r"[a-z][\w'’-]{0,40}+"
)
THING = rf"(?:{ONE_WORD}\s+)?{ONE_WORD}"
GROUP = (
    r"(?:temperature|rate|depth|colour|size|spacing|date|concentration|thickness|brand|material|bait|treatment|kind|type|variety|sort|"
    r"group|method|product|level|dose|strength|soap|glue|feed|way|place|variant|recipe|arm)"
)
TIMES_OVER = {"duplicate": 2, "triplicate": 3, "quadruplicate": 4}
COMPARED = re.compile(
    r"(?:substance|product|stain|chemical|remedy|recipe|variety|brand|dye|glue|soap|oil|wax|blend|steel|alloy|thermometer|meter|kit|instrument|sensor|hygrometer|"
    r"cider|beer|ale|wine|coffee|juice|cheese|jam|honey|bread|cake|soup|"
    r"paint|tea|sauce|feed|bait|mixture|method|cleaner|powder|fertiliser|fertilizer|preservative|coating)"
)
"""What is itself compared where so many of it are told, and is hardly ever a sample."""
NO_SAMPLE = re.compile(rf"{COMPARED.pattern}(?:s|es)?|{PEOPLE}", re.I)
NO_THING = (
    "of",
    "each",
    "per",
    "for",
    "in",
    "on",
    "with",
    "without",
    "to",
    "and",
    "or",
    "days",
    "weeks",
    "hours",
    "months",
    "times",
    "kinds",
    "types",
    "half",
    "halves",
)


MOST_PIECES, MOST_EACH = 100_000, 5_000
_PIECES_IN = (
    rf"\b(?P<n>{NUMBER})\s+(?P<piece>{ONE_WORD})\s+(?:(?:to|in|per)\s+(?:a|an|each|every)\s+(?!{GROUP}\b)(?P<sample>{ONE_WORD})"
    rf"(?!\s+(?:per|of|for)\b)|per\s+(?P<holder>{CONTAINER}))\b"
)
_IN_SO_MANY = rf"\b(?P<m>{NUMBER})\s+(?P<piece>{ONE_WORD})\s+in\s+each\s+of\s+(?:the\s+)?(?P<n>{NUMBER})\s+(?P<sample>{CONTAINER})\b"
_PLOTS_OF = (
    rf"\b(?P<n>{NUMBER})\s+(?P<sample>{CONTAINER})\s+of\s+(?P<m>{NUMBER})\s+(?P<piece>{ONE_WORD})"
    r"(?:\s+(?:in|on)\s+(?:each|every)\s+\w+|\s+each\b)"
)
_IN_ALL = (
    rf"\b(?P<n>{NUMBER})\s+(?P<thing>{ONE_WORD})\s*,?\s+(?:in\s+all|altogether|in\s+total)\b|"
    rf"\bi\s+have\s+(?P<m>{NUMBER})\s+(?P<thing2>{ONE_WORD})|"
    rf"\bhalf\s+of\s+(?:the|my|our)\s+(?P<h>{NUMBER})\s+(?P<thing4>{ONE_WORD})(?=\s+get\b)|"
    rf"\b(?P<k>{NUMBER})\s+(?P<thing3>{ONE_WORD})\s*[:,]?\s+(?=half\s+(?!an?\b)\w)"
)
_BARE = rf"(?:^|[\n.:;,?!]\s*)(?:samples?\s*:\s*)?(?P<n>{NUMBER})[ \t]+(?P<thing>{THING})[ \t]*(?=[\n.,;]|$|{TAKEN})"
_EACH = (
    rf"(?:in\s+(?:each|every)\s+{GROUP}|(?:per|for\s+(?:each|every)|each)\s+{GROUP}|"
    rf"each\s+way|for\s+each(?=\s*[,.;\n]|$)|on\s+each\s+(?:half|side)|(?:on|with|under|from|at|in)\s+each(?:\s+(?:depth|place|spot|height|"
    rf"size|dose|rate|temperature))?(?!\s+\w)|of\s+(?:each|either)(?:\s+kind)?|apiece|"
    rf"each(?!\s+(?:day|week|month|hour|year|morning|evening|night|one|with|other|fortnight)))"
)
_OF_EACH = (
    rf"\b(?P<n>{NUMBER})\s+(?P<thing>{ONE_WORD})\s+of\s+{NUMBER}\s*{UNIT}\s+each\b",
    rf"\b(?P<n>{NUMBER})\s+(?P<thing>{THING})\s*,\s*each\s+(?=(?:of\s+them\s+)?(?:tested|measured|weighed|read|tried)\b)",
    rf"\b(?P<n>{NUMBER})\s+per\s+(?!{TIMES}\b|{UNIT}\b|{CONTAINER}\b|cent\b)(?P<of>{ONE_WORD})\b(?=\s*(?:[,.;\n]|plus\b|and\b|$))",
    rf"\b(?P<n>{NUMBER})\s+(?P<thing>{ONE_WORD})\s+in\s+(?:each|every)\s+\w+\s+(?:per|of\s+each|for\s+each)\s+\w+",
    rf"\b(?P<n>{NUMBER})\s+(?P<thing>{THING})(?:\s+of\s+{ONE_WORD})?\s+(?:(?:counted|measured|marked)\s+)?{_EACH}(?:\s+of)?\b",
    rf"\b(?P<n>{NUMBER})\s*{_EACH}\b",
    rf"\beach\s+(?:treatment\s+|one\s+|kind\s+)?(?:is\s+)?(?:on|gets|in|to|with|for)\s+(?P<n>{NUMBER})\s+(?P<thing>{ONE_WORD})",
    rf"\b(?P<n>{NUMBER})\s+times\s+(?:each(?:\s+way)?|with\s+each)\b",
    rf"\b(?P<n>{NUMBER})\s+(?P<thing>{THING})\s+(?:on|with|under|from|at)\s+each\s+(?!{TIMES}\b)(?P<of>{ONE_WORD})\b",
    rf"\b(?P<n>once)\s+(?:per|in\s+each|on\s+each|in\s+every)\s+(?P<of>{ONE_WORD})\b",
    r"\bn\s*=\s*(?P<n>\d+)(?:\s+each)?",
    rf"\b(?P<n>{NUMBER})\s+(?:reps|replicates|replications|repeats|samples|copies)\b(?:\s+(?:of\s+)?each)?",
    rf"\bin\s+(?P<fold>{'|'.join(TIMES_OVER)})\b",
    rf"\b(?P<n>{NUMBER})\s+(?P<thing>{THING})\s+(?:per|for\s+each|to\s+each|"
    rf"for\s+every)\s+(?!(?:day|week|hour|night|month|year|gram|litre|kg|g)\b)(?P<of>{ONE_WORD})\b",
    rf"\b(?P<n>{NUMBER})\s+(?P<thing>{ONE_WORD})\s+an?\s+(?!{TIMES}\b|{UNIT}\b)(?P<of>{ONE_WORD})(?=\s*[,.;\n]|$)",
    rf"\b(?P<n>{NUMBER})\s+on\s+each(?=\s+of\b)",
    rf"\b(?P<n>{NUMBER})\s+(?P<thing>{ONE_WORD})\s+(?:along|beside|under)\s+the\s+\w+",
)


@dataclass(frozen=True)
class ToldCount:
    """How many samples each treatment has (None: not told), or how many there are in all; what a sample is called, how many pieces are in
    one and what these are."""

    each: int | None = None
    total: int | None = None
    sample: str = ""
    pieces: int = 1
    piece: str = ""


def counts_in(reader: Reader) -> ToldCount:
    """The numbers that the text tells of; they are marked in it."""
    count = _pieces(reader)
    for pattern in _OF_EACH:
        for match in reader.find(pattern):
            count = _with_each(reader, match, count)
    for match in reader.find(_IN_ALL):
        total = int(number(match["n"] or match["m"] or match["k"] or match["h"]))
        thing = match["thing"] or match["thing2"] or match["thing3"] or match["thing4"]
        count = replace(count, total=total, sample=count.sample or noun(thing).one)
        reader.take(match.start(), match.end(), "number", f"{total} in all")
    if count.each is None and count.total is None:
        for match in _bare_count(reader):
            count = replace(count, each=int(number(match["n"])), sample=noun(match["thing"].split()[-1]).one)
            reader.take(match.start(), match.end(), "number", _told(count.each or 0, count.sample))
    return count


def _bare_count(reader: Reader) -> list[re.Match[str]]:
    """The number that stands by itself, if any; of two in one sentence the last: three insoles, ten pairs."""
    found = [one for one in reader.find(_BARE) if _may_be_sample(one["thing"])]
    if not found:
        return []
    end = next((end for begin, end in reader.sentences() if begin <= found[0].start("n") < end), 0)
    return [one for one in found if one.start("n") < end][-1:] or found[:1]


def _may_be_sample(thing: str) -> bool:
    """Whether so many of it may be the samples: a word, or two of which the last is of several (camera sites)."""
    words = thing.split()
    if len(words) == 1 and words[0].casefold().endswith("ed"):
        return False
    return (
        not NO_SAMPLE.fullmatch(words[-1])
        and words[-1].casefold() not in ("blocks", "block")
        and (len(words) == 1 or noun(words[-1]).one != words[-1])
    )


def _pieces(reader: Reader) -> ToldCount:
    """How many pieces are in a sample, and how many samples hold them: ten in a tray, five trays."""
    count = ToldCount()
    for match in chain(reader.find(_IN_SO_MANY), reader.find(_PLOTS_OF)):
        piece, sample, pieces = noun(match["piece"]).one, noun(match["sample"]).one, int(number(match["m"]))
        if count.each is None and pieces < MOST_PIECES:
            count = ToldCount(each=int(number(match["n"])), pieces=pieces, piece=piece, sample=sample)
            says = f"{_told(count.each or 0, sample)}, {noun(piece).counted(pieces)} in one"
            reader.take(match.start(), match.end(), "number", says)
    for match in reader.find(_PIECES_IN):
        if match["n"].casefold() != "one" and number(match["n"]) < MOST_PIECES:
            piece, sample = noun(match["piece"]).one, noun(match["sample"] or match["holder"]).one
            count = replace(count, pieces=int(number(match["n"])), piece=piece, sample=sample)
            reader.take(match.start(), match.end(), "number", f"{noun(piece).counted(count.pieces)} in one {sample}")
    for match in reader.find(rf"\beach\s+with\s+(?P<n>{NUMBER})\s+(?P<piece>{ONE_WORD})\b"):
        count = replace(count, pieces=int(number(match["n"])), piece=noun(match["piece"]).one)
        reader.take(match.start(), match.end(), "number", f"{noun(count.piece).counted(count.pieces)} in one")
    for match in reader.find(rf"\b(?P<n>{NUMBER})\s+in\s+a\s+(?P<sample>{ONE_WORD})\b"):
        count = replace(count, pieces=int(number(match["n"])), sample=noun(match["sample"]).one)
        reader.take(match.start(), match.end(), "number", f"{count.pieces} in one {count.sample}")
    for match in reader.find(rf"\b(?P<n>{NUMBER})\s+(?P<sample>{ONE_WORD})(?=[,.;\n]|$)"):
        if count.sample and count.pieces > 1 and noun(match["sample"]).one == count.sample:
            count = replace(count, each=int(number(match["n"])))
            reader.take(match.start(), match.end(), "number", _told(count.each or 0, count.sample))
    return count


def _with_each(reader: Reader, match: re.Match[str], count: ToldCount) -> ToldCount:
    """``count`` with how many there are of each by a match of ``_OF_EACH``, unless that is told already."""
    groups = match.groupdict()
    many = TIMES_OVER[groups["fold"].casefold()] if groups.get("fold") else int(number(match["n"]))
    words = re.sub(r"^(?:of|more|such)\s+", "", groups.get("thing") or "").split()
    if count.each is not None or not 1 <= many <= MOST_EACH or (words and words[-1].casefold() in NO_THING):
        return count
    if words and re.fullmatch(UNIT, words[-1], re.I):
        # Eight metres each is how long one is.
        return count
    sample = count.sample or (noun(words[-1]).one if words else "")
    # What a bench, a bed or a year takes is part of the same saying.
    there = re.match(r"\s+(?:in|on|per|at)\s+(?:each|every)\s+(?:\w+)", reader.rest[match.end() :], re.I)
    reader.take(match.start(), match.end() + (there.end() if there else 0), "number", _told(many, sample))
    return replace(count, each=many, sample=sample)


def _told(many: int, sample: str) -> str:
    return f"{noun(sample or 'sample').counted(many)} of each"
