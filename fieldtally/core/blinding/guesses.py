"""Whether the blinding held: Bang's blinding index from what scorers believed.

For each group of samples (those treated, those not) the index is the share of right guesses minus that of wrong ones, those who could
not tell counting as neither: 0 where guesses are random, 1 where all guessed right, −1 where all guessed wrong.

Source: Bang, Ni & Davis 2004, Controlled Clinical Trials 25:143.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

Guess = Literal["treated", "control", "unknown"]
Z = 1.959964


@dataclass(frozen=True)
class BlindingIndex:
    """Bang's index of one group with its 95 % interval, from ``n`` guesses; ``held``: the interval does not lie above 0."""

    n: int
    right: int
    wrong: int
    index: float
    low: float
    high: float
    held: bool


def blinding_index(right: int, wrong: int, unknown: int) -> BlindingIndex | None:
    """Bang's index of one group.  None without guesses.

    The variance is (p_right(1 − p_right) + p_wrong(1 − p_wrong) + 2·p_right·p_wrong) / n.

    >>> found = blinding_index(20, 10, 20)
    >>> round(found.index, 2), round(found.low, 2), found.held
    (0.2, -0.01, True)
    """
    n = right + wrong + unknown
    if n == 0:
        return None
    p, q = right / n, wrong / n
    index = p - q
    error = Z * math.sqrt(max(0.0, p * (1 - p) + q * (1 - q) + 2 * p * q) / n)
    low, high = max(-1.0, index - error), min(1.0, index + error)
    return BlindingIndex(n, right, wrong, index, low, high, low <= 0)
