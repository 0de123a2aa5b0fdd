"""What tests without one right answer can find, before anybody tastes.

A share ``noticing`` (0–1) of the people tell truly, all others answer as chance does.  Yes or no is enumerated with Fisher's exact test,
names with the matching distribution; choices of several and ranks take the noncentral chi-square (Patnaik 1949, Biometrika 36:202),
which is good to a few hundredths from a dozen people on.
"""

from __future__ import annotations

from bisect import bisect_left
from functools import lru_cache

import numpy as np
from scipy.special import ndtr
from scipy.stats import binom, chi2, hypergeom, ncx2, norm

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.panels.chance import by_chance, total_of
from fieldtally.core.panels.methods import MethodName
from fieldtally.core.panels.naming import matches

MOST_LISTED = 160
"""Presentations up to which yes or no is enumerated; beyond it the bell, with its correction for whole counts, is as good."""
LADDER = tuple(sorted({round(2 * 1.06**i) for i in range(110)}))
"""Sizes of panels that are tried, each a little larger than the one before: 2 to about 1,150."""


def needed_names(people: int, k: int, alpha: float, *, each_once: bool) -> int:
    """How many of ``people`` × ``k`` names must be right."""
    tail = np.cumsum(total_of([_named(k, each_once)] * people)[::-1])[::-1]
    return int((tail > alpha).sum())


def ability(method: MethodName, n: int, noticing: float, alpha: float, *, things: int, each_once: bool) -> float:
    """How often ``n`` judgements show something at level ``alpha``, where ``noticing`` tell truly."""
    match method:
        case "a-not-a" | "same-different":
            return _yes_no(n, noticing, alpha)
        case "naming":
            return _naming(n, noticing, alpha, things, each_once)
        case "preference" if things == 2:
            return _liking(n, noticing, alpha)
        case "preference":
            share = noticing + (1 - noticing) / things
            other = (1 - share) / (things - 1)
            spread = (share - 1 / things) ** 2 + (things - 1) * (other - 1 / things) ** 2
            return _squares(things - 1, n * things * spread, alpha)
        case _:
            off = noticing * (things - 1) / 2
            spread = off**2 * (1 + 1 / (things - 1))
            return _squares(things - 1, 12 * n / (things * (things + 1)) * spread, alpha)


def enough(
    method: MethodName, noticing: float, alpha: float, wanted: float, *, things: int, each_once: bool
) -> int | None:
    """Judgements from which on something is shown ``wanted`` (0–1) of the time, to about one in twenty; None: no panel is large enough."""
    if noticing <= 0:
        return None

    def does(n: int) -> bool:
        # The next sizes too, since the power saws up and down.
        sizes = (n, n + 1, n + 2)
        return all(ability(method, m, noticing, alpha, things=things, each_once=each_once) >= wanted for m in sizes)

    at = bisect_left(LADDER, True, key=does)
    return LADDER[at] if at < len(LADDER) else None


def apart(method: MethodName, d: float) -> float:
    """The share who notice that goes with a difference ``d`` (d′): how much more often yes is said where it is so, by the best criterion.

    >>> round(apart("a-not-a", 1.0), 3), round(apart("same-different", 1.0), 3)
    (0.383, 0.112)
    """
    if method == "same-different":
        at = np.linspace(0.0, d + 4.0, 400)
        same, differ = (
            2 * (1 - ndtr(at / np.sqrt(2))),
            ndtr((d - at) / np.sqrt(2)) + ndtr((-d - at) / np.sqrt(2)),
        )
        return float((differ - same).max())
    return float(2 * ndtr(d / 2) - 1)


def _squares(freedom: int, centre: float, alpha: float) -> float:
    return float(ncx2.sf(chi2.ppf(1 - alpha, freedom), freedom, max(centre, 1e-12)))


def _named(k: int, each_once: bool) -> Floats:
    return matches(k) if each_once else by_chance(k, 1 / k)


@lru_cache(maxsize=2048)
def _naming(people: int, noticing: float, alpha: float, k: int, each_once: bool) -> float:
    own = (1 - noticing) * _named(k, each_once)
    own[k] += noticing
    return float(total_of([own] * people)[needed_names(people, k, alpha, each_once=each_once) :].sum())


@lru_cache(maxsize=4096)
def _liking(n: int, noticing: float, alpha: float) -> float:
    """Two-sided: the larger side needs so many."""
    least = int((2 * binom.sf(np.arange(-1, n), n, 0.5) > alpha).sum())
    share = 0.5 + noticing / 2
    return float(binom.sf(least - 1, n, share) + binom.cdf(n - least, n, share))


@lru_cache(maxsize=1024)
def _yes_no(n: int, noticing: float, alpha: float) -> float:
    """Half of the presentations are so, half are not; yes is said (1 ± noticing)/2 of the time."""
    so, not_so = -(-n // 2), n // 2
    if not_so < 1:
        return 0.0
    if n > MOST_LISTED:
        spread = np.sqrt(0.25 - noticing**2 / 4)
        return float(ndtr((noticing * np.sqrt(n) / 2 - norm.ppf(1 - alpha) / 2 - 1 / np.sqrt(n)) / spread))
    hits, alarms = np.arange(so + 1)[:, None], np.arange(not_so + 1)[None, :]
    p = hypergeom.sf(hits - 1, so + not_so, so, hits + alarms)
    chance = binom.pmf(hits, so, 0.5 + noticing / 2) * binom.pmf(alarms, not_so, 0.5 - noticing / 2)
    return float(chance[p <= alpha].sum())
