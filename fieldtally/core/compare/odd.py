"""Odd readings: pointed out, never removed.

A value is odd where it lies more than 3.5 robust standard deviations (0.6745·|x − median| / MAD; Iglewicz & Hoaglin 1993) from its
peers, the other samples at the same look; or where its step from the sample's own last value is that far from the steps of its peers,
so that a sample that was always low is not called odd for staying so.  Where too few peers tell a usual step, it is held against the
sample's own series, as soon as that has three values; what counts there is at least its largest step so far, so that steady growth is not
odd, and it is none either where another sample took a step like it.  Nothing here knows treatments: peers are all samples of the block,
whatever they were given, and so an odd value tells nothing of its own.  Where they lie in two groups nothing is odd among them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import median
from typing import Literal

import numpy as np

from fieldtally.core.compare.arrays import Flags, Floats, Ints

BEYOND = 3.5
FEWEST_PEERS = 6
SERIES_FROM = 3
"""So many values of its own a sample needs before the next is held against them."""


@dataclass(frozen=True)
class Odd:
    """Why a value is odd: against its ``peers``, the step from its own ``past``, or its own ``series``; ``distance`` in robust standard
    deviations, ``high`` or low."""

    against: Literal["peers", "past", "series"]
    distance: float
    high: bool


def distance_from(value: float, others: Sequence[float], smallest: float) -> float | None:
    """How far ``value`` lies from ``others`` in robust standard deviations, with its sign.  None with fewer than six others.

    ``smallest`` is the least deviation that counts (half a step of the scale, say), so that values that are all alike do not make
    the next best one odd.

    >>> distance_from(30.0, [9.0, 10.0, 10.0, 11.0, 10.5, 9.5], 0.1)
    26.98
    """
    if len(others) < FEWEST_PEERS:
        return None
    middle = median(others)
    spread = max(median(abs(one - middle) for one in others), smallest)
    return 0.6745 * (value - middle) / spread if spread > 0 else None


def one_cluster(values: Sequence[float]) -> bool:
    """Whether ``values`` lie together, and not in two groups: half the block being low is no odd reading.

    Two groups are a quarter of the values each at least (and two), with a gap between them that is wider than either is.

    >>> one_cluster([9.0, 10.0, 10.5, 9.5, 11.0, 30.0]), one_cluster([9.0, 10.0, 9.5, 30.0, 31.0, 30.5])
    (True, False)
    """
    order = sorted(values)
    fewest = max(2, -(-len(order) // 4))
    for low in range(fewest, len(order) - fewest + 1):
        below, above = order[:low], order[low:]
        if above[0] - below[-1] > max(below[-1] - below[0], above[-1] - above[0]):
            return False
    return True


def from_series(value: float, series: Sequence[float], smallest: float) -> float | None:
    """How far ``value`` lies from the sample's own ``series`` so far, in robust standard deviations, with its sign; None with fewer than
    three values.

    >>> from_series(5000.0, [50.0, 52.0, 51.0], 0.5) > 3.5, from_series(8.0, [1.0, 2.0, 4.0], 0.5) > 3.5
    (True, False)
    """
    if len(series) < SERIES_FROM:
        return None
    middle = median(series)
    steps = [abs(after - before) for before, after in pairwise(series)]
    spread = max(median(abs(one - middle) for one in series), *steps, smallest)
    return 0.6745 * (value - middle) / spread if spread > 0 else None


def steps_of_others(sample: str, now: Mapping[str, float], before: Mapping[str, float]) -> list[float]:
    """The steps that the others took from the look ``before``."""
    return [other - before[key] for key, other in now.items() if key != sample and key in before]


def odd_value(
    sample: str,
    value: float,
    now: Mapping[str, float],
    before: Mapping[str, float],
    smallest: float,
    series: Sequence[float] = (),
) -> Odd | None:
    """Whether ``value`` of ``sample`` is odd, given the values of the other samples at this look (``now``), of all at the look
    before, and its own ``series`` so far.

    Where the sample has a past and enough others took one step alike, its step is judged.  Else it is held against its own series, but is
    not odd where another sample took a step like it; and where it has none, against the level of the others.  Among others that lie in
    two groups nothing is odd."""
    peers = {key: other for key, other in now.items() if key != sample}
    steps = steps_of_others(sample, now, before)
    if sample in before:
        own = value - before[sample]
        step = distance_from(own, steps, smallest) if one_cluster([*steps, own]) else None
        if step is not None:
            return Odd("past", abs(step), step > 0) if abs(step) > BEYOND else None
    alone = from_series(value, series, smallest)
    if alone is not None:
        shared = sample in before and _taken_too(value - before[sample], steps)
        return Odd("series", abs(alone), alone > 0) if abs(alone) > BEYOND and not shared else None
    others = list(peers.values())
    level = distance_from(value, others, smallest) if one_cluster([*others, value]) else None
    if level is not None and abs(level) > BEYOND:
        return Odd("peers", abs(level), level > 0)
    return None


def _taken_too(step: float, others: Sequence[float]) -> bool:
    """Whether another took a step at least half as far, to the same side: what befell it befell others too, as a treatment that begins to
    work does.

    >>> _taken_too(0.7, [0.01, 0.02, 0.02]), _taken_too(4.0, [0.1, 3.5, -0.2])
    (False, True)
    """
    return any(one * step > 0 and 2 * abs(one) >= abs(step) for one in others)


def odd_among(values: Floats, labels: Ints) -> Flags:
    """Which of ``values`` (n,) lie more than 3.5 robust standard deviations from the median of their treatment (``labels``), held against
    how far all values lie from theirs.  NaN is never odd; with fewer than seven values, or no spread at all, nothing is.

    >>> values = np.array([9.0, 10.0, 10.5, 30.0, 20.0, 21.0, 20.5, 19.0])
    >>> np.flatnonzero(odd_among(values, np.array([0, 0, 0, 0, 1, 1, 1, 1]))).tolist()
    [3]
    """
    away = np.full(len(values), np.nan)
    for label in np.unique(labels):
        own = labels == label
        if not np.isnan(values[own]).all():
            away[own] = values[own] - np.nanmedian(values[own])
    known = ~np.isnan(away)
    spread = float(np.median(np.abs(away[known]))) if known.sum() > FEWEST_PEERS else 0.0
    if spread <= 0:
        return np.zeros(len(values), dtype=np.bool_)
    return np.asarray(known & (0.6745 * np.abs(np.nan_to_num(away)) / spread > BEYOND))
