"""Where the samples stand: places that are found in what people say, in which treatments are then compared."""

from __future__ import annotations

import re

from fieldtally.core.describing.reader import TAKEN, Reader
from fieldtally.core.describing.words import MONTHS, NUMBER, UNIT, number
from fieldtally.core.quantities.nouns import noun

KIND = (
    r"(?:bench(?:es)?|beds?|blocks?|rooms?|greenhouses?|fields?|plots?|terraces?|gardens?|"
    r"shelves|shelf|trays?|barns?|sheds?|walls?|fences?|"
    r"batches|sites?|corners?|rows?|pens?|ponds?|tanks?|houses?|kitchens?|racks?|ovens?|"
    r"sides?|places|cloths|fabrics|surfaces|floors|orchards?|lawns?|borders?|roofs?|kinds?\s+of\s+\w+)"
)
LONGEST_NAME = 3
"""Words in the name of a place that stands in a list."""
WHERE = r"(?:in|on|at|under|by|over|across|along|inside|beside)"
SPOT = r"(?:[a-z][\w'’-]{0,40}+\s+){0,2}?[a-z][\w'’-]{0,40}+"
THERE = rf"(?!(?:{UNIT}|{MONTHS}|spring|summer|autumn|winter|all|each|it|them)\b)[a-z][\w'’-]{{0,40}}+(?:\s+[a-z][\w'’-]{{0,40}}+)?"
KNOWN = re.compile(
    rf"\b(?:{KIND}|frame|sun|shade|shaded|sunny|arch|bow|stern|verge|orchard|lawn|indoors|"
    rf"outdoors|inside|outside|window|door|north|south|east|"
    r"west|front|back|cellar|attic|fridge|cupboard|meadow|wood|slope|path|yard|garage|porch|balcony|hill|valley|kitchen|windowsill|sill)\b",
    re.I,
)


def places_by_name(reader: Reader) -> list[str]:
    """Places that are counted by their kind and then named (on three cloths: cotton, linen and wool); looked for before all else, which
    would take their number, or their names, for its own."""
    for match in reader.find(
        rf"\b(?:on|in|under|across)\s+(?:each\s+of\s+)?(?:the\s+)?(?P<n>{NUMBER})\s+(?P<word>{KIND})"
        r"\s*(?::|\(|,\s*(?:namely|that\s+is)\s*,?)\s*(?P<list>[^.;\n()]+)\)?"
    ):
        named = _cut(match["list"])
        # As many as were said, each of them short, is a list of what they are.
        if 2 <= len(named) == number(match["n"]) and all(len(one.split()) <= LONGEST_NAME for one in named):
            return _taken(reader, match.start(), match.end(), named)
    # Four glues by three woods (oak, pine, ply): what is counted first is compared on what is named behind.
    for match in reader.find(
        rf"\b{NUMBER}\s+[a-z]+\s*(?P<by>(?:\s[x×]|\sby|\stimes|\son)\s+(?P<n>{NUMBER})\s+(?P<word>[a-z]+)\s*\((?P<list>[^()\n]+)\))"
    ):
        named = _cut(match["list"])
        if 2 <= len(named) == number(match["n"]) and all(len(one.split()) <= LONGEST_NAME for one in named):
            return _taken(reader, match.start("by"), match.end(), named)
    return []


def places_in(reader: Reader) -> list[str]:
    """The names of the places, in the text's order; they are marked in it.  Empty where it tells of none."""
    for rule in (_by_kind, _by_name, _by_side):
        found = rule(reader)
        if found:
            return found
    return []


def _by_kind(reader: Reader) -> list[str]:
    """Blocks after a colon, halves in two spots, so many beds."""
    for match in reader.find(r"\b(?:blocks?|places?|where)\s*:\s*(?P<list>[^\n.]+)"):
        return _taken(reader, match.start(), match.end(), _cut(match["list"]))
    for match in reader.find(
        rf"\b(?:one\s+)?half\s+(?:of\s+(?:each|them)\s+)?(?P<a>(?:{WHERE}|facing)\s+(?:the\s+)?{SPOT}),?\s+"
        rf"(?:and\s+)?(?:the\s+other\s+)?half\s+(?P<b>(?:{WHERE}|facing)\s+(?:the\s+)?{SPOT})(?=[.,;\n]|"
        rf"$|{TAKEN})"
    ):
        return _taken(reader, match.start(), match.end(), [match["a"], match["b"]], halves=True)
    for match in reader.find(
        rf"{WHERE}\s+(?:each\s+of\s+)?(?:the\s+)?(?P<word>{KIND})\s+(?P<a>one|1)\s+(?:to|-|–)\s+(?P<b>{NUMBER})\b"
    ):
        many = int(number(match["b"]))
        return _taken(reader, match.start(), match.end(), _numbered(match["word"], many))
    for match in reader.find(
        rf"(?:\b(?:on|in)\s+each\s+of\s+|{WHERE}\s+|,\s*|(?<={TAKEN})\s+of\s+|(?P<bare>(?:^|[.;:\n])\s*))(?P<n>{NUMBER})\s+"
        rf"(?:\w+\s+)?(?P<word>{KIND})\b(?!\s+with)(?:\s*\((?P<list>[^)]+)\))?"
    ):
        many = int(number(match["n"]))
        if (
            not 2 <= many <= 60
            or _told_twice(reader.text, match["word"])
            or (match["bare"] is not None and not _in_each(reader.text, match["word"]))
        ):
            continue
        named = _cut(match["list"]) if match["list"] else []
        return _taken(
            reader, match.start(), match.end(), named if len(named) == many else _numbered(match["word"], many)
        )
    return []


def _by_name(reader: Reader) -> list[str]:
    """In the sun and in the shade: something that everybody would call a place."""
    spot = rf"(?:{WHERE}\s+)?(?:the\s+)?{SPOT}"
    for match in reader.find(
        rf"\b(?:sown\s+|planted\s+|set\s+out\s+)?(?P<first>{WHERE}\s+(?:the\s+)?{SPOT})"
        rf"(?P<more>(?:\s*,\s*{spot})*),?\s+and\s+(?:(?:another\s+)?{NUMBER}\s+(?:more\s+)?)?(?P<last>(?:{WHERE}\s+the|{WHERE}|"
        rf"the)\s+{SPOT})(?=[.,;:\n]|$|\s*{TAKEN})"
    ):
        names = [match["first"], *[one for one in match["more"].split(",") if one.strip()], match["last"]]
        spelt = re.match(rf"{WHERE}\s+the\b", names[0], re.I) and re.match(rf"{WHERE}\s+the\b", names[-1], re.I)
        if spelt and any(KNOWN.search(name) for name in names):
            return _taken(reader, match.start(), match.end(), names)
        # Something that everybody would call a place, said of every one of them or of the last.
        if all(KNOWN.search(name) for name in names) or (KNOWN.search(names[0]) and KNOWN.search(names[-1])):
            return _taken(reader, match.start(), match.end(), names)
    return []


def _by_side(reader: Reader) -> list[str]:
    """In water and in lemonade, inside and outside, greenhouse 1 and greenhouse 2, the south wall and the east wall."""
    for match in reader.find(
        rf"(?P<a>\b(?P<where>in|on|under)\s+(?:the\s+)?{THERE})\s+and\s+(?P<b>(?P=where)\s+(?:the\s+)?{THERE})(?=[.,;:\n]|$|\s*{TAKEN})"
    ):
        return _taken(reader, match.start(), match.end(), [match["a"], match["b"]])
    for match in reader.find(
        rf"{WHERE}\s+(?P<word>{KIND})\s+(?:1|a|one)\s+and\s+(?:{WHERE}\s+)?(?P=word)\s+(?:2|b|two)\b"
    ):
        return _taken(reader, match.start(), match.end(), _numbered(match["word"], 2))
    spot_alone = r"(?:inside|outside|indoors|outdoors|inland)"
    for match in reader.find(
        rf"\b(?P<a>{spot_alone}|(?:by|at|on|in)\s+the\s+(?:sea|coast|shore|valley|field|greenhouse|house))\s+and\s+(?:{NUMBER}\s+)?(?P<b>{spot_alone})\b(?=\s*(?:[.,;\n]|$|{TAKEN}))"
    ):
        return _taken(reader, match.start(), match.end(), [match["a"], match["b"]])
    side = r"(?:above|below|inside|outside|behind|in\s+front)"
    for match in reader.find(
        rf"\b(?P<a>{side}\s+(?:of\s+)?(?:the\s+)?{SPOT})\s+and\s+(?:{NUMBER}\s+)?(?P<b>{side})\b(?:\s+(?:of\s+)?it)?"
    ):
        return _taken(reader, match.start(), match.end(), [match["a"], match["b"]])
    for match in reader.find(
        rf"\b(?P<a>\w+\s+(?P<word>{KIND}))\b(?P<more>(?:\s*,\s*\w+\s+(?P=word))*),?\s+and\s+(?P<b>\w+\s+(?P=word))\b"
    ):
        return _taken(
            reader,
            match.start(),
            match.end(),
            [match["a"], *[one for one in match["more"].split(",") if one.strip()], match["b"]],
        )
    return []


def _told_twice(text: str, word: str) -> bool:
    """Whether so many of them are told side by side: ten rows with gloves, ten rows without."""
    return len(re.findall(rf"\b{NUMBER}\s+{re.escape(word)}\b", text, re.I)) > 1


def _in_each(text: str, word: str) -> bool:
    """Whether something is said of each of the places called ``word``."""
    one = re.escape(noun(word.casefold()).one)
    if word.casefold().startswith("kind"):
        return False
    return bool(re.search(rf"\b(?:in|on)\s+(?:each|every)(?:\s+{one}\b|\s*[.,;]|$)|\bhalf\s+of\s+each\b", text, re.I))


def _cut(text: str) -> list[str]:
    return [one for one in re.split(r"\s*(?:,\s*and\s+|,|;|\s+and\s+)\s*", text) if one.strip()]


def _numbered(word: str, many: int) -> list[str]:
    name = noun(re.sub(r"^kinds?\s+of\s+", "", word.casefold())).one
    return [f"{name[:1].upper()}{name[1:]} {i}" for i in range(1, many + 1)]


def _taken(reader: Reader, begin: int, end: int, names: list[str], *, halves: bool = False) -> list[str]:
    names = [
        name
        if re.fullmatch(WHERE, name.strip(), re.I)
        else re.sub(rf"^(?:(?:{WHERE}|facing)\s+)?(?:the\s+|our\s+|my\s+|an?\s+)?", "", name.strip(), flags=re.I).strip(
            " ."
        )
        for name in names
    ]
    names = [name[:1].upper() + name[1:80] for name in names if name]
    # The kind of place that the last is told with goes for all: the wet and the dry field.
    if (
        len(names) == 2
        and " " in names[1]
        and " " not in names[0]
        and KNOWN.search(names[1].split()[-1])
        and not KNOWN.search(names[0])
    ):
        names[0] = f"{names[0]} {names[1].split()[-1]}"
    reader.take(begin, end, "place", ", ".join(names) + (", half of each" if halves else ""))
    return names
