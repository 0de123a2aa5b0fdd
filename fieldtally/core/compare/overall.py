"""The overall test: are the treatments different at all?

Statistic: the between-treatment sum of squares of the block-centred values, Σ (sum over a treatment)² / its samples; in
Latin squares values are centred by rows and columns.  One set of shuffles of all labels serves all columns.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.compare.blocks import centred
from fieldtally.core.compare.plots import PlotShuffles, plot_shuffles
from fieldtally.core.compare.shuffles import Shuffles, shuffles_of
from fieldtally.core.compare.squares import SquareShuffles, double_centred, square_shuffles
from fieldtally.core.compare.structure import Structure

Reference = Shuffles | SquareShuffles | PlotShuffles

TIE = 1e-9
"""Statistics closer than this share of themselves are equal: sums of the same numbers in another order."""


@dataclass(frozen=True)
class Overall:
    """``p`` of the overall test; ``method`` is ``exact`` or ``draws``; ``arrangements`` is how many were looked at."""

    p: float
    method: str
    arrangements: int


def overall_test(values: Floats, labels: Ints, structure: Structure | Ints, rng: np.random.Generator) -> list[Overall]:
    """One :class:`Overall` for each column of ``values`` (n, c), without gaps, for ``labels`` (n,) laid out in
    ``structure`` (or simply inside blocks (n,))."""
    shuffles, z = _reference(values, labels, structure, rng)
    kinds, counts = np.unique(labels, return_counts=True)
    observed = _between(labels[None, :].astype(np.int16), z, kinds, counts)[0]
    floor = observed - TIE * np.maximum(observed, 1e-300)
    scale = TIE * (z**2).sum(axis=0)
    extreme = np.zeros(values.shape[1], dtype=np.int64)
    for chunk in shuffles.chunks():
        extreme += (_between(chunk, z, kinds, counts) >= np.minimum(floor, observed - 1e-3 * scale)).sum(axis=0)
    return [_result(int(b), shuffles) for b in extreme]


def _reference(
    values: Floats, labels: Ints, structure: Structure | Ints, rng: np.random.Generator
) -> tuple[Reference, Floats]:
    """What the layout could have drawn instead, and the values without the levels of blocks, or of rows and columns."""
    if not isinstance(structure, Structure):
        structure = Structure.plain(structure)
    if structure.complete_squares(labels):
        return square_shuffles(labels, structure, rng), double_centred(values, structure)
    if structure.kind == "split":
        return plot_shuffles(labels, structure, rng), centred(values, structure.blocks)
    return shuffles_of(labels, structure.blocks, rng), centred(values, structure.blocks)


def _result(extreme: int, shuffles: Reference) -> Overall:
    p = (extreme + shuffles.extra) / shuffles.total
    return Overall(p, "exact" if shuffles.exact else "draws", shuffles.count)


def _between(chunk: np.ndarray, z: Floats, kinds: Ints, counts: Ints) -> Floats:
    """Between-treatment sums of squares (k, c); the last treatment's sum is what the others leave of nothing."""
    total = np.zeros((len(chunk), z.shape[1]))
    left = np.zeros_like(total)
    for kind, count in zip(kinds[:-1], counts[:-1], strict=True):
        sums = (chunk == kind).astype(np.float64) @ z
        left -= sums
        np.square(sums, out=sums)
        sums /= count
        total += sums
    np.square(left, out=left)
    left /= counts[-1]
    total += left
    return total
