"""Welch's test inside blocks: for a pair whose spreads differ plainly.

Shuffling alone finds chance too often where the side that is spread more has no more samples than the quiet one: 3 against 9 with
spreads 5 to 1 are called different 15 times in 100 at a level of 5, by the studentised statistic too.  Then the larger of its p and this
one's is taken, and the wider interval.

The variance of the difference is that of each side's own residuals (HC2, MacKinnon & White 1985, J. Econom. 29:305), its degrees of
freedom Satterthwaite's with each side's own spread (Bell & McCaffrey 2002, Surv. Methodol. 28:169).  Without blocks both are Welch's
(1947, Biometrika 34:28), with pairs those of the paired t-test.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import stdtr, stdtrit

from fieldtally.core.compare.arrays import Flags, Floats
from fieldtally.core.compare.stacks import Layout, blocks_in, treatments_in

PLAINLY, PLAINLY_UNEVEN = 2.0, 1.5
"""Standard deviations that differ by so many times differ plainly; where the numbers are uneven less does harm already."""
FLAT = 1e-12
MOST_BLOCKS = 200
"""With more blocks than that, degrees of freedom are so many that it does not matter how many."""


@dataclass(frozen=True)
class Welch:
    """Arrays (e,): the standard error of each difference, its degrees of freedom, and whether the spreads differ plainly."""

    error: Floats
    freedom: Floats
    plainly: Flags

    def p(self, difference: Floats) -> Floats:
        """Two-sided p of ``difference`` (e,); 1 where the spreads do not differ plainly."""
        with np.errstate(divide="ignore", invalid="ignore"):
            t = np.abs(difference) / self.error
        return np.where(self.plainly, 2 * stdtr(self.freedom, -t), 0.0)

    def reach(self, alpha: float) -> Floats:
        """Half the width (e,) of the interval; 0 where the spreads do not differ plainly."""
        return np.where(self.plainly, stdtrit(self.freedom, 1 - alpha / 2) * self.error, 0.0)


def welch(z: Floats, layout: Layout) -> Welch:
    """The test of block-centred values ``z`` (n, e) of two treatments in ``layout``."""
    none = np.zeros(z.shape[1])
    first = treatments_in(layout) == 0
    n = first.sum(), (~first).sum()
    if min(n) < 2 or all(sum(counts) == 2 for counts in layout):
        # A block of two tells nothing about whose spread it is.
        return Welch(none, none + 1, none > 0)
    blocks = blocks_in(layout)
    sizes = np.array([sum(counts) for counts in layout], dtype=np.float64)
    share = np.array([counts[0] / sum(counts) for counts in layout])
    x = first - share[blocks]
    apart = float((x**2).sum())
    lever = 1 / sizes[blocks] + x**2 / apart
    left = z - x[:, None] * (x @ z / apart)
    squares = left**2
    own = [squares[side].sum(axis=0) / max(1e-12, float((1 - lever[side]).sum())) for side in (first, ~first)]
    weight = np.where(lever < 1 - 1e-9, x**2 / np.maximum(1 - lever, 1e-9), 0.0) / apart**2
    variance = weight @ squares
    plainly = _plainly(own[0], own[1], (int(n[0]), int(n[1])))
    freedom = _freedom(own[0], own[1], x, lever, weight, layout) if plainly.any() else none + 1
    return Welch(np.sqrt(variance), freedom, plainly & (variance > 0))


def _plainly(a: Floats, b: Floats, n: tuple[int, int]) -> Flags:
    """Whether one side's variance is plainly larger, and that side has no more samples than the other."""
    small = FLAT * np.maximum(a, b)
    times = (PLAINLY if n[0] == n[1] else PLAINLY_UNEVEN) ** 2
    return np.asarray(
        ((n[0] <= n[1]) & (a > times * b) & (a > small)) | ((n[1] <= n[0]) & (b > times * a) & (b > small))
    )


def _freedom(a: Floats, b: Floats, x: Floats, lever: Floats, weight: Floats, layout: Layout) -> Floats:
    """Satterthwaite's degrees of freedom (e,) of the variance that ``weight`` (n,) makes of squared residuals."""
    if len(layout) > MOST_BLOCKS:
        return np.full_like(a, float(len(x) - len(layout) - 1))
    # Samples that are alike in block and side are one cell: residuals are (1 − E G E') of the errors, E telling each one's cell.
    many = np.array([n for counts in layout for n in counts], dtype=np.float64)
    first = np.concatenate([[0], np.cumsum(many)[:-1]]).astype(np.int64)
    at = np.minimum(first, len(x) - 1)
    within = np.repeat(np.arange(len(layout)), 2)
    sizes = np.array([sum(counts) for counts in layout], dtype=np.float64)[within]
    g = (within[:, None] == within) / sizes + np.outer(x[at], x[at]) / float((x**2).sum())
    c = weight[at]
    w = g * c + g * c[:, None] - g @ (g * (many * c)[:, None])
    side = np.arange(len(many)) % 2
    spread = (many[:, None] * many) * w**2
    own = many * (c**2 - 2 * c * np.diag(w))
    trace = many * (c - np.diag(w))
    expected = a * trace[side == 0].sum() + b * trace[side == 1].sum()
    varied = sum(
        one * other * (spread[np.ix_(side == s, side == t)].sum() + (own[side == s].sum() if s == t else 0.0))
        for s, one in ((0, a), (1, b))
        for t, other in ((0, a), (1, b))
    )
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(np.maximum(1.0, np.nan_to_num(expected**2 / varied, nan=1.0, posinf=1.0)))
