"""Which is which: k jars and k names, against the right null.

Free naming: each jar is named by itself, and chance is right once in k.  Each name once: what a person writes is a permutation, and the
number of right ones follows the matching distribution (Montmort 1708), so that two right of three cannot be.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.panels.chance import by_chance, total_of
from fieldtally.core.problems import Refused


@dataclass(frozen=True)
class Named:
    """``table[i][j]``: how often jar i was called j; right ones of all, what chance gives on average, and the exact one-sided p; for
    each jar the share that named it right, and what it was called most often instead (None: nothing)."""

    table: tuple[tuple[int, ...], ...]
    right: int
    of: int
    by_chance: float
    p: float
    shares: tuple[float, ...]
    mistaken_for: tuple[int | None, ...]


@dataclass(frozen=True)
class FactorRead:
    """Whether one factor of the names was recognised: of ``of`` names as many had the right level as ``right`` says, by chance
    ``by_chance`` on average, and p, by person."""

    name: str
    right: int
    of: int
    by_chance: float
    p: float


def matches(k: int) -> Floats:
    """How often 0, 1, … k things of k come to their own place by chance (k + 1,).

    >>> [round(float(one), 4) for one in matches(3)]
    [0.3333, 0.5, 0.0, 0.1667]
    """
    derangements = [
        round(math.factorial(m) * sum((-1) ** i / math.factorial(i) for i in range(m + 1))) for m in range(k + 1)
    ]
    return np.array([math.comb(k, r) * derangements[k - r] / math.factorial(k) for r in range(k + 1)])


def named(answers: Sequence[Sequence[int]], k: int, *, each_once: bool) -> Named:
    """What the ``answers`` tell: for each person, what they called jar 0, 1, … k − 1 (numbers of names).

    :raises Refused: an answer has another length, names what there is not, or a name twice though each is used once.
    """
    if k < 2:
        raise Refused("At least two are needed to tell which is which.", "n")
    if not answers:
        raise Refused("There are no answers yet.", "n")
    table = np.zeros((k, k), dtype=np.int64)
    for answer in answers:
        if len(answer) != k or any(not 0 <= name < k for name in answer):
            raise Refused(f"Each of the {k} takes one of the {k} names.", "answers")
        if each_once and len(set(answer)) != k:
            raise Refused("Each name is used once.", "answers")
        for jar, name in enumerate(answer):
            table[jar, name] += 1
    right, people = int(np.trace(table)), len(answers)
    own = matches(k) if each_once else by_chance(k, 1 / k)
    tail = float(total_of([own] * people)[right:].sum())
    others = table - np.diag(np.diag(table))
    return Named(
        table=tuple(tuple(int(one) for one in row) for row in table),
        right=right,
        of=people * k,
        by_chance=float(people),
        p=min(1.0, tail),
        shares=tuple(float(table[i, i]) / people for i in range(k)),
        mistaken_for=tuple(int(np.argmax(others[i])) if others[i].max() > 0 else None for i in range(k)),
    )
