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

from fieldtally.core.compare.arrays import Flags, Floats, Ints

ROUNDS, SETTLED, TICK = 2_000, 1e-9, 1e-9
RESAMPLES = 1_000


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
    chance = np.full(len(ends), 1 / len(ends))
    for _ in range(ROUNDS):
        part = inside * chance
        new = (part / part.sum(axis=1, keepdims=True)).mean(axis=0)
        moved = float(np.abs(new - chance).max())
        chance = new
        if moved < SETTLED:
            break
    return ends, chance


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


@dataclass(frozen=True)
class EventCourse:
    """One treatment's samples: how many had the event of how many, the share still without it at ``times``, and the median time with its
    interval; None where it was not reached."""

    treatment: str
    n: int
    seen: int
    times: tuple[float, ...]
    share: tuple[float, ...]
    median: float | None
    low: float | None
    high: float | None


def event_course(treatment: str, spans: Spans, rng: np.random.Generator, alpha: float = 0.05) -> EventCourse:
    """The course of one treatment; at least one sample.  The interval of the median is that of ``RESAMPLES`` bootstraps (percentiles;
    Efron 1981, J. Am. Stat. Assoc. 76:312)."""
    found = staying(spans)
    medians = np.sort(_medians(spans, rng))
    low, high = (
        float(medians[min(len(medians) - 1, max(0, round(share * (len(medians) - 1))))])
        for share in (alpha / 2, 1 - alpha / 2)
    )
    return EventCourse(
        treatment,
        len(spans.left),
        int(spans.seen.sum()),
        tuple(found.times.tolist()),
        tuple(found.share.tolist()),
        found.median(),
        low if np.isfinite(low) else None,
        high if np.isfinite(high) else None,
    )


def _medians(spans: Spans, rng: np.random.Generator) -> Floats:
    """Medians of resamples, infinite where they were not reached; by Kaplan and Meier's product over the right ends."""
    n = len(spans.left)
    times = np.unique(spans.right[spans.seen])
    if not len(times):
        return np.full(1, np.inf)
    weight = rng.multinomial(n, np.full(n, 1 / n), size=RESAMPLES).astype(np.float64)
    event = spans.seen[:, None] & (spans.right[:, None] == times)
    until = np.where(spans.seen, spans.right, spans.left)
    risk = weight @ (until[:, None] >= times - 1e-12).astype(np.float64)
    died = weight @ event.astype(np.float64)
    with np.errstate(divide="ignore", invalid="ignore"):
        stays = np.cumprod(np.where(risk > 0, 1 - died / risk, 1.0), axis=1)
    below = stays <= 0.5 + 1e-9
    return np.where(below.any(axis=1), times[below.argmax(axis=1)], np.inf)


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
