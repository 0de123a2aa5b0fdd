"""From a difference in the head to a share of right answers, and back: Thurstone's d′ for each test.

Sources: Ennis 1993, J. Sens. Stud. 8:353 (triangle, duo-trio, 2- and 3-AFC); Ennis, Ennis, Palen & O'Mahony 1998, J. Sens. Stud.
13:353 (tetrad).
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from scipy.optimize import brentq
from scipy.special import ndtr

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.panels.methods import METHODS, MethodName

LARGEST = 15.0
"""d′ beyond which nobody errs: told as infinite."""
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(300)


def _integral(function: Callable[[Floats], Floats], low: float, high: float) -> float:
    """Gauss–Legendre with 300 nodes: exact to about twelve digits for these smooth bells."""
    half = (high - low) / 2
    return float(half * np.dot(_WEIGHTS, function(half * _NODES + (low + high) / 2)))


def _density(z: Floats) -> Floats:
    return np.asarray(np.exp(-z * z / 2) / math.sqrt(2 * math.pi))


def _triangle(d: float) -> float:
    shift = d * math.sqrt(2 / 3)
    return 2 * _integral(
        lambda z: (ndtr(-z * math.sqrt(3) + shift) + ndtr(-z * math.sqrt(3) - shift)) * _density(z), 0.0, 9.0
    )


def _duo_trio(d: float) -> float:
    one, two = float(ndtr(d / math.sqrt(2))), float(ndtr(d / math.sqrt(6)))
    return 1 - one - two + 2 * one * two


def _two(d: float) -> float:
    return float(ndtr(d / math.sqrt(2)))


def _three(d: float) -> float:
    return _integral(lambda z: ndtr(z) ** 2 * _density(z - d), d - 9.0, d + 9.0)


def _tetrad(d: float) -> float:
    return 1 - 2 * _integral(lambda z: _density(z) * (2 * ndtr(z) * ndtr(z - d) - ndtr(z - d) ** 2), -9.0, 9.0)


FUNCTIONS: dict[MethodName, Callable[[float], float]] = {
    "triangle": _triangle,
    "duo-trio": _duo_trio,
    # Whoever compares X with the first and the second decides by the nearer one, as with a reference.
    "abx": _duo_trio,
    "2-afc": _two,
    "3-afc": _three,
    "tetrad": _tetrad,
}


def share_right(method: MethodName, d: float) -> float:
    """The share of right answers, from the chance of guessing to 1, where the difference is ``d`` (d′ ≥ 0, in standard deviations).

    >>> round(share_right("triangle", 1.0), 4), round(share_right("tetrad", 1.0), 4)
    (0.418, 0.4938)
    """
    return min(1.0, FUNCTIONS[method](d))


def d_prime(method: MethodName, share: float) -> float:
    """The d′ at which that share of answers would be right; 0 at or below chance, infinite where all are.

    >>> round(d_prime("2-afc", 0.7602), 3)
    1.0
    """
    guess = METHODS[method].guess
    if guess is None or share <= guess:
        return 0.0
    if share >= share_right(method, LARGEST):
        return math.inf
    return float(brentq(lambda d: share_right(method, d) - share, 0.0, LARGEST, xtol=1e-10))


def noticers(method: MethodName, share: float) -> float:
    """The share who truly notice, pd = (pc − g)/(1 − g), never below 0.

    >>> round(noticers("triangle", 14 / 24), 3)
    0.375
    """
    guess = METHODS[method].guess or 0.0
    return max(0.0, (share - guess) / (1 - guess))


def share_right_of(method: MethodName, noticing: float) -> float:
    """The share of right answers where ``noticing`` (0–1) of the people truly notice and all others guess."""
    guess = METHODS[method].guess or 0.0
    return guess + noticing * (1 - guess)
