"""Simulated trials: a design played through many times under a truth that a person expects.

One treatment is truly better by ``lead`` than all others, which are alike; samples treated alike differ with standard
deviation ``spread``.  Each play draws readings of every primary outcome on its own scale: grades and counts as they can be read, an event
at the look that sees it, a ladder at the step that breaks.  They are tested as the verdict will (:mod:`.quick`), and the same rule for
*clear* is applied, at the level that several primaries share by Holm's steps.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.compare.columns import compared_as
from fieldtally.core.compare.laid_out import structure_of
from fieldtally.core.compare.structure import Structure
from fieldtally.core.design.layout import lay_out
from fieldtally.core.design.plan import Plan
from fieldtally.core.outlook.quick import Led, Plays, leads
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

PLAYS = 1_600
FEWEST_PLAYS = 400
FULL_SIZE = 60
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
            case "random" | "blocks" if plan.begun is None:
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
    """What a person expects of one outcome, in the scale's unit: the lead of the best, the standard deviation between samples treated
    alike (``spread``) and beyond that between whole plots (``plots``).  An event's lead is the difference of the shares that have it by the
    last of its ``looks`` (times from the start, rising)."""

    scale: Scale
    lead: float
    spread: float
    margin: float | None
    alpha: float
    plots: float = 0.0
    looks: tuple[float, ...] = (1.0,)


@dataclass(frozen=True)
class Shares:
    """Shares of plays, from 0 to 1: the best one was named, none was, another one was."""

    right: float
    none: float
    wrong: float
    plays: int


def best_of(design: Design, plays: int) -> Ints:
    """Which treatment is truly best in each play (plays,): each candidate as often as any."""
    return np.array(design.candidates)[np.arange(plays) % len(design.candidates)]


def drawn(design: Design, truth: Truth, plays: int, rng: np.random.Generator) -> tuple[Plays, Ints]:
    """The readings of that many plays, and the treatment that was truly best in each (plays,)."""
    best = best_of(design, plays)
    is_best = design.labels[:, None] == best[None, :]
    shape = (len(design.labels), plays)
    if isinstance(truth.scale, EventScale):
        return _events(is_best, truth, rng), best
    if isinstance(truth.scale, PassFailScale):
        half = min(truth.lead, 1.0) / 2
        return Plays((rng.random(shape) < np.where(is_best, 0.5 + half, 0.5 - half)).astype(np.float64)), best
    ends = truth.scale.ends
    middle = 0.0 if ends is None else (ends[0] + ends[1]) / 2
    values = middle + np.where(is_best, truth.lead / 2, -truth.lead / 2) + truth.spread * rng.standard_normal(shape)
    if truth.plots and design.structure.plots is not None:
        plots = design.structure.plots
        values += truth.plots * rng.standard_normal((int(plots.max()) + 1, values.shape[1]))[plots]
    values = on_scale(values, truth.scale)
    if isinstance(truth.scale, LadderScale):
        steps = np.array([0.0, *truth.scale.steps])
        return Plays(values, cells=np.searchsorted(steps, values), looks=len(truth.scale.steps)), best
    return Plays(values, ranked=compared_as(truth.scale) == "grade"), best


def _events(is_best: np.ndarray, truth: Truth, rng: np.random.Generator) -> Plays:
    """Events that come at a steady rate and are seen at the next look; the best one's are rarer."""
    half, looks = min(truth.lead, 0.98) / 2, np.array(truth.looks)
    rate = -np.log(1 - np.where(is_best, 0.5 - half, 0.5 + half)) / looks[-1]
    times = rng.exponential(1.0, is_best.shape) / rate
    cells = np.searchsorted(looks, times)
    ends = np.concatenate([[0.0], looks])
    # How long each was without it: to the middle between two looks, or to the last.
    without = np.concatenate([(ends[:-1] + ends[1:]) / 2, looks[-1:]])[cells]
    return Plays(without, cells=cells, looks=len(looks))


def on_scale(values: Floats, scale: Scale) -> Floats:
    """``values`` as they can be read on ``scale``: the nearest level or step, whole counts, nothing beyond its ends."""
    match scale:
        case GradeScale():
            values = _nearest(values, np.array([level.value for level in scale.levels], dtype=np.float64))
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


def plays_for(design: Design, plays: int = PLAYS) -> int:
    """How often a design of this size is played."""
    return max(min(plays, FEWEST_PLAYS), min(plays, plays * FULL_SIZE // len(design.labels)))


def play(design: Design, truths: Truth | Sequence[Truth], rng: np.random.Generator, plays: int = PLAYS) -> Shares:
    """How often the verdict on the first of ``truths`` (primary outcomes) would name the right one, none, or another."""
    return play_each(design, [truths] if isinstance(truths, Truth) else truths, rng, plays)[0]


def play_each(design: Design, truths: Sequence[Truth], rng: np.random.Generator, plays: int = PLAYS) -> list[Shares]:
    """The same for each primary outcome, all of which share the level."""
    plays = plays_for(design, plays)
    seeds = rng.integers(2**63, size=(len(truths), 2))
    led = []
    for truth, (drawing, testing) in zip(truths, seeds.tolist(), strict=True):
        readings, _ = drawn(design, truth, plays, np.random.default_rng(drawing))
        tested = np.random.default_rng(testing)
        led.append(leads(readings, design.labels, design.structure, design.treatments, tested, highest=truths[0].alpha))
    levels = shared_levels(np.stack([one.p for one in led]), truths[0].alpha)
    best = best_of(design, plays)
    return [_shares(one, truth, own, best) for one, truth, own in zip(led, truths, levels, strict=True)]


def shared_levels(p: Floats, alpha: float) -> Floats:
    """The level (o, plays) at which each of several primaries is judged, from the leaders' p (o, plays): Holm's steps."""
    many = len(p)
    order = np.argsort(p, axis=0, kind="stable")
    levels = np.empty_like(p)
    column = np.arange(p.shape[1])
    failed = np.full(p.shape[1], np.nan)
    for rank in range(many):
        own = np.where(np.isnan(failed), alpha / (many - rank), failed)
        levels[order[rank], column] = own
        failed = np.where(np.isnan(failed) & (p[order[rank], column] > own), own, failed)
    return levels


def _shares(led: Led, truth: Truth, level: Floats, best: Ints) -> Shares:
    named = led.p <= level
    if truth.margin is not None and not isinstance(truth.scale, EventScale):
        named &= led.gap >= truth.margin * (1 - 1e-9)
    right = float((named & (led.leader == best)).mean())
    wrong = float((named & (led.leader != best)).mean())
    return Shares(right, 1 - right - wrong, wrong, len(best))
