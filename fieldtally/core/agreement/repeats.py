"""Blind repeats: how well a scorer agrees with themselves on the same thing under another name in the same round."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats


@dataclass(frozen=True)
class WithinScorer:
    """How one scorer repeats: ``pairs`` of values, the share that were the same, the standard deviation of a single value
    (within the scorer, in the unit of the values), and how far a single value may differ by hand alone, 95 times in 100."""

    pairs: int
    same: float
    deviation: float
    within: float
    blind: bool = True


def within_scorer(pairs: Sequence[tuple[float, float]] | Floats, *, blind: bool = True) -> WithinScorer | None:
    """How a scorer repeats, from ``pairs`` of values of the same thing; ``blind``: they did not know that it was.  None without pairs.

    The standard deviation is √(Σd²/2n) (Dahlberg 1940); two values of one thing differ by less than 1.96·√2 of it in 95 of 100.

    >>> found = within_scorer([(3, 3), (4, 3), (2, 2), (5, 5)])
    >>> found.same, round(found.deviation, 3)
    (0.75, 0.354)
    """
    if len(pairs) == 0:
        return None
    apart = np.array([one[0] - one[1] for one in pairs])
    deviation = math.sqrt(float((apart**2).sum()) / (2 * len(apart)))
    same = float((np.abs(apart) < 1e-9).mean())
    return WithinScorer(len(apart), same, deviation, 1.96 * math.sqrt(2) * deviation, blind)
