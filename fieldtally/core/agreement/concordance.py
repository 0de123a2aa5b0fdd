"""Kendall's W: how far several scorers put things into the same order, from 0 (none) to 1 (the same).

Source: Kendall & Babington Smith 1939, Annals of Mathematical Statistics 10:275; corrected for ties.
"""

from __future__ import annotations

import numpy as np
from scipy.stats import rankdata

from fieldtally.core.compare.arrays import Floats


def kendalls_w(table: Floats) -> float | None:
    """W of a full ``table`` of values, things × scorers (n, k).  None with fewer than two of either, or where a whole table is tied.

    >>> import numpy as np
    >>> kendalls_w(np.array([[1., 2, 1], [2, 3, 5], [3, 9, 9]]))
    1.0
    """
    n, k = table.shape
    if n < 2 or k < 2:
        return None
    ranks = np.apply_along_axis(rankdata, 0, table)
    sums = ranks.sum(axis=1)
    spread = ((sums - sums.mean()) ** 2).sum()
    ties = sum(
        float((counts**3 - counts).sum()) for counts in (np.unique(column, return_counts=True)[1] for column in ranks.T)
    )
    most = k**2 * (n**3 - n) - k * ties
    return None if most <= 0 else float(12 * spread / most)
