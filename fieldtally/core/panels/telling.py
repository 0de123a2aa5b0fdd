"""A or not A, same or different: two kinds of presentation, each answered yes or no.

Source: Macmillan & Creelman 2005, Detection Theory; the variance of d′ after Gourevitch & Galanter 1967, Psychometrika 32:25.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from scipy.stats import fisher_exact, norm

from fieldtally.core.panels.discriminating import Bounds
from fieldtally.core.problems import Refused


@dataclass(frozen=True)
class Told:
    """``hits``: yes where it was so (of ``signals``); ``alarms``: yes where it was not (of ``noises``); Fisher's exact one-sided p that yes
    is said more often where it is so, and d′ = z(H) − z(F) with its interval (None for same or different, which has another geometry)."""

    hits: int
    signals: int
    alarms: int
    noises: int
    p: float
    dprime: Bounds | None


def told_apart(hits: int, signals: int, alarms: int, noises: int, alpha: float = 0.05, *, with_d: bool = True) -> Told:
    """What the answers tell.  Rates of 0 and 1 are drawn in by half an answer (log-linear rule), so that d′ stays finite.

    >>> found = told_apart(16, 20, 6, 20)
    >>> round(found.p, 4), round(found.dprime.value, 2)
    (0.0018, 1.29)

    :raises Refused: the counts cannot be.
    """
    if min(signals, noises) < 1:
        raise Refused("Both kinds must have been presented at least once.", "n")
    if not (0 <= hits <= signals and 0 <= alarms <= noises):
        raise Refused("There are more answers than presentations.", "correct")
    p = float(fisher_exact([[hits, signals - hits], [alarms, noises - alarms]], alternative="greater").pvalue)
    if not with_d:
        return Told(hits, signals, alarms, noises, p, None)
    h, f = (hits + 0.5) / (signals + 1), (alarms + 0.5) / (noises + 1)
    zh, zf = float(norm.ppf(h)), float(norm.ppf(f))
    variance = sum(
        rate * (1 - rate) / (n * float(norm.pdf(z)) ** 2) for rate, z, n in ((h, zh, signals), (f, zf, noises))
    )
    half = float(norm.ppf(1 - alpha / 2)) * math.sqrt(variance)
    return Told(hits, signals, alarms, noises, p, Bounds(zh - zf, zh - zf - half, zh - zf + half))
