"""What chance alone gives: for each count of right answers, how often nobody's noticing anything would lead to it."""

from __future__ import annotations

import numpy as np
from scipy.stats import binom

from fieldtally.core.compare.arrays import Floats


def by_chance(n: int, guess: float) -> Floats:
    """The probability of 0, 1, … ``n`` right answers (n + 1,) where everybody guesses.

    >>> [round(float(one), 3) for one in by_chance(3, 1 / 3)]
    [0.296, 0.444, 0.222, 0.037]
    """
    return np.asarray(binom.pmf(np.arange(n + 1), n, guess), dtype=np.float64)


def total_of(distributions: list[Floats]) -> Floats:
    """The distribution of a sum of independent counts, each given by its own."""
    total = np.ones(1)
    for one in distributions:
        total = np.convolve(total, one)
    return total
