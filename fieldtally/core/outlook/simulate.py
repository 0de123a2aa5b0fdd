"""Simulated trials: a design played through many times under a truth that a person expects.

One treatment is truly better by ``lead`` than all others, which are alike; samples treated alike differ with standard
deviation ``spread``.  Each play draws values on the outcome's own scale, tests them as the verdict will, and applies the
same rule for *clear*.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.compare.columns import compared_as
from fieldtally.core.compare.laid_out import structure_of
from fieldtally.core.compare.structure import Structure
from fieldtally.core.design.layout import lay_out
from fieldtally.core.design.plan import Plan
from fieldtally.core.outlook.quick import pair_p
from fieldtally.core.scales import (
    CountScale,
    EventScale,
    GradeScale,
    LadderScale,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    Scale,
    ShadeScale,
)

NEAREST = 5
PLAYS = 400
FEWEST_PLAYS = 60
FULL_SIZE = 800
"""Designs with more samples than this are played fewer times, so that the answer still comes at once."""


@dataclass(frozen=True)
class Design:
    """Labels (n,) from 0 to ``treatments`` − 1 in a structure, and the treatment (indices) that may be the best."""

    labels: Ints
    structure: Structure
    treatments: int
    candidates: tuple[int, ...]

    @classmethod
    def of(cls, samples: tuple[int, ...], blocks: int, candidates: tuple[int, ...]) -> Design:
        """``samples`` of each treatment in each of ``blocks`` blocks."""
        one = np.repeat(np.arange(len(samples)), samples)
        places = np.repeat(np.arange(blocks), len(one))
        return cls(np.tile(one, blocks), Structure.plain(places), len(samples), candidates)

    @classmethod
    def of_plan(cls, plan: Plan) -> Design:
        """The design of a plan whose layout can be drawn; the best one is not a control, unless there are only controls."""
        free = tuple(i for i, t in enumerate(plan.treatments) if not t.is_control)
        candidates = free or tuple(range(len(plan.treatments)))
        match plan.layout.kind:
            case "random" | "blocks":
                return cls.of(tuple(t.samples for t in plan.treatments), plan.block_count, candidates)
            case "pairs":
                return cls.of((1, 1), plan.treatments[0].samples, candidates)
        slots = lay_out(plan, "outlook")
        keys = [slot.treatment for slot in slots]
        index = {t.key: i for i, t in enumerate(plan.treatments)}
        structure = structure_of(
            plan,
            keys,
            [slot.block for slot in slots],
            [slot.plot for slot in slots],
            [slot.row for slot in slots],
            [slot.column for slot in slots],
        )
        return cls(np.array([index[key] for key in keys]), structure, len(plan.treatments), candidates)


@dataclass(frozen=True)
class Truth:
    """What a person expects, in the scale's unit: the lead of the best, the standard deviation between samples treated
    alike (``spread``) and beyond that between whole plots (``plots``)."""

    scale: Scale
    lead: float
    spread: float
    margin: float | None
    alpha: float
    plots: float = 0.0


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
    if isinstance(truth.scale, PassFailScale | EventScale):
        half = min(truth.lead, 1.0) / 2
        return (rng.random(shape) < np.where(is_best, 0.5 + half, 0.5 - half)).astype(np.float64), best
    ends = truth.scale.ends
    middle = 0.0 if ends is None else (ends[0] + ends[1]) / 2
    values = middle + np.where(is_best, truth.lead / 2, -truth.lead / 2) + truth.spread * rng.standard_normal(shape)
    if truth.plots and design.structure.plots is not None:
        plots = design.structure.plots
        values += truth.plots * rng.standard_normal((int(plots.max()) + 1, values.shape[1]))[plots]
    return on_scale(values, truth.scale), best


def on_scale(values: Floats, scale: Scale) -> Floats:
    """``values`` as they can be read on ``scale``: the nearest level or step, whole counts, nothing beyond its ends."""
    match scale:
        case GradeScale():
            values = _nearest(values, np.array([level.value for level in scale.levels]))
        case LadderScale():
            steps = np.array([0.0, *scale.steps])
            values = steps[np.clip(np.searchsorted(steps, values, side="right") - 1, 0, None)]
        case ShadeScale(between=between):
            values = np.round(values * 2) / 2 if between else np.round(values)
        case CountScale():
            values = np.round(values)
        case MeasurementScale(resolution=float() as step) | PercentScale(resolution=float() as step):
            values = np.round(values / step) * step
        case PassFailScale() | EventScale():
            values = np.round(values)
    if isinstance(scale, MeasurementScale):
        return np.clip(values, scale.low, scale.high) if scale.low is not None or scale.high is not None else values
    return values if scale.ends is None else np.clip(values, *scale.ends)


def _nearest(values: Floats, levels: Floats) -> Floats:
    """Each of ``values`` moved to the nearest of rising ``levels`` (k,)."""
    return levels[np.searchsorted((levels[1:] + levels[:-1]) / 2, values)]


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
    ranked = compared_as(truth.scale) == "grade"
    p_of = pair_p(values, design.labels, design.structure, design.treatments, ranked=ranked, rng=rng)
    named = np.ones(plays, dtype=np.bool_)
    for rival in order[1 : NEAREST + 1]:
        gap = means[leader, np.arange(plays)] - means[rival, np.arange(plays)]
        named &= (gap >= (truth.margin or 0.0) * (1 - 1e-9)) & (gap > 1e-12)
        left = np.flatnonzero(named)
        named[left] = p_of(left, leader[left], rival[left]) <= truth.alpha
    right = float((named & (leader == best)).mean())
    wrong = float((named & (leader != best)).mean())
    return Shares(right, 1 - right - wrong, wrong, plays)
