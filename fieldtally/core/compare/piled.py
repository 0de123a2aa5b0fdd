"""Piled readings: where most samples of a treatment have one value of a bounded scale, their spread tells little of what might differ.

Five stars out of five, five times over, do not show that a sixth sample would have them too.  Then the share that differs is bounded by
Wilson's interval, and each that differs is put as far off as any that was seen, or as the scale allows where none was; the two sides of a
pair join as in Newcombe's interval (:mod:`.rates`).  For readings that are all alike this is the rule of three.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.compare.rates import wilson

PILED = 0.5
"""From this share of samples at one value on they are piled."""


@dataclass(frozen=True)
class Pile:
    """Of ``n`` samples ``at`` have the most common ``value``; the others lie up to ``below`` under and ``above`` over it."""

    n: int
    value: float
    at: int
    below: float
    above: float

    @classmethod
    def of(cls, own: Floats) -> Pile:
        """The pile of values (n,), at least one."""
        kinds, counts = np.unique(own, return_counts=True)
        top = int(counts.argmax())
        value = float(kinds[top])
        return cls(len(own), value, int(counts[top]), value - float(kinds[0]), float(kinds[-1]) - value)

    @property
    def piled(self) -> bool:
        """Whether half or more have the most common value."""
        return self.at >= PILED * self.n

    def shares(self, alpha: float) -> tuple[float, float, float]:
        """The share that differs, and the ends between which it lies."""
        return ((self.n - self.at) / self.n, *wilson(self.n - self.at, self.n, alpha))


def farthest(piles: list[Pile], ends: tuple[float, float]) -> float:
    """How far off a value may be that differs: as far as any that was seen, or as the scale allows."""
    seen = max((max(one.below, one.above) for one in piles), default=0.0)
    return seen if seen > 0 else max((max(one.value - ends[0], ends[1] - one.value) for one in piles), default=0.0)


def mean_between(pile: Pile, off: float, ends: tuple[float, float], alpha: float) -> tuple[float, float]:
    """Ends between which the mean of a piled treatment lies, where what differs is ``off`` by so much at most.

    >>> [round(end, 2) for end in mean_between(Pile(5, 5.0, 5, 0.0, 0.0), 5.0, (0.0, 5.0), 0.05)]
    [2.83, 5.0]
    """
    share = pile.shares(alpha)[2]
    return max(ends[0], pile.value - share * off), min(ends[1], pile.value + share * off)


def reach_between(one: Pile, other: Pile, off: float, alpha: float) -> float:
    """How far a difference of two means may lie from the one seen; 0 where neither is piled."""
    if not (one.piled or other.piled):
        return 0.0
    reach = 0.0
    for side in (one, other):
        share, low, high = side.shares(alpha)
        reach = math.hypot(reach, max(high - share, share - low) * off)
    return reach
