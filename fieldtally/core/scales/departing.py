"""The straight part of a curve, and where it leaves it: the load at which a thing begins to yield.

The straight part begins with the first three steps and goes on as long as each next response keeps to the line through those before it; its
slope is by least squares, through the origin where a load of 0 means a response of 0 by nature.  A response is off the line where it lies
further from it than a tenth of what the line says (or of what was seen so far, where that is near 0), and than twice the scatter about
it; the curve has left its line where that one and all that follow are off it.  Departure lies between the last step on the line and the
first off it: nobody looked between them.  With fewer than four steps it cannot be told.

The same rule stands in the browser, for a curve that is being typed; ``cases/curves.json`` holds both to it.

A curve may end early, where a piece broke, and steps that were not taken are left out; what is there is judged.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

AWAY, QUARTER = 0.1, 0.25
FEWEST_ON, FEWEST = 3, 4


@dataclass(frozen=True)
class Straight:
    """The straight part: its ``slope`` (response for each unit of step) and ``level`` at step 0, how many steps are ``on`` it, and between
    which steps the curve leaves it (None: it did not).  ``told``: whether there are steps enough to tell."""

    slope: float
    level: float
    on: int
    leaves: tuple[float, float] | None
    told: bool


def straight(
    steps: Sequence[float], responses: Sequence[float | None], *, through_zero: bool = False
) -> Straight | None:
    """The straight part of ``responses`` at the first so many of ``steps``, None where a step was not taken; None with fewer than two (one,
    through the origin).

    >>> straight([1, 2, 3, 4, 5, 6], [2.0, 4.0, 6.0, 8.0, 12.0, 17.0]).leaves
    (4.0, 5.0)
    >>> straight([1, 2, 3, 4], [2.0, 4.0, 6.0, 8.0]).leaves, straight([1, 2, 3], [2.0, 4.0, 9.0]).told
    (None, False)
    """
    taken = [(float(a), float(b)) for a, b in zip(steps, responses, strict=False) if b is not None]
    n = len(taken)
    if n < (1 if through_zero else 2):
        return None
    x, y = [a for a, _ in taken], [b for _, b in taken]
    on = list(range(min(FEWEST_ON, n)))
    leaves = None
    for at in range(len(on), n):
        if not _off(x, y, on, at, through_zero):
            on.append(at)
        elif all(_off(x, y, on, later, through_zero) for later in range(at, n)):
            leaves = (x[on[-1]], x[at])
            break
    slope, level = _line([x[i] for i in on], [y[i] for i in on], through_zero)
    return Straight(slope, level, len(on), leaves if n >= FEWEST else None, n >= FEWEST)


def _line(x: Sequence[float], y: Sequence[float], through_zero: bool) -> tuple[float, float]:
    """Slope and level of the least-squares line."""
    if through_zero:
        return sum(a * b for a, b in zip(x, y, strict=True)) / sum(a * a for a in x), 0.0
    middle, height = sum(x) / len(x), sum(y) / len(y)
    over = sum((a - middle) ** 2 for a in x)
    slope = sum((a - middle) * (b - height) for a, b in zip(x, y, strict=True)) / over
    return slope, height - slope * middle


def _off(x: Sequence[float], y: Sequence[float], on: Sequence[int], at: int, through_zero: bool) -> bool:
    """Whether the response in place ``at`` lies off the line through those in places ``on``."""
    own_x, own_y = [x[i] for i in on], [y[i] for i in on]
    slope, level = _line(own_x, own_y, through_zero)
    says = level + slope * x[at]
    free = max(1, len(on) - (1 if through_zero else 2))
    scatter = math.sqrt(sum((b - level - slope * a) ** 2 for a, b in zip(own_x, own_y, strict=True)) / free)
    seen = max(abs(b) for b in own_y)
    return abs(y[at] - says) > max(AWAY * max(abs(says), QUARTER * seen), 2 * scatter)
