"""The smallest p that a layout can ever give, however large the difference."""

from __future__ import annotations

import math
from collections.abc import Sequence

from fieldtally.core.compare.shuffles import DRAWS, MOST_ENUMERATED
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
    """The two treatments (indices) of ``plan`` whose test has the largest smallest p, and that p."""
    blocks = plan.block_count
    found = [
        (i, j, smallest_p([(plan.treatments[i].samples, plan.treatments[j].samples)] * blocks))
        for i in range(len(plan.treatments))
        for j in range(i + 1, len(plan.treatments))
    ]
    return max(found, key=lambda pair: pair[2])
