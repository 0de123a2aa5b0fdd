"""The chance that a sample of one treatment beats a sample of another (ties count half), with its interval.

Compared are samples inside the same block only; each comparison counts the same.  The interval is the wider of two: that of Newcombe 2006
(Stat. Med. 25:559, method 5), which holds where one wins always or never, and that of the placements' own spread (Brunner & Munzel 2000,
Biometr. J. 42:17) on the logit, which holds where the spreads differ.

Sources: Vargha & Delaney 2000 (J. Educ. Behav. Stat. 25:101), after Mann & Whitney.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri, stdtrit

from fieldtally.core.compare.arrays import Flags, Floats, Ints
from fieldtally.core.compare.ranks import midranks
from fieldtally.core.compare.stacks import Layout, slices_of

HALVINGS = 40
MANY_BLOCKS, AT_ONCE = 50, 2_000_000


@dataclass(frozen=True)
class Beating:
    """Arrays (e,): the chance (0 to 1) that the first beats the second, and the ends of its interval (NaN: from one sample)."""

    chance: Floats
    low: Floats
    high: Floats


def chance_to_beat(values: Floats, layout: Layout, alpha: float = 0.05, *, intervals: bool = True) -> Beating:
    """The chance that a value of the first treatment is above one of the second, for ``values`` (n, e) in ``layout``.

    >>> found = chance_to_beat(np.array([[3.0], [4.0], [3.0], [2.0]]), ((2, 2),))
    >>> float(found.chance[0])
    0.875
    """
    pairs = sum(a * b for a, b in layout)
    wins, spread, inverse = np.zeros(values.shape[1]), np.zeros(values.shape[1]), np.zeros(values.shape[1])
    for rows, (a, b) in zip(slices_of(layout), layout, strict=True):
        ranks = midranks(values[rows])
        wins += ranks[:a].sum(axis=0) - a * (a + 1) / 2
        if not intervals:
            continue
        weight = a * b / pairs
        for own, n, other in ((slice(0, a), a, b), (slice(a, a + b), b, a)):
            if n < 2:
                continue
            placed = (ranks[own] - midranks(values[rows][own])) / other
            part = weight**2 * placed.var(axis=0, ddof=1) / n
            spread += part
            inverse += part**2 / (n - 1)
    chance = wins / pairs
    nothing = np.full_like(chance, np.nan)
    if not intervals or min(sum(a for a, _ in layout), sum(b for _, b in layout)) < 2:
        return Beating(chance, nothing, nothing)
    low, high = _scored(chance, layout, alpha)
    with np.errstate(divide="ignore", invalid="ignore"):
        freedom = np.where(inverse > 0, spread**2 / inverse, 1.0)
        inside = (chance > 0) & (chance < 1)
        logit = np.log(chance / (1 - chance))
        reach = stdtrit(np.maximum(freedom, 1.0), 1 - alpha / 2) * np.sqrt(spread) / (chance * (1 - chance))
        ends = [1 / (1 + np.exp(-(logit + way * reach))) for way in (-1, 1)]
    return Beating(chance, np.where(inside, np.fmin(low, ends[0]), low), np.where(inside, np.fmax(high, ends[1]), high))


def chances(values: Floats, in_a: Flags, blocks: Ints) -> Floats | None:
    """The chance (c,) that a value of ``in_a`` (u,) is above one of the others inside its block, for ``values`` (u, c), NaN where missing;
    a half where nothing meets.  None where there is too much to hold each against each.

    >>> chances(np.array([[3.0], [np.nan], [4.0], [3.0], [2.0]]), np.array([True, True, True, False, False]), np.zeros(5, int))
    array([0.875])
    """
    kinds = np.unique(blocks)
    members = [
        (np.flatnonzero(in_a & (blocks == one)), np.flatnonzero(~in_a & (blocks == one))) for one in kinds[:MANY_BLOCKS]
    ]
    if len(kinds) > MANY_BLOCKS or max(len(ours) * len(theirs) for ours, theirs in members) * values.shape[1] > AT_ONCE:
        return None
    wins, met = np.zeros(values.shape[1]), np.zeros(values.shape[1])
    for ours, theirs in members:
        one, other = values[ours][:, None, :], values[theirs][None, :, :]
        wins += np.count_nonzero(one > other, axis=(0, 1)) + np.count_nonzero(one == other, axis=(0, 1)) / 2
        met += np.count_nonzero(~np.isnan(one), axis=(0, 1)) * np.count_nonzero(~np.isnan(other), axis=(0, 1))
    return np.where(met > 0, wins / np.maximum(met, 1), 0.5)


def _scored(chance: Floats, layout: Layout, alpha: float) -> tuple[Floats, Floats]:
    """Newcombe's ends: the farthest chances within z standard errors of their own."""
    z, pairs = float(ndtri(1 - alpha / 2)), sum(a * b for a, b in layout)
    # Equal blocks go together: what counts is how many there are.
    kinds = {counts: layout.count(counts) for counts in set(layout)}

    def error(theta: Floats) -> Floats:
        total = np.zeros_like(theta)
        for (a, b), many in kinds.items():
            more = (a + b) / 2 - 1
            own = theta * (1 - theta) * (1 + more * ((1 - theta) / (2 - theta) + theta / (1 + theta))) / (a * b)
            total += many * (a * b / pairs) ** 2 * own
        return np.asarray(np.sqrt(total))

    ends = []
    for limit in (0.0, 1.0):
        inside, outside = chance.copy(), np.full_like(chance, limit)
        for _ in range(HALVINGS):
            middle = (inside + outside) / 2
            held = np.abs(chance - middle) <= z * error(middle)
            inside, outside = np.where(held, middle, inside), np.where(held, outside, middle)
        ends.append(inside)
    return ends[0], ends[1]
