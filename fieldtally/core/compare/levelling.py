"""Series that level off: when nothing more that matters happens, and how fast they got there."""

from __future__ import annotations

import warnings
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import OptimizeWarning, curve_fit

from fieldtally.core.compare.arrays import Floats

FIVE_HUNDREDTHS = float(-np.log(0.05))
FEWEST_FOR_A_FIT = 4


@dataclass(frozen=True)
class Levelled:
    """One treatment: the time of the first look after which all later changes stay below the margin (None: not yet), and of the fit
    a + b(1 − e^(−kt)) its end a + b, and the time at which 95 % of the way is done (None: no fit that can be trusted)."""

    treatment: str
    off_at: float | None
    plateau: float | None
    time_to_95: float | None


def levelled_off(times: Sequence[float], means: Sequence[float | None], margin: float) -> float | None:
    """The first time after which no later mean differs by ``margin`` or more from the one there.

    >>> levelled_off([4, 7, 10, 14], [8.0, 14.0, 17.0, 17.4], 1.0), levelled_off([4, 7], [8.0, 14.0], 1.0)
    (10, None)
    """
    known = [(at, mean) for at, mean in zip(times, means, strict=True) if mean is not None]
    for i, (at, mean) in enumerate(known[:-1]):
        if all(abs(later - mean) < margin for _, later in known[i + 1 :]):
            return at
    return None


def fitted(times: Floats, means: Floats) -> tuple[float, float] | None:
    """The end of the curve a + b(1 − e^(−kt)) through the means and the time to 95 % of its way; None where it does not fit."""
    if len(times) < FEWEST_FOR_A_FIT or np.ptp(means) == 0:
        return None
    span = float(times[-1])
    start = (float(means[0]), float(means[-1] - means[0]), 3.0 / max(span, 1e-9))
    try:
        # On its way a fit tries curves that run beyond all numbers; those fit worst, and are left again.
        with warnings.catch_warnings(), np.errstate(over="ignore", invalid="ignore"):
            warnings.simplefilter("ignore", OptimizeWarning)
            (a, b, k), _ = curve_fit(
                lambda t, a, b, k: a + b * (1 - np.exp(-k * t)), times, means, p0=start, maxfev=4_000
            )
    except (RuntimeError, ValueError):
        return None
    if not k > 0:
        return None
    left = means - (a + b * (1 - np.exp(-k * times)))
    to_95 = FIVE_HUNDREDTHS / k
    # A curve whose end lies far beyond what was watched is a guess.
    if not (0 < to_95 <= span) or float((left**2).sum()) > 0.1 * float(((means - means.mean()) ** 2).sum()):
        return None
    return float(a + b), float(to_95)


def levelling(
    times: Sequence[float], means: Sequence[Sequence[float | None]], treatments: Sequence[str], margin: float | None
) -> list[Levelled]:
    """Each treatment's levelling; ``means[t][l]`` at ``times[l]`` (days); without a ``margin`` only the fit is told."""
    found = []
    for treatment, own in zip(treatments, means, strict=True):
        known = [(at, mean) for at, mean in zip(times, own, strict=True) if mean is not None]
        fit = fitted(np.array([at for at, _ in known]), np.array([mean for _, mean in known])) if known else None
        off = levelled_off(times, own, margin) if margin else None
        found.append(Levelled(treatment, off, fit and fit[0], fit and fit[1]))
    return found
