"""How many samples a fresh trial would need, were the difference as large as it looked.

The power of Student's test with the noncentral t (Student's t and the pair test on shuffles agree closely; Cohen 1988, Statistical Power
Analysis, ch. 2), never below the numbers at which shuffling can reach the level at all.
"""

from __future__ import annotations

import math

from scipy.special import nctdtr, stdtrit

from fieldtally.core.compare.columns import Pair

SETTLED_AT = 0.8
MOST_REPLICATES = 500
SURE = 5.0


def power(effect: float, each: int, alpha: float, blocks: int = 1) -> float:
    """How often ``each`` against ``each`` would be called different, for a difference of ``effect`` standard deviations.

    >>> round(power(1.0, 17, 0.05), 2)
    0.81
    """
    freedom = 2 * each - 1 - blocks
    if freedom < 1:
        return 0.0
    limit = float(stdtrit(freedom, 1 - alpha / 2))
    away = abs(effect) * math.sqrt(each / 2)
    if away > limit + SURE:
        # So far out the noncentral t cannot be told from certainty, nor be computed.
        return 1.0
    return float(1 - nctdtr(freedom, away, limit) + nctdtr(freedom, away, -limit))


def fewest(alpha: float) -> int:
    """The fewest of each that can reach ``alpha`` without blocks.

    >>> fewest(0.05), fewest(0.01)
    (4, 5)
    """
    each = 3
    while 2 / math.comb(2 * each, each) > alpha:
        each += 1
    return each


def samples_needed(pair: Pair, alpha: float) -> int | None:
    """Samples of each that would find the difference of ``pair`` 8 times in 10, were it as large as it looks; None where no number that
    anyone would plan does."""
    if pair.effect is None or pair.effect == 0:
        return None
    low, high = 1, MOST_REPLICATES
    if power(pair.effect, high, alpha) < SETTLED_AT:
        return None
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if power(pair.effect, middle, alpha) >= SETTLED_AT else (middle, high)
    return max(high, fewest(alpha)) if pair.blocks == 1 else max(2, high)
