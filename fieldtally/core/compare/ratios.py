"""How many times as much: the ratio of two treatments' means, and the ratios that their own pair test would not contradict.

Under a ratio ρ the samples of the first, divided by ρ, are like those of the second; each ρ of a grid is tested so, all of them on the same
arrangements, and the interval reaches from the smallest to the largest that is not rejected.  Sound for counts, rates and stiffness, where
zero means none.

Source: the test inverted as in :mod:`.pairs` (Garthwaite 1996, Biometrics 52:1387); start of the grid by the delta method.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.compare.pairs import one_pair
from fieldtally.core.compare.squares import square_pair_tests
from fieldtally.core.compare.structure import Structure, units_of

STEPS = 61
REACH = 5.0
"""Standard errors on either side of the ratio that are looked at."""


@dataclass(frozen=True)
class TimesAsMuch:
    """``a`` over ``b`` (names); an end is None where the layout cannot bound it."""

    a: str
    b: str
    ratio: float
    low: float | None
    high: float | None


def ratio_of(
    values: Floats,
    labels: Ints,
    structure: Structure,
    pair: tuple[int, int],
    names: tuple[str, str],
    rng: np.random.Generator,
    alpha: float = 0.05,
) -> TimesAsMuch | None:
    """The ratio of the means of the two labels in ``pair`` over all ``values`` (n,), NaN where missing; None unless both are above zero."""
    kept = ~np.isnan(values)
    values, labels, structure = values[kept], labels[kept], structure.kept(kept)
    a, b = pair
    ours, theirs = values[labels == a], values[labels == b]
    if not len(ours) or not len(theirs) or ours.mean() <= 0 or theirs.mean() <= 0 or values.min() < 0:
        return None
    found = math.log(float(ours.mean() / theirs.mean()))
    error = math.sqrt(_relative(ours) + _relative(theirs))
    if error == 0:
        return TimesAsMuch(*names, math.exp(found), None, None)
    tried = found + np.linspace(-REACH, REACH, STEPS) * error
    columns = np.repeat(values[:, None], STEPS, axis=1)
    columns[labels == a] /= np.exp(tried)
    if structure.complete_squares(labels):
        p = square_pair_tests(columns, labels, structure, a, b, rng, alpha=alpha).p
    else:
        units = units_of(structure, columns, labels, a, b)
        p = one_pair(units.values, units.in_a, units.blocks, rng, alpha=alpha, intervals=False).p
    return TimesAsMuch(*names, math.exp(found), *_ends(tried, p, alpha))


def _relative(own: Floats) -> float:
    """The squared standard error of a mean's logarithm."""
    return float(own.var(ddof=1) / len(own) / own.mean() ** 2) if len(own) > 1 else 0.0


def _ends(tried: Floats, p: Floats, alpha: float) -> tuple[float | None, float | None]:
    held = np.flatnonzero(p > alpha)
    if not len(held):
        return None, None
    first, last = int(held[0]), int(held[-1])

    def between(inside: int, outside: int) -> float:
        share = (p[inside] - alpha) / max(p[inside] - p[outside], 1e-12)
        return float(np.exp(tried[inside] + share * (tried[outside] - tried[inside])))

    low = None if first == 0 else between(first, first - 1)
    high = None if last == len(tried) - 1 else between(last, last + 1)
    return low, high
