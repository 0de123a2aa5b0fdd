"""How well the gauge repeats: several photos of the same samples, taken anew."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class RepeatError:
    """From ``samples`` with several photos each, ``photos`` in all: the standard deviation of a single value, and how far two photos of one
    thing may differ, 95 times in 100; both in the unit of the values."""

    samples: int
    photos: int
    deviation: float
    within: float


def repeat_error(values: Sequence[Sequence[float]]) -> RepeatError | None:
    """The repeat error from the values of each sample; None where none has two.

    The variance within samples is pooled; two values differ by less than 1.96·√2 of its root in 95 of 100 (Bland & Altman 1996, BMJ
    313:744).

    >>> found = repeat_error([[3, 4], [5, 5], [7]])
    >>> found.samples, found.photos, found.deviation
    (2, 4, 0.5)
    """
    several = [own for own in values if len(own) > 1]
    if not several:
        return None
    squares = sum(sum((v - sum(own) / len(own)) ** 2 for v in own) for own in several)
    photos = sum(len(own) for own in several)
    deviation = math.sqrt(squares / (photos - len(several)))
    return RepeatError(len(several), photos, deviation, 1.96 * math.sqrt(2) * deviation)
