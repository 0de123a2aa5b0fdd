"""Latin squares: the other squares that the layout could have drawn, and the pair test on them.

A square is drawn by shuffling rows, columns and treatments, so these are what is shuffled.  All treatments then move at
once; so that a third treatment's difference neither widens nor narrows the pair's, the residuals of the model in which the
two are alike (rows, columns and treatments, a and b as one) are what is rearranged (Freedman & Lane 1983, J. Bus. Econ.
Stat. 1:292), and the statistic is the difference of the two means over the residual spread of the full model:

    t² = (mean a − mean b)² / (sum of squares left by rows, columns and treatments).

The interval holds the shifts within the same critical value of t.

Where all squares can be counted they are few, and for a single square of four the test on residuals finds chance 7 times in
100 at a level of 5 (measured over 3,000 squares of noise).  There the larger of its p and Student's is taken, and the wider
interval.

Where the pair's own residuals are spread more than those of all, the pooled spread says too little: of two noisy treatments beside quiet
ones
it calls 15 to 26 in 100 different.  There the pair's own spread counts, with a square's k − 1 degrees of freedom, as the larger p and the
wider interval.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache

import numpy as np
from scipy.special import stdtr, stdtrit

from fieldtally.core.compare.arrays import Flags, Floats, Ints, Labels
from fieldtally.core.compare.pairs import TIE, PairTests
from fieldtally.core.compare.reference import DRAWS, MOST_ENUMERATED
from fieldtally.core.compare.shuffles import CELLS_AT_ONCE, Counted
from fieldtally.core.compare.structure import Structure

LARGEST_ENUMERATED = 4


def double_centred(values: Floats, structure: Structure) -> Floats:
    """``values`` (n, c) of complete squares without their row and column levels."""
    assert structure.columns is not None and structure.squares is not None
    out = values.copy()
    for square in np.unique(structure.squares):
        inside = structure.squares == square
        total = values[inside].mean(axis=0)
        for lines in (structure.blocks, structure.columns):
            for line in np.unique(lines[inside]):
                member = inside & (lines == line)
                out[member] -= values[member].mean(axis=0)
        out[inside] += total
    return out


@dataclass(frozen=True)
class SquareShuffles(Counted):
    """``count`` other draws of the squares, handed out in chunks (k, n) of labels; see :class:`.shuffles.Shuffles`."""

    labels: Labels
    cells: tuple[Ints, ...]
    side: int
    exact: bool
    count: int
    rng: np.random.Generator

    def chunks(self) -> Iterator[Labels]:
        """The arrangements, (k, n) at a time."""
        step = max(1, CELLS_AT_ONCE // max(1, len(self.labels)))
        ways = [_orbit(self._square(member), self.side) for member in self.cells] if self.exact else []
        for start in range(0, self.count, step):
            stop = min(start + step, self.count)
            chunk = np.empty((stop - start, len(self.labels)), dtype=np.int16)
            picks = np.unravel_index(np.arange(start, stop), [len(way) for way in ways]) if self.exact else ()
            for i, member in enumerate(self.cells):
                if self.exact:
                    chunk[:, member] = ways[i][picks[i]]
                else:
                    chunk[:, member] = self._drawn(member, stop - start)
            yield chunk

    def _square(self, member: Ints) -> tuple[int, ...]:
        return tuple(self.labels[member].tolist())

    def _drawn(self, member: Ints, k: int) -> Labels:
        side = self.side
        square = self.labels[member].reshape(side, side)
        rows, columns, names = (
            self.rng.permuted(np.broadcast_to(np.arange(side), (k, side)), axis=1) for _ in range(3)
        )
        kinds, places = np.unique(square, return_inverse=True)
        moved = places.reshape(side, side)[rows[:, :, None], columns[:, None, :]]
        renamed = np.take_along_axis(names, moved.reshape(k, -1), axis=1)
        return np.asarray(kinds[renamed], dtype=np.int16)


@cache
def _orbit(square: tuple[int, ...], side: int) -> Labels:
    """Every distinct square (k, side²) that rows, columns and names of ``square`` in other orders make."""
    kinds, places = np.unique(np.array(square), return_inverse=True)
    base = places.reshape(side, side)
    orders = [np.array(order) for order in itertools.permutations(range(side))]
    moved = np.array([base[np.ix_(rows, columns)].ravel() for rows in orders for columns in orders])
    moved = np.unique(moved, axis=0)
    return np.asarray(np.unique(np.concatenate([kinds[order[moved]] for order in orders]), axis=0), dtype=np.int16)


def square_shuffles(
    labels: Ints, structure: Structure, rng: np.random.Generator, *, draws: int = DRAWS
) -> SquareShuffles:
    """The reference set for ``labels`` (n,) on complete squares: all of it if at most 50,000 arrangements, else ``draws``."""
    assert structure.columns is not None and structure.squares is not None
    side = len(np.unique(labels))
    order = np.lexsort((structure.columns, structure.blocks, structure.squares))
    cells = tuple(order[structure.squares[order] == square] for square in np.unique(structure.squares))
    small = labels.astype(np.int16)
    if side <= LARGEST_ENUMERATED:
        ways = math.prod(len(_orbit(tuple(small[member].tolist()), side)) for member in cells)
        if ways <= MOST_ENUMERATED:
            return SquareShuffles(small, cells, side, True, ways, rng)
    return SquareShuffles(small, cells, side, False, draws, rng)


def square_pair_tests(
    values: Floats,
    labels: Ints,
    structure: Structure,
    a: int,
    b: int,
    rng: np.random.Generator,
    *,
    alpha: float = 0.05,
    draws: int = DRAWS,
) -> PairTests:
    """Compare treatments ``a`` and ``b`` on complete squares, for each column of ``values`` (n, c)."""
    shuffles = square_shuffles(labels, structure, rng, draws=draws)
    kinds = np.unique(labels)
    each = len(labels) // len(kinds)
    z = double_centred(values, structure)
    both = (labels == a) | (labels == b)
    difference = z[labels == a].mean(axis=0) - z[labels == b].mean(axis=0)
    for kind in kinds:
        member = both if kind in (a, b) else labels == kind
        if kind != b:
            z[member] -= z[member].mean(axis=0)
    size = (z**2).sum(axis=0)
    seen = _squared(shuffles.labels[None, :], z, kinds, each, size, a, b)
    flat = seen[1][0] <= TIE * np.maximum(size, 1e-300)
    extreme = np.zeros(values.shape[1], dtype=np.int64)
    ratios = []
    for chunk in shuffles.chunks():
        gap, left = _squared(chunk, z, kinds, each, size, a, b)
        out = gap * seen[1][0] >= seen[0][0] * left * (1 - TIE) - TIE * size**2 * 1e-6
        still = left <= TIE * np.maximum(size, 1e-300)
        out[:, flat] = still[:, flat] & (gap[:, flat] >= seen[0][0][flat] * (1 - TIE))
        extreme += out.sum(axis=0)
        with np.errstate(divide="ignore", invalid="ignore"):
            ratios.append(np.sqrt(np.where(still, np.where(gap > 0, np.inf, 0.0), gap / np.where(still, 1.0, left))))
    p = (extreme + shuffles.extra) / shuffles.total
    with np.errstate(invalid="ignore"):
        # Without any spread there is nothing to bound a difference by.
        half = _critical(np.concatenate(ratios), shuffles, alpha) * np.sqrt(np.where(flat, 0.0, seen[1][0]))
    half = np.where(np.isnan(half), np.inf, half)
    own = _own_residuals(values, labels, structure, kinds, both)
    larger, reach, instead = _students(shuffles, seen, own, own_spread(labels, structure, a, b), each, alpha)
    p, half = np.maximum(p, larger), np.maximum(half, reach)
    difference = np.where(np.abs(difference) <= TIE * np.sqrt(size / len(labels)), 0.0, difference)
    many = np.full(values.shape[1], shuffles.count)
    exact = np.full(values.shape[1], shuffles.exact)
    way = np.sign(difference).astype(np.int64)
    freedom = len(shuffles.cells) * (len(kinds) - 1) ** 2 - (len(kinds) - 1)
    with np.errstate(divide="ignore", invalid="ignore"):
        effect = difference / np.sqrt(seen[1][0] / freedom)
    by_student = instead & (larger >= p)
    return PairTests(difference, difference - half, difference + half, p, way, exact, many, by_student, effect)


def _own_residuals(values: Floats, labels: Ints, structure: Structure, kinds: Ints, both: Flags) -> Floats:
    """The squares (c,) that rows, columns and treatments leave of the samples ``both`` (n,) of a pair."""
    z = double_centred(values, structure)
    for kind in kinds:
        z[labels == kind] -= z[labels == kind].mean(axis=0)
    return np.asarray((z[both] ** 2).sum(axis=0))


def own_spread(labels: Ints, structure: Structure, a: int, b: int) -> tuple[float, float]:
    """What the squares of a pair's own residuals are divided by to be its variance, were they all its own, and its degrees of freedom
    (Satterthwaite 1946, Biometr. Bull. 2:110).

    >>> side = np.arange(16)
    >>> square = Structure("latin", side // 4, columns=side % 4, squares=side * 0)
    >>> [round(one, 2) for one in own_spread((side // 4 + side % 4) % 4, square, 0, 1)]
    [2.0, 3.37]
    """
    assert structure.columns is not None and structure.squares is not None
    at = np.flatnonzero((labels == a) | (labels == b))
    side = len(np.unique(labels))
    alike = [part[at][:, None] == part[at] for part in (structure.blocks, structure.columns, structure.squares, labels)]
    rows, columns, squares, treatments = (one.astype(np.float64) for one in alike)
    left = np.eye(len(at)) - rows / side - columns / side + squares / side**2 + 1 / len(labels)
    left -= treatments / (len(labels) / side)
    twice = left @ left
    kept = float(np.trace(twice))
    return kept, kept**2 / float((twice**2).sum())


def _students(
    shuffles: SquareShuffles,
    seen: tuple[Floats, Floats],
    own: Floats,
    kept: tuple[float, float],
    each: int,
    alpha: float,
) -> tuple[Floats, Floats, Flags]:
    """p and half intervals (c,) that must not be undercut, and where (c,) they come from the pair's own spread."""
    squares = len(shuffles.cells)
    side = each // squares
    freedom = squares * (side - 1) ** 2 - (side - 1)
    pooled = seen[1][0] / freedom
    of_own = own / kept[0]
    instead = of_own > pooled * (1 + TIE)
    free = np.where(instead, kept[1], freedom)
    error = np.sqrt(np.where(instead, of_own, pooled) * 2 / each)
    with np.errstate(divide="ignore", invalid="ignore"):
        t = np.where(error > 0, np.sqrt(seen[0][0]) / error, np.inf)
    p = np.where(seen[0][0] > 0, 2 * stdtr(free, -t), 1.0)
    counts = instead | shuffles.exact
    reach = stdtrit(free, 1 - alpha / 2) * error
    return np.where(counts, p, 0.0), np.where(counts, reach, 0.0), instead


def _squared(chunk: Labels, z: Floats, kinds: Ints, each: int, size: Floats, a: int, b: int) -> tuple[Floats, Floats]:
    """The squared difference (k, c) of the means of ``a`` and ``b``, and the squares (k, c) that the full model leaves."""
    left = np.broadcast_to(size, (len(chunk), z.shape[1])).copy()
    means = {}
    for kind in kinds.tolist():
        total = (chunk == kind).astype(np.float64) @ z
        left -= total**2 / each
        if kind in (a, b):
            means[kind] = total / each
    return (means[a] - means[b]) ** 2, np.maximum(left, 0.0)


def _critical(ratios: Floats, shuffles: SquareShuffles, alpha: float) -> Floats:
    """The largest t (c,) that the test does not reject at ``alpha``; infinite where it rejects none."""
    k = math.floor(alpha * shuffles.total + TIE) - shuffles.extra
    if k < 1:
        return np.full(ratios.shape[1], np.inf)
    return np.asarray(np.partition(ratios, len(ratios) - 1 - k, axis=0)[len(ratios) - 1 - k])
