"""Events of which only is known between which looks they happened: how long samples stay without one, and log-rank scores.

The share still without the event is the non-parametric maximum likelihood estimate of Turnbull 1976 (J. R. Stat. Soc. B 38:290), which is
Kaplan and Meier's where events are known exactly.  Scores are those of Sun 1996 (Stat. Med. 15:1387) as Fay & Shaw 2010 (J. Stat. Softw.
36(2)) write them,

    c = [S(R)Λ(R) − S(L)Λ(L)] / [S(L) − S(R)],    Λ summed from p/at risk,

whose sum over a treatment is, where events are known exactly, the observed less the expected number of the log-rank test.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.special import betaincinv

from fieldtally.core.compare.arrays import Flags, Floats, Ints

ROUNDS, SETTLED, TICK = 2_000, 1e-9, 1e-9


@dataclass(frozen=True)
class Spans:
    """For each sample (n,) the time after which, and the time up to which, the event happened: ``left`` < t ≤ ``right``; ``right`` is
    infinite where it was never seen."""

    left: Floats
    right: Floats

    def kept(self, rows: Flags | Ints) -> Spans:
        """Those of some samples."""
        return Spans(self.left[rows], self.right[rows])

    @property
    def seen(self) -> Flags:
        """Which samples had it."""
        return np.isfinite(self.right)

    @property
    def without(self) -> Floats:
        """How long each is known, or taken, to have been without it: to the middle of its span, or to its last look."""
        ends = np.where(self.seen, (self.left + np.where(self.seen, self.right, 0)) / 2, self.left)
        return np.asarray(ends, dtype=np.float64)


@dataclass(frozen=True)
class Staying:
    """The share ``share`` (m,) still without the event from each of ``times`` (m,) on."""

    times: Floats
    share: Floats

    def median(self) -> float | None:
        """The first time at which half or fewer are without it; None where that was not reached."""
        below = np.flatnonzero(self.share <= 0.5 + 1e-9)
        return float(self.times[below[0]]) if len(below) else None


def staying(spans: Spans) -> Staying:
    """The share still without the event over time; at least one sample.

    >>> found = staying(Spans(np.array([0.0, 1.0, 2.0, 3.0]), np.array([1.0, 2.0, 3.0, np.inf])))
    >>> found.times.tolist(), [round(float(one), 2) for one in found.share]
    ([1.0, 2.0, 3.0], [0.75, 0.5, 0.25])
    """
    ends, chance = _npmle(spans)
    finite = np.isfinite(ends)
    return Staying(ends[finite], np.clip(1 - np.cumsum(chance)[finite], 0, 1))


def _cells(spans: Spans) -> tuple[Floats, Floats]:
    """Turnbull's innermost intervals: begin at a left end, end at a right end, with neither between."""
    points = sorted({(float(one), 1) for one in spans.left} | {(float(one), 0) for one in spans.right})
    found = [(here[0], after[0]) for here, after in pairwise(points) if here[1] == 1 and after[1] == 0]
    # A right end at a left end's own time comes first: (1, 2] and (2, 3] do not overlap.
    starts, ends = zip(*found, strict=True)
    return np.array(starts), np.array(ends)


def _npmle(spans: Spans) -> tuple[Floats, Floats]:
    """The right ends (m,) of the cells, and the probability in each."""
    starts, ends = _cells(spans)
    inside = (spans.left[:, None] <= starts) & (ends <= spans.right[:, None])
    if (inside[spans.seen].sum(axis=1) == 1).all():
        return ends, _product_limit(inside, spans.seen)
    chance = np.full(len(ends), 1 / len(ends))
    for _ in range(ROUNDS):
        part = inside * chance
        new = (part / part.sum(axis=1, keepdims=True)).mean(axis=0)
        moved = float(np.abs(new - chance).max())
        chance = new
        if moved < SETTLED:
            break
    return ends, chance


def _product_limit(inside: Flags, seen: Flags) -> Floats:
    """The probability in each cell (m,) where each event lies in one cell alone: Kaplan and Meier's."""
    cells = inside.shape[1]
    first = np.argmax(inside, axis=1)
    died = np.bincount(first[seen], minlength=cells)
    # At risk in a cell: whose event comes in it or later, and who is watched beyond it.
    risk = np.cumsum(died[::-1])[::-1] + np.cumsum(np.bincount(first[~seen], minlength=cells + 1)[::-1])[::-1][1:]
    stays = np.cumprod(np.where(risk > 0, 1 - died / np.maximum(risk, 1), 1.0))
    chance = np.concatenate([[1.0], stays[:-1]]) - stays
    chance[-1] += stays[-1]
    return np.asarray(chance)


def log_rank_scores(spans: Spans) -> Floats:
    """A score (n,) for each sample: high where the event came early.

    >>> scores = log_rank_scores(Spans(np.array([0.0, 1.0, 2.0]), np.array([1.0, 2.0, np.inf])))
    >>> [round(float(one), 3) for one in scores]
    [0.667, 0.167, -0.833]
    """
    if not len(spans.left):
        return np.zeros(0)
    ends, chance = _npmle(spans)
    left = 1 - np.concatenate([[0.0], np.cumsum(chance)[:-1]])
    with np.errstate(divide="ignore", invalid="ignore"):
        hazard = np.where(left > 1e-12, np.minimum(1.0, chance / left), 0.0)
    hazard[~np.isfinite(ends)] = 0.0
    total, stays = np.cumsum(hazard), np.clip(1 - np.cumsum(chance), 0, 1)

    def at(times: Floats) -> tuple[Floats, Floats]:
        """S and Λ at ``times``: what lies in cells that ended by then."""
        place = np.searchsorted(ends, times, side="right") - 1
        s = np.where(place >= 0, stays[np.maximum(place, 0)], 1.0)
        cumulative = np.where(place >= 0, total[np.maximum(place, 0)], 0.0)
        return np.where(np.isinf(times), 0.0, s), cumulative

    s_left, l_left = at(spans.left)
    s_right, l_right = at(spans.right)
    gap = s_left - s_right
    with np.errstate(divide="ignore", invalid="ignore"):
        scores = (np.where(s_right > 0, s_right * l_right, 0.0) - s_left * l_left) / gap
    return np.where(gap > 1e-12, scores, -l_left)


def log_rank_on_grid(cells: Ints, looks: int) -> Floats:
    """Log-rank scores (n, e) of many trials at once, where all samples were looked at alike: ``cells`` (n, e) tell at which of ``looks``
    (0, 1, …) each had the event, ``looks`` where none did.

    >>> log_rank_on_grid(np.array([[0], [1], [2]]), 2)[:, 0].round(3).tolist()
    [0.667, 0.167, -0.833]
    """
    many = cells.shape[1]
    column = np.arange(many)
    died = np.zeros((looks + 1, many))
    for row in cells:
        died[row, column] += 1
    risk = np.cumsum(died[::-1], axis=0)[::-1]
    hazard = np.where(risk > 0, died / np.maximum(risk, 1), 0.0)[:looks]
    stays = np.concatenate([np.ones((1, many)), np.cumprod(1 - hazard, axis=0)])
    summed = np.concatenate([np.zeros((1, many)), np.cumsum(hazard, axis=0)])
    product = stays * summed
    gap = stays[:-1] - stays[1:]
    with np.errstate(divide="ignore", invalid="ignore"):
        scores = np.where(gap > 1e-12, (product[1:] - product[:-1]) / gap, 0.0)
    scores = np.concatenate([scores, -summed[-1:]])
    return np.asarray(scores[cells, column])


@dataclass(frozen=True)
class EventCourse:
    """One treatment's samples: how many had the event of how many, the share still without it at ``times``, and the median time with its
    interval; ``left`` of them without it at the common ``end``, with its interval.  None where it was not reached, or from one sample."""

    treatment: str
    n: int
    seen: int
    times: tuple[float, ...]
    share: tuple[float, ...]
    median: float | None
    low: float | None
    high: float | None
    end: float
    left: float
    left_low: float | None
    left_high: float | None


def event_course(treatment: str, spans: Spans, end: float, alpha: float = 0.05) -> EventCourse:
    """The course of one treatment, at least one sample, up to the common ``end``; intervals by :func:`staying_between`."""
    found = staying(spans)
    low = high = left_low = left_high = None
    if len(spans.left) > 1:
        times, lower, upper = staying_between(spans, alpha)
        can, must = np.flatnonzero(lower <= 0.5), np.flatnonzero(upper < 0.5)
        low = max(0.0, float(times[can[0]])) if len(can) else None
        high = float(times[must[0]]) if len(must) else None
        at = int(np.searchsorted(times, end, side="right")) - 1
        left_low, left_high = float(lower[at]), float(upper[at])
    until = np.flatnonzero(found.times <= end + TICK)
    left = float(found.share[until[-1]]) if len(until) else 1.0
    return EventCourse(
        treatment,
        len(spans.left),
        int(spans.seen.sum()),
        tuple(found.times.tolist()),
        tuple(found.share.tolist()),
        found.median(),
        low,
        high,
        end,
        left,
        left_low,
        left_high,
    )


def common_end(spans: Spans, labels: Ints) -> float:
    """The time up to which every treatment was followed: where some of a treatment were still without the event at their last look, the
    last of these looks; else the last event of all."""
    ends = []
    for label in np.unique(labels):
        own = spans.kept(labels == label)
        known = np.where(own.seen, own.right, own.left)
        last = float(known.max())
        if not own.seen[known >= last - TICK].all():
            ends.append(last)
    return min(ends) if ends else float(np.where(spans.seen, spans.right, spans.left).max())


def restricted(spans: Spans, labels: Ints, end: float) -> Floats:
    """How long each sample (n,) was without the event, up to ``end``: where it was followed so far just that, else its pseudo-value, n
    times
    its treatment's restricted mean less n − 1 times that of the others (Andersen, Hansen & Klein 2004, Lifetime Data Anal. 10:335)."""
    times = np.minimum(spans.without, end)
    short = ~spans.seen & (spans.left < end - TICK)
    found = times.astype(np.float64)
    for label in np.unique(labels[short]):
        own = np.flatnonzero(labels == label)
        n = len(own)
        whole = _restricted_mean(times[own], spans.seen[own], end)
        if n == 1:
            continue
        for i in range(n):
            others = np.delete(own, i)
            found[own[i]] = n * whole - (n - 1) * _restricted_mean(times[others], spans.seen[others], end)
    return found


def _restricted_mean(times: Floats, seen: Flags, end: float) -> float:
    """The area under Kaplan and Meier's curve up to ``end``."""
    at = np.unique(times[seen & (times < end)])
    risk = (times[:, None] >= at - TICK).sum(axis=0)
    died = ((np.abs(times[:, None] - at) <= TICK) & seen[:, None]).sum(axis=0)
    stays = np.concatenate([[1.0], np.cumprod(1 - died / np.maximum(risk, 1))])
    return float((stays * np.diff(np.concatenate([[0.0], at, [end]]))).sum())


def staying_between(spans: Spans, alpha: float = 0.05) -> tuple[Floats, Floats, Floats]:
    """From each of ``times`` (m,) on, the ends (m,) between which the share still without the event lies; the first time is minus infinity.

    The beta product confidence procedure of Fay, Brittain & Proschan 2013 (Biostatistics 14:723) by its two moments: Clopper and Pearson's
    interval where all are followed to the end, and never too narrow for few.  Events between looks are taken at the look that saw them.
    """
    until = np.where(spans.seen, spans.right, spans.left)
    order = np.lexsort((~spans.seen, until))
    until, seen = until[order], spans.seen[order]
    risk = len(until) - np.arange(len(until))
    own, square = np.ones(1), np.ones(1)
    if seen.any():
        at = risk[seen].astype(np.float64)
        own = np.concatenate([[1.0], np.cumprod(at / (at + 1))])
        square = np.concatenate([[1.0], np.cumprod(at / (at + 2))])
    times = np.concatenate([[-np.inf], until[seen]])
    # Of several events at one time the last tells how many are left.
    last = np.concatenate([times[1:] > times[:-1], [True]])
    times, own, square = times[last], own[last], square[last]
    left = np.array(
        [(until > time + TICK * max(1.0, abs(time))).sum() if np.isfinite(time) else len(until) for time in times]
    )
    upper = _beta(own, square, 1 - alpha / 2)
    lower = np.where(left > 0, _beta(own * left / (left + 1), square * left / (left + 2), alpha / 2), 0.0)
    return times, lower, upper


def _beta(mean: Floats, square: Floats, share: float) -> Floats:
    """The quantile of the beta distribution with these first two moments; 1 where it is all at 1."""
    spread = square - mean**2
    with np.errstate(divide="ignore", invalid="ignore"):
        total = mean * (1 - mean) / spread - 1
        found = betaincinv(mean * total, (1 - mean) * total, share)
    return np.where(spread <= 1e-15, 1.0, found)


def spans_of(series: Floats, times: Floats, start: float = 0.0) -> Spans:
    """The spans of samples looked at (n, l; 1 seen, 0 not yet, NaN not looked at) at ``times`` (l,), in order.

    A sample that was never looked at has NaN as its left end.

    >>> found = spans_of(np.array([[0.0, 1.0], [0.0, np.nan], [np.nan, 1.0]]), np.array([2.0, 5.0]))
    >>> found.left.tolist(), found.right.tolist()
    ([2.0, 2.0, 0.0], [5.0, inf, 5.0])
    """
    left, right = np.full(len(series), np.nan), np.full(len(series), np.inf)
    for i, row in enumerate(series):
        looked = ~np.isnan(row)
        if not looked.any():
            continue
        seen = np.flatnonzero(looked & (row >= 1.0))
        first = int(seen[0]) if len(seen) else len(row)
        before = np.flatnonzero(looked[:first])
        left[i] = times[before[-1]] if len(before) else start
        if len(seen):
            right[i] = times[first]
            # Seen at the very first moment: it came before, and nobody knows when.
            left[i] = min(left[i], right[i] - TICK)
    return Spans(left, right)
