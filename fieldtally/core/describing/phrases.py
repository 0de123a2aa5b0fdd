"""Words by which people tell what is looked at."""

from __future__ import annotations

import re
from typing import Protocol

from fieldtally.core.describing.reader import TAKEN, Reader
from fieldtally.core.describing.words import NUMBER
from fieldtally.core.scales import Scale

OF_THEM = r"(?:(?:\s+of)?\s+(?:the\s+)?[a-z]+(?:\s+[a-z]+)?)?"
WORD = r"\b[a-z][\w'’-]{0,40}+"
PHRASE = (
    rf"{WORD}(?:\s+(?!(?:and|or|with|on|in|at|after|every|per|by|for|is|are|from|to|graded|"
    rf"scored|rated|measured|counted|hourly|daily|weekly|fortnightly|monthly|yearly|each|until|before)\b){WORD}){{0,3}}"
)
A_SCALE = (
    rf"(?:(?:on\s+a\s+scale\s+)?(?:of\s+|from\s+)?(?P<low>\d+|zero)\s*(?:-|–|to|\.\.|…)\s*"
    rf"(?P<high>{NUMBER})\b|out\s+of\s+(?P<of>{NUMBER})\b)"
)
GRADING = r"(?:scored?|grad(?:e|ed|ing)|rat(?:e|ed|ing)|marked|judged?)"
STATE_WORD = re.compile(
    r"(?:soft|firm|hard|ok|okay|sound|dead|alive|rotten|good|bad|poor|fair|none|slight|strong|weak|dry|damp|wet|clean|"
    r"some|loud|quiet|lots|many|few|much|little|mild|severe|moderate|dirty|limp|crisp|pale|dark|light|medium|heavy|smooth|rough|clear|cloudy|ripe|unripe|fresh|stale|whole|cracked|broken|better|same|worse)"
)


class Add(Protocol):
    """Takes an outcome that stands from ``begin`` to ``end``; once only by each name."""

    def __call__(self, begin: int, end: int, name: str, scale: Scale, open_: str = "") -> None: ...


def before(reader: Reader, at: int, most: int = 4) -> tuple[int, str]:
    """The last words before ``at`` up to a stop, and where they begin."""
    piece = re.split(
        r"[,.;:\n!?(]|" + TAKEN + r"|\b(?:and|then|where|with|record(?:ed)?|measured?|note|check|by)\b",
        reader.rest[:at],
        flags=re.I,
    )[-1]
    words = list(re.finditer(r"\S+", piece))[-most:]
    begin = at - len(piece) + (words[0].start() if words else len(piece))
    return begin, reader.rest[begin:at]


def behind_looks(text: str, at: int) -> tuple[int, str]:
    """What is graded where its looks stand between it and its scale: gloss after 5 and 10 washes, 0-4."""
    found = re.search(rf"(?:^|[.,;:\n]\s*)(?P<what>{PHRASE})\s*{TAKEN}[{TAKEN}\s,:]*$", text[:at], re.I)
    return (found.start("what"), found["what"]) if found else (at, "")
