"""Simulated trials: a design played through many times under a truth that a person expects.

One treatment is truly better by ``lead`` than all others, which are alike; samples treated alike differ with standard
deviation ``spread``.  Each play draws values on the outcome's own scale, tests them as the verdict will, and applies the
same rule for *clear*.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.stats import rankdata

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.compare.pairs import pair_tests
from fieldtally.core.scales import CountScale, GradeScale, PassFailScale, Scale

NEAREST = 5
PLAYS = 400
FEWEST_PLAYS = 60
FULL_SIZE = 800
"""Designs with more samples than this are played fewer times, so that the answer still comes at once."""
SHUFFLES = 400
ENUMERATED = 1_000


@dataclass(frozen=True)
class Design:
    """Labels (n,) from 0 to ``treatments`` − 1 inside blocks (n,), and the treatment (indices) that may be the best."""

    labels: Ints
    blocks: Ints
    treatments: int
    candidates: tuple[int, ...]

    @classmethod
    def of(cls, samples: tuple[int, ...], blocks: int, candidates: tuple[int, ...]) -> Design:
        """``samples`` of each treatment in each of ``blocks`` blocks."""
        one = np.repeat(np.arange(len(samples)), samples)
        return cls(np.tile(one, blocks), np.repeat(np.arange(blocks), len(one)), len(samples), candidates)


@dataclass(frozen=True)
class Truth:
    """What a person expects: the lead of the best and the spread between samples treated alike, in the scale's unit."""

    scale: Scale
    lead: float
    spread: float
    margin: float | None
    alpha: float


@dataclass(frozen=True)
class Shares:
    """Shares of plays, from 0 to 1: the best one was named, none was, another one was."""

    right: float
    none: float
    wrong: float
    plays: int


def drawn(design: Design, truth: Truth, plays: int, rng: np.random.Generator) -> tuple[Floats, Ints]:
    """Values (n, plays) of that many plays, and the treatment that was truly best in each (plays,)."""
    best = np.array(design.candidates)[np.arange(plays) % len(design.candidates)]
    is_best = design.labels[:, None] == best[None, :]
    shape = (len(design.labels), plays)
    if isinstance(truth.scale, PassFailScale):
        half = min(truth.lead, 1.0) / 2
        return (rng.random(shape) < np.where(is_best, 0.5 + half, 0.5 - half)).astype(np.float64), best
    ends = truth.scale.ends
    middle = 0.0 if ends is None else (ends[0] + ends[1]) / 2
    values = middle + np.where(is_best, truth.lead / 2, -truth.lead / 2) + truth.spread * rng.standard_normal(shape)
    if isinstance(truth.scale, GradeScale):
        levels = np.array([level.value for level in truth.scale.levels])
        values = levels[np.abs(values[:, :, None] - levels).argmin(axis=2)]
    elif isinstance(truth.scale, CountScale):
        values = np.round(values)
    return (values if ends is None else np.clip(values, *ends)), best


def play(design: Design, truth: Truth, rng: np.random.Generator, plays: int = PLAYS) -> Shares:
    """How often the verdict would name the right one, none, or another.

    The leader is tested against its nearest rivals first, and against no more than :data:`NEAREST` of them: rivals farther
    behind have the smaller p.
    """
    plays = max(FEWEST_PLAYS, min(plays, plays * FULL_SIZE // len(design.labels)))
    values, best = drawn(design, truth, plays, rng)
    means = np.stack([values[design.labels == t].mean(axis=0) for t in range(design.treatments)])
    order = np.argsort(-means, axis=0, kind="stable")
    leader = order[0]
    sizes = np.bincount(design.labels, minlength=design.treatments)
    named = np.ones(plays, dtype=np.bool_)
    for rival in order[1 : NEAREST + 1]:
        gap = means[leader, np.arange(plays)] - means[rival, np.arange(plays)]
        named &= (gap >= (truth.margin or 0.0) * (1 - 1e-9)) & (gap > 1e-12)
        ours, theirs = sizes[leader], sizes[rival]
        for a, b in np.unique(np.stack([ours, theirs])[:, named], axis=1).T.tolist():
            plays_alike = np.flatnonzero(named & (ours == a) & (theirs == b))
            p = _pair_p(design, truth, values, plays_alike, leader, rival, rng)
            named[plays_alike] = p <= truth.alpha
    right = float((named & (leader == best)).mean())
    wrong = float((named & (leader != best)).mean())
    return Shares(right, 1 - right - wrong, wrong, plays)


def _pair_p(
    design: Design, truth: Truth, values: Floats, plays: Ints, leader: Ints, rival: Ints, rng: np.random.Generator
) -> Floats:
    """p of leader against rival for ``plays`` in which these have the same numbers of samples: one layout serves all."""
    of = [np.flatnonzero(design.labels == t) for t in range(design.treatments)]
    ours = np.stack([of[t] for t in leader[plays]], axis=1)
    theirs = np.stack([of[t] for t in rival[plays]], axis=1)
    rows = np.concatenate([ours, theirs])
    tested = values[rows, plays[None, :]]
    if isinstance(truth.scale, GradeScale):
        tested = rankdata(tested, axis=0)
    in_a = np.arange(len(rows)) < len(ours)
    return pair_tests(tested, in_a, design.blocks[rows[:, 0]], rng, intervals=False, most=ENUMERATED, draws=SHUFFLES).p
