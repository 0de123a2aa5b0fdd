"""The verdicts of many plays at once: who leads each of them, and the largest p of that leader's own pair tests.

The tests are the verdict's own (:mod:`fieldtally.core.compare`), on fewer shuffles: at most 1,000 arrangements are enumerated, else 400
drawn.
Leader and rival differ from play to play, so that pairs which are laid out alike are stacked whatever treatments they are of.  Rivals are
tested nearest first, and no further once a play can no longer be clear; what is found here is what
:func:`fieldtally.core.verdict.strength.judge` would say of each play, which a test holds it to.

In Latin squares beyond a single one of four Student's t on the same contrast stands for the shuffles, never below the layout's smallest
p; the two agree closely there, and shuffling every play would take seconds.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from scipy.special import stdtr

from fieldtally.core.compare.arrays import Flags, Floats, Ints
from fieldtally.core.compare.columns import FEWEST, FEWEST_IN_BLOCKS
from fieldtally.core.compare.events import log_rank_on_grid
from fieldtally.core.compare.pairs import pair_tests
from fieldtally.core.compare.ranks import midranks
from fieldtally.core.compare.reference import Reference
from fieldtally.core.compare.scores import block_ranks
from fieldtally.core.compare.squares import LARGEST_ENUMERATED, double_centred, own_spread, square_pair_tests
from fieldtally.core.compare.stacks import Layout, Stack, centred, laid_out, slices_of
from fieldtally.core.compare.structure import Structure
from fieldtally.core.outlook.smallest import square_p

SHUFFLES = 400
ENUMERATED = 1_000
NEAREST = 5
"""Rivals beyond these are far behind and have the smaller p."""
LEVEL = 1e-9
NO_DOUBT, MANY = 0.3, 1_000


@dataclass(frozen=True)
class Plays:
    """Readings of many plays (n, plays): ``values`` as they are told, and for events and ladders the look (step) ``cells`` at which each
    had it, ``looks`` where none did; ``ranked`` where grades are compared."""

    values: Floats
    ranked: bool = False
    cells: Ints | None = None
    looks: int = 0

    @property
    def timed(self) -> bool:
        """Whether they are tested by log-rank scores."""
        return self.cells is not None


@dataclass(frozen=True)
class Led:
    """For each play (plays,): who leads, the largest p of the leader's pair tests (1: nobody leads, or too few samples), and the smallest
    lead in the unit of the values."""

    leader: Ints
    p: Floats
    gap: Floats


def leads(
    plays: Plays, labels: Ints, structure: Structure, treatments: int, rng: np.random.Generator, *, highest: float
) -> Led:
    """Who leads each of ``plays`` for ``labels`` (n,) laid out in ``structure``; tests end where p passes ``highest``."""
    many = plays.values.shape[1]
    worth = _worth(plays, labels, structure, treatments)
    order = np.argsort(-worth, axis=0, kind="stable")
    leader = order[0]
    test = _tester(plays, labels, structure, treatments, rng, highest)
    p, gap, ways = np.zeros(many), np.full(many, np.inf), np.ones(many, dtype=np.bool_)
    best = worth[leader, np.arange(many)]
    for rival in order[1 : NEAREST + 1]:
        left = np.flatnonzero(p <= highest)
        if not len(left):
            break
        told = test(left, leader[left], rival[left])
        p[left] = np.maximum(p[left], told.p)
        gap[left] = np.minimum(gap[left], told.difference)
        level = best[left] - worth[rival[left], left] <= LEVEL * np.maximum(np.abs(best[left]), 1.0)
        ways[left] &= (told.way > 0) & ~level & ~((told.difference < 0) & plays.timed)
    return Led(leader, np.where(ways, p, 1.0), gap)


@dataclass(frozen=True)
class Told:
    """Arrays (k,): p of leaders against rivals, their differences, and which way the tested effect points."""

    p: Floats
    difference: Floats
    way: Ints


Tester = Callable[[Ints, Ints, Ints], Told]
"""Tests leaders (k,) against rivals (k,), both treatments' indices, in the plays (k,) of those indices."""


def _scores(plays: Plays, structure: Structure) -> Floats:
    """What orders the treatments: values, ranks or log-rank scores inside blocks."""
    if not plays.ranked and not plays.timed:
        return plays.values
    found = np.empty_like(plays.values)
    for block in np.unique(structure.ranked_in):
        rows = structure.ranked_in == block
        if plays.cells is not None:
            found[rows] = -log_rank_on_grid(plays.cells[rows], plays.looks)
        else:
            found[rows] = midranks(plays.values[rows])
    return found


def _worth(plays: Plays, labels: Ints, structure: Structure, treatments: int) -> Floats:
    """What orders the treatments (t, plays), higher better; every layout that is planned is balanced over its blocks."""
    scores = _scores(plays, structure)
    return np.stack([scores[labels == t].mean(axis=0) for t in range(treatments)])


def _tester(
    plays: Plays, labels: Ints, structure: Structure, treatments: int, rng: np.random.Generator, highest: float
) -> Tester:
    of = [np.flatnonzero(labels == t) for t in range(treatments)]
    if structure.kind == "latin":
        return _in_squares(_scores(plays, structure), plays.values, labels, structure, of, rng, highest)
    if structure.kind == "split" and structure.plots is not None and structure.hard is not None:
        return _in_plots(plays, structure, of, rng, highest)
    return _laid_out_alike(plays, of, [structure.blocks[rows] for rows in of], rng, highest)


def _groups(kinds: Ints) -> list[Flags]:
    """For each distinct column of ``kinds`` (2, k), which columns (k,) are like it."""
    return [(kinds == kind[:, None]).all(axis=0) for kind in np.unique(kinds, axis=1).T] if kinds.size else []


def _laid_out_alike(
    plays: Plays,
    of: Sequence[Ints],
    blocks: Sequence[Ints],
    rng: np.random.Generator,
    highest: float,
    means: Floats | None = None,
) -> Tester:
    """Tests of units of which each treatment has its own rows (k,) and ``blocks`` (k,); ``means`` are scores that are ready."""
    layouts = [tuple(np.unique(own, return_counts=True)[1].tolist()) for own in blocks]
    kinds = {layout: i for i, layout in enumerate(dict.fromkeys(layouts))}
    kind = np.array([kinds[layout] for layout in layouts])
    reference = Reference(int(rng.integers(2**63)), most=ENUMERATED, draws=SHUFFLES)

    def test(some: Ints, leader: Ints, rival: Ints) -> Told:
        p, difference, way = np.ones(len(some)), np.zeros(len(some)), np.zeros(len(some), dtype=np.int64)
        for alike in _groups(np.stack([kind[leader], kind[rival]])):
            at = np.flatnonzero(alike)
            a, b = of[leader[at[0]]], of[rival[at[0]]]
            where = np.concatenate([blocks[leader[at[0]]], blocks[rival[at[0]]]])
            layout, order = laid_out((np.arange(len(where)) >= len(a)).astype(np.int64), where, 2)

            def gathered(from_: Floats | Ints) -> Floats:
                rows = np.concatenate(
                    [np.stack([of[t] for t in leader[at]], axis=1), np.stack([of[t] for t in rival[at]], axis=1)]  # noqa: B023
                )
                return np.asarray(from_[rows, some[at]][order])  # noqa: B023

            values = gathered(plays.values)
            tested = gathered(means) if means is not None else _tested(plays, layout, values, gathered)
            first = (np.arange(len(where)) < len(a))[order]
            difference[at] = values[first].mean(axis=0) - values[~first].mean(axis=0)
            sure, way[at] = _without_shuffling(tested, layout, first, highest, reference.count(layout))
            if min(len(a), len(b)) < (FEWEST_IN_BLOCKS if len(layout) > 1 else FEWEST):
                continue
            p[at] = sure
            left = np.flatnonzero(np.isnan(sure))
            if len(left):
                stack = Stack(layout, tested[:, left], tuple(range(len(left))))
                p[at[left]] = pair_tests([stack], len(left), reference, intervals=False).p
        return Told(p, difference, way)

    return test


def _without_shuffling(
    tested: Floats, layout: Layout, first: Flags, highest: float, arrangements: int
) -> tuple[Floats, Ints]:
    """p (k,) where Student's t leaves no doubt on which side of any level a pair lies, NaN where it must be shuffled; and which way it
    points.

    Beyond 0.3 no shuffle brings it down to ``highest``; where it is a hundredth of that, by the more spread side's own degrees of freedom
    alone and with many arrangements, none brings it up."""
    z = centred(Stack(layout, tested, ()))
    x = first - np.repeat([counts[0] / sum(counts) for counts in layout], [sum(counts) for counts in layout])
    apart = float((x**2).sum())
    difference = x @ z / apart
    left = (z - x[:, None] * difference) ** 2
    free = len(x) - len(layout) - 1
    spread = left.sum(axis=0) / max(1, free)
    noise = np.maximum(spread, 1e-300)
    with np.errstate(divide="ignore", invalid="ignore"):
        pooled = 2 * stdtr(max(1, free), -np.abs(difference) / np.sqrt(noise / apart))
    p = np.where(pooled > NO_DOUBT, 1.0, np.nan)
    fewest = min(int(first.sum()), int((~first).sum()))
    if arrangements >= MANY and fewest > 3:
        sides = [left[side].sum(axis=0) / (side.sum() - 1) for side in (first, ~first)]
        widest = np.maximum(np.maximum(*sides), noise)
        own = 2 * stdtr(fewest - 1, -np.abs(difference) / np.sqrt(2 * widest / fewest))
        p = np.where(own < highest / 100, own, p)
    return p, np.where(np.abs(difference) <= LEVEL * np.sqrt(noise), 0, np.sign(difference)).astype(np.int64)


def _tested(plays: Plays, layout: Layout, values: Floats, gathered: Callable[[Floats | Ints], Floats]) -> Floats:
    if plays.cells is not None:
        cells = gathered(plays.cells).astype(np.int64)
        return np.concatenate([-log_rank_on_grid(cells[rows], plays.looks) for rows in slices_of(layout)])
    return block_ranks(values, layout) if plays.ranked else values


def _in_plots(
    plays: Plays, structure: Structure, of: Sequence[Ints], rng: np.random.Generator, highest: float
) -> Tester:
    plots, hard = structure.plots, structure.hard
    assert plots is not None and hard is not None
    level = np.array([hard[rows[0]] for rows in of])
    # Inside: the plots of a level are numbered anew, so that all levels are laid out alike.
    inside = _laid_out_alike(plays, of, [np.unique(plots[rows], return_inverse=True)[1] for rows in of], rng, highest)
    numbers = [np.unique(plots[rows], return_index=True) for rows in of]

    def plot_means(values: Floats) -> Floats:
        return np.concatenate(
            [
                np.stack([values[rows][plots[rows] == number].mean(axis=0) for number in own[0]])
                for rows, own in zip(of, numbers, strict=True)
            ]
        )

    sizes = np.cumsum([0, *(len(own[0]) for own in numbers)])
    units = [np.arange(sizes[t], sizes[t + 1]) for t in range(len(of))]
    where = [structure.blocks[rows][own[1]] for rows, own in zip(of, numbers, strict=True)]
    whole = Plays(plot_means(plays.values), plays.ranked)
    scores = plot_means(_scores(plays, structure)) if plays.timed else None
    between = _laid_out_alike(whole, units, where, rng, highest, scores)

    def test(some: Ints, leader: Ints, rival: Ints) -> Told:
        p, difference, way = np.ones(len(some)), np.zeros(len(some)), np.zeros(len(some), dtype=np.int64)
        shared = level[leader] == level[rival]
        for tester, rows in ((inside, shared), (between, ~shared)):
            if rows.any():
                told = tester(some[rows], leader[rows], rival[rows])
                p[rows], difference[rows], way[rows] = told.p, told.difference, told.way
        return Told(p, difference, way)

    return test


def _in_squares(
    scores: Floats,
    values: Floats,
    labels: Ints,
    structure: Structure,
    of: Sequence[Ints],
    rng: np.random.Generator,
    highest: float,
) -> Tester:
    side, each = len(of), len(of[0])
    squares = each // side
    told = np.stack([values[rows].mean(axis=0) for rows in of])
    z = double_centred(scores, structure)
    means = np.stack([z[rows].mean(axis=0) for rows in of])
    seed = int(rng.integers(2**63))

    def shuffled(some: Ints, leader: Ints, rival: Ints) -> Floats:
        p = np.ones(len(some))
        for alike in _groups(np.stack([leader, rival])):
            first = np.flatnonzero(alike)[0]
            a, b = int(leader[first]), int(rival[first])
            drawn = np.random.default_rng(seed)
            p[alike] = square_pair_tests(scores[:, some[alike]], labels, structure, a, b, drawn).p
        return p

    freedom = squares * (side - 1) ** 2 - (side - 1)
    own = np.stack([((z[rows] - means[t]) ** 2).sum(axis=0) for t, rows in enumerate(of)])
    pooled = own.sum(axis=0) / freedom
    kept, free = np.ones((side, side)), np.ones((side, side))
    for a, b in combinations(range(side), 2):
        kept[a, b], free[a, b] = own_spread(labels, structure, a, b)
    kept, free = np.maximum(kept, kept.T), np.maximum(free, free.T)

    def by_student(some: Ints, leader: Ints, rival: Ints) -> Floats:
        of_own = (own[leader, some] + own[rival, some]) / kept[leader, rival]
        instead = of_own > pooled[some] * (1 + LEVEL)
        error = np.sqrt(np.where(instead, of_own, pooled[some]) * 2 / each)
        gap = np.abs(means[leader, some] - means[rival, some])
        with np.errstate(divide="ignore", invalid="ignore"):
            t = np.where(gap == 0, 0.0, gap / error)
        p = 2 * stdtr(np.where(instead, free[leader, rival], freedom), -t)
        return np.asarray(np.maximum(p, square_p(side, squares)))

    def both(some: Ints, leader: Ints, rival: Ints) -> Floats:
        """The larger of both, the shuffles only where Student's does not decide already."""
        p = by_student(some, leader, rival)
        left = p <= highest
        if left.any():
            p[left] = np.maximum(p[left], shuffled(some[left], leader[left], rival[left]))
        return p

    p_of = both if squares == 1 and side <= LARGEST_ENUMERATED else by_student

    def test(some: Ints, leader: Ints, rival: Ints) -> Told:
        way = np.sign(means[leader, some] - means[rival, some]).astype(np.int64)
        return Told(p_of(some, leader, rival), told[leader, some] - told[rival, some], way)

    return test
