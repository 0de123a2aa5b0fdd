"""Rates: the share that passed, with its interval, and the difference of two shares.

Sources: Wilson 1927 (J. Am. Stat. Assoc. 22:209); Newcombe 1998 (Stat. Med. 17:873, method 10).
"""

from __future__ import annotations

import math

from scipy.special import ndtri


def wilson(passed: float, n: int, alpha: float = 0.05) -> tuple[float, float]:
    """Wilson's score interval for ``passed`` of ``n`` (n ≥ 1) at level 1 − ``alpha``; shares from 0 to 1.

    >>> [round(end, 4) for end in wilson(8, 10)]
    [0.4902, 0.9433]
    """
    z = float(ndtri(1 - alpha / 2))
    share = passed / n
    middle = (share + z * z / (2 * n)) / (1 + z * z / n)
    half = z * math.sqrt(share * (1 - share) / n + z * z / (4 * n * n)) / (1 + z * z / n)
    return max(0.0, middle - half), min(1.0, middle + half)


def newcombe(passed_a: float, n_a: int, passed_b: float, n_b: int, alpha: float = 0.05) -> tuple[float, float]:
    """Newcombe's hybrid score interval for the share of a minus the share of b.

    >>> [round(end, 4) for end in newcombe(56, 70, 48, 80)]
    [0.0524, 0.3339]
    """
    a, b = passed_a / n_a, passed_b / n_b
    (low_a, high_a), (low_b, high_b) = wilson(passed_a, n_a, alpha), wilson(passed_b, n_b, alpha)
    difference = a - b
    return (
        difference - math.hypot(a - low_a, high_b - b),
        difference + math.hypot(high_a - a, b - low_b),
    )
