"""Rare events: how many samples to see one, and what seeing none still allows."""

from __future__ import annotations

import math


def samples_to_see_one(rate: float, confidence: float = 0.95) -> int:
    """Samples needed to see at least one event of ``rate`` (0 to 1) with that ``confidence``.

    >>> samples_to_see_one(0.01)
    299
    """
    return math.ceil(math.log(1 - confidence) / math.log(1 - rate) - 1e-9)


def still_possible(n: int, confidence: float = 0.95) -> float:
    """The highest rate that *none in n* still allows, 1 − (1 − confidence)^(1/n).

    >>> round(still_possible(20), 5)
    0.13911
    """
    return float(1 - (1 - confidence) ** (1 / n))
