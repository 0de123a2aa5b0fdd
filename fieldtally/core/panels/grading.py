"""Attributes graded in the booth: for each thing its mean grade, Friedman's test over the people, then pairs.

Grades of one person for one thing are averaged first, so that several sets of one person are not several people.
"""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.stats import t

from fieldtally.core.compare.holm import holm
from fieldtally.core.panels.discriminating import Bounds
from fieldtally.core.panels.ranking import ranked, sign_flip_p
from fieldtally.core.panels.serving import LETTERS

MOST_STEPS = 100


@dataclass(frozen=True)
class PanelAttribute:
    """Something graded for each cup, in whole steps from 0, which means ``low``, to ``steps``, which means ``high``."""

    name: str
    low: str = "none"
    high: str = "very much"
    steps: int = 10


@dataclass(frozen=True)
class GradedPair:
    """Two things (numbers): the mean difference of their grades (a − b, in steps) with its interval, and p by itself and adjusted."""

    a: int
    b: int
    difference: Bounds
    p: float
    p_adjusted: float


@dataclass(frozen=True)
class GradedAttribute:
    """One attribute: mean grade of each thing (None: not graded), how many people graded all of them, Friedman's p, and the pairs, whose
    p comes from exchanging the two grades of each person."""

    attribute: PanelAttribute
    people: int
    means: tuple[float | None, ...]
    p: float
    pairs: tuple[GradedPair, ...]


def graded(
    attribute: PanelAttribute,
    given: Sequence[tuple[str, str, Sequence[int | None]]],
    things: int,
    rng: np.random.Generator,
    alpha: float = 0.05,
) -> GradedAttribute:
    """What the grades tell; ``given``: person, order of the cups, and the grade of each cup (None: a reference, or none given)."""
    own: dict[str, list[list[float]]] = defaultdict(lambda: [[] for _ in range(things)])
    for person, order, grades in given:
        for letter, grade in zip(order, grades, strict=True):
            if grade is not None:
                own[person][LETTERS.index(letter)].append(float(grade))
    everybody = [[float(np.mean(one)) if one else None for one in person] for person in own.values()]
    columns = [[one for row in everybody if (one := row[i]) is not None] for i in range(things)]
    means = tuple(float(np.mean(column)) if column else None for column in columns)
    rows = np.array([row for row in everybody if None not in row], dtype=np.float64)
    if len(rows) < 2:
        return GradedAttribute(attribute, len(rows), means, 1.0, ())
    pairs = list(itertools.combinations(range(things), 2))
    apart = [rows[:, a] - rows[:, b] for a, b in pairs]
    p = [sign_flip_p(one, rng) for one in apart]
    half = float(t.ppf(1 - alpha / 2, len(rows) - 1)) / np.sqrt(len(rows))
    bounds = [Bounds(m := float(one.mean()), m - (h := half * float(one.std(ddof=1))), m + h) for one in apart]
    return GradedAttribute(
        attribute,
        len(rows),
        means,
        ranked((-rows).tolist(), rng).p,
        tuple(
            GradedPair(a, b, bound, own_p, float(adjusted))
            for (a, b), bound, own_p, adjusted in zip(pairs, bounds, p, holm(p), strict=True)
        ),
    )
