"""Whether the blinding held: Bang's blinding index from what scorers believed.

For each group of samples (those treated, those not) the index is the share of right guesses minus that of wrong ones, those who could
not tell counting as neither: 0 where guesses are random, 1 where all guessed right, −1 where all guessed wrong.

Whether guesses are better than chance is told by the exact sign test of right against wrong; with fewer than six that believed something
not even
all of them right would show it, so that it is *too few to say*.  The interval is the wider of Bang's and that of Clopper & Pearson (1934,
Biometrika 26:404) for the right ones among those who believed something.

Source: Bang, Ni & Davis 2004, Controlled Clinical Trials 25:143.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from scipy.special import betaincinv

Guess = Literal["treated", "control", "unknown"]
Z, ONE_SIDED = 1.959964, 0.025


@dataclass(frozen=True)
class BlindingIndex:
    """Bang's index of one group with its 95 % interval, from ``n`` guesses; ``held``: they are no better than chance, None where they are
    too few to say."""

    n: int
    right: int
    wrong: int
    index: float
    low: float
    high: float
    held: bool | None


def blinding_index(right: int, wrong: int, unknown: int) -> BlindingIndex | None:
    """Bang's index of one group.  None without guesses.

    The variance is (p_right(1 − p_right) + p_wrong(1 − p_wrong) + 2·p_right·p_wrong) / n.

    >>> found = blinding_index(20, 10, 20)
    >>> round(found.index, 2), round(found.low, 2), found.held
    (0.2, -0.03, True)
    """
    n = right + wrong + unknown
    if n == 0:
        return None
    p, q = right / n, wrong / n
    index, believed = p - q, right + wrong
    error = Z * math.sqrt(max(0.0, p * (1 - p) + q * (1 - q) + 2 * p * q) / n)
    low, high = index - error, index + error
    if believed:
        ends = _clopper_pearson(right, believed)
        low, high = (
            pick(own, believed / n * (2 * end - 1))
            for pick, own, end in zip((min, max), (low, high), ends, strict=True)
        )
    else:
        low, high = -1.0, 1.0
    few = 0.5**believed > ONE_SIDED
    chance = sum(math.comb(believed, k) for k in range(right, believed + 1)) / 2**believed
    held = None if few else chance > ONE_SIDED
    return BlindingIndex(n, right, wrong, index, max(-1.0, low), min(1.0, high), held)


def _clopper_pearson(right: int, n: int) -> tuple[float, float]:
    """The exact interval of a share, ``right`` of ``n``."""
    low = 0.0 if right == 0 else float(betaincinv(right, n - right + 1, ONE_SIDED))
    high = 1.0 if right == n else float(betaincinv(right + 1, n - right, 1 - ONE_SIDED))
    return low, high
