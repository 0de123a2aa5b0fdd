"""Drift: whether a scorer's hand moves over the rounds, against the others who score the same samples.

Each round gives the mean of (this scorer − mean of the others) over the samples that both scored.  A trend in these over the rounds
is drift; a level is a steady leaning.  The trend is judged by exchanging the rounds (all orders, or 5,000 drawn).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

ALL_ORDERS_UP_TO = 5_000
FEWEST_ROUNDS = 4


@dataclass(frozen=True)
class Drift:
    """How a scorer stands against the others: ``leaning`` (mean difference) and ``slope`` (change of it from one round to the
    next), both in the unit of the values; ``p`` of the slope, None with fewer than four rounds."""

    leaning: float
    slope: float
    p: float | None


def drift_of(differences: Sequence[float], rng: np.random.Generator) -> Drift | None:
    """The drift in ``differences``, one for each round in order.  None without any.

    >>> drift_of([0.0, 0.1, 0.2, 0.3, 0.4], np.random.default_rng(1)).p
    0.016666666666666666
    """
    if not differences:
        return None
    values = np.asarray(differences, dtype=float)
    rounds = np.arange(len(values)) - (len(values) - 1) / 2
    over = float((rounds**2).sum())
    slope = float((rounds * values).sum() / over) if over else 0.0
    if len(values) < FEWEST_ROUNDS:
        return Drift(float(values.mean()), slope, None)
    if math.factorial(len(values)) <= ALL_ORDERS_UP_TO:
        orders = np.array(list(itertools.permutations(values)))
        reached = np.abs(orders @ rounds) >= abs(slope * over) - 1e-12
        p = float(reached.mean())
    else:
        drawn = rng.permuted(np.tile(values, (ALL_ORDERS_UP_TO, 1)), axis=1)
        p = float((1 + (np.abs(drawn @ rounds) >= abs(slope * over) - 1e-12).sum()) / (1 + ALL_ORDERS_UP_TO))
    return Drift(float(values.mean()), slope, p)
