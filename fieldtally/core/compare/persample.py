"""One number per sample: readings become a value for each sample, outcome and checkpoint, and then the outcome's summary.

Repeats by one or more scorers are averaged: the mean, or the median for grades.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable
from statistics import fmean, median
from typing import TypeVar

import numpy as np

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.compare.columns import Kind

Sample = TypeVar("Sample", bound=Hashable)


def averaged(values: Iterable[tuple[Sample, float]], kind: Kind) -> dict[Sample, float]:
    """One value for each sample that has any, from its ``(sample, value)`` readings."""
    gathered: dict[Sample, list[float]] = {}
    for sample, value in values:
        gathered.setdefault(sample, []).append(value)
    middle = median if kind == "grade" else fmean
    return {sample: float(middle(own)) for sample, own in gathered.items()}


def change(after: Floats, before: Floats) -> Floats:
    """``after`` − ``before``, sample by sample (n,), NaN where either is missing."""
    return np.asarray(after - before)
