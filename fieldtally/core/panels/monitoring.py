"""Looking while a panel runs, only where that was planned: at a few counts of judgements fixed beforehand, each with its own number needed.

Every look takes the same small level, found so that all looks together give a false alarm no more often than planned; the probabilities
are exact, by carrying the binomial from look to look.  Source: Pocock 1977, Biometrika 64:191, for the equal levels; Armitage, McPherson
& Rowe 1969, J. R. Stat. Soc. A 132:235, for the recursion.  p orders the outcomes by the look at which the panel stopped, then by the
count (Fairbanks & Madsen 1982, Biometrika 69:69).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.stats import binom

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.panels.methods import METHODS, MethodName

MOST_LOOKS = 6
HALVINGS = 40


@dataclass(frozen=True)
class PlannedLook:
    """A look after ``n`` judgements, at which ``needed`` right ones (more than ``n``: none suffice) show a difference."""

    n: int
    needed: int


@dataclass(frozen=True)
class Monitored:
    """What the looks found: the count of right answers at each one reached, the number (from 0) of the one that showed a difference (None:
    none), whether it ``can`` still be shown, and p over all looks reached."""

    looks: tuple[PlannedLook, ...]
    right: tuple[int, ...]
    crossed: int | None
    can: bool
    p: float


@lru_cache(maxsize=512)
def planned_looks(method: MethodName, n: int, looks: int, alpha: float = 0.05) -> tuple[PlannedLook, ...]:
    """``looks`` looks, spread evenly over ``n`` judgements, the last at their end.

    >>> [(one.n, one.needed) for one in planned_looks("triangle", 24, 2)]
    [(12, 8), (24, 13)]
    """
    guess = METHODS[method].guess or 0.0
    at = sorted({max(1, round(n * (i + 1) / looks)) for i in range(looks)})
    low, high = 0.0, alpha
    if _false_alarm(at, _needed(at, guess, high), guess) <= alpha:
        low = high
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        if _false_alarm(at, _needed(at, guess, middle), guess) <= alpha:
            low = middle
        else:
            high = middle
    return tuple(PlannedLook(*one) for one in zip(at, _needed(at, guess, low), strict=True))


def chance_to_find(method: MethodName, n: int, looks: int, right: float, alpha: float = 0.05) -> tuple[float, float]:
    """How often a difference is shown at any look where the share ``right`` of answers is right, and how many judgements it takes on
    average."""
    planned = planned_looks(method, n, looks, alpha)
    stops = _stops([one.n for one in planned], [one.needed for one in planned], right)
    found = float(sum(one.sum() for one in stops))
    spent = sum(look.n * float(one.sum()) for look, one in zip(planned, stops, strict=True))
    return found, spent + planned[-1].n * (1 - found)


def looked(method: MethodName, n: int, looks: int, answers: Sequence[bool], alpha: float = 0.05) -> Monitored | None:
    """What the looks found in ``answers`` (right or wrong, in the order in which they were given); None before the first look."""
    planned = planned_looks(method, n, looks, alpha)
    guess = METHODS[method].guess or 0.0
    reached = [one for one in planned if one.n <= len(answers)]
    if not reached:
        return None
    right = tuple(sum(answers[: one.n]) for one in reached)
    crossed = next((i for i, one in enumerate(reached) if right[i] >= one.needed), None)
    last = len(reached) - 1 if crossed is None else crossed
    before = _stops([one.n for one in planned[:last]], [one.needed for one in planned[:last]], guess)
    going = _going([one.n for one in planned[:last]], [one.needed for one in planned[:last]], guess)
    step = planned[last].n - (planned[last - 1].n if last else 0)
    beyond = float(sum(p * binom.sf(right[last] - 1 - k, step, guess) for k, p in enumerate(going)))
    count = sum(answers)
    can = crossed is not None or any(
        count + one.n - len(answers) >= one.needed for one in planned if one.n >= len(answers)
    )
    p = float(sum(one.sum() for one in before)) + beyond
    return Monitored(planned, right, crossed, can, min(1.0, p))


def _needed(at: Sequence[int], guess: float, level: float) -> list[int]:
    return [int((_tail(n, guess) > level).sum()) for n in at]


@lru_cache(maxsize=256)
def _tail(n: int, guess: float) -> Floats:
    """The chance of at least 0, 1, … n right ones."""
    return np.asarray(binom.sf(np.arange(-1, n), n, guess))


def _false_alarm(at: Sequence[int], needed: Sequence[int], guess: float) -> float:
    return float(sum(one.sum() for one in _stops(at, needed, guess)))


def _stops(at: Sequence[int], needed: Sequence[int], right: float) -> list[Floats]:
    """For each look the probabilities of the counts at which a panel stops there."""
    return [stopped for stopped, _ in _carried(at, needed, right)]


def _going(at: Sequence[int], needed: Sequence[int], right: float) -> Floats:
    """The probabilities of the counts of those that have not stopped by the last of these looks."""
    return next((going for _, going in reversed(list(_carried(at, needed, right)))), np.ones(1))


def _carried(at: Sequence[int], needed: Sequence[int], right: float) -> list[tuple[Floats, Floats]]:
    found = []
    going, before = np.ones(1), 0
    for n, least in zip(at, needed, strict=True):
        counts = np.convolve(going, binom.pmf(np.arange(n - before + 1), n - before, right))
        found.append((counts[least:], counts[:least]))
        going, before = counts[:least], n
    return found
