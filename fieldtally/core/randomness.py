"""Randomness that anybody can repeat, on any machine and in any language.

A draw is a stream of 64-bit numbers: the first eight bytes (big end first) of
``SHA-256("field-tally/1" | seed | purpose | counter)`` for counter 0, 1, 2 …, the pieces joined by ``|`` and written in
UTF-8.  A whole number below *n* is taken by rejection, so every value is equally likely.  A list is put in random order by
the Fisher–Yates shuffle from its end.  Library generators may change their streams between versions; a sealed plan is
checked years later, so this one is written down.

>>> Draw("00ff", "layout").shuffled(["a", "b", "c", "d"]) == Draw("00ff", "layout").shuffled(["a", "b", "c", "d"])
True
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from typing import TypeVar

T = TypeVar("T")
SPAN = 1 << 64


class Draw:
    """A named stream of random numbers from a seed."""

    def __init__(self, seed: str, purpose: str) -> None:
        self._start = f"field-tally/1|{seed}|{purpose}|"
        self._counter = 0

    def below(self, n: int) -> int:
        """A whole number from 0 to ``n`` − 1, each equally likely.  ``n`` is from 1 to 2⁶⁴."""
        limit = SPAN - SPAN % n
        while True:
            digest = hashlib.sha256(f"{self._start}{self._counter}".encode()).digest()
            self._counter += 1
            value = int.from_bytes(digest[:8], "big")
            if value < limit:
                return value % n

    def shuffled(self, things: Iterable[T]) -> list[T]:
        """The things in an order drawn at random."""
        order = list(things)
        for last in range(len(order) - 1, 0, -1):
            other = self.below(last + 1)
            order[last], order[other] = order[other], order[last]
        return order
