"""Who is ready to score: shown against guessing and against being too far off, however often it is tried.

Two pieces of evidence grow from set to set, and all sets count, also bad ones.

*Against guessing*: whoever answers without looking (by chance, always the same, or leaning) would do as well had the true values of a set
been dealt in another order.  Of each set the p of that (by permutation) becomes a bet, 0.5 p^-0.5, which by chance pays back 1 on average.

*Against being too far off*: how far off an answer is, in parts of what is allowed there, is bet to be less than 1 (Waudby-Smith & Ramdas
2024, J. R. Stat. Soc. B 86:1, for bounded means by betting).

The bets of all sets multiply.  Whoever learns is not held to their first sets for ever: the bets may begin at any set, with weights that
sum to 1.  Such evidence exceeds 1/α at any time at most a share α of the time (Ville 1939), so that trying again and again does not help.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats

GUESSES, TOO_FAR = 0.02, 0.05
"""Who guesses is called ready at most so often, ever; so is who is farther off than allowed."""
DRAWS = 2_000
FARTHEST = 3.0
"""An answer counts as at most so many times as far off as allowed."""
STAKES = (0.1, 0.2, 0.3, 0.45)
CLOSE = 1e-9


@dataclass(frozen=True)
class Evidence:
    """How much speaks against guessing and against being too far off, after the last set; 1 is nothing."""

    guessing: float
    far: float

    @property
    def enough(self) -> bool:
        """Whether both are shown."""
        return self.guessing >= 1 / GUESSES and self.far >= 1 / TOO_FAR


def guessing_p(truths: Floats, given: Floats, rng: np.random.Generator) -> float:
    """How often the same answers would be no farther off, were the true values of the set in another order.

    >>> rng = np.random.default_rng(1)
    >>> guessing_p(np.arange(6.0), np.full(6, 2.0), rng)
    1.0
    """
    seen = float(np.abs(given - truths).sum())
    drawn = np.abs(given - rng.permuted(np.tile(truths, (DRAWS, 1)), axis=1)).sum(axis=1)
    return (int((drawn <= seen + CLOSE).sum()) + 1) / (DRAWS + 1)


def evidence_of(sets: Sequence[tuple[Floats, Floats, Floats]], rng: np.random.Generator) -> Evidence:
    """What the finished ``sets`` show: of each the true values, what was given, and how far off is allowed at each (all in the scale's
    unit, of one length)."""
    against, near = [], []
    for truths, given, allowed in sets:
        against.append(0.5 / np.sqrt(guessing_p(truths, given, rng)))
        off = np.minimum(np.abs(given - truths) / allowed, FARTHEST)
        near.append([float(np.prod(1 + stake * (1 - off))) for stake in STAKES])
    return Evidence(
        _from_any_start(np.array(against)),
        float(np.mean([_from_any_start(np.array(own)) for own in zip(*near, strict=True)])) if near else 1.0,
    )


def _from_any_start(bets: Floats) -> float:
    """The product of ``bets`` from each set on, weighed: the later the start, the less it counts.  What is not weighed stays as it was."""
    if not len(bets):
        return 1.0
    starts = np.arange(1, len(bets) + 1)
    weights = 1 / (starts * (starts + 1))
    products = np.cumprod(bets[::-1])[::-1]
    return float((weights * products).sum() + 1 - weights.sum())
