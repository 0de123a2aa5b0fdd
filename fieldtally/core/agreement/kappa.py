"""Weighted kappa: how far two scorers agree on a grade beyond what chance gives, a miss by two steps weighing four times a miss by one.

Source: Cohen 1968, Psychological Bulletin 70:213; quadratic weights, Fleiss & Cohen 1973, Educational and Psychological
Measurement 33:613.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence


def weighted_kappa(first: Sequence[float], second: Sequence[float]) -> float | None:
    """Quadratic weighted kappa of two scorers' values of the same things (equally many): 1 where they always agree, 0 as by chance.

    None where there are fewer than two things, or both gave one value throughout, so that chance alone agrees fully.

    >>> round(weighted_kappa([0, 1, 2, 3], [0, 1, 2, 2]), 3)
    0.875
    """
    n = len(first)
    if n != len(second):
        raise ValueError("Both score the same things.")
    if n < 2:
        return None
    seen = sum((a - b) ** 2 for a, b in zip(first, second, strict=True)) / n
    ones, twos = Counter(first), Counter(second)
    chance = sum((a - b) ** 2 * i * j for a, i in ones.items() for b, j in twos.items()) / n**2
    return None if chance == 0 else 1 - seen / chance


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
