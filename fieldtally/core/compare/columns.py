"""Compare all columns of a trial at once: an outcome at a checkpoint each.

What orders the treatments of a column is what is tested, what is bounded and what is told: values where they are measured, counted or
passed,
mid-ranks of grades, log-rank scores of events and ladders (:mod:`.scores`).  Comparisons that are laid out alike are tested together, also
where samples are missing (:mod:`.stacks`).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import combinations
from typing import Literal

import numpy as np

from fieldtally.core.compare.arrays import Flags, Floats, Ints
from fieldtally.core.compare.beating import Beating, chance_to_beat, chances
from fieldtally.core.compare.events import EventCourse, Spans, common_end, event_course, restricted
from fieldtally.core.compare.holm import holm
from fieldtally.core.compare.means import Means, treatment_means
from fieldtally.core.compare.overall import Overall, overall_test, overall_tests
from fieldtally.core.compare.pairs import PairTests, pair_tests
from fieldtally.core.compare.piled import Pile, farthest, mean_between, reach_between
from fieldtally.core.compare.rates import newcombe, wilson
from fieldtally.core.compare.reference import DRAWS, MOST_ENUMERATED, Reference
from fieldtally.core.compare.scores import block_log_rank, block_ranks
from fieldtally.core.compare.squares import square_pair_tests
from fieldtally.core.compare.stacks import Entry, Layout, Seats, laid_out, stacked
from fieldtally.core.compare.structure import Structure, units_of
from fieldtally.core.kinds import Kind
from fieldtally.core.scales import (
    CountScale,
    EventScale,
    GradeScale,
    LadderScale,
    PassFailScale,
    PercentScale,
    Scale,
)

FEW_GAPS = 0.05
"""A pair that lacks no more than this share of its samples is drawn with them: what labels the lost ones are given then moves its
numbers by less than draws can show."""
FEWEST, FEWEST_IN_BLOCKS = 3, 2
"""So many on each side a claim takes, and so many where they are compared inside blocks or pairs."""


def compared_as(scale: Scale) -> Kind:
    """How values on ``scale`` are compared: grades by their order, ladders as events by log-rank scores, events seen by a look as passes
    are, all other numbers as measurements."""
    match scale:
        case GradeScale():
            return "grade"
        case LadderScale():
            return "ladder"
        case PassFailScale() | EventScale():
            return "passfail"
        case CountScale():
            return "count"
        case PercentScale():
            return "percent"
        case _:
            return "measurement"


References = dict[int, Reference]
"""The reference sets of comparisons that share their draws, by seed."""


@dataclass(frozen=True)
class Column:
    """What a column of values is: its kind, which way is better, and the ends of its scale where it has any."""

    kind: Kind
    better: Literal["more", "less"] = "more"
    ends: tuple[float, float] | None = None
    of: Literal["value", "change", "distance"] = "value"
    """What its values are: readings, differences between two looks, or how far they lie from a target."""

    @property
    def timed(self) -> bool:
        """Whether it is tested by log-rank scores."""
        return self.kind in ("event", "ladder")

    @property
    def by_scores(self) -> bool:
        """Whether what orders and tests it are ranks or log-rank scores, and not its values."""
        return self.timed or self.kind == "grade"


@dataclass(frozen=True)
class Estimate:
    """One treatment's ``n`` samples, its estimate (mean, share passed, restricted mean) and interval; None where it cannot be known.

    ``median``: the middle grade, or the time (load) by which half had it; ``least`` and ``most``: the smallest and largest value;
    ``worth``: what orders the treatments, higher better."""

    treatment: str
    n: int
    estimate: float | None
    low: float | None
    high: float | None
    median: float | None = None
    least: float | None = None
    most: float | None = None
    worth: float | None = None
    seen: int | None = None
    """How many had the event, or gave way."""


@dataclass(frozen=True)
class Pair:
    """``a`` against ``b``: ``difference`` is a − b in the scale's unit, with its interval; ``p`` its own,
    ``p_adjusted`` Holm's; ``chance`` that a sample of a has the higher value, for grades with its interval; None where it cannot be known.

    ``favours`` names the one whose way the tested effect points, None where it points neither way.  ``n_a``, ``n_b``: what is compared on
    each side, in ``blocks`` blocks that hold both.
    """

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
    favours: str | None = None
    chance_low: float | None = None
    chance_high: float | None = None
    n_a: int = 0
    n_b: int = 0
    blocks: int = 1
    effect: float | None = None
    """What is tested, in standard deviations inside treatment and block."""

    @property
    def few(self) -> bool:
        """Whether a side has too few samples for a claim."""
        return min(self.n_a, self.n_b) < (FEWEST_IN_BLOCKS if self.blocks > 1 else FEWEST)


@dataclass(frozen=True)
class Comparison:
    """All that is found in one column; ``courses`` of events and ladders by treatment."""

    column: Column
    n: int
    overall: Overall | None
    treatments: tuple[Estimate, ...]
    pairs: tuple[Pair, ...]
    courses: tuple[EventCourse, ...] = ()

    def pair(self, a: str, b: str) -> Pair | None:
        """The pair ``a`` against ``b``, whichever way round it was computed."""
        pair = self._by_names.get((a, b))
        other = self._by_names.get((b, a)) if pair is None else None
        return turned(other) if other is not None else pair

    @cached_property
    def _by_names(self) -> dict[tuple[str, str], Pair]:
        return {(pair.a, pair.b): pair for pair in self.pairs}


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
        chance_low=None if pair.chance_high is None else 1 - pair.chance_high,
        chance_high=None if pair.chance_low is None else 1 - pair.chance_low,
        n_a=pair.n_b,
        n_b=pair.n_a,
        effect=None if pair.effect is None else -pair.effect,
    )


def worth(values: Floats, column: Column) -> Floats:
    """``values`` turned so that higher is better."""
    return values if column.better == "more" else -values


def compare_columns(  # noqa: PLR0913 - options, each by its name
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
    intervals: bool = True,
    most: int = MOST_ENUMERATED,
    draws: int = DRAWS,
    references: References | None = None,
) -> list[Comparison]:
    """One :class:`Comparison` for each column of ``values`` (n, c); NaN marks a missing value.

    ``labels`` (n,) index ``treatments``; ``blocks`` (n,) are integers, and ``structure`` tells what else the layout has.
    With ``control`` only its pairs are adjusted for.  A column of kind ``event`` or ``ladder`` holds how long (how much) each sample was
    known to do without; its ``spans`` (by column) say between which looks (steps) it happened; without them it happened there.
    Without ``intervals`` differences are not bounded and nothing is tested overall; of arrangements ``most`` are enumerated, else ``draws``
    drawn.  ``references`` are those of comparisons of the same samples, whose draws are taken again.
    """
    seed = int(rng.integers(2**63))
    reference = Reference(seed, most=most, draws=draws)
    if references is not None:
        reference = references.setdefault(seed, reference)
    whole = _Whole(
        values,
        list(columns),
        labels,
        treatments,
        structure or Structure.plain(blocks),
        alpha,
        {j: (spans or {}).get(j) or _exactly(values[:, j]) for j, column in enumerate(columns) if column.timed},
        reference,
        intervals,
    )
    found = whole.compared(rng, control)
    if references is None:
        reference.forget()
    return found


def _exactly(times: Floats) -> Spans:
    """Events at just these times, NaN where missing."""
    return Spans(times - 1e-9 * np.maximum(1.0, np.abs(times)), times)


def _known(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


@dataclass(frozen=True)
class _Entry:
    """Comparisons of one pair that miss the same samples: which columns, and their samples in the order of a layout."""

    pair: int
    columns: tuple[int, ...]
    layout: Layout
    rows: Ints
    values: Floats
    seats: Seats | None


def _in_layout(inside: Ints, second: Flags, rows: Flags, blocks: int) -> tuple[Layout, Ints]:
    """The layout of some ``rows`` (n,) in blocks that hold both treatments, and its rows in order; rows run block by block, and inside a
    block the first treatment before the ``second``."""
    counts = np.bincount(2 * inside[rows] + second[rows], minlength=2 * blocks).reshape(-1, 2)
    both = np.flatnonzero((counts > 0).all(axis=1))
    both = both[np.lexsort(counts[both].T[::-1])]
    rank = np.full(blocks, -1)
    rank[both] = np.arange(len(both))
    at = np.flatnonzero(rows & (rank[inside] >= 0))
    return tuple((int(n), int(m)) for n, m in counts[both]), at[np.argsort(rank[inside[at]], kind="stable")]


@dataclass
class _Pairs:
    """What is known of every pair in every column, (p · c,) each."""

    told: PairTests
    p: Floats
    way: Ints
    welch: Flags
    effect: Floats
    beating: Beating
    layouts: dict[int, Layout]


@dataclass
class _Whole:
    """All columns over all samples."""

    values: Floats
    columns: list[Column]
    labels: Ints
    treatments: Sequence[str]
    structure: Structure
    alpha: float
    spans: Mapping[int, Spans]
    reference: Reference
    intervals: bool

    def compared(self, rng: np.random.Generator, control: int | None) -> list[Comparison]:
        known = ~np.isnan(self.values)
        pairs = [(int(a), int(b)) for a, b in combinations(np.unique(self.labels[known.any(axis=1)]), 2)]
        tests = self._tests(pairs, rng)
        means = treatment_means(
            self.told,
            self.labels,
            self.blocks,
            len(self.treatments),
            self.alpha,
            intervals=self.intervals,
            skewed=np.array([c.kind == "event" or (c.kind == "count" and c.ends is None) for c in self.columns]),
        )
        order = means.estimate.copy()
        scored = [j for j, column in enumerate(self.columns) if column.by_scores]
        if scored:
            ordering = treatment_means(
                self.scores[:, scored], self.labels, self.blocks, len(self.treatments), intervals=False
            )
            order[:, scored] = ordering.estimate
        overall = self._overall(rng) if self.intervals else [None] * len(self.columns)
        of = [np.flatnonzero(self.labels == t) for t in range(len(self.treatments))]
        found = []
        for j, column in enumerate(self.columns):
            counted = known[:, j]
            courses = self._courses(j) if self.intervals and column.timed else {}
            own = {t: self.values[of[t], j][counted[of[t]]] for t in range(len(self.treatments))}
            piles = _Piles.of_values({t: one for t, one in own.items() if len(one)}, column)
            estimates = tuple(
                self._estimate(means, order, t, j, own[t], courses.get(t), piles) for t in range(len(self.treatments))
            )
            pairs_found = self._pairs_of(j, pairs, tests, control, piles)
            found.append(
                Comparison(column, int(counted.sum()), overall[j], estimates, pairs_found, tuple(courses.values()))
            )
        return found

    @property
    def blocks(self) -> Ints:
        """The blocks (n,)."""
        return self.structure.blocks

    @cached_property
    def told(self) -> Floats:
        """The values (n, c) that estimates and differences are told in: of events how long each was without, up to the common end."""
        found = self.values.copy()
        for j, spans in self.spans.items():
            rows = ~np.isnan(self.values[:, j])
            if self.columns[j].kind == "event" and rows.any():
                own, labels = spans.kept(rows), self.labels[rows]
                found[rows, j] = restricted(own, labels, common_end(own, labels))
        return found

    @cached_property
    def scores(self) -> Floats:
        """What is tested overall and orders the treatments (n, c): values, ranks or log-rank scores inside blocks."""
        found = self.values.copy()
        for j, column in enumerate(self.columns):
            rows = np.flatnonzero(~np.isnan(self.values[:, j]))
            if not len(rows):
                continue
            if column.timed:
                found[rows, j] = block_log_rank(self.spans[j].kept(rows), self.structure.ranked_in[rows])
            elif column.kind == "grade":
                layout, order = laid_out(np.zeros(len(rows), dtype=np.int64), self.structure.ranked_in[rows], 1)
                found[rows[order], j] = block_ranks(self.values[rows[order], j][:, None], layout)[:, 0]
        return found

    def _courses(self, j: int) -> dict[int, EventCourse]:
        rows = ~np.isnan(self.values[:, j])
        if not rows.any():
            return {}
        end = common_end(self.spans[j].kept(rows), self.labels[rows])
        found = {}
        for t, name in enumerate(self.treatments):
            own = rows & (self.labels == t)
            if own.any():
                found[t] = event_course(name, self.spans[j].kept(own), end, self.alpha)
        return found

    def _overall(self, rng: np.random.Generator) -> list[Overall | None]:
        if self.structure.kind == "plain":
            return overall_tests(self.scores, self.labels, self.blocks, self.reference)
        found: list[Overall | None] = [None] * len(self.columns)
        for rows, members in self._patterns(self.values):
            labels = self.labels[rows]
            kinds = len(np.unique(labels))
            if kinds < 2 or len(labels) <= kinds:
                continue
            tested = overall_test(self.scores[rows][:, members], labels, self.structure.kept(rows), rng)
            for j, told in zip(members, tested, strict=True):
                found[j] = told
        return found

    @staticmethod
    def _patterns(values: Floats) -> Iterator[tuple[Flags, list[int]]]:
        """Columns (numbers) that miss the same rows, and the rows (n,) that they have."""
        present = ~np.isnan(values)
        found: dict[bytes, list[int]] = {}
        for j in range(values.shape[1]):
            found.setdefault(present[:, j].tobytes(), []).append(j)
        for members in found.values():
            yield present[:, members[0]], members

    def _tests(self, pairs: Sequence[tuple[int, int]], rng: np.random.Generator) -> _Pairs:
        many, wide = len(pairs) * len(self.columns), len(self.columns)
        entries = [one for i, (a, b) in enumerate(pairs) for one in self._entries(i, a, b)]
        told = pair_tests(
            stacked((one.layout, one.values, [one.pair * wide + j for j in one.columns], one.seats) for one in entries),
            many,
            self.reference,
            alpha=self.alpha,
            intervals=self.intervals,
        )
        scored = pair_tests(stacked(self._scored(entries, pairs)), many, self.reference, intervals=False)
        nothing = np.full(many, np.nan)
        found = _Pairs(
            told,
            told.p.copy(),
            told.way.copy(),
            told.welch.copy(),
            told.effect.copy(),
            Beating(np.full(many, 0.5), nothing, nothing.copy()),
            {one.pair * wide + j: one.layout for one in entries for j in one.columns},
        )
        tested = np.array([column.by_scores for column in self.columns] * len(pairs), dtype=np.bool_)
        for name in ("p", "way", "welch", "effect"):
            getattr(found, name)[tested] = getattr(scored, name)[tested]
        self._beaten(entries, pairs, found.beating)
        if self.structure.kind == "latin":
            self._by_squares(pairs, found, rng)
        return found

    def _beaten(self, entries: Sequence[_Entry], pairs: Sequence[tuple[int, int]], beating: Beating) -> None:
        """Write into ``beating`` how often the first beats the second, for grades with an interval."""
        wide = len(self.columns)
        grades = np.array([column.kind == "grade" for column in self.columns])
        whole = set()
        if not grades.all():
            for i, (a, b) in enumerate(pairs):
                units = units_of(self.structure, self.told[:, ~grades], self.labels, a, b)
                told = chances(units.values, units.in_a, units.blocks)
                if told is not None:
                    whole.add(i)
                    beating.chance[i * wide + np.flatnonzero(~grades)] = told
        chosen: dict[bool, list[Entry]] = {True: [], False: []}
        for one in entries:
            for ranked in (True, False):
                some = [k for k, j in enumerate(one.columns) if grades[j] == ranked]
                if some and (ranked or one.pair not in whole):
                    of = [one.pair * wide + one.columns[k] for k in some]
                    chosen[ranked].append((one.layout, one.values[:, some], of, None))
        for ranked, members in chosen.items():
            for stack in stacked(members):
                found = chance_to_beat(stack.values, stack.layout, self.alpha, intervals=ranked and self.intervals)
                at = np.array(stack.of)
                beating.chance[at], beating.low[at], beating.high[at] = found.chance, found.low, found.high

    def _entries(self, i: int, a: int, b: int) -> Iterator[_Entry]:
        """The comparisons of a pair in all columns that hold a block with both."""
        units = units_of(self.structure, self.told, self.labels, a, b)
        names, inside = np.unique(units.blocks, return_inverse=True)
        # Block by block, and inside it the first treatment before the second: what is left of that order is in order.
        by = np.lexsort((~units.in_a, inside))
        inside, second, values = inside[by], (~units.in_a)[by], units.values[by]
        whole, seated = _in_layout(inside, second, np.ones(len(by), dtype=np.bool_), len(names))
        seat = np.full(len(by), -1)
        seat[seated] = np.arange(len(seated))
        for rows, members in self._patterns(values):
            layout, at = _in_layout(inside, second, rows, len(names))
            if not layout:
                continue
            seats = None
            if (
                len(at) < len(seated)
                and len(layout) == len(whole)
                and len(seated) - len(at) <= FEW_GAPS * len(seated)
                and self.reference.draws_alike(layout, whole)
            ):
                seats = Seats(whole, seat[at])
            yield _Entry(i, tuple(members), layout, by[at], values[at][:, members], seats)

    def _scored(self, entries: Sequence[_Entry], pairs: Sequence[tuple[int, int]]) -> Iterator[Entry]:
        """The comparisons that are tested by scores."""
        wide = len(self.columns)
        for one in entries:
            a, b = pairs[one.pair]
            ranked = [k for k, j in enumerate(one.columns) if self.columns[j].kind == "grade"]
            if ranked:
                of = [one.pair * wide + one.columns[k] for k in ranked]
                yield one.layout, block_ranks(one.values[:, ranked], one.layout), of, one.seats
            for j in one.columns:
                if self.columns[j].timed:
                    yield one.layout, self._log_rank(j, a, b)[one.rows][:, None], [one.pair * wide + j], one.seats

    def _log_rank(self, j: int, a: int, b: int) -> Floats:
        """Log-rank scores of the units on which ``a`` and ``b`` are compared, NaN where missing."""
        scores = np.full(len(self.labels), np.nan)
        rows = np.flatnonzero(((self.labels == a) | (self.labels == b)) & ~np.isnan(self.values[:, j]))
        units = units_of(self.structure, self.values[:, [j]], self.labels, a, b)
        whole_plots = self.structure.between_plots(self.labels, a, b)
        inside = self.blocks[rows] if whole_plots else units.blocks[~np.isnan(units.values[:, 0])]
        scores[rows] = block_log_rank(self.spans[j].kept(rows), inside)
        return units_of(self.structure, scores[:, None], self.labels, a, b).values[:, 0]

    def _by_squares(self, pairs: Sequence[tuple[int, int]], found: _Pairs, rng: np.random.Generator) -> None:
        """Columns without a gap in their squares are tested by what the squares could have been."""
        wide, seed = len(self.columns), int(rng.integers(2**63))
        for rows, members in self._patterns(self.values):
            labels, structure = self.labels[rows], self.structure.kept(rows)
            if not structure.complete_squares(labels):
                continue
            told, scores = self.told[rows][:, members], self.scores[rows][:, members]
            for i, (a, b) in enumerate(pairs):
                of = np.array([i * wide + j for j in members])

                def tested(values: Floats, pair: tuple[int, int] = (a, b)) -> PairTests:
                    drawn = np.random.default_rng(seed)
                    return square_pair_tests(values, labels, structure, *pair, drawn, alpha=self.alpha)  # noqa: B023

                plain = tested(told)
                by = plain if (scores == told).all() else tested(scores)
                for name in ("difference", "low", "high", "exact", "arrangements"):
                    getattr(found.told, name)[of] = getattr(plain, name)
                for name in ("p", "way", "welch", "effect"):
                    getattr(found, name)[of] = getattr(by, name)

    def _pairs_of(
        self, j: int, pairs: Sequence[tuple[int, int]], tests: _Pairs, control: int | None, piles: _Piles
    ) -> tuple[Pair, ...]:
        wide = len(self.columns)
        there = [i for i, (a, b) in enumerate(pairs) if a in piles.of and b in piles.of]
        family = [i for i in there if control is None or control in pairs[i]]
        adjusted = dict(zip(family, holm([float(tests.p[i * wide + j]) for i in family]), strict=True))
        return tuple(self._pair_of(j, i * wide + j, pairs[i], tests, adjusted.get(i), piles) for i in there)

    def _pair_of(
        self, j: int, at: int, pair: tuple[int, int], tests: _Pairs, adjusted: float | None, piles: _Piles
    ) -> Pair:
        a, b = pair
        ours, theirs = piles.of[a], piles.of[b]
        column, told, layout = self.columns[j], tests.told, tests.layouts.get(at, ())
        low, high = _known(told.low[at]), _known(told.high[at])
        difference = float(told.difference[at])
        if not layout:
            means = [float(np.nanmean(self.told[self.labels == t, j])) for t in pair]
            difference = means[0] - means[1]
        n_a, n_b = (sum(counts[side] for counts in layout) for side in (0, 1))
        if min(ours.n, theirs.n) < 2:
            # Nothing about spread is known from one sample.
            low = high = None
        elif column.kind == "passfail" and self.intervals:
            # Of treatments on different whole plots each plot counts as one.
            plots = self.structure.between_plots(self.labels, a, b)
            numbers = (n_a, n_b) if plots and layout else (ours.n, theirs.n)
            passed = [
                float(np.nanmean(self.values[self.labels == t, j])) * n for t, n in zip(pair, numbers, strict=True)
            ]
            under, over = newcombe(passed[0], numbers[0], passed[1], numbers[1], self.alpha)
            if not plots:
                low, high = under, over
            elif low is not None and high is not None:
                low, high = min(low, under), max(high, over)
        elif piles.off and low is not None and high is not None:
            reach = reach_between(ours, theirs, piles.off, self.alpha)
            low, high = min(low, difference - reach), max(high, difference + reach)
        way = int(tests.way[at]) * (1 if column.better == "more" else -1)
        ranked = column.kind == "grade" and min(ours.n, theirs.n) > 1
        return Pair(
            a=self.treatments[a],
            b=self.treatments[b],
            difference=difference,
            low=low,
            high=high,
            p=float(tests.p[at]),
            p_adjusted=adjusted,
            method="welch" if tests.welch[at] else "exact" if told.exact[at] else "draws",
            arrangements=int(told.arrangements[at]),
            chance=float(tests.beating.chance[at]),
            favours=None if way == 0 else self.treatments[a if way > 0 else b],
            chance_low=_known(tests.beating.low[at]) if ranked else None,
            chance_high=_known(tests.beating.high[at]) if ranked else None,
            n_a=n_a,
            n_b=n_b,
            blocks=len(layout),
            effect=_known(tests.effect[at]),
        )

    def _estimate(
        self,
        means: Means,
        order: Floats,
        t: int,
        j: int,
        own: Floats,
        course: EventCourse | None,
        piles: _Piles,
    ) -> Estimate:
        column = self.columns[j]
        if not len(own):
            return Estimate(self.treatments[t], 0, None, None, None)
        pile = piles.of[t]
        low, high = _known(means.low[t, j]), _known(means.high[t, j])
        if column.kind == "passfail" and len(own) > 1:
            low, high = wilson(float(own.sum()), len(own), self.alpha)
        elif column.ends is not None and len(own) > 1:
            if pile.piled and piles.off:
                under, over = mean_between(pile, piles.off, column.ends, self.alpha)
                low, high = (under, over) if low is None or high is None else (min(low, under), max(high, over))
            if low is not None and high is not None:
                low, high = max(low, column.ends[0]), min(high, column.ends[1])
        middle = float(np.median(own)) if column.kind == "grade" else None if course is None else course.median
        turn = 1 if column.better == "more" else -1
        return Estimate(
            self.treatments[t],
            len(own),
            _known(means.estimate[t, j]),
            low,
            high,
            middle,
            pile.value - pile.below,
            pile.value + pile.above,
            None if np.isnan(order[t, j]) else turn * float(order[t, j]),
            None if course is None else course.seen,
        )


@dataclass(frozen=True)
class _Piles:
    """How the values of each treatment (number) are piled, and how far off a value that differs may be (0: nothing is bounded so)."""

    of: dict[int, Pile]
    off: float

    @classmethod
    def of_values(cls, own: Mapping[int, Floats], column: Column) -> _Piles:
        """The piles of a column's values, by treatment."""
        found = {t: Pile.of(values) for t, values in own.items()}
        bounded = column.ends is not None and column.kind != "passfail"
        return cls(found, farthest(list(found.values()), column.ends) if bounded and column.ends else 0.0)
