"""Right answers counted: the number needed, p, the share who truly notice and d′ with intervals; and the other school, alike enough.

Sources: ISO 4120:2021, ISO 10399:2017, ISO 5495:2005; intervals by Clopper & Pearson 1934, Biometrika 26:404, carried over to pd and d′,
which rise with the share of right answers.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.stats import beta, binom

from fieldtally.core.panels.methods import METHODS, MethodName
from fieldtally.core.panels.psychometric import d_prime, noticers, share_right_of
from fieldtally.core.problems import Refused

MOST_ASSESSORS = 2_000
STEADY = 12
"""How many more assessors the power must hold for, since it saws up and down as each one is added."""


@dataclass(frozen=True)
class Bounds:
    """A value with its interval at the level of the test, ends included."""

    value: float
    low: float
    high: float


@dataclass(frozen=True)
class Discrimination:
    """What ``correct`` of ``n`` right answers tell: ``needed`` right ones for a difference at level ``alpha`` (more than ``n``: with so few
    nothing can be shown), the exact one-sided ``p``, the share of right answers, of people who truly notice, and d′.  Where several answers
    are one person's, all of that is by person, and ``effective`` is how many independent answers they are worth (else None)."""

    method: MethodName
    n: int
    correct: int
    guess: float
    alpha: float
    needed: int
    p: float
    right: Bounds
    pd: Bounds
    dprime: Bounds
    effective: float | None = None

    @property
    def found(self) -> bool:
        """Whether a difference is shown."""
        return self.correct >= self.needed

    def upper_pd(self) -> float:
        """The one-sided upper bound of the share who notice, at the level of the test: for the question whether they are alike."""
        worth = self.effective or self.n
        return noticers(self.method, _upper(self.right.value * worth, worth, self.alpha))

    def lower_pd(self) -> float:
        """The one-sided lower bound: above 0 wherever a difference is shown."""
        worth = self.effective or self.n
        correct = self.right.value * worth
        low = 0.0 if correct <= 0 else float(beta.ppf(self.alpha, correct, worth - correct + 1))
        return noticers(self.method, low)

    def alike(self, limit: float) -> bool:
        """Whether it is shown that fewer than ``limit`` (0–1) notice.  Not having found a difference does not show this."""
        return self.upper_pd() < limit


def _guess(method: MethodName) -> float:
    guess = METHODS[method].guess
    if guess is None:
        raise Refused(f"{METHODS[method].name} has no one right answer to count.", "method")
    return guess


def _upper(correct: float, n: float, alpha: float) -> float:
    return 1.0 if correct >= n else float(beta.ppf(1 - alpha, correct + 1, n - correct))


def exact_interval(correct: float, n: float, alpha: float) -> tuple[float, float]:
    """Clopper and Pearson's interval of a share; the counts may be effective ones, and need not be whole.

    >>> [round(end, 4) for end in exact_interval(14, 24, 0.05)]
    [0.3664, 0.7789]
    """
    low = 0.0 if correct <= 0 else float(beta.ppf(alpha / 2, correct, n - correct + 1))
    return low, _upper(correct, n, alpha / 2)


@lru_cache(maxsize=4096)
def needed(method: MethodName, n: int, alpha: float = 0.05) -> int:
    """The smallest number of right answers of ``n`` that chance gives at most ``alpha`` of the time; ``n`` + 1 where even all are not
    enough.

    >>> needed("triangle", 24), needed("triangle", 2)
    (13, 3)
    """
    guess = _guess(method)
    return int((binom.sf(np.arange(-1, n), n, guess) > alpha).sum())


def most_alike(method: MethodName, n: int, limit: float, alpha: float = 0.05) -> int | None:
    """The largest number of right answers of ``n`` with which fewer than ``limit`` are shown to notice; None where not even none is."""
    counts = np.arange(n)
    below = beta.ppf(1 - alpha, counts + 1, n - counts) < share_right_of(method, limit)
    return int(below.sum()) - 1 if below.any() else None


def discriminate(method: MethodName, n: int, correct: int, alpha: float = 0.05) -> Discrimination:
    """What ``correct`` right answers of ``n`` tell.

    :raises Refused: the numbers cannot be, or the method has no right answer.
    """
    guess = _guess(method)
    if n < 1:
        raise Refused("There are no judgements yet: at least one is needed.", "n")
    if not 0 <= correct <= n:
        raise Refused(f"{correct} right answers of {n} cannot be.", "correct")
    if not 0 < alpha < 1:
        raise Refused("The level lies between 0 and 1.", "alpha")
    low, high = exact_interval(correct, n, alpha)
    share = correct / n
    return Discrimination(
        method=method,
        n=n,
        correct=correct,
        guess=guess,
        alpha=alpha,
        needed=needed(method, n, alpha),
        p=float(binom.sf(correct - 1, n, guess)),
        right=Bounds(share, low, high),
        pd=Bounds(*(noticers(method, one) for one in (share, low, high))),
        dprime=Bounds(*(d_prime(method, one) for one in (share, low, high))),
    )


def power(method: MethodName, n: int, right: float, alpha: float = 0.05) -> float:
    """How often ``n`` judgements find a difference where the share ``right`` of answers is right."""
    return float(binom.sf(needed(method, n, alpha) - 1, n, right))


def power_alike(method: MethodName, n: int, right: float, limit: float, alpha: float = 0.05) -> float:
    """How often ``n`` judgements show that fewer than ``limit`` notice, where the share ``right`` of answers is right."""
    most = most_alike(method, n, limit, alpha)
    return 0.0 if most is None else float(binom.cdf(most, n, right))


def assessors_for(method: MethodName, right: float, alpha: float = 0.05, wanted: float = 0.8) -> int | None:
    """The number of judgements from which on a difference is found at least ``wanted`` of the time; None where no panel is large enough.

    >>> assessors_for("triangle", share_right_of("triangle", 0.5), 0.05, 0.8)
    16
    """
    if right <= _guess(method):
        return None
    return _steady(lambda n: power(method, n, right, alpha) >= wanted)


def assessors_alike(
    method: MethodName, limit: float, truly: float = 0.0, alpha: float = 0.05, wanted: float = 0.8
) -> int | None:
    """The same for showing that fewer than ``limit`` notice, where ``truly`` do."""
    if truly >= limit:
        return None
    right = share_right_of(method, truly)
    return _steady(lambda n: power_alike(method, n, right, limit, alpha) >= wanted)


def _steady(enough: Callable[[int], bool]) -> int | None:
    run = 0
    for n in range(1, MOST_ASSESSORS + 1):
        run = run + 1 if enough(n) else 0
        if run > STEADY:
            return n - STEADY
    return None
