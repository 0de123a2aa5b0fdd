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
CELLS = 50_000_000
"""Labels drawn for one comparison at most; only layouts of more than 2,500 samples are drawn fewer times."""
LARGE = 2_000
RARE = 0.1


def arrangements(layout: Layout) -> int:
    """How many distinct arrangements ``layout`` has, the one given among them."""
    ways = 1
    for counts in layout:
        left = sum(counts)
        for count in counts:
            ways *= math.comb(left, count)
            left -= count
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
    if len(counts) == 2 and size > LARGE:
        return _two_drawn(counts[0], size, many, rng)
    kind = np.int8 if len(counts) < 127 else np.int16
    labels = np.repeat(np.arange(len(counts), dtype=kind), counts)
    return np.asarray(rng.permuted(np.broadcast_to(labels, (many, size)), axis=1))


def _two_drawn(first: int, size: int, many: int, rng: np.random.Generator) -> Labels:
    """Draws of two labels for many samples: each by its own coin, then as many turned, at random, as there are too many of one."""
    labels = (rng.integers(0, 65_536, (many, size), dtype=np.uint16) >= round(65_536 * first / size)).view(np.int8)
    surplus = size - labels.sum(axis=1, dtype=np.int64) - first
    while len(rows := np.flatnonzero(surplus)):
        places = rng.integers(size, size=len(rows))
        turn = labels[rows, places] == (surplus[rows] < 0)
        rows, places = rows[turn], places[turn]
        labels[rows, places] = surplus[rows] > 0
        surplus[rows] -= np.sign(surplus[rows])
    return labels


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
