"""What is counted, by one of it and by several: the one place where a word becomes a plural.

People name their samples themselves (``tank``, ``box of seed``), at times by several (``bolts``); who knows better gives the plural.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from inflect import engine

ENDS_SINGULAR = ("ss", "us", "is", "gas", "lens", "canvas", "atlas", "series", "species")
"""Words that end so are one of a kind, though they end as plurals do."""
SIGNS = ("km", "mm", "cm", "kg", "mg", "min", "kWh")
"""Signs of units, which have no plural: 100 km."""
BEHIND = re.compile(r"^(\D*?[^\W\d_])(\s+(?:(?:of|with|in|from|for|on)\b|\d).*)$")
"""A word with what it is of, or its size, behind it: ``box of seed``, ``bolt 12 mm``."""


@dataclass(frozen=True)
class Noun:
    """``one`` of what is counted, and ``many`` of it.

    >>> noun("patch").counted(3), noun("patch").counted(1), noun("bolts").counted(1), noun("bolts").counted(0)
    ('3 patches', '1 patch', '1 bolt', '0 bolts')
    """

    one: str
    many: str

    def of(self, number: float) -> str:
        """The word as it stands behind ``number``."""
        return self.one if number == 1 else self.many

    def counted(self, number: int) -> str:
        """So many of it."""
        return f"{number:,} {self.of(number)}"


@lru_cache(maxsize=4096)
def noun(word: str, many: str = "") -> Noun:
    """What is counted in ``word``; ``many`` is its plural where a person gave one.

    >>> noun("box"), noun("set of bolts").many, noun("bus").one, noun("dahlia").many, noun("Kiste", "Kisten").many
    (Noun(one='box', many='boxes'), 'sets of bolts', 'bus', 'dahlias', 'Kisten')
    >>> noun("bolt 12 mm").many, noun("glass of water").many, noun("tanks"), noun("")
    ('bolts 12 mm', 'glasses of water', Noun(one='tank', many='tanks'), Noun(one='sample', many='samples'))
    """
    said, given = " ".join(word.split()) or "sample", " ".join(many.split())
    if given:
        return Noun(said, given)
    head = BEHIND.match(said)
    if head:
        inner = noun(head[1])
        return Noun(inner.one + head[2], inner.many + head[2])
    if not said[-1].isalpha() or said in SIGNS:
        return Noun(said, said)
    if said[-1].isupper():
        return Noun(said, f"{said}s")
    one = _one_of(said)
    return Noun(one, said) if one else Noun(said, str(_english().plural_noun(said)))


def _one_of(said: str) -> str | None:
    """One of what was named by several; None where it was named by one."""
    before, _, last = said.rpartition(" ")
    if last.casefold().endswith(ENDS_SINGULAR):
        return None
    single = str(_english().singular_noun(last) or "")
    if not single or single == last or _english().plural_noun(single) != last:
        return None
    return f"{before} {single}".strip()


@lru_cache(maxsize=1)
def _english() -> engine:
    return engine()
