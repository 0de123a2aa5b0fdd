"""The chance that a sample of one treatment beats a sample of another (ties count half).

Source: Vargha & Delaney 2000 (J. Educ. Behav. Stat. 25:101), after Mann & Whitney.
"""

from __future__ import annotations

from fieldtally.core.compare.arrays import Floats


def chance_to_beat(a: Floats, b: Floats) -> float:
    """Chance from 0 to 1 that a value of ``a`` (n,) is above one of ``b`` (m,).

    >>> import numpy as np
    >>> chance_to_beat(np.array([3.0, 4.0]), np.array([3.0, 2.0]))
    0.875
    """
    difference = a[:, None] - b[None, :]
    return float(((difference > 0).sum() + 0.5 * (difference == 0).sum()) / difference.size)
