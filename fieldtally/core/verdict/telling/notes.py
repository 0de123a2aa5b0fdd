"""What was written beside the readings: which words stand in the notes of how many samples of each treatment, and some notes in full."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

WORD = re.compile(r"[^\W\d_]{3,}(?:[-’'][^\W\d_]+)*")
SMALL = re.compile(
    "the|and|but|for|with|was|were|are|had|has|not|its|this|that|from|some|very|all|one|two|then|than|there|here|after|before|into|over|"
    "only|also|just|more|off|out|did|been|too|they|their|you|which|what|when|both|still|quite|about"
)
MOST_WORDS, MOST_QUOTES, LONGEST = 6, 3, 160


@dataclass(frozen=True)
class WordCount:
    """A word, and in the notes of how many samples it stands."""

    word: str
    samples: int


@dataclass(frozen=True)
class Quote:
    """A note as it was written, with its sample (code) and look."""

    sample: str
    look: str
    words: str


@dataclass(frozen=True)
class NotesTold:
    """The notes on samples of a treatment (name): how many samples have any, the words of several of these, and some in full."""

    treatment: str
    samples: int
    words: tuple[WordCount, ...]
    quotes: tuple[Quote, ...]


def notes_told(treatments: Sequence[str], notes: Iterable[tuple[str, Quote]]) -> tuple[NotesTold, ...]:
    """What ``notes`` (treatment, note) say, by treatment in this order; none of a treatment without any.

    >>> found = notes_told(["A"], [("A", Quote("101", "Day 1", "Tore at the seam")), ("A", Quote("102", "Day 1", "tore"))])
    >>> found[0].words, found[0].samples
    ((WordCount(word='tore', samples=2),), 2)
    """
    own: dict[str, list[Quote]] = defaultdict(list)
    for treatment, note in notes:
        if note.words.strip():
            own[treatment].append(note)
    found = []
    for treatment in treatments:
        mine = own.get(treatment, [])
        if not mine:
            continue
        stands_in: dict[str, set[str]] = defaultdict(set)
        for note in mine:
            for word in WORD.findall(note.words):
                if not SMALL.fullmatch(word.casefold()):
                    stands_in[word.casefold()].add(note.sample)
        counts = Counter({word: len(samples) for word, samples in stands_in.items()})
        words = sorted(counts.items(), key=lambda one: (-one[1], one[0]))
        found.append(
            NotesTold(
                treatment,
                len({note.sample for note in mine}),
                tuple(WordCount(word, many) for word, many in words if many > 1)[:MOST_WORDS],
                tuple(Quote(one.sample, one.look, _short(one.words)) for one in _unlike(mine)[:MOST_QUOTES]),
            )
        )
    return tuple(found)


def _unlike(notes: Sequence[Quote]) -> list[Quote]:
    """Notes that do not say the same, the longest first: they say most."""
    said: set[str] = set()
    found = []
    for note in sorted(notes, key=lambda one: (-len(one.words), one.sample)):
        plain = " ".join(note.words.casefold().split())
        if plain not in said:
            said.add(plain)
            found.append(note)
    return found


def _short(words: str) -> str:
    plain = " ".join(words.split())
    return plain if len(plain) <= LONGEST else f"{plain[: LONGEST - 1].rstrip()}…"
