"""What is compared, and which of it is the control: found in what people say."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace

from fieldtally.core.describing.pieces import NOTHING, Piece, piece_of, told_of
from fieldtally.core.describing.reader import Reader
from fieldtally.core.describing.ways import ALONE, RULES
from fieldtally.core.describing.words import NUMBER, number
from fieldtally.core.design.plan import TreatmentKind


@dataclass(frozen=True)
class ToldTreatment:
    """A treatment as it was told: its name and what kind of control it is, if any; how many samples it has where that was told of it alone;
    whether its name has still to be given (``unnamed``)."""

    name: str
    kind: TreatmentKind = "treatment"
    samples: int | None = None
    unnamed: bool = False


def treatments_in(reader: Reader) -> list[ToldTreatment]:
    """The treatments that the text tells of, in its order; they are marked in it."""
    roles = list(_roles(reader))
    pieces: list[Piece] = []
    for rule in RULES:
        pieces = _own(rule(reader))
        if len(pieces) > 1 or (pieces and rule in ALONE):
            break
    else:
        pieces = []
    pieces += _more(reader, pieces)
    names = {piece.name.casefold() for piece in pieces}
    told = any(
        piece.kind == "untreated" and re.search(r"control", reader.text[piece.begin : piece.end + 16], re.I)
        for piece in pieces
    ) or any(kind == "untreated" for _, kind in roles)
    waters = [piece for piece in pieces if re.search(r"\bwater$", piece.name, re.I)]
    pieces = [
        replace(piece, kind="treatment")
        if (piece in waters and len(waters) > 1 and re.match(r"(?:tap\s+)?water$", piece.name, re.I))
        or (told and piece.kind == "untreated" and re.match(r"not\s", piece.name, re.I))
        else replace(piece, kind="untreated")
        if piece.kind == "treatment"
        and re.sub(r"^(?:un|not\s+)", "", piece.name.casefold()) in names - {piece.name.casefold()}
        else piece
        for piece in pieces
    ]
    _mark(reader, pieces)
    found = [ToldTreatment(piece.name, piece.kind, piece.samples, piece.unnamed) for piece in pieces]
    return _with_roles(found, roles)


MOST_NAMED = 4


def _mark(reader: Reader, pieces: list[Piece]) -> None:
    """Marks at the words of ``pieces``; several may stand at the same words (four twines, each with and without)."""
    for begin in dict.fromkeys(piece.begin for piece in pieces):
        here = [piece for piece in pieces if piece.begin == begin]
        told = "; ".join(told_of(piece) for piece in here[:MOST_NAMED]) + (
            f" … {here[-1].name}" if here[MOST_NAMED:] else ""
        )
        control = all(piece.kind != "treatment" for piece in here)
        reader.take(begin, max(piece.end for piece in here), "control" if control else "treatment", told)


def _own(pieces: list[Piece]) -> list[Piece]:
    """Each name once, none without letters or figures."""
    seen: dict[str, Piece] = {}
    for piece in pieces:
        if piece.name and re.search(r"\w", piece.name):
            seen.setdefault(piece.name.casefold(), piece)
    return list(seen.values())


# The control, told beside the rest


def _roles(reader: Reader) -> Iterator[tuple[str, TreatmentKind]]:
    """Sentences that say of something told elsewhere what it is: jute is what we use now."""
    word = r"(?!(?:or|and|plus|versus|vs|against)\b)[a-z][\w'’-]{0,40}+"
    name = rf"(?P<what>{word}(?:\s+{word}){{0,3}}?)"
    patterns: tuple[tuple[str, TreatmentKind], ...] = (
        (
            rf"\b{name}\s+(?:is|being|are)\s+(?:what\s+(?:we|i)(?:['’]ve|\s+have)?\s+"
            rf"(?:now\s+|always\s+)?(?:use|do|used|have|done)(?:\s+now|\s+today|\s+so\s+far)?|"
            rf"our\s+usual|the\s+usual(?:\s+one)?|the\s+standard|our\s+standard)\b",
            "standard",
        ),
        (
            rf"\b(?:we|i)(?:['’]ve|\s+have)?\s+(?:always|now|at\s+present|usually|currently)\s+used?\s+(?:the\s+)?{name}(?=[.,;\n]|$)",
            "standard",
        ),
        (rf"\b{name}\s+is\s+(?:how\s+it\s+is(?:\s+now)?|what\s+(?:there\s+)?is\s+(?:there\s+)?now)", "standard"),
        (
            rf"\b{name},?\s+(?:which|that)\s+(?:we|i)\s+(?:normally|usually|now|always|currently)\s+(?:use|do|have)\b",
            "standard",
        ),
        (rf"\bour\s+usual\s+is\s+{name}(?=[.,;\n]|$)", "standard"),
        (
            rf"\b(?:old|present|current|our|my)\s+\w+\s+(?:are|is)\s+(?:all\s+|made\s+of\s+)?{name}(?=[.;,]\s+(?:(?:and|so)\s+)?(?:i|we)['’]?(?:d|\s+\w+)?\s+"
            r"(?:like\s+)?(?:to\s+)?try\b)",
            "standard",
        ),
        (rf"\b{name}\s+as\s+(?:the\s+|a\s+)?control\b", "untreated"),
        (rf"\b{name}\s+for\s+comparison\b", "untreated"),
    )
    for pattern, kind in patterns:
        for match in reader.find(pattern):
            what = re.sub(r"^(?:with|and|the|our)\s+", "", match["what"].strip(), flags=re.I)
            reader.take(
                match.start(),
                match.end(),
                "control",
                f"{what}: {'what is done today' if kind == 'standard' else 'control'}",
            )
            yield what, kind


def _more(reader: Reader, pieces: list[Piece]) -> list[Piece]:
    """A control that is told in a place of its own: plus untreated ones, against bare soil."""
    if not pieces or any(piece.kind == "untreated" for piece in pieces):
        return []
    patterns = (
        r"(?:\b(?:and|plus)|[+,;])\s+(?:(?P<n>\d+|six|five|four|three|ten|eight|twelve)\s+)?(?:left\s+)?(?P<what>un\w+ed|untreated(?:\s+\w+)?|undosed)\b",
        r"\bagainst\s+(?P<what>(?:bare|no|plain|untreated)\s+\w+)",
        r"\b(?P<what>untreated(?:\s+\w+)?)\b",
        r"\band\s+(?P<what>water\s+alone|nothing|no\s+\w+)\b",
    )
    apart = not any("without" in piece.name.casefold() for piece in pieces)
    for match in reader.find(
        rf"\b(?:plus|and)\s+(?:{NUMBER}\s+)?(?P<what>without|with\s+none|with\s+nothing|left\s+(?:as\s+they\s+are|alone|bare))(?:\s+(?:any|it|one|anything))?(?=\s*(?:[,.;\n]|$))"
        if apart
        else "(?!)"
    ):
        what = re.sub(r"^with\s+(?=no)", "", match["what"], flags=re.I)
        piece = Piece(match.start(), match.end(), f"{what[:1].upper()}{what[1:]}", "untreated")
        reader.take(match.start(), match.end(), "control", told_of(piece))
        return [piece]
    beside = [
        piece
        for match in reader.find(r"\bthan\s+(?:the\s+|our\s+|on\s+the\s+)?(?P<what>[a-z][\w'’-]{0,40}+)\s*\?")
        for piece in [piece_of(match["what"], match.start("what"))]
    ]
    if beside and all(set(content(beside[0].name)).isdisjoint(content(piece.name)) for piece in pieces):
        reader.take(beside[0].begin, beside[0].end, "treatment", told_of(beside[0]))
        return beside[:1]
    for pattern in patterns:
        for match in reader.find(pattern):
            piece = replace(piece_of(match["what"], match.start("what")), kind="untreated")
            reader.take(match.start("what"), match.end(), "control", told_of(piece))
            return [piece]
    return []


def _with_roles(found: list[ToldTreatment], roles: list[tuple[str, TreatmentKind]]) -> list[ToldTreatment]:
    for what, kind in roles:
        words = set(content(what))
        at = next(
            (
                i
                for i, one in enumerate(found)
                if words and (words <= set(content(one.name)) or set(content(one.name)) <= words)
            ),
            None,
        )
        place = _ordinal(what)
        if at is None and place is not None and 1 <= place <= len(found):
            at = place - 1
        if at is not None:
            found[at] = replace(found[at], kind=kind)
            continue
        blank = next((i for i, one in enumerate(found) if one.unnamed), None)
        new = ToldTreatment(what[:1].upper() + what[1:], "untreated" if NOTHING.match(what) else kind)
        if kind == "standard" and blank is not None:
            found[blank] = new
        elif found:
            found.append(new)
    return found


def _ordinal(what: str) -> int | None:
    """The place among its like that something is told by: wax number one."""
    told = re.search(rf"\b(?:number|no\.?|nr\.?)\s+({NUMBER})$", what, re.I)
    return int(number(told[1])) if told else None


def content(name: str) -> list[str]:
    return [
        word
        for word in re.findall(r"\w+", name.casefold())
        if word not in ("the", "a", "an", "of", "with", "in", "on", "and")
    ]
