"""Ranks and grades of several things by the same people: Friedman's test, then pairs.

The distribution is that of each person's ranks put in any order: all of them where there are at most 50,000, else 20,000 draws.  Pairs
exchange the two ranks of each person, and are adjusted by Holm.  Sources: Friedman 1937, J. Am. Stat. Assoc. 32:675; ISO 8587:2006.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.stats import rankdata

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.compare.holm import holm
from fieldtally.core.problems import Refused

MOST_LISTED = 50_000
DRAWS = 20_000
CLOSE = 1e-9


@dataclass(frozen=True)
class RankedPair:
    """Two things (numbers): how many more people put the first before the second than the other way, mean difference of ranks (negative:
    the first is in front), and p by itself and adjusted."""

    a: int
    b: int
    ahead: int
    difference: float
    p: float
    p_adjusted: float


@dataclass(frozen=True)
class Ranked:
    """Mean ranks (1 in front), Friedman's statistic, its p and how it came about, Kendall's W (0 to 1), and the pairs."""

    people: int
    means: tuple[float, ...]
    statistic: float
    p: float
    exact: bool
    agreement: float
    pairs: tuple[RankedPair, ...]


def ranked(rows: Sequence[Sequence[float]], rng: np.random.Generator) -> Ranked:
    """What ``rows`` tell: for each person the rank, or a grade turned round, of each of k things (small is in front).

    :raises Refused: fewer than two people or things, or rows of different length.
    """
    k = len(rows[0]) if rows else 0
    if len(rows) < 2 or k < 2:
        raise Refused("A ranking needs at least two people and two things.", "n")
    if any(len(row) != k for row in rows):
        raise Refused("Everybody ranks all of them.", "answers")
    ranks = np.vstack([rankdata(row) for row in rows]).astype(np.float64)
    statistic = _statistic(ranks)
    reference, exact = _reference(ranks, rng)
    beyond = int((reference >= statistic - CLOSE).sum())
    p = beyond / len(reference) if exact else (beyond + 1) / (len(reference) + 1)
    most = len(rows) * (k - 1)
    pairs = _pairs(ranks, rng)
    return Ranked(
        people=len(rows),
        means=tuple(float(one) for one in ranks.mean(axis=0)),
        statistic=statistic,
        p=p,
        exact=exact,
        agreement=statistic / most,
        pairs=pairs,
    )


def _statistic(ranks: Floats) -> float:
    """Friedman's chi-square, with ties."""
    n, k = ranks.shape
    sums = ranks.sum(axis=0)
    spread = float(((ranks - (k + 1) / 2) ** 2).sum()) / (k - 1)
    return 0.0 if spread <= 0 else float(((sums - n * (k + 1) / 2) ** 2).sum()) / spread


def _reference(ranks: Floats, rng: np.random.Generator) -> tuple[Floats, bool]:
    n, k = ranks.shape
    spread = float(((ranks - (k + 1) / 2) ** 2).sum()) / (k - 1)
    if spread <= 0:
        return np.zeros(1), True
    centre = n * (k + 1) / 2
    # Turning all people's labels together changes nothing, so that the first may stand as they are.
    if math.factorial(k) ** (n - 1) <= MOST_LISTED:
        own = [[np.array(order) for order in itertools.permutations(row)] for row in ranks[1:]]
        sums = [ranks[0] + sum(chosen, np.zeros(k)) for chosen in itertools.product(*own)]
        return ((np.array(sums) - centre) ** 2).sum(axis=1) / spread, True
    drawn = np.zeros((DRAWS, k))
    for row in ranks:
        drawn += rng.permuted(np.tile(row, (DRAWS, 1)), axis=1)
    return np.asarray(((drawn - centre) ** 2).sum(axis=1) / spread), False


def _pairs(ranks: Floats, rng: np.random.Generator) -> tuple[RankedPair, ...]:
    found = []
    for a, b in itertools.combinations(range(ranks.shape[1]), 2):
        differences = ranks[:, a] - ranks[:, b]
        ahead = int((differences < 0).sum()) - int((differences > 0).sum())
        found.append((a, b, ahead, float(differences.mean()), sign_flip_p(differences, rng)))
    adjusted = holm([one[4] for one in found])
    return tuple(RankedPair(*one, float(p)) for one, p in zip(found, adjusted, strict=True))


def sign_flip_p(differences: Floats, rng: np.random.Generator) -> float:
    """p of a sum of differences where each may have either sign."""
    moved = differences[np.abs(differences) > CLOSE]
    if not len(moved):
        return 1.0
    seen = abs(float(moved.sum()))
    if 2 ** len(moved) <= MOST_LISTED:
        signs = np.array(list(itertools.product((1.0, -1.0), repeat=len(moved))))
        return float((np.abs(signs @ moved) >= seen - CLOSE).mean())
    signs = rng.choice((1.0, -1.0), size=(DRAWS, len(moved)))
    return float(((np.abs(signs @ moved) >= seen - CLOSE).sum() + 1) / (DRAWS + 1))
