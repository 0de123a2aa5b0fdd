"""Which is liked better: the share with its interval, and what to do with those who have no preference.

Source: ISO 5495:2005 (two-sided); Wilson 1927 for the share.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.stats import binomtest

from fieldtally.core.compare.rates import wilson
from fieldtally.core.panels.discriminating import Bounds
from fieldtally.core.problems import Refused

NoPreference = Literal["drop", "split", "third"]
"""Answers without preference are left out, shared between the two, or kept as an answer of their own."""
DRAWS = 20_000
RULES: tuple[NoPreference, ...] = ("drop", "split", "third")


@dataclass(frozen=True)
class Preferred:
    """``first`` and ``second`` of those who chose, ``none`` without preference; the share for the first under the ``rule``, of ``of``
    answers, with its interval, and the exact two-sided p.  Under ``third`` the shares are of all answers; p still asks which of the two is
    liked more among those who chose."""

    first: int
    second: int
    none: int
    rule: NoPreference
    of: float
    share: Bounds
    p: float


def preferred(first: int, second: int, none: int, rule: NoPreference, alpha: float = 0.05) -> Preferred:
    """What the choices tell.

    An odd answer that is split goes to the smaller side, which makes the test a little too careful rather than too bold.

    >>> round(preferred(17, 7, 0, "drop").p, 4)
    0.0639

    :raises Refused: there are no answers, or negative ones.
    """
    if min(first, second, none) < 0 or first + second + none == 0:
        raise Refused("There are no answers yet.", "n")
    chose = first + second
    match rule:
        case "drop":
            count, of = float(first), float(chose)
            p = _two_sided(first, chose)
        case "split":
            count, of = first + none / 2, float(chose + none)
            larger = max(first, second) + none // 2
            p = _two_sided(larger, chose + none)
        case "third":
            count, of = float(first), float(chose + none)
            p = _two_sided(first, chose)
    share = count / of if of else 0.5
    low, high = wilson(count, max(1, round(of)), alpha) if of else (0.0, 1.0)
    return Preferred(first, second, none, rule, of, Bounds(share, low, high), p)


@dataclass(frozen=True)
class Favoured:
    """Of several things the one liked best: how often each was, ``none`` without preference, the shares of those who chose, each with its
    interval, and p that all are liked alike."""

    counts: tuple[int, ...]
    none: int
    shares: tuple[Bounds, ...]
    p: float


def favoured(counts: Sequence[int], none: int, rng: np.random.Generator, alpha: float = 0.05) -> Favoured:
    """What choices among several tell; p by chi-square against ``DRAWS`` drawn panels without any preference.

    :raises Refused: there are no answers.
    """
    chose, k = sum(counts), len(counts)
    if chose + none == 0:
        raise Refused("There are no answers yet.", "n")
    shares = tuple(
        Bounds(one / chose if chose else 1 / k, *(wilson(one, chose, alpha) if chose else (0.0, 1.0))) for one in counts
    )
    if not chose:
        return Favoured(tuple(counts), none, shares, 1.0)
    drawn = rng.multinomial(chose, [1 / k] * k, DRAWS)
    beyond = int((((drawn - chose / k) ** 2).sum(axis=1) >= sum((one - chose / k) ** 2 for one in counts) - 1e-9).sum())
    return Favoured(tuple(counts), none, shares, (beyond + 1) / (DRAWS + 1))


def _two_sided(count: int, of: int) -> float:
    return 1.0 if of == 0 else float(binomtest(count, of, 0.5).pvalue)
