"""The reference set: the other ways in which the layout could have put the labels on the samples.

All distinct arrangements where a layout has few enough, else seeded draws.  Labels only ever change places inside a block; a pair is a
block of two, so that exchanging its labels is flipping the sign of its difference.  Blocks are drawn one by one, each with random numbers
of its own that depend on nothing but its place and its counts, so that comparisons whose layouts differ in one block share all others:

>>> one, other = ((2, 2), (3, 3)), ((1, 2), (3, 3))
>>> reference = Reference(7)
>>> bool((reference.draws(1, one[1], 20_000) == reference.draws(1, other[1], 20_000)).all())
True

A block that has lost a sample is not drawn anew: in each draw of the full block the lost place is given the lost treatment, by exchanging
labels with a place drawn at random among those that have it, and taken out.  That leaves every arrangement of the rest equally likely.
"""

from __future__ import annotations

import math
from itertools import combinations

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints, Labels
from fieldtally.core.compare.stacks import Counts, Layout

MOST_ENUMERATED = 50_000
DRAWS = 20_000
FEWEST_DRAWS = 1_000
CELLS = 30_000_000
"""Labels drawn for one comparison at most; only layouts of more than 1,500 samples are drawn fewer times."""
MOST_COUNTED = 10**12
LOG_MOST = math.log(MOST_COUNTED)
LARGE = 2_000
RARE = 0.1


def arrangements(layout: Layout) -> int:
    """How many distinct arrangements ``layout`` has, the one given among them; beyond a million million just that many.

    >>> arrangements(((2, 2), (3, 1))), arrangements(((50_000, 50_000),))
    (24, 1000000000000)
    """
    ways = 1
    for counts in layout:
        left = sum(counts)
        for count in counts:
            if math.lgamma(left + 1) - math.lgamma(count + 1) - math.lgamma(left - count + 1) > LOG_MOST:
                return MOST_COUNTED
            ways *= math.comb(left, count)
            left -= count
        if ways >= MOST_COUNTED:
            return MOST_COUNTED
    return ways


def draws_of(samples: int, draws: int = DRAWS) -> int:
    """How many times a comparison of so many samples is drawn."""
    return min(draws, max(FEWEST_DRAWS, CELLS // max(1, samples)))


class Reference:
    """The arrangements of layouts, from one ``seed``; ``most`` of them are enumerated, else ``draws`` are drawn."""

    def __init__(self, seed: int, *, most: int = MOST_ENUMERATED, draws: int = DRAWS) -> None:
        self.seed, self.most, self._draws = seed, most, draws
        self._kept: dict[tuple[int, Counts, int], Labels] = {}

    def exact(self, layout: Layout) -> bool:
        """Whether all arrangements of ``layout`` are looked at."""
        return arrangements(layout) <= self.most

    def count(self, layout: Layout) -> int:
        """How many arrangements of ``layout`` are looked at."""
        ways = arrangements(layout)
        return ways if ways <= self.most else draws_of(sum(map(sum, layout)), self._draws)

    def draws_alike(self, layout: Layout, full: Layout) -> bool:
        """Whether ``layout``, which lacks some samples of ``full``, is drawn too, so that the draws of that serve it."""
        return not self.exact(layout) and not self.exact(full)

    def p(self, extreme: Ints, layout: Layout) -> Floats:
        """p of a number of arrangements as extreme as the one seen, which draws do not contain."""
        many = self.count(layout)
        return np.asarray(extreme / many if self.exact(layout) else (extreme + 1) / (many + 1))

    def draws(self, slot: int, counts: Counts, many: int) -> Labels:
        """``many`` draws (many, m) of the block in place ``slot``."""
        key = (slot, counts, many)
        if key not in self._kept:
            fuller = self._one_more(slot, counts, many)
            rng = np.random.default_rng([self.seed, slot, *counts])
            self._kept[key] = _drawn(counts, many, rng) if fuller is None else _without(*fuller, rng)
        return self._kept[key]

    def _one_more(self, slot: int, counts: Counts, many: int) -> tuple[Labels, int] | None:
        """Draws of the same block with one sample more, where they are there already, and which treatment has it."""
        if len(counts) * 2 >= sum(counts):
            return None
        for t in range(len(counts)):
            more = self._kept.get((slot, tuple(n + (t == i) for i, n in enumerate(counts)), many))
            if more is not None:
                return more, t
        return None

    def forget(self) -> None:
        """Let go of what was drawn."""
        self._kept.clear()


def _drawn(counts: Counts, many: int, rng: np.random.Generator) -> Labels:
    size = sum(counts)
    kind = np.int8 if len(counts) < 127 else np.int16
    if size > LARGE and len(counts) < 127:
        return _coined(np.array(counts), many, rng)
    labels = np.repeat(np.arange(len(counts), dtype=kind), counts)
    return np.asarray(rng.permuted(np.broadcast_to(labels, (many, size)), axis=1))


def _coined(counts: Ints, many: int, rng: np.random.Generator) -> Labels:
    """Draws for many samples: each is given its label by itself, as often as it is wanted; then, at random places, labels of which there
    are too many are exchanged for those of which there are too few.  No place is treated otherwise than another, so all orders are equally
    likely."""
    size = int(counts.sum())
    ends = np.round(256 * np.cumsum(counts) / size).astype(np.int64)
    coins = rng.integers(0, 256, (many, size), dtype=np.uint8)
    if len(counts) == 2 and ends[0] < 256:
        labels = (coins >= ends[0]).view(np.int8)
        second = np.count_nonzero(labels, axis=1)
        surplus = np.stack([size - second, second], axis=1) - counts
    else:
        labels = np.minimum(np.searchsorted(ends, np.arange(256), side="right"), len(counts) - 1).astype(np.int8)[coins]
        surplus = np.stack([np.count_nonzero(labels == t, axis=1) for t in range(len(counts))], axis=1) - counts
    while len(rows := np.flatnonzero(surplus.any(axis=1))):
        places = rng.integers(size, size=len(rows))
        given = labels[rows, places]
        over = surplus[rows, given] > 0
        rows, places, given = rows[over], places[over], given[over]
        lacking = surplus[rows].argmin(axis=1)
        labels[rows, places] = lacking
        surplus[rows, given] -= 1
        surplus[rows, lacking] += 1
    return np.asarray(labels, dtype=np.int8)


def _without(fuller: Labels, lost: int, rng: np.random.Generator) -> Labels:
    """Draws with the last place taken out, and with it one label ``lost``."""
    labels = fuller.copy()
    rows = np.flatnonzero(labels[:, -1] != lost)
    share = float((labels[0] == lost).mean())
    if share < RARE:
        keys = np.where(labels[rows] == lost, rng.random((len(rows), labels.shape[1]), dtype=np.float32), -1.0)
        labels[rows, keys.argmax(axis=1)] = labels[rows, -1]
        return labels[:, :-1]
    while len(rows):
        places = rng.integers(labels.shape[1] - 1, size=len(rows))
        hit = labels[rows, places] == lost
        labels[rows[hit], places[hit]] = labels[rows[hit], -1]
        rows = rows[~hit]
    return labels[:, :-1]


def distinct(counts: Counts) -> Labels:
    """Every distinct order (k, m) of the labels that ``counts`` gives."""
    size = sum(counts)
    rows = np.full((1, size), len(counts) - 1, dtype=np.int16)
    free = np.arange(size)[None, :]
    for label, count in enumerate(counts[:-1]):
        left = free.shape[1]
        if count == 0:
            continue
        taken = np.array(list(combinations(range(left), count)), dtype=np.int64)
        keeps = np.ones((len(taken), left), dtype=np.bool_)
        np.put_along_axis(keeps, taken, False, axis=1)
        rows = np.repeat(rows, len(taken), axis=0)
        places = free[:, taken].reshape(len(rows), count)
        np.put_along_axis(rows, places, label, axis=1)
        free = np.concatenate([one[None, :].repeat(len(taken), axis=0)[keeps].reshape(len(taken), -1) for one in free])
    return rows
