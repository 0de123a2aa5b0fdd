"""What is compared, piece by piece: names cut out of running text and of lists."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from fieldtally.core.describing.reader import TAKEN, Reader
from fieldtally.core.describing.words import NUMBER, PEOPLE, PEST, UNIT, number
from fieldtally.core.design.plan import TreatmentKind
from fieldtally.core.quantities.nouns import noun

NOTHING = re.compile(
    r"^(?:leave(?:\s+(?:it|them|alone|as\s+\w+))?|(?:an?\s+)?(?:un\w+ed|bare(?:-\w+)?|(?:(?:do|doing)\s+)?nothing\b.*|none|no\s+.*|"
    r"not\s+.*|without\b.*|left\s+(?:alone|open|bare|uncovered|as\s+(?:they\s+are|it\s+is|\w+)|untreated)|plain|blank|(?:an?\s+)?empty"
    r"(?:\s+\w+)?|(?:an?\s+)?\w+\s+with\s+nothing\b.*|"
    r"control|untreated.*|bare\s+\w+|plain\s+(?:tap\s+)?water|(?:tap\s+|ordinary\s+|plain\s+)?water(?:\s+alone)?))$",
    re.I,
)
PLACEBO = re.compile(r"\bplacebo\b|\bsham\b|\bdummy\b", re.I)
USUAL = re.compile(r"\b(?:usual|normal|our\s+own|current|present|standard)\b", re.I)
ROLES: tuple[tuple[re.Pattern[str], TreatmentKind], ...] = (
    (re.compile(r"\(?\s*(?:the\s+|as\s+(?:a|the)\s+|our\s+)?(?:untreated\s+)?control\)?", re.I), "untreated"),
    (re.compile(r"\(?\s*(?:the\s+|as\s+(?:a|the)\s+)?reference\)?", re.I), "reference"),
    (re.compile(r"\(?\s*(?:the\s+|our\s+|as\s+(?:a|the)\s+)?(?:standard|usual)\)", re.I), "standard"),
    (
        re.compile(
            r"\(\s*(?:as|what|which)\s+(?:we|i)\s+(?:now\s+|always\s+)?(?:do|use|have)(?:\s+(?:now|today|already))?\s*\)",
            re.I,
        ),
        "standard",
    ),
)
TAIL = (
    r"on|in|at|for|to|as|when|while|than|by|over|under|from|during|that|which|because|after|before|then|be|is|are|do|does|make|makes|made|"
    r"keep|keeps|kept|help|helps|last|lasts|work|works|hold|holds|grow|grows|give|"
    r"gives|draw|draws|taste|tastes|kill|kills|stop|stops|along|into|"
    r"against|with|using|better|best|each|come|comes|tested|planted|outdoors|indoors|"
    r"next|beside|dry|dries|agree|agrees|differ|differs|read|reads|matter|matters|really|we|i|would|will|should|were|was"
)
HEAD = (
    r"with|in|on|by|of|from|for|using|between|either|try|trying|test|tests|testing|"
    r"compare|comparing|compares|trial|pit|put|use|uses|using|whether|if|"
    r"is|are|does|do|would|will|can|tell|in|under|like|kept|fed|proved|sealed|made|"
    r"add|adding|treated|tested|steep|steeped|soaked|painted|stored|aged|beds|"
    r"sprouting|ripening|descaling|cleaning|which|best|at"
)
ITEM_END = r"[^,;:\n?!.]"
"""A character of one item of a list."""
SPLIT = re.compile(
    r"\s*(?:,?\s+compared\s+(?:with|to)\s+|,\s*(?:and|or|plus)\s+|,|\s+(?:and|or|plus|vs?\.?|versus|against)\s+|\s+[&+]\s+|\s*/(?!\s?(?:m2|m²|ha|L|l|kg|h|day|plant)\b)\s*)\s*",
    re.I,
)
LEADING = re.compile(
    r"^(?:(?:also|and|or|the|an?|some|our|my|plus|one(?=\s+with)|with|left(?=\s+un)|"
    r"either|just|only)\s+)+(?=\S)|^(?:of|by|using|with)\s+(?=\S)",
    re.I,
)


@dataclass(frozen=True)
class Piece:
    begin: int
    end: int
    name: str
    kind: TreatmentKind = "treatment"
    samples: int | None = None
    unnamed: bool = False


def told_of(piece: Piece) -> str:
    names = {
        "untreated": "control, untreated",
        "placebo": "control, placebo",
        "standard": "control, what is done today",
        "reference": "control, reference",
    }
    many = f", {piece.samples} of it" if piece.samples else ""
    return f"{piece.name}: {names[piece.kind]}{many}" if piece.kind in names else f"{piece.name}{many}"


def told_apart(first: Piece, second: Piece) -> Piece:
    """``second`` with the noun of the ``first`` for the “one” that stands for it: the cheap string, the dear one.

    >>> told_apart(Piece(0, 16, "Cheap string"), Piece(20, 28, "Dear one")).name
    'Dear string'
    """
    thing = first.name.split()[1:]
    if not thing or not re.search(r"\w\s+ones?$", second.name, re.I):
        return second
    return replace(second, name=f"{second.name.rsplit(None, 1)[0]} {' '.join(thing)}")


def piece_of(text: str, begin: int, samples: int | None = None) -> Piece:
    """A treatment of a piece of text that begins at ``begin``."""
    end = begin + len(text)
    around = ' ,;:.?!-–()"“”' if text.count("(") != 1 else ' ,;:.?!-–"“”'
    name = " ".join(text.replace(TAKEN, " ").split()).strip(around)
    if name.count("(") != name.count(")"):
        name = name.strip("() ")
    kind: TreatmentKind = "treatment"
    for pattern, role in ROLES:
        bare = pattern.sub("", name).strip(" ,:-")
        if bare != name and bare:
            name, kind = bare, role
    if USUAL.search(name):
        bare = re.sub(r"\b(?:the|our|my)?\s*(?:usual|current|present)\s+", "", name, flags=re.I).strip()
        name, kind = bare or name, "standard" if kind == "treatment" else kind
    for _ in range(0 if NOTHING.match(name) and not re.match(r"(?:an?|the)\s", name) else 3):
        shorter = LEADING.sub("", name).strip()
        if shorter == name or not shorter:
            break
        name = shorter
    name = re.sub(r"\s+(?:each|respectively|on\s+top|instead)$", "", name, flags=re.I)
    if PLACEBO.search(name):
        kind = "placebo"
    elif kind == "treatment" and NOTHING.match(name):
        kind = "untreated"
    return Piece(begin, end, name[:1].upper() + name[1:120], kind, samples)


HOW = re.compile(r"\b(?:with|in|on|under|from|at|by)\b", re.I)


def listed(reader: Reader, begin: int, end: int, *, prose: bool) -> list[Piece]:
    """The treatments of a list that stands from ``begin`` to ``end``; in ``prose`` its first may have words before it that are none of it,
    and its last words behind it."""
    text = reader.rest[begin:end]
    if TAKEN in text.strip(f" {TAKEN}\n"):
        # What was understood as something else ends a list.
        lead = len(text) - len(text.lstrip(f" {TAKEN},\n"))
        begin, text = begin + lead, re.split(rf"(?:\s*,)?(?:\s+(?:and|or|plus))?\s*{TAKEN}", text[lead:])[0]
    text = re.sub(r"\s(?:and|or|plus)$", "", text.rstrip(f" ,;.{TAKEN}\n"), flags=re.I)
    text = re.sub(
        rf"\s+against\s+(?:the\s+)?{PEST}(?=\s*(?:,|$|\band\b))", lambda one: " " * len(one[0]), text, flags=re.I
    )
    parts = [(where, part) for where, part in _split(text.rstrip(" ,;.")) if part.strip(" ,.;:\n")]
    if len(parts) < 2:
        return []
    if prose:
        where, first = parts[0]
        joint = [set(re.findall(r"\w+", part.casefold())) for _, part in parts]
        # Slates coated with lime, coated with silicone: both begin with the same word.
        same = (
            re.search(rf"\s(?={re.escape(parts[1][1].split()[0])}\b)", first, re.I) if HOW.search(parts[1][1]) else None
        )
        asked = re.search(r"\b(?:does|do|is|are|will|would|can)\s+(?:an?|the)\s+", first, re.I)
        if first.split()[:1] and first.split()[0].casefold() in parts[1][1].casefold().split()[:1]:
            heads: list[re.Match[str]] = []
        elif same or asked:
            cut = same.end() if same else asked.end() if asked else 0
            parts[0] = (where + cut, first[cut:])
            heads = []
        else:
            heads = list(re.finditer(rf"\b(?:{HEAD})\b\s+", first, re.I))
        if heads:
            last = heads[-1]
            kept = last[0].strip().casefold() in joint[1] and last[0].strip().casefold() not in ("the",)
            cut = last.start() if kept else last.end()
            if first[cut:].strip():
                parts[0] = (where + cut, first[cut:])
        where, last_text = parts[-1]
        earlier = set.union(*joint[:-1])
        alike = last_text.split()[:1] == parts[0][1].casefold().split()[:1] and HOW.search(parts[0][1])
        for m in re.finditer(rf"(?<=\S)\s+(?:{TAIL})\b", "" if alike else last_text, re.I):
            if m[0].strip().casefold() not in earlier or m[0].strip().casefold() in ("is", "are", "better"):
                parts[-1] = (where, last_text[: m.start()])
                break
    pieces = [piece_of(part, begin + where) for where, part in parts]
    pieces = [one for one in pieces if not re.fullmatch(rf"{NUMBER}\s+{PEOPLE}", one.name, re.I)]
    if len(pieces) < 2:
        return []
    if pieces[0].name == "A" and re.match(r"B\s", pieces[1].name):
        # A or B on the left or right side.
        pieces = [pieces[0], replace(pieces[1], name="B", end=pieces[1].begin + 1)]
    return _expanded(_with_units(_without_topic(pieces)))


def _split(text: str) -> list[tuple[int, str]]:
    """The pieces of a list, and where each begins.  Between commas “and” belongs to a name; before the last it parts two."""
    if text.count(";") and not text.count(","):
        cuts = [(m.start(), m.end()) for m in re.finditer(r"\s*;\s*", text)]
    else:
        cuts = [(m.start(), m.end()) for m in SPLIT.finditer(text)]
        commas = [one for one in cuts if "," in text[one[0] : one[1]]]
        if len(commas) > 1:
            worded = re.search(r"(?:and|or|plus|&)\s*$", text[commas[-1][0] : commas[-1][1]], re.I)
            cuts = [
                one
                for one in cuts
                if one in commas
                or (not worded and one[0] > commas[-1][0])
                or re.search(r"/|\bor\b", text[one[0] : one[1]], re.I)
            ]
    edges = [0, *[end for _, end in cuts]], [*[begin for begin, _ in cuts], len(text)]
    return [(a, text[a:b]) for a, b in zip(*edges, strict=True)]


SO_TREATED = re.compile(r"(?:facing|made\s+of|painted|sown|planted|kept|stored|fed|grown|dyed)\s+(?=\S)", re.I)


def _capital(name: str) -> str:
    return name[:1].upper() + name[1:]


def _without_topic(pieces: list[Piece]) -> list[Piece]:
    """The first of a list without the word for all: soil in “soil dug, not dug and mulched”, batteries in “batteries A, B and C”."""
    treated = SO_TREATED.match(pieces[1].name)
    if treated and len(pieces) > 2 and not SO_TREATED.match(pieces[0].name):
        # Bird boxes, facing east, north or south.
        second = pieces[1]
        return [replace(second, name=_capital(second.name[treated.end() :])), *pieces[2:]]
    first, others = pieces[0], [one.name.casefold() for one in pieces[1:]]
    words = first.name.split()
    if len(words) < 2:
        return pieces
    last = words[-1]
    if (
        (len(last) == 1 and last.isupper() and all(len(name) == 1 for name in others))
        or f"not {last}".casefold() in others
        or f"un{last}".casefold() in others
        or (NOTHING.match(last) and not NOTHING.match(first.name) and last.casefold() != "water")
        or (last.isdigit() and all(name[:1].isdigit() for name in others))
    ):
        begin = first.end - len(last)
        return [replace(piece_of(last, begin), end=first.end), *pieces[1:]]
    return pieces


def _expanded(pieces: list[Piece]) -> list[Piece]:
    """So many of something in a list stand for so many without names: a placebo and two hand creams."""
    many_of = rf"(?P<n>{NUMBER})\s+(?!(?:thirds|quarters|halves)\b)(?P<what>[a-z].*)$"
    counted = [re.match(many_of, one.name, re.I) for one in pieces]
    if sum(one is not None and number(one["n"]) > 1 for one in counted) != 1:
        return pieces
    # Two sprays and one grease.
    single = [one is not None and one["n"].casefold() == "one" for one in counted]
    pieces = [
        replace(one, name=_capital(many["what"])) if alone and many else one
        for one, many, alone in zip(pieces, counted, single, strict=True)
    ]
    counted = [None if alone else many for many, alone in zip(counted, single, strict=True)]
    found: list[Piece] = []
    for one, many in zip(pieces, counted, strict=True):
        if (
            many is None
            or not 2 <= number(many["n"]) <= 60
            or noun(many["what"]).one == many["what"]
            or re.match(rf"{UNIT}\b", many["what"])
            or re.search(rf"\b{PEOPLE}$", many["what"], re.I)
        ):
            found.append(one)
            continue
        name = noun(many["what"]).one
        found += [
            replace(one, name=f"{name[:1].upper()}{name[1:]} {i}", unnamed=True)
            for i in range(1, int(number(many["n"])) + 1)
        ]
    return found


def _with_units(pieces: list[Piece]) -> list[Piece]:
    """Bare numbers in a list get the unit of the next that has one: 0, 5 and 10 mL per litre."""
    found: list[Piece] = []
    unit = ""
    for one in reversed(pieces):
        told = re.match(rf"^[\d.,]+\s*(?P<unit>(?:{UNIT}|%|°C)(?!\w).*)$", one.name, re.I)
        unit = told["unit"] if told else unit
        bare = re.fullmatch(rf"(?P<n>[\d.,]+)\s*(?P<same>{UNIT})?", one.name)
        same = bare is not None and (not bare["same"] or unit.startswith(f"{bare['same']} "))
        name = f"{bare['n']} {unit}" if bare and same and unit else one.name
        zero = re.match(r"0+(?:[.,]0+)?\s", name)
        found.append(replace(one, name=name, kind="untreated" if zero else one.kind))
    return found[::-1]
