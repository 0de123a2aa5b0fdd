"""Which is liked better: the share with its interval, and what to do with those who have no preference.

Source: ISO 5495:2005 (two-sided); Wilson 1927 for the share.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from scipy.stats import binomtest

from fieldtally.core.compare.rates import wilson
from fieldtally.core.panels.discriminating import Bounds
from fieldtally.core.problems import Refused

NoPreference = Literal["drop", "split", "third"]
"""Answers without preference are left out, shared between the two, or kept as an answer of their own."""
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


def _two_sided(count: int, of: int) -> float:
    return 1.0 if of == 0 else float(binomtest(count, of, 0.5).pvalue)
