"""Blind codes: short numbers that neither stick in the mind nor say anything.

Three digits as long as they last (four or more for very large trials), none starting with 0.  Left out are digits that
repeat, runs up or down (345, 876), and numbers that read as another number upside down (618 becomes 819), since a tag
hangs either way.
"""

from __future__ import annotations

import itertools
from collections.abc import Collection
from functools import cache

from fieldtally.core.randomness import Draw

UPSIDE_DOWN = frozenset("01689")


def is_plain(code: str) -> bool:
    """Whether ``code`` may be used: it has no repeat, no run and no second reading.

    >>> [code for code in ("123", "777", "100", "689", "742") if is_plain(code)]
    ['742']
    """
    steps = {int(b) - int(a) for a, b in itertools.pairwise(code)}
    if code[0] == "0" or steps in ({1}, {-1}) or 0 in steps:
        return False
    if len(code) == 3 and len(set(code)) < 3:
        return False
    return len(set(code)) > 1 and not set(code) <= UPSIDE_DOWN and not code.endswith("00")


@cache
def plain_codes(digits: int) -> tuple[str, ...]:
    """All codes of that many digits that may be used, in order."""
    return tuple(c for c in (str(n) for n in range(10 ** (digits - 1), 10**digits)) if is_plain(c))


def draw_codes(count: int, draw: Draw, taken: Collection[str] = ()) -> list[str]:
    """``count`` different codes in random order, as short as can be; none that is ``taken``."""
    digits = 3
    while len(left := [code for code in plain_codes(digits) if code not in taken]) < count:
        digits += 1
    return draw.shuffled(left)[:count]
