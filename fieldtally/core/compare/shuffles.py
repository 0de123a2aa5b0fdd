"""Shuffles: the other ways in which the layout could have put the labels on the samples.

All distinct arrangements where there are few enough, else seeded draws.  Labels only ever change places inside a block;
a pair is a block of two, so swapping its labels is flipping the sign of its difference.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import reduce
from itertools import combinations

import numpy as np

from fieldtally.core.compare.arrays import Ints, Labels

MOST_ENUMERATED = 50_000
DRAWS = 20_000
CELLS_AT_ONCE = 4_000_000
"""Labels held in memory at once: a chunk of shuffles times the samples."""


def arrangement_count(labels: Ints, blocks: Ints) -> int:
    """The number of distinct arrangements of ``labels`` (n,) inside ``blocks`` (n,), the one given among them."""
    return math.prod(
        reduce(
            lambda ways, left: ways * math.comb(left[0], left[1]),
            _running(np.unique(labels[blocks == block], return_counts=True)[1]),
            1,
        )
        for block in np.unique(blocks)
    )


def _running(counts: Ints) -> Iterator[tuple[int, int]]:
    left = int(counts.sum())
    for count in counts.tolist():
        yield left, count
        left -= count


class Counted:
    """How many arrangements a reference set has, and what a count of extreme ones is held against."""

    exact: bool
    count: int

    @property
    def total(self) -> int:
        """What a count of extreme arrangements is divided by: all of them, or the draws and the observed one."""
        return self.count if self.exact else self.count + 1

    @property
    def extra(self) -> int:
        """The observed arrangement, which draws do not contain."""
        return 0 if self.exact else 1


@dataclass(frozen=True)
class Shuffles(Counted):
    """``count`` arrangements of the labels, handed out in chunks (k, n) by :meth:`chunks`.

    ``exact``: they are all the distinct ones, the observed one among them; else they are draws.
    """

    labels: Labels
    blocks: Ints
    exact: bool
    count: int
    rng: np.random.Generator

    def chunks(self) -> Iterator[Labels]:
        """The arrangements, (k, n) at a time."""
        step = max(1, CELLS_AT_ONCE // max(1, len(self.labels)))
        members = [np.flatnonzero(self.blocks == block) for block in np.unique(self.blocks)]
        if self.exact:
            ways = [_distinct(self.labels[member]) for member in members]
            sizes = [len(way) for way in ways]
        for start in range(0, self.count, step):
            stop = min(start + step, self.count)
            chunk = np.empty((stop - start, len(self.labels)), dtype=np.int16)
            if self.exact:
                picks = np.unravel_index(np.arange(start, stop), sizes)
                for member, way, pick in zip(members, ways, picks, strict=True):
                    chunk[:, member] = way[pick]
            else:
                for member in members:
                    rows = np.broadcast_to(self.labels[member], (stop - start, len(member)))
                    chunk[:, member] = self.rng.permuted(rows, axis=1)
            yield chunk


def shuffles_of(
    labels: Ints, blocks: Ints, rng: np.random.Generator, *, most: int = MOST_ENUMERATED, draws: int = DRAWS
) -> Shuffles:
    """The reference set for ``labels`` (n,) inside ``blocks`` (n,): all arrangements if at most ``most``, else ``draws``."""
    ways = arrangement_count(labels, blocks)
    exact = ways <= most
    return Shuffles(labels.astype(np.int16), blocks, exact, ways if exact else draws, rng)


def _distinct(labels: Labels) -> Labels:
    """Every distinct order of ``labels`` (n,), as rows (k, n)."""
    values, counts = np.unique(labels, return_counts=True)
    rows = np.full((1, len(labels)), values[-1], dtype=np.int16)
    free = [np.arange(len(labels))]
    for value, count in zip(values[:-1], counts[:-1], strict=True):
        new_rows, new_free = [], []
        for row, places in zip(rows, free, strict=True):
            for taken in _choices(len(places), int(count)):
                filled = row.copy()
                filled[places[taken]] = value
                new_rows.append(filled)
                new_free.append(np.delete(places, taken))
        rows, free = np.array(new_rows, dtype=np.int16), new_free
    return rows


def _choices(n: int, k: int) -> Ints:
    return np.array(list(combinations(range(n), k)), dtype=np.int64).reshape(-1, k)
