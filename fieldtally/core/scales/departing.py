"""Where a curve leaves its straight line: the load at which a thing begins to yield.

The line goes from the first steps (a third of them, three at least), by least squares.  The curve has left it at the first step from which
on every response lies further from the line than a tenth of what the line says (and than twice the scatter about it); the step itself is
interpolated between that one and the one before.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

AWAY = 0.1
FEWEST = 3


def departure(steps: Sequence[float], responses: Sequence[float]) -> float | None:
    """The step (in its own unit) at which ``responses`` leave their first straight line; None while they keep to it, or cannot tell.

    >>> departure([1, 2, 3, 4, 5, 6], [2.0, 4.0, 6.0, 8.0, 12.0, 17.0])
    4.444444444444
    >>> departure([1, 2, 3, 4, 5, 6], [2.0, 4.0, 6.0, 8.0, 10.0, 12.0]) is None
    True
    """
    first = max(FEWEST, len(steps) // 3)
    if len(steps) < first + 1 or len(steps) != len(responses):
        return None
    x, y = np.asarray(steps, dtype=np.float64), np.asarray(responses, dtype=np.float64)
    slope, level = np.polyfit(x[:first], y[:first], 1)
    line = level + slope * x
    scatter = math.sqrt(float(((y - line)[:first] ** 2).sum()) / max(1, first - 2))
    room = np.maximum(AWAY * np.abs(line), 2 * scatter)
    off = np.abs(y - line) - room
    away = off > 0
    if not away[-1]:
        return None
    left = len(away) - 1
    while left > first and away[left - 1]:
        left -= 1
    before = left - 1
    share = -off[before] / (off[left] - off[before]) if off[left] > off[before] and off[before] <= 0 else 1.0
    return round(float(x[before] + share * (x[left] - x[before])), 12)
