"""The smallest p that a layout can ever give, however large the difference."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cache

import numpy as np

from fieldtally.core.compare.reference import DRAWS, MOST_ENUMERATED
from fieldtally.core.compare.squares import LARGEST_ENUMERATED, square_pair_tests
from fieldtally.core.compare.structure import Structure
from fieldtally.core.design.plan import Plan


def smallest_p(groups: Sequence[tuple[int, int]]) -> float:
    """Smallest two-sided p of a pair test, for ``(n_a, n_b)`` in each block.

    Where both have equal numbers in every block, the arrangement with all labels swapped is as far out as the best one, so
    two of all arrangements count; else one.

    >>> [round(smallest_p([(n, n)]), 4) for n in (2, 3, 4, 5)]
    [0.3333, 0.1, 0.0286, 0.0079]
    >>> smallest_p([(1, 1)] * 5)
    0.0625
    """
    ways = math.prod(math.comb(a + b, a) for a, b in groups)
    if ways > MOST_ENUMERATED:
        return 1 / (DRAWS + 1)
    twins = 2 if all(a == b for a, b in groups) and ways > 1 else 1
    return min(1.0, twins / ways)


def hardest_pair(plan: Plan) -> tuple[int, int, float]:
    """The two treatments (indices) of ``plan`` whose test has the largest smallest p, and that p.

    The layout must be one that can be drawn.
    """
    count = len(plan.treatments)
    if plan.layout.kind == "latin":
        # Every pair of a square has the same chances.
        return 0, 1, _in_squares(plan)
    found = [(i, j, smallest_p(_groups(plan, i, j))) for i in range(count) for j in range(i + 1, count)]
    return max(found, key=lambda pair: pair[2])


def _groups(plan: Plan, i: int, j: int) -> list[tuple[int, int]]:
    """The numbers of samples, or of whole plots, of two treatments that change places with each other."""
    a, b = plan.treatments[i], plan.treatments[j]
    hard, layout = plan.hard_factor, plan.layout
    if layout.kind == "pairs":
        return [(1, 1)] * a.samples
    if layout.kind != "split" or hard is None:
        return [(a.samples, b.samples)] * plan.block_count
    if a.levels.get(hard.key) == b.levels.get(hard.key):
        return [(a.samples, b.samples)] * (layout.whole_plots * plan.block_count)
    return [(layout.whole_plots, layout.whole_plots)] * plan.block_count


def _in_squares(plan: Plan) -> float:
    side, squares = len(plan.treatments), plan.treatments[0].samples // len(plan.treatments)
    return square_p(side, squares)


@cache
def square_p(side: int, squares: int) -> float:
    """The p of a perfect result in that many Latin squares: the pair wholly apart, everything else alike."""
    if side > LARGEST_ENUMERATED:
        return 1 / (DRAWS + 1)
    places = np.arange(squares * side * side)
    square, cell = np.divmod(places, side * side)
    row, column = np.divmod(cell, side)
    labels = (row + column) % side
    structure = Structure("latin", square * side + row, columns=square * side + column, squares=square)
    values = np.where(labels == 0, 1.0, np.where(labels == 1, -1.0, 0.0))[:, None]
    return float(square_pair_tests(values, labels, structure, 0, 1, np.random.default_rng(0)).p[0])
