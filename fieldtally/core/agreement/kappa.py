"""Weighted kappa: how far two scorers agree on a grade beyond what chance gives, a miss by two steps weighing four times a miss by one.

Source: Cohen 1968, Psychological Bulletin 70:213; quadratic weights, Fleiss & Cohen 1973, Educational and Psychological
Measurement 33:613.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fieldtally.core.compare.arrays import Floats


def weighted_kappa(first: Sequence[float] | Floats, second: Sequence[float] | Floats) -> float | None:
    """Quadratic weighted kappa of two scorers' values of the same things (equally many): 1 where they always agree, 0 as by chance.

    None where there are fewer than two things, or both gave one value throughout, so that chance alone agrees fully.

    >>> round(weighted_kappa([0, 1, 2, 3], [0, 1, 2, 2]), 3)
    0.875
    """
    one, two = np.asarray(first, dtype=float), np.asarray(second, dtype=float)
    if len(one) != len(two):
        raise ValueError("Both score the same things.")
    if len(one) < 2:
        return None
    # Counted from the least value, so that where all are the same nothing is left of them.
    least = min(one.min(), two.min())
    one, two = one - least, two - least
    seen = ((one - two) ** 2).mean()
    # The mean of (a − b)² over all couples of one's values and the other's.
    chance = one.var() + two.var() + (one.mean() - two.mean()) ** 2
    return None if chance <= 0 else float(1 - seen / chance)


def words_for(kappa: float) -> str:
    """What a kappa amounts to, in a word (Landis & Koch 1977, Biometrics 33:159)."""
    for least, word in (
        (0.81, "almost the same"),
        (0.61, "much alike"),
        (0.41, "moderately alike"),
        (0.21, "only fairly alike"),
    ):
        if kappa >= least:
            return word
    return "hardly alike"
