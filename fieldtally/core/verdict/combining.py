"""Several trials on the same question taken together: one difference of two treatments, from each trial's own.

Fixed effect: each trial's difference weighted by the inverse of its squared standard error.  Random effects: DerSimonian & Laird 1986
(Control. Clin. Trials 7:177), with the interval of Hartung & Knapp 2001 (Stat. Med. 20:3875), which few trials need; Cochran's Q tells
whether they differ by more than chance, I² how much of what differs is not chance (Higgins & Thompson 2002, Stat. Med. 21:1539).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.stats import chi2, norm, t

from fieldtally.core.problems import Refused
from fieldtally.core.quantities.numbers import honest


@dataclass(frozen=True)
class OneTrial:
    """A trial's own difference and its interval at ``level`` (0.95)."""

    name: str
    difference: float
    low: float
    high: float
    level: float = 0.95

    @property
    def error(self) -> float:
        """The standard error that the interval stands for."""
        return (self.high - self.low) / (2 * float(norm.ppf(0.5 + self.level / 2)))


@dataclass(frozen=True)
class Pooled:
    """A difference over all trials, its interval, and the weight of each trial (shares)."""

    difference: float
    low: float
    high: float
    weights: tuple[float, ...]


@dataclass(frozen=True)
class Combined:
    """Trials together: ``fixed`` and ``random`` effects, Q with its p, I² (0–1), and what they say."""

    trials: tuple[OneTrial, ...]
    fixed: Pooled
    random: Pooled
    q: float
    q_p: float
    i_squared: float
    agree: bool
    says: str


def combined(trials: Sequence[OneTrial], a: str, b: str, unit: str = "", level: float = 0.95) -> Combined:
    """The difference of ``a`` less ``b`` over ``trials`` (two at least, each with an interval that is not a point).

    :raises Refused: fewer than two, or one whose difference has no interval.
    """
    if len(trials) < 2:
        raise Refused("To combine takes two trials at least.", "trials")
    for one in trials:
        if not (math.isfinite(one.low) and math.isfinite(one.high)) or one.error <= 0:
            raise Refused(f"The difference in “{one.name}” has no interval, so it cannot be weighed.", "trials")
    y = np.array([one.difference for one in trials])
    v = np.array([one.error**2 for one in trials])
    out = float(norm.ppf(0.5 + level / 2))
    w = 1 / v
    mean = float((w * y).sum() / w.sum())
    half = out / math.sqrt(float(w.sum()))
    fixed = Pooled(mean, mean - half, mean + half, tuple((w / w.sum()).tolist()))
    q, free = float((w * (y - mean) ** 2).sum()), len(y) - 1
    between = max(0.0, (q - free) / float(w.sum() - (w**2).sum() / w.sum()))
    u = 1 / (v + between)
    centre = float((u * y).sum() / u.sum())
    spread = float((u * (y - centre) ** 2).sum() / (free * u.sum()))
    # Not narrower than it would be if all trials told the same.
    error = math.sqrt(max(spread, 1 / float(u.sum())))
    reach = float(t.ppf(0.5 + level / 2, free)) * error
    random = Pooled(centre, centre - reach, centre + reach, tuple((u / u.sum()).tolist()))
    q_p = float(chi2.sf(q, free))
    i_squared = max(0.0, (q - free) / q) if q > 0 else 0.0
    agree = q_p > 0.1
    return Combined(
        tuple(trials), fixed, random, q, q_p, i_squared, agree, _says(trials, a, b, unit, fixed, random, agree)
    )


def _says(trials: Sequence[OneTrial], a: str, b: str, unit: str, fixed: Pooled, random: Pooled, agree: bool) -> str:
    told = fixed if agree else random
    of = f" {unit}" if unit else ""
    many = len(trials)
    amount = f"{honest(abs(told.difference))}{of}"
    if told.low > 0 or told.high < 0:
        way = "above" if told.difference > 0 else "below"
        first = f"Over {many} trials {a} lies {amount} {way} {b}"
    else:
        first = f"Over {many} trials no difference between {a} and {b} is sure ({honest(told.difference)}{of})"
    between = f" (between {honest(told.low)} and {honest(told.high)})"
    rest = (
        "; the trials agree."
        if agree
        else "; the trials differ by more than chance does, so what it is where you are may be another."
    )
    return first + between + rest
