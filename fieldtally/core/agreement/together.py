"""Everything that scorers' values of one outcome tell about their agreement, and what to do about it."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from fieldtally.core.agreement.concordance import kendalls_w
from fieldtally.core.agreement.drift import Drift, drift_of
from fieldtally.core.agreement.icc import icc_2_1
from fieldtally.core.agreement.kappa import weighted_kappa, words_for
from fieldtally.core.agreement.repeats import WithinScorer, within_scorer
from fieldtally.core.compare.arrays import Floats

FEWEST_SHARED = 5
LEANS_BEYOND = 0.5
"""Of the margin: a scorer who differs from the others by more than that leans."""
DRIFTS_AT = 0.05
MOST_DOTS = 400
"""So many different dots of a pair are drawn one by one; more are gathered into squares."""
SQUARES = 20
"""Along each side, where dots are gathered."""


@dataclass(frozen=True)
class Scored:
    """One value: by a scorer, at a look (its place in time), of a sample; ``take`` counts how often this was read, ``blind`` marks one
    read under a second code."""

    scorer: str
    look: int
    sample: str
    value: float
    take: int = 1
    blind: bool = False


@dataclass(frozen=True)
class Grid:
    """The values of one outcome by ``scorers`` (their names, in order): ``first`` (scorers, looks, samples) as each read them first, blind
    repeats apart; ``blind`` what was read under a second code and ``again`` what was read a second time, of the same shape.  NaN: not read.
    """

    scorers: tuple[str, ...]
    first: Floats
    blind: Floats
    again: Floats

    def by_place(self, scorer: str) -> Floats:
        """What ``scorer`` read first (looks · samples), one look after the other."""
        own: Floats = self.first[self.scorers.index(scorer)].ravel()
        return own


def grid_of(scored: Sequence[Scored]) -> Grid:
    """``scored`` as a grid; looks and samples in their order."""
    scorers = tuple(sorted({one.scorer for one in scored}))
    looks = {look: i for i, look in enumerate(sorted({one.look for one in scored}))}
    samples = {sample: i for i, sample in enumerate(sorted({one.sample for one in scored}))}
    tables = [np.full((len(scorers), len(looks), len(samples)), np.nan) for _ in range(3)]
    for one in scored:
        table = tables[1] if one.blind and one.take == 1 else tables[0] if one.take == 1 else tables[2]
        if one.take <= 2:
            table[scorers.index(one.scorer), looks[one.look], samples[one.sample]] = one.value
    return Grid(scorers, *tables)


@dataclass(frozen=True)
class PairOfScorers:
    """Two scorers on the ``shared`` samples they both scored: weighted kappa of grades or ICC(2,1) of numbers as ``agreement``, which of
    them, its word; and how much more ``first`` gives than ``second`` on average."""

    first: str
    second: str
    shared: int
    measure: Literal["kappa", "icc"]
    agreement: float | None
    word: str
    difference: float


@dataclass(frozen=True)
class Alone:
    """One scorer by themselves: how they repeat where they read again, and how they stand against the others over the rounds."""

    scorer: str
    within: WithinScorer | None
    drift: Drift | None


@dataclass(frozen=True)
class Agreement:
    """All of it for one outcome, ``w`` over three scorers and more (None with fewer), and what to do, in sentences."""

    pairs: tuple[PairOfScorers, ...]
    alone: tuple[Alone, ...]
    w: float | None
    advice: tuple[str, ...]


def agreement_of(
    grid: Grid,
    measure: Literal["kappa", "icc"],
    margin: float | None,
    unit: str,
    rng: np.random.Generator,
) -> Agreement:
    """How scorers agree on one outcome; ``margin`` is the smallest difference that matters, in ``unit``."""
    names = [name for i, name in enumerate(grid.scorers) if np.isfinite(grid.first[i]).any()]
    pairs = tuple(
        found for a, b in itertools.combinations(names, 2) if (found := _pair(a, b, grid, measure)) is not None
    )
    alone = tuple(Alone(name, _within(name, grid), _drift(name, grid, rng)) for name in names)
    return Agreement(pairs, alone, _w(names, grid), tuple(_advice(pairs, alone, margin, unit)))


def _pair(a: str, b: str, grid: Grid, measure: Literal["kappa", "icc"]) -> PairOfScorers | None:
    both = np.array([grid.by_place(a), grid.by_place(b)])
    both = both[:, np.isfinite(both).all(axis=0)]
    shared = both.shape[1]
    if shared < FEWEST_SHARED:
        return None
    found = weighted_kappa(*both) if measure == "kappa" else icc_2_1(both.T)
    difference = float((both[0] - both[1]).mean())
    return PairOfScorers(a, b, shared, measure, found, "" if found is None else words_for(found), difference)


@dataclass(frozen=True)
class Dot:
    """Two values that a pair of scorers gave the same sample at the same look, ``times`` over."""

    first: float
    second: float
    times: int


@dataclass(frozen=True)
class Cloud:
    """The values of a pair against each other: ``same`` of ``shared`` were the same; ``square``: dots are the middles of squares of that
    side, in the unit of the values (None: each dot is where it is)."""

    dots: tuple[Dot, ...]
    shared: int
    same: int
    square: float | None


def _counted(both: Floats) -> tuple[Floats, Floats]:
    """The different columns (2, different) of ``both`` (2, n), and how often each is there."""
    (ones, at), (twos, beside) = (np.unique(row, return_inverse=True) for row in both)
    couples, times = np.unique(at * len(twos) + beside, return_counts=True)
    return np.array([ones[couples // len(twos)], twos[couples % len(twos)]]), times


def cloud_of(a: str, b: str, grid: Grid) -> Cloud:
    """The values of ``a`` against those of ``b``, at most so many dots that they can be told apart.

    >>> cloud_of("Ada", "Ben", grid_of([Scored("Ada", 0, "s", 2.0), Scored("Ben", 0, "s", 3.0)])).dots
    (Dot(first=2.0, second=3.0, times=1),)
    """
    both = np.array([grid.by_place(a), grid.by_place(b)])
    both = both[:, np.isfinite(both).all(axis=0)]
    same = int((np.abs(both[0] - both[1]) < 1e-9).sum())
    points, times = _counted(both)
    square = None
    if len(times) > MOST_DOTS:
        low = both.min()
        square = float(both.max() - low) / SQUARES
        cells = np.minimum(((both - low) / square).astype(int), SQUARES - 1)
        gathered, times = _counted(cells)
        points = low + (gathered + 0.5) * square
    dots = (Dot(float(x), float(y), int(many)) for x, y, many in zip(*points, times, strict=True))
    return Cloud(tuple(dots), both.shape[1], same, square)


def _within(name: str, grid: Grid) -> WithinScorer | None:
    """From blind repeats where there are any; else from what was read again knowingly, which is the kinder measure."""
    at = grid.scorers.index(name)
    for again, blind in ((grid.blind[at], True), (grid.again[at], False)):
        both = np.isfinite(grid.first[at]) & np.isfinite(again)
        if both.any():
            return within_scorer(np.array([grid.first[at][both], again[both]]).T, blind=blind)
    return None


def _drift(name: str, grid: Grid, rng: np.random.Generator) -> Drift | None:
    at = grid.scorers.index(name)
    read = np.isfinite(grid.first)
    others = np.delete(grid.first, at, axis=0)
    many = read.sum(axis=0) - read[at]
    total = np.where(np.isfinite(others), others, 0.0).sum(axis=0)
    shared = read[at] & (many > 0)
    apart = np.where(shared, grid.first[at] - total / np.maximum(many, 1), 0.0)
    looks = shared.any(axis=1)
    return drift_of(list(apart.sum(axis=1)[looks] / shared.sum(axis=1)[looks]), rng)


def _w(names: Sequence[str], grid: Grid) -> float | None:
    if len(names) < 3:
        return None
    table = np.array([grid.by_place(name) for name in names])
    table = table[:, np.isfinite(table).all(axis=0)]
    return None if table.shape[1] < FEWEST_SHARED else kendalls_w(table.T)


def _advice(pairs: Sequence[PairOfScorers], alone: Sequence[Alone], margin: float | None, unit: str) -> list[str]:
    found = []
    for pair in pairs:
        if pair.agreement is not None and pair.agreement < 0.41:
            found.append(
                f"{pair.first} and {pair.second} see {pair.word}: score ten samples side by side, talk over the ones that differ, and "
                "add a sentence or a photo to the levels that you read differently."
            )
    drifting = {one.scorer for one in alone if one.drift and one.drift.p is not None and one.drift.p <= DRIFTS_AT}
    found += [
        f"{name}’s hand moves over the rounds: read the anchors before each one, and begin with the same two samples."
        for name in sorted(drifting)
    ]
    for one in alone:
        if one.drift and margin and abs(one.drift.leaning) > LEANS_BEYOND * margin and one.scorer not in drifting:
            way = "more" if one.drift.leaning > 0 else "less"
            found.append(
                f"{one.scorer} gives {way} than the others, by {abs(one.drift.leaning):.2g} {unit}".rstrip()
                + ": let each scorer score whole blocks, or average two on every sample, so that it falls out."
            )
    if not pairs and alone:
        found.append(
            "Only one has scored what there is: let somebody else score one whole round too, and you will know."
        )
    elif not found and pairs:
        found.append("Nothing to mend: any of them may score.")
    return found
