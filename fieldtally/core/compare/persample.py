"""One number per sample: readings become a value for each sample, outcome and checkpoint, and then the outcome's summary.

Where one scorer read a sample several times at a look (a retest), the rule fixed in the plan says what counts of these; then
scorers are averaged: the mean, or the median for grades.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Sequence
from statistics import fmean, median
from typing import Literal, TypeVar

import numpy as np

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.kinds import Kind

Sample = TypeVar("Sample", bound=Hashable)


Rule = Literal["median", "mean", "last"]


def settled(takes: Sequence[float], rule: Rule) -> float:
    """What counts of the values that one scorer read of one thing, in the order they were read (at least one).

    >>> settled([12.0, 95.0, 94.0], "median"), settled([12.0, 95.0], "last")
    (94.0, 95.0)
    """
    if len(takes) == 1:
        return takes[0]
    match rule:
        case "median":
            return float(median(takes))
        case "mean":
            return fmean(takes)
        case "last":
            return takes[-1]


def averaged(values: Iterable[tuple[Sample, float]], kind: Kind) -> dict[Sample, float]:
    """One value for each sample that has any, from its ``(sample, value)`` readings."""
    gathered: dict[Sample, list[float]] = {}
    for sample, value in values:
        gathered.setdefault(sample, []).append(value)
    middle = median if kind == "grade" else fmean
    return {sample: own[0] if len(own) == 1 else float(middle(own)) for sample, own in gathered.items()}


def change(after: Floats, before: Floats) -> Floats:
    """``after`` − ``before``, sample by sample (n,), NaN where either is missing."""
    return np.asarray(after - before)
