"""Compare all columns of a trial at once: an outcome at a checkpoint each.

Columns that miss the same samples are tested together, on one set of shuffles.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations
from typing import Literal

import numpy as np
from scipy.stats import rankdata

from fieldtally.core.compare.arrays import Flags, Floats, Ints
from fieldtally.core.compare.blocks import both_present
from fieldtally.core.compare.events import Spans, log_rank_scores
from fieldtally.core.compare.holm import holm
from fieldtally.core.compare.lead import first_places
from fieldtally.core.compare.means import Means, treatment_means
from fieldtally.core.compare.overall import Overall, overall_test
from fieldtally.core.compare.pairs import PairTests, pair_tests
from fieldtally.core.compare.rates import newcombe, wilson
from fieldtally.core.compare.squares import square_pair_tests
from fieldtally.core.compare.structure import Structure, units_of
from fieldtally.core.compare.superiority import chance_to_beat
from fieldtally.core.scales import CountScale, EventScale, GradeScale, LadderScale, PassFailScale, Scale, ShadeScale

Kind = Literal["measurement", "grade", "count", "passfail", "event"]


def compared_as(scale: Scale) -> Kind:
    """How values on ``scale`` are compared: shades and ladders by their order as grades are, events seen by a look as
    passes are, all other numbers as measurements."""
    match scale:
        case GradeScale() | ShadeScale() | LadderScale():
            return "grade"
        case PassFailScale() | EventScale():
            return "passfail"
        case CountScale():
            return "count"
        case _:
            return "measurement"


@dataclass(frozen=True)
class Column:
    """What a column of values is: its kind, which way is better, and the ends of its scale where it has any."""

    kind: Kind
    better: Literal["more", "less"] = "more"
    ends: tuple[float, float] | None = None


@dataclass(frozen=True)
class Estimate:
    """One treatment's ``n`` samples, its estimate (mean, or share passed) and interval; None where it cannot be known."""

    treatment: str
    n: int
    estimate: float | None
    low: float | None
    high: float | None


@dataclass(frozen=True)
class Pair:
    """``a`` against ``b``: ``difference`` is a − b in the scale's unit, with its interval; ``p`` its own,
    ``p_adjusted`` Holm's; ``chance`` that a sample of a has the higher value; None where it cannot be known."""

    a: str
    b: str
    difference: float
    low: float | None
    high: float | None
    p: float
    p_adjusted: float | None
    method: str
    arrangements: int
    chance: float


@dataclass(frozen=True)
class Comparison:
    """All that is found in one column; ``first_places`` is the share of bootstraps each treatment leads (best first when
    more is better, and so on)."""

    column: Column
    n: int
    overall: Overall | None
    treatments: tuple[Estimate, ...]
    pairs: tuple[Pair, ...]
    first_places: tuple[float, ...]

    def pair(self, a: str, b: str) -> Pair | None:
        """The pair ``a`` against ``b``, whichever way round it was computed."""
        for pair in self.pairs:
            if (pair.a, pair.b) == (a, b):
                return pair
            if (pair.a, pair.b) == (b, a):
                return turned(pair)
        return None


def turned(pair: Pair) -> Pair:
    """The same pair seen from the other side."""
    return replace(
        pair,
        a=pair.b,
        b=pair.a,
        difference=-pair.difference,
        low=None if pair.high is None else -pair.high,
        high=None if pair.low is None else -pair.low,
        chance=1 - pair.chance,
    )


def worth(values: Floats, column: Column) -> Floats:
    """``values`` turned so that higher is better."""
    return values if column.better == "more" else -values


def compare_columns(
    values: Floats,
    columns: Sequence[Column],
    labels: Ints,
    treatments: Sequence[str],
    blocks: Ints,
    rng: np.random.Generator,
    *,
    alpha: float = 0.05,
    control: int | None = None,
    structure: Structure | None = None,
    spans: Mapping[int, Spans] | None = None,
) -> list[Comparison]:
    """One :class:`Comparison` for each column of ``values`` (n, c); NaN marks a missing value.

    ``labels`` (n,) index ``treatments``; ``blocks`` (n,) are integers, and ``structure`` tells what else the layout has.
    With ``control`` only its pairs are adjusted for.  A column of kind ``event`` holds how long each sample was without it; its ``spans``
    (by column) give the log-rank scores that are tested.
    """
    laid_out = structure or Structure.plain(blocks)
    present = ~np.isnan(values)
    patterns: dict[bytes, list[int]] = {}
    for j in range(values.shape[1]):
        patterns.setdefault(present[:, j].tobytes(), []).append(j)
    found: dict[int, Comparison] = {}
    for members in patterns.values():
        rows = present[:, members[0]]
        part = _Together(
            values[rows][:, members],
            [columns[j] for j in members],
            labels[rows],
            treatments,
            laid_out.kept(rows),
            alpha,
            {i: spans[j].kept(rows) for i, j in enumerate(members) if spans and j in spans},
        )
        found.update(zip(members, part.compared(rng, control), strict=True))
    return [found[j] for j in range(values.shape[1])]


def _with_p(tests: PairTests, ranked: Flags, p: Floats) -> PairTests:
    """``tests`` with the p of its ``ranked`` columns (c,) taken from ``p``."""
    new = tests.p.copy()
    new[ranked] = p
    return replace(tests, p=new)


def _known(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


@dataclass(frozen=True)
class _Together:
    """Columns without gaps over the same samples."""

    values: Floats
    columns: list[Column]
    labels: Ints
    treatments: Sequence[str]
    structure: Structure
    alpha: float
    spans: Mapping[int, Spans]

    @property
    def blocks(self) -> Ints:
        """The blocks (n,)."""
        return self.structure.blocks

    def compared(self, rng: np.random.Generator, control: int | None) -> list[Comparison]:
        present = np.unique(self.labels)
        scores = self._with_events(self._scores(self.values), np.ones(len(self.labels), dtype=np.bool_))
        overall: list[Overall] | list[None] = [None] * len(self.columns)
        if len(present) > 1 and len(self.labels) > len(present):
            overall = overall_test(scores, self.labels, self.structure, rng)
        pairs = [(int(a), int(b), self._pair(int(a), int(b), rng)) for a, b in combinations(present, 2)]
        means = treatment_means(self.values, self.labels, self.blocks, len(self.treatments), self.alpha)
        places = np.zeros((len(self.treatments), len(self.columns)))
        if len(present):
            turned_up = np.column_stack([worth(self.values[:, j], c) for j, c in enumerate(self.columns)])
            places = first_places(turned_up, self.labels, self.blocks, len(self.treatments), rng)
        return [
            Comparison(
                column=column,
                n=len(self.labels),
                overall=overall[j],
                treatments=tuple(self._estimate(means, t, j) for t in range(len(self.treatments))),
                pairs=self._pairs_of(j, pairs, control),
                first_places=tuple(places[:, j].tolist()),
            )
            for j, column in enumerate(self.columns)
        ]

    def _scores(self, values: Floats) -> Floats:
        """The values tested: grades as their mid-ranks."""
        scores = values.copy()
        if self._ranked.any() and len(scores):
            scores[:, self._ranked] = rankdata(scores[:, self._ranked], axis=0)
        return scores

    def _with_events(self, values: Floats, rows: Flags) -> Floats:
        """``values`` (n, c) with log-rank scores among ``rows`` (n,) in place of the times of events."""
        found = values.copy()
        for j, own in self.spans.items():
            found[rows, j] = log_rank_scores(own.kept(rows))
        return found

    @property
    def _ranked(self) -> Flags:
        return np.array([column.kind == "grade" for column in self.columns])

    @property
    def _scored(self) -> Flags:
        """Columns whose p comes from scores, while their difference is told in their own unit."""
        return np.array([column.kind == "grade" or j in self.spans for j, column in enumerate(self.columns)])

    def _pair(self, a: int, b: int, rng: np.random.Generator) -> PairTests:
        if self.structure.complete_squares(self.labels):
            return self._square_pair(a, b, rng)
        units = units_of(self.structure, self.values, self.labels, a, b)
        scored = self._scored
        # A grade's p comes from mid-ranks, an event's from log-rank scores; difference and interval are told in their own unit, by the
        # same test on them.
        if scored.any():
            rows = (self.labels == a) | (self.labels == b)
            kept = both_present(units.in_a, units.blocks)
            seed = int(rng.integers(2**63))
            plain = pair_tests(units.values, units.in_a, units.blocks, np.random.default_rng(seed), alpha=self.alpha)
            scores = units_of(self.structure, self._with_events(self.values, rows), self.labels, a, b).values.copy()
            scores[kept] = self._scores(scores[kept])
            tested = pair_tests(
                scores[:, scored],
                units.in_a,
                units.blocks,
                np.random.default_rng(seed),
                alpha=self.alpha,
                intervals=False,
            )
            return _with_p(plain, scored, tested.p)
        return pair_tests(units.values, units.in_a, units.blocks, rng, alpha=self.alpha)

    def _square_pair(self, a: int, b: int, rng: np.random.Generator) -> PairTests:
        seed = int(rng.integers(2**63))

        def tested(values: Floats) -> PairTests:
            drawn = np.random.default_rng(seed)
            return square_pair_tests(values, self.labels, self.structure, a, b, drawn, alpha=self.alpha)

        plain, scored = tested(self.values), self._scored
        if not scored.any():
            return plain
        scores = self._with_events(self._scores(self.values), np.ones(len(self.labels), dtype=np.bool_))
        return _with_p(plain, scored, tested(scores[:, scored]).p)

    def _pairs_of(self, j: int, pairs: list[tuple[int, int, PairTests]], control: int | None) -> tuple[Pair, ...]:
        family = [i for i, (a, b, _) in enumerate(pairs) if control is None or control in (a, b)]
        adjusted = dict(zip(family, holm([float(pairs[i][2].p[j]) for i in family]), strict=True))
        return tuple(self._pair_of(j, a, b, tests, adjusted.get(i)) for i, (a, b, tests) in enumerate(pairs))

    def _pair_of(self, j: int, a: int, b: int, tests: PairTests, adjusted: float | None) -> Pair:
        ours, theirs = self.values[self.labels == a, j], self.values[self.labels == b, j]
        low, high = _known(tests.low[j]), _known(tests.high[j])
        if self.columns[j].kind == "passfail" and not self.structure.between_plots(self.labels, a, b):
            low, high = newcombe(ours.sum(), len(ours), theirs.sum(), len(theirs), self.alpha)
        return Pair(
            a=self.treatments[a],
            b=self.treatments[b],
            difference=float(tests.difference[j]),
            low=low,
            high=high,
            p=float(tests.p[j]),
            p_adjusted=adjusted,
            method="exact" if tests.exact else "draws",
            arrangements=tests.arrangements,
            chance=chance_to_beat(ours, theirs),
        )

    def _estimate(self, means: Means, t: int, j: int) -> Estimate:
        column = self.columns[j]
        own = self.values[self.labels == t, j]
        low, high = _known(means.low[t, j]), _known(means.high[t, j])
        if column.kind == "passfail" and len(own):
            low, high = wilson(float(own.sum()), len(own), self.alpha)
        elif column.ends is not None and low is not None and high is not None:
            low, high = max(low, column.ends[0]), min(high, column.ends[1])
        return Estimate(self.treatments[t], len(own), _known(means.estimate[t, j]), low, high)
