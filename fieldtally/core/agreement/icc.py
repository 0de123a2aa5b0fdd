"""Intraclass correlation ICC(2,1): how much of what differs between single values lies in the things and not in who scored them.

Source: Shrout & Fleiss 1979, Psychological Bulletin 86:420, case 2 (scorers are a sample of all who might score), single value,
absolute agreement.
"""

from __future__ import annotations

from fieldtally.core.compare.arrays import Floats


def icc_2_1(table: Floats) -> float | None:
    """ICC(2,1) of a full ``table`` of values, things × scorers (n, k).  None with fewer than two of either, or where nothing differs.

    >>> import numpy as np
    >>> round(icc_2_1(np.array([[9., 2, 5, 8], [6, 1, 3, 2], [8, 4, 6, 8], [7, 1, 2, 6], [10, 5, 6, 9], [6, 2, 4, 7]])), 2)
    0.29
    """
    n, k = table.shape
    if n < 2 or k < 2:
        return None
    grand = table.mean()
    things = k * ((table.mean(axis=1) - grand) ** 2).sum() / (n - 1)
    scorers = n * ((table.mean(axis=0) - grand) ** 2).sum() / (k - 1)
    rest = ((table - table.mean(axis=1, keepdims=True) - table.mean(axis=0, keepdims=True) + grand) ** 2).sum()
    error = rest / ((n - 1) * (k - 1))
    below = things + (k - 1) * error + k * (scorers - error) / n
    return None if below <= 0 else float((things - error) / below)
