"""Names in a row, and as they stand inside a sentence."""

from __future__ import annotations

import re
from collections.abc import Sequence

LOOK = re.compile(r"(\b(?:at|from|to|up to) )([A-Z][a-z]+)\b")
MOST_NAMED = 4
"""Of more names than that the first are told, and the others counted."""


def listed(names: Sequence[str], most: int = MOST_NAMED) -> str:
    """Names in a row: ``A``, ``A and B``, ``A, B and C``; of more than ``most`` the first few, and how many more there are.

    >>> listed(["A"]), listed(["A", "B", "C"]), listed(list("ABCDEFG"))
    ('A', 'A, B and C', 'A, B, C and 4 others')
    """
    if len(names) > most:
        return f"{', '.join(names[: most - 1])} and {len(names) - most + 1} others"
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def lowered(name: str) -> str:
    """``name`` as it stands inside a sentence: its first word in small letters, if that is no abbreviation and no name.

    >>> lowered("Seeds sprouted"), lowered("Day 10"), lowered("pH of CO2"), lowered("Brown of Tarn Lane")
    ('seeds sprouted', 'day 10', 'pH of CO2', 'brown of Tarn Lane')
    """
    first, space, rest = name.partition(" ")
    return (first.lower() if first[:1].isupper() and first[1:].islower() else first) + space + rest


def looks_lowered(when: str) -> str:
    """A time with its looks as they stand inside a sentence.

    >>> looks_lowered("from Day 0 to Day 8"), looks_lowered("at The end")
    ('from day 0 to day 8', 'at the end')
    """
    return LOOK.sub(lambda found: found[1] + lowered(found[2]), when)


def raised(sentence: str) -> str:
    """``sentence`` with a capital at its head."""
    return sentence[:1].upper() + sentence[1:]


def ended(sentence: str) -> str:
    """``sentence`` with its full stop."""
    return sentence if sentence.endswith((".", "!", "?")) else f"{sentence}."
