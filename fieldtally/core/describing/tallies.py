"""What is counted or told in percent: found in what people say."""

from __future__ import annotations

import re

from fieldtally.core.describing.phrases import PHRASE, WORD, Add
from fieldtally.core.describing.reader import TAKEN, Reader
from fieldtally.core.describing.words import NUMBER, TIMES, UNIT
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.scales import CountScale, PercentScale


def percents(reader: Reader, add: Add) -> None:
    """What is told as a share of a hundred."""
    what = rf"(?P<what>{PHRASE})"
    patterns = (
        rf"{what}\s*,\s*(?:in\s+)?(?:percent|per\s+cent|%)(?=\s*(?:{TAKEN}|[,.;\n]|$))",
        rf"\b(?:percentage|percent|per\s+cent|share|proportion)\s+(?:of\s+(?:the\s+)?)?{what}(?:\s*\(%\))?",
        rf"{what}\s*(?:\(\s*(?:%|percent|per\s+cent)\s*\)|\bin\s+(?:%|percent|per\s+cent))",
        rf"{what}\s*%(?=\s*(?:{TAKEN}|[,.;\n]|$))",
        rf"(?<!\d)(?<!\d )%\s+(?:of\s+)?(?P<what>(?!and\b|at\b|after\b|every\b){PHRASE}(?:\s+with\s+\w+)?)",
    )
    for pattern in patterns:
        for match in reader.find(pattern):
            add(match.start(), match.end(), match["what"], PercentScale())


def counts(reader: Reader, add: Add) -> None:
    """What is asked for in numbers: how many, the number of, counted."""
    stop = (
        r"(?=[,.;:\n?!]|$|\s*"
        + TAKEN
        + r"|\s+(?:after|at|every|on|in|by|each|per|daily|weekly|have|has|are|is|until|before|caught)\b|\s+and\b)"
    )
    for match in reader.find(
        rf"\b(?:count(?:ing)?\s+)?how\s+many\s+(?:have\s+)?(?:of\s+(?P<of>\d+)\s+)?(?P<what>{PHRASE}?){stop}"
    ):
        what = re.sub(r"^(?:of\s+them|seeds)\s+(?:have\s+)?", "", match["what"] or "")
        add(
            match.start(),
            match.end(),
            re.sub(r"^(?:have|are)\s+", "", what),
            CountScale(int(match["of"]) if match["of"] else None),
        )
    for match in reader.find(rf"\bthe\s+number\s+(?P<what>(?!of\b){PHRASE}){stop}"):
        add(match.start(), match.end(), match["what"], CountScale())
    for match in reader.find(rf"\b(?:the\s+)?(?:number|no\.|nr)\s+of\s+(?P<what>{PHRASE}?){stop}"):
        add(match.start(), match.end(), match["what"], CountScale())
    for match in reader.find(rf"\bcount(?:ing)?\s+(?:the\s+|all\s+|up\s+)?(?P<what>(?!per\b){PHRASE}?){stop}"):
        add(match.start(), match.end(), match["what"], CountScale())
    for match in reader.find(
        rf"\b(?P<what>{WORD}(?:\s+{WORD})?)\s+(?:on|in|under|per)\s+(?:{WORD}\s+){{1,3}}(?:are\s+|is\s+)?counted\b"
    ):
        add(match.start(), match.end(), match["what"], CountScale())
    for match in reader.find(
        rf"\b(?P<what>{WORD}(?:\s+{WORD})?)\s+(?:are\s+|is\s+)?count(?P<noun>s)?(?:ed)?\b(?:\s+per\s+\w+)?"
    ):
        if re.search(r"\band$", match["what"], re.I):
            # Emptied and counted: what a trap is for is counted in it.
            trapped = re.search(r"\b(?P<what>[a-z]+)[\s-]+(?:traps?|baits?|lures?)\b", reader.text, re.I)
            if trapped:
                add(match.start(), match.end(), noun(trapped["what"]).many, CountScale())
            continue
        add(match.start(), match.end(), match[0] if re.search(r"counts?\b", match[0]) else match["what"], CountScale())
    _by_word(reader, add)


def _by_word(reader: Reader, add: Add) -> None:
    """What is counted by what it is: so many per plant, those caught or left, strokes until it is blunt."""
    for match in reader.find(
        rf"(?:^|[.;\n]\s*)(?P<what>(?:[a-z]+\s+)?(?:holes|spots|cracks|weeds|bites|tears|blisters))\s*(?=\b(?:after|at|on|in)\b|{TAKEN})"
    ):
        add(match.start("what"), match.end(), match["what"], CountScale())
    for match in reader.find(
        rf"\b(?P<what>{WORD}(?:\s+{WORD})?)\s+caught\b|\b(?P<per>(?:(?:(?<=[.;:,]\s)[a-z]{{2,20}}|\b[a-z]{{2,20}}e[dn])\s+)?{WORD})\s+per\s+(?:{WORD})"
        rf"(?=\s*[,.;]?\s*{TAKEN}|[\s,.;]+(?:and|for|at|in)\b|\s*,?\s*{TAKEN})"
    ):
        what = match["what"] or match["per"]
        weighed = re.search(rf"\b(?:{UNIT}\s+of|{NUMBER})\s+$", reader.rest[: match.start()], re.I)
        if not weighed and not re.fullmatch(rf"(?:{WORD}\s+)?(?:{UNIT}|once|twice)", what, re.I):
            add(match.start(), match.end(), what, CountScale())
    for match in reader.find(
        r"(?<!in the )(?<!on the )(?<!of the )(?<!over )(?<!my )(?<!our )"
        r"\b(?:frames|eggs|buds|flowers|leaves|roots|shoots|fruits|seedlings|germinated\s+seeds)\b"
        rf"(?:\s+of\s+(?P<what>{WORD}))?(?:\s+(?:open|out|up|left))?(?=\s*{TAKEN}|[^.:?(\n]{{0,3}}{TAKEN})"
    ):
        add(match.start(), match.end(), match["what"] or match[0], CountScale())
    for match in reader.find(rf"\b(?P<what>[a-z]{{3,20}}s)\s+left(?=\s*(?:{TAKEN}|[.,;\n]|$))"):
        add(match.start(), match.end(), match[0], CountScale())
    for match in reader.find(
        rf"\b(?P<what>(?!{TIMES}\b)[a-z]{{3,20}}s(?:\s+(?:cut|done|made|taken|given|pulled|turned))?)\s+(?:until|till?)\s+(?:it\s+|they\s+)?[a-z]+"
    ):
        add(match.start(), match.end(), match[0], CountScale())
    for match in reader.find(rf"(?P<what>{PHRASE})\s*\((?:counts?|counted|number)\)"):
        add(match.start(), match.end(), match["what"], CountScale())
