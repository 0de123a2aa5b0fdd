"""The pair tests of many plays at once: as the verdict makes them, or so near that it does not matter.

Leader and rival differ from play to play.  Pairs that are laid out alike are tested together on one set of shuffles: in
plain layouts all pairs with the same numbers of samples, in split plots all that share a level of the hard factor, and all
that do not.  In Latin squares all treatments move together; a single square of up to four treatments is shuffled as the
verdict does it, larger ones are tested by Student's t on the same contrast, never below the layout's smallest p.  The two
agree closely there (see the tests), and shuffling every play would take seconds.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from scipy.stats import rankdata
from scipy.stats import t as student

from fieldtally.core.compare.arrays import Flags, Floats, Ints
from fieldtally.core.compare.pairs import one_pair
from fieldtally.core.compare.squares import LARGEST_ENUMERATED, double_centred, square_pair_tests
from fieldtally.core.compare.structure import Structure
from fieldtally.core.outlook.smallest import square_p

SHUFFLES = 400
ENUMERATED = 1_000
PairP = Callable[[Ints, Ints, Ints], Floats]
"""p (k,) of leaders (k,) against rivals (k,), both treatments' indices, in the plays (k,) of those indices."""


def pair_p(
    values: Floats, labels: Ints, structure: Structure, treatments: int, *, ranked: bool, rng: np.random.Generator
) -> PairP:
    """The pair test of ``values`` (n, plays) for ``labels`` (n,) laid out in ``structure``; ``ranked`` by mid-ranks."""
    of = [np.flatnonzero(labels == t) for t in range(treatments)]
    if structure.kind == "latin":
        return _in_squares(rankdata(values, axis=0) if ranked else values, labels, structure, of, rng)
    if structure.kind == "split" and structure.plots is not None and structure.hard is not None:
        return _in_plots(values, structure, of, ranked, rng)
    return _laid_out_alike([values[rows] for rows in of], [structure.blocks[rows] for rows in of], ranked, rng)


def _laid_out_alike(values: Sequence[Floats], blocks: Sequence[Ints], ranked: bool, rng: np.random.Generator) -> PairP:
    """Tests of units of which each treatment has its own ``values`` (k, plays) and ``blocks`` (k,)."""
    sizes = np.array([len(own) for own in values])

    def p_of(plays: Ints, leader: Ints, rival: Ints) -> Floats:
        p = np.ones(len(plays))
        for alike in _groups(np.stack([sizes[leader], sizes[rival]])):
            ours = np.stack([values[t][:, play] for t, play in zip(leader[alike], plays[alike], strict=True)], axis=1)
            theirs = np.stack([values[t][:, play] for t, play in zip(rival[alike], plays[alike], strict=True)], axis=1)
            first = np.flatnonzero(alike)[0]
            where = np.concatenate([blocks[leader[first]], blocks[rival[first]]])
            tested = np.concatenate([ours, theirs])
            tested = rankdata(tested, axis=0) if ranked else tested
            in_a = np.arange(len(tested)) < len(ours)
            p[alike] = one_pair(tested, in_a, where, rng, intervals=False, most=ENUMERATED, draws=SHUFFLES).p
        return p

    return p_of


def _groups(kinds: Ints) -> list[Flags]:
    """For each distinct column of ``kinds`` (2, k), which columns (k,) are like it."""
    return [(kinds == kind[:, None]).all(axis=0) for kind in np.unique(kinds, axis=1).T] if kinds.size else []


def _in_plots(
    values: Floats, structure: Structure, of: Sequence[Ints], ranked: bool, rng: np.random.Generator
) -> PairP:
    plots, hard = structure.plots, structure.hard
    assert plots is not None and hard is not None
    level = np.array([hard[rows[0]] for rows in of])
    # Inside: the plots of a level are numbered anew, so that all levels are laid out alike.
    inside = _laid_out_alike(
        [values[rows] for rows in of], [np.unique(plots[rows], return_inverse=True)[1] for rows in of], ranked, rng
    )
    means, where = [], []
    for rows in of:
        numbers, first = np.unique(plots[rows], return_index=True)
        means.append(np.stack([values[rows][plots[rows] == number].mean(axis=0) for number in numbers]))
        where.append(structure.blocks[rows][first])
    between = _laid_out_alike(means, where, ranked, rng)

    def p_of(plays: Ints, leader: Ints, rival: Ints) -> Floats:
        p = np.ones(len(plays))
        shared = level[leader] == level[rival]
        for test, some in ((inside, shared), (between, ~shared)):
            if some.any():
                p[some] = test(plays[some], leader[some], rival[some])
        return p

    return p_of


def _in_squares(
    values: Floats, labels: Ints, structure: Structure, of: Sequence[Ints], rng: np.random.Generator
) -> PairP:
    side, each = len(of), len(of[0])
    squares = each // side

    def shuffled(plays: Ints, leader: Ints, rival: Ints) -> Floats:
        p = np.ones(len(plays))
        for alike in _groups(np.stack([leader, rival])):
            first = np.flatnonzero(alike)[0]
            a, b = int(leader[first]), int(rival[first])
            p[alike] = square_pair_tests(values[:, plays[alike]], labels, structure, a, b, rng).p
        return p

    if squares == 1 and side <= LARGEST_ENUMERATED:
        return shuffled
    z = double_centred(values, structure)
    means = np.stack([z[rows].mean(axis=0) for rows in of])
    freedom = squares * (side - 1) ** 2 - (side - 1)
    left = (z**2).sum(axis=0) - each * (means**2).sum(axis=0)
    error = np.sqrt(np.maximum(left, 0.0) / freedom * 2 / each)

    def by_student(plays: Ints, leader: Ints, rival: Ints) -> Floats:
        gap = np.abs(means[leader, plays] - means[rival, plays])
        with np.errstate(divide="ignore", invalid="ignore"):
            t = np.where(gap == 0, 0.0, gap / error[plays])
        return np.asarray(np.maximum(2 * student.sf(t, freedom), square_p(side, squares)))

    return by_student
