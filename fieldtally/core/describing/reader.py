"""A text that is read piece by piece: what one rule has understood, no other reads again."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Literal

Part = Literal["treatment", "control", "number", "place", "outcome", "look", "blind", "begun", "nothing"]
TAKEN = "\ue000"
"""What was understood already, in the rest of a text."""
HIDDEN = "q"


OPENS, CLOSES = "(“‘\"'%£$€<>≥≤±−-°", ")”’\"'%°?"


@dataclass(frozen=True)
class WordMark:
    """The characters ``begin`` to ``end`` of the text were understood as ``part``, and ``says`` as what."""

    begin: int
    end: int
    part: Part
    says: str


@dataclass
class Reader:
    """The ``text``, the ``rest`` that no rule has understood yet (of the same length), and the marks so far."""

    text: str
    rest: str = ""
    marks: list[WordMark] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.rest = self.text.replace(TAKEN, " ")

    def take(self, begin: int, end: int, part: Part, says: str) -> None:
        """Mark a piece as understood; of what overlaps with something marked before, its longest part that does not."""
        free = [(m.start(), m.end()) for m in re.finditer(rf"[^{TAKEN}]+", self.rest[begin:end])]
        if not free:
            return
        first, last = max(free, key=lambda each: each[1] - each[0])
        begin, end = begin + first, begin + last
        while begin < end and not (self.rest[begin].isalnum() or self.rest[begin] in OPENS):
            begin += 1
        while end > begin and not (self.rest[end - 1].isalnum() or self.rest[end - 1] in CLOSES):
            end -= 1
        if begin < end:
            self.marks.append(WordMark(begin, end, part, says))
            self.blank(begin, end)

    def hide(self, begin: int, end: int) -> None:
        """Until it is shown, this piece reads as a word that says nothing."""
        self.rest = self.rest[:begin] + HIDDEN * (end - begin) + self.rest[end:]

    def show(self, begin: int, end: int) -> None:
        """What was hidden, as it is written."""
        self.rest = self.rest[:begin] + self.text[begin:end] + self.rest[end:]

    def blank(self, begin: int, end: int) -> None:
        """Nobody reads this piece again."""
        self.rest = self.rest[:begin] + TAKEN * (end - begin) + self.rest[end:]

    def find(self, pattern: str, begin: int = 0, end: int | None = None) -> Iterator[re.Match[str]]:
        """Where ``pattern`` stands in what is left, whatever its case; each piece as it stands when it is come to."""
        at = begin
        while found := re.compile(pattern, re.I | re.M).search(self.rest, at, len(self.rest) if end is None else end):
            yield found
            at = max(found.end(), at + 1)

    def sentences(self) -> list[tuple[int, int]]:
        """Where each sentence or line of the text begins and ends."""
        cuts = [match.end() for match in re.finditer(r"[.;?!]+(?=\s|$)|\n+", self.text)]
        edges = [0, *cuts, len(self.text)]
        return [(a, b) for a, b in pairwise(edges) if self.text[a:b].strip(" \n.;?!")]
