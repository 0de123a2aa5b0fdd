"""Several judgements of one person are not several people.

Where people differ in how well they tell, their own judgements hang together, and the plain binomial is too hopeful for what it says of
people at large.  How much is estimated as the intraclass correlation of a beta-binomial by moments; the test then takes each person's
count as beta-binomial with the mean of guessing.  Sources: Ennis & Bi 1998, J. Sens. Stud. 13:389; Liggett & Delwiche 2005,
J. Sens. Stud. 20:48.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.stats import betabinom

from fieldtally.core.panels.chance import by_chance, total_of
from fieldtally.core.panels.discriminating import Bounds, exact_interval
from fieldtally.core.panels.methods import METHODS, MethodName
from fieldtally.core.panels.psychometric import noticers


@dataclass(frozen=True)
class ByPerson:
    """``correlation`` of one person's judgements (0: as good as different people), ``effective`` number of independent judgements, p by
    person and by the plain binomial, the share who notice with its interval by person, and whether the plain test is ``too_hopeful``: it
    finds at level ``alpha`` what the test by person does not."""

    persons: int
    judgements: int
    correlation: float
    effective: float
    p: float
    plain_p: float
    pd: Bounds
    too_hopeful: bool


def by_person(method: MethodName, counts: Sequence[tuple[int, int]], alpha: float = 0.05) -> ByPerson:
    """What ``(right, judgements)`` of each person tell; at least one judgement in all.

    >>> found = by_person("triangle", [(4, 4), (4, 4), (1, 4), (0, 4), (1, 4), (1, 4)])
    >>> found.correlation > 0.3, found.p > found.plain_p
    (True, True)
    """
    guess = METHODS[method].guess or 0.0
    right = np.array([r for r, _ in counts], dtype=np.float64)
    judged = np.array([n for _, n in counts], dtype=np.float64)
    total, all_right = float(judged.sum()), float(right.sum())
    correlation = _correlation(right, judged)
    plain = float(total_of([by_chance(int(n), guess) for n in judged])[int(all_right) :].sum())
    p = plain
    if correlation > 0:
        weight = (1 - correlation) / correlation
        own = [
            np.asarray(betabinom.pmf(np.arange(int(n) + 1), int(n), guess * weight, (1 - guess) * weight))
            for n in judged
        ]
        p = float(total_of(own)[int(all_right) :].sum())
    inflated = 1 + correlation * (float((judged**2).sum()) / total - 1)
    effective = total / inflated
    share = all_right / total
    low, high = exact_interval(share * effective, effective, alpha)
    return ByPerson(
        persons=len(counts),
        judgements=int(total),
        correlation=correlation,
        effective=effective,
        p=min(1.0, p),
        plain_p=min(1.0, plain),
        pd=Bounds(*(noticers(method, one) for one in (share, low, high))),
        too_hopeful=plain <= alpha < p,
    )


def _correlation(
    right: np.ndarray[tuple[int], np.dtype[np.float64]], judged: np.ndarray[tuple[int], np.dtype[np.float64]]
) -> float:
    """The intraclass correlation by analysis of variance (Fleiss 1981), between 0 and 0.98."""
    persons, total = len(judged), float(judged.sum())
    if persons < 2 or total <= persons:
        return 0.0
    share = right / judged
    mean = float(right.sum()) / total
    between = float((judged * (share - mean) ** 2).sum()) / (persons - 1)
    within = float((judged * share * (1 - share)).sum()) / (total - persons)
    size = (total - float((judged**2).sum()) / total) / (persons - 1)
    spread = between + (size - 1) * within
    return 0.0 if spread <= 0 else float(np.clip((between - within) / spread, 0.0, 0.98))
