"""What is measured in a unit: found in what people say."""

from __future__ import annotations

import re

from fieldtally.core.describing.phrases import WORD, Add
from fieldtally.core.describing.reader import TAKEN, Reader
from fieldtally.core.describing.words import NUMBER, TIMES, UNIT, unit_of
from fieldtally.core.scales import MeasurementScale

MEASURED: dict[str, str] = {
    r"heights?|tall(?:er|est|ness)?": "Height",
    r"lengths?": "Length",
    r"widths?": "Width",
    r"diameters?|thickness(?:es)?": "Diameter",
    r"depths?": "Depth",
    r"weights?|mass": "Weight",
    r"yields?|harvest": "Yield",
    r"volumes?": "Volume",
    r"loads?|force|strength|breaking load": "Load",
    r"temperatures?": "Temperature",
    r"ph": "pH",
    r"moisture|humidity": "Moisture",
    r"voltage": "Voltage",
    r"current": "Current",
    r"levels?": "Level",
    r"wear": "Wear",
    r"rise": "Rise",
    r"times?": "Time",
    r"noise|loudness": "Noise",
    r"brightness": "Brightness",
}
"""Nouns of what is measured, with the name they have by themselves."""
_NOUNS = "|".join(MEASURED)
_IN_UNIT = rf"(?:\s*(?:,\s*|\s|(?=\())\(?\s*(?:(?:(?:measured|told|read|judged|given)\s+)?(?:in|as|by)\s+)?(?P<unit>{UNIT})(?![\w])\s*\)?)"
NEED_A_VERB = ("time", "level", "length", "wear")
"""Nouns that are measured only where a word of measuring or a stop stands before them."""
NEVER_ALONE = ("times", "levels", "lengths", "current", "loads", "taller", "tallest")


def measured(reader: Reader, add: Add) -> None:
    for match in reader.find(
        rf"\btime\s+(?:taken\s+|needed\s+)?(?:to|for)\s+[a-z][a-z ]{{2,40}}?\s+in\s+(?P<unit>{TIMES})\b"
    ):
        add(match.start(), match.end(), "Time", MeasurementScale(unit_of(match["unit"])))
    for match in reader.find(r"\b(?:minutes|hours|seconds)\s+(?P<what>awake|asleep|of\s+\w+|[a-z]+(?:ed|nt))\b"):
        add(match.start(), match.end(), match[0], MeasurementScale(unit_of(match[0].split()[0])))
    for match in reader.find(
        rf"\bweigh(?:ed|ing)?\b(?:\s+(?:the|them|it|each|all|both)\b)?(?:\s+(?P<what>(?!(?:in|on|at|both|before|after|again|and)\b){WORD}))?{_IN_UNIT}?"
    ):
        scale = MeasurementScale(unit_of(match["unit"] or ""))
        add(match.start(), match.end(), f"{match['what'] or ''} weight", scale, "" if scale.unit else "unit")
    for match in reader.find(
        rf"\bhow\s+long\s+(?:they|it|each|the\s+\w+)\s+(?P<what>[a-z]+(?:\s+[a-z]+){{0,2}})[^.;\n(]{{0,12}}\((?P<unit>{TIMES})\)"
    ):
        add(match.start(), match.end(), match["what"], MeasurementScale(unit_of(match["unit"])))
    for match in reader.find(
        rf"\b(?P<unit>{UNIT})\s+of\s+(?:the\s+)?(?P<what>(?:(?:ripe|fresh|dry|clean|dead|new)\s+)?{WORD}(?:\s+(?:taken\s+up|lost|left|eaten|used|drunk))?)"
    ):
        if not re.search(rf"(?:{NUMBER}|\b(?:an?|per|every))\s*$", reader.rest[: match.start()], re.I):
            add(match.start(), match.end(), match["what"], MeasurementScale(unit_of(match["unit"])))
    _with_unit(reader, add)
    _by_noun(reader, add)


PLAIN = re.compile(r"ΔE(?:2000)?|lux|ppm|kWh|rpm|[mµ]?g/(?:kg|m3|m³)|mmol/L|°C", re.I)
"""Units that can be nothing else, wherever they stand."""


def _with_unit(reader: Reader, add: Add) -> None:
    """With a unit beside it, nearly any word is a measurement."""
    for match in reader.find(
        rf"(?P<what>{WORD}(?:[ \t-]{WORD}){{0,3}}?)(?:\s+(?:of|per)\s+(?:the\s+)?{WORD})?{_IN_UNIT}(?=[\s.,;:)]|$|{TAKEN})"
    ):
        what = match["what"]
        joint = re.search(
            r"^(?:per|every|each)\b|\b(?:at|for|of|with|after|every|to|or|from|by|than|a)$|^(?:in|at)$", what, re.I
        )
        told = re.search(r"[(]|\b(?:in|as|by)\s", match[0][len(what) :]) or (
            PLAIN.fullmatch(match["unit"]) or re.search(rf"\b(?:{_NOUNS})\b", what, re.I)
        )
        if joint or not told:
            continue
        verbs = list(re.finditer(r"\b(?:and|then|measur\w+|record\w*|note|with|all)\s+(?:the\s+)?", what, re.I))
        at = verbs[-1].end() if verbs else 0
        of = re.match(r"\s+of\s+(?:the\s+)?(\w+)", reader.rest[match.start() + len(what) :])
        name = what[at:] + (f" of {of[1]}" if of else "")
        add(match.start() + at, match.end(), name, MeasurementScale(unit_of(match["unit"])))


def _by_noun(reader: Reader, add: Add) -> None:
    """Without a unit, only words that are known to be measured; their unit is asked."""
    joint = r"(?!(?:and|the|per|each|every|kg|g|by|in|of|a|at|with|same)\b)"
    for match in reader.find(
        rf"(?P<what>(?:\b{joint}{WORD}\s+)?\b(?:{_NOUNS})\b)(?:\s+of\s+(?:the\s+)?(?P<of>{WORD}))?(?!\s+of\s+\d)"
    ):
        word = match["what"].split()[-1].casefold()
        if word in NEVER_ALONE or (word in NEED_A_VERB and not _told_by(reader, match.start())):
            continue
        # So many weights, two heights: that many are compared.
        if re.search(rf"\b{NUMBER}\s+(?:{WORD}\s+)?$", reader.rest[: match.start()], re.I) or re.match(
            rf"{NUMBER}\s", match["what"], re.I
        ):
            continue
        if re.match(r"\s+(?:more|less|better|\w{3,}er)\b", reader.rest[match.end() :], re.I):
            # Does it make dough rise faster?
            continue
        key = next(key for key in MEASURED if re.fullmatch(key, word, re.I))
        alone = word == match["what"].casefold() and word not in ("load", "yield", "weight")
        till = re.match(
            rf"\s+(?:un)?(?:till|til|when)\s+(?:it|they)\s+\w+(?:,?\s+in\s+(?P<a>{UNIT})(?!\w))?|"
            rf"\s+at\s+break(?:ing)?(?:\s+in\s+(?P<b>{UNIT})(?!\w))?|\s+do\s+they\s+\w+,?\s+(?P<c>{UNIT})(?!\w)",
            reader.rest[match.end() :],
            re.I,
        )
        unit = unit_of(till["a"] or till["b"] or till["c"] or "") if till else "pH" if key == "ph" else ""
        end = match.end() + (till.end() if till else 0)
        add(
            match.start(),
            end,
            MEASURED[key] if alone else match["what"],
            MeasurementScale(unit),
            "" if unit else "unit",
        )


def _told_by(reader: Reader, at: int) -> bool:
    """Whether a word of measuring stands before ``at`` in its sentence, or a stop does."""
    return bool(re.search(r"(?:measur\w*|record\w*|note|[:;.,]|and)\s*(?:the\s+)?$", reader.rest[:at], re.I))


def by_unit_alone(reader: Reader, add: Add, told: list[int]) -> None:
    """A sentence of nothing told yet that ends in a unit: crush three of each after 7 days, MPa; or one that is a unit alone."""
    for begin, end in reader.sentences():
        unit = re.search(rf"(?:,|^)\s*(?P<unit>{UNIT})(?=[\s.;!]*$)", reader.rest[begin:end], re.I)
        if unit is None or any(begin <= at < end for at in told):
            continue
        alone = not reader.text[begin : begin + unit.start("unit")].strip()
        first = re.match(rf"\s*(?P<what>{WORD})", reader.rest[begin : begin + unit.start("unit")], re.I)
        measured = re.search(rf"\bmeasur\w+\s+(?:the\s+)?(?P<what>{WORD})", reader.text[:begin], re.I)
        name = measured["what"] if alone and measured else "Reading" if alone else first["what"] if first else ""
        add(begin + unit.start("unit"), begin + unit.end("unit"), name, MeasurementScale(unit_of(unit["unit"])))
