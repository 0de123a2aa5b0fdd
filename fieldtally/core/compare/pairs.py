"""The pair test: does one treatment differ from another, and by how much?

Only the two treatments' own labels are shuffled, inside their blocks, so that a third treatment neither widens nor narrows
their difference.  Statistic: the Welch-studentised difference of the block-centred values,

    t = d / √(s²_a/n_a + s²_b/n_b),

and the plain difference d where there is no spread.  Two-sided: an arrangement counts when |t| is at least the observed.  Where the two
spreads differ plainly the larger of this p and Welch's is taken (:mod:`.welch`).

The interval holds every shift δ for which the same test, made after δ is taken off the first treatment, would not reject
at ``alpha`` (inverting the test).  For even numbers the condition on δ is solved for each arrangement at once: with S the
sum over the first treatment and x its centred indicator, |S − δS_x| ≥ |S₀ − δS_x₀| holds between
(S₀ − S)/(S_x₀ − S_x) and (S₀ + S)/(S_x₀ + S_x), and the ends of the interval are order statistics of these.
Otherwise δ is found by bisection.  Of many arrangements the first 4,000 draws find the ends; all of them decide on which side of 0 an end
lies, so that interval and p never contradict each other.

Sources: Ernst 2004 (Statist. Sci. 19:676) for permutation inference; Janssen 1997 (Statist. Probab. Lett. 36:9) for
studentising; Garthwaite 1996 (Biometrics 52:1387) for intervals by inversion.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from scipy.special import ndtri

from fieldtally.core.compare.arrays import Flags, Floats, Ints
from fieldtally.core.compare.blocks import both_present
from fieldtally.core.compare.reference import DRAWS, MOST_ENUMERATED, Reference, distinct
from fieldtally.core.compare.stacks import Layout, Stack, centred, laid_out, slices_of, treatments_in
from fieldtally.core.compare.welch import Welch, welch

TIE = 1e-9
FLAT = 1e-20
"""A variance below this share of the squared size of the values is rounding."""
CELLS_AT_ONCE = 4_000_000
ENDS_FROM = 4_000
"""Arrangements that find the ends of intervals, where there are more."""
FINE = 9
"""How often the bracket of an end is halved."""
NEARLY_EVEN = 0.05
"""Where arrangements are drawn, numbers that differ by no more than this share count as even: the deviation of one mean from another then
spreads alike over all arrangements to within a fortieth, which is less than draws can show."""
NEARLY = 0.95
NEAR_AT_ONCE = 16
LOOKS = 3
"""How often p is looked at for one end, where arrangements are drawn."""


@dataclass(frozen=True)
class PairTests:
    """Arrays (c,), one entry a comparison: the difference first minus second, its interval, and p.

    An end of the interval is infinite where the layout cannot bound it.  ``exact``, ``arrangements`` and ``welch`` (whether the larger p
    was
    Welch's) tell the method; ``effect`` is the difference in standard deviations inside treatment and block; ``way`` is the sign of what
    was tested, 0 where there is no difference at all.
    """

    difference: Floats
    low: Floats
    high: Floats
    p: Floats
    way: Ints
    exact: Flags
    arrangements: Ints
    welch: Flags
    effect: Floats

    @classmethod
    def none(cls, many: int) -> PairTests:
        """So many comparisons of which nothing is known: p is 1 and the interval unbounded."""
        unbounded = np.full(many, np.inf)
        nowhere = np.zeros(many, dtype=np.int64)
        no = np.zeros(many, dtype=np.bool_)
        return cls(
            np.zeros(many), -unbounded, unbounded, np.ones(many), nowhere, ~no, nowhere + 1, no, np.full(many, np.nan)
        )


def pair_tests(
    stacks: Sequence[Stack], many: int, reference: Reference, *, alpha: float = 0.05, intervals: bool = True
) -> PairTests:
    """Compare the first treatment with the second in each column of ``stacks``; entries are in the order of their ``of``, ``many`` in all.

    Each block of a layout holds some of both.
    """
    found = PairTests.none(many)
    drawn: list[_Prepared] = []
    for stack in stacks:
        if reference.exact(stack.layout):
            ways = reference.count(stack.layout)
            for part in _parts(stack, max(1, CELLS_AT_ONCE // ways)):
                _enumerated(_Prepared.of(part), reference, found, alpha, intervals)
        else:
            drawn.append(_Prepared.of(stack, NEARLY_EVEN))
    by_draws: dict[int, list[_Prepared]] = {}
    for one in drawn:
        by_draws.setdefault(reference.count(one.drawn), []).append(one)
    for draws, alike in by_draws.items():
        _draw_ahead(alike, draws, reference)
        for batch in _batches(alike, max(1, 4 * CELLS_AT_ONCE // draws)):
            _by_draws(batch, draws, reference, found, alpha, intervals)
    return found


def _draw_ahead(prepared: Sequence[_Prepared], draws: int, reference: Reference) -> None:
    """Draw all blocks of these layouts, the fullest first: what has lost a sample is made from it."""
    places = {(slot, counts) for one in prepared for slot, counts in enumerate(one.drawn)}
    for slot, counts in sorted(places, key=lambda place: (-sum(place[1]), place)):
        reference.draws(slot, counts, draws)


def _parts(stack: Stack, most: int) -> list[Stack]:
    return [
        Stack(stack.layout, stack.values[:, i : i + most], stack.of[i : i + most], stack.seats)
        for i in range(0, len(stack.of), most)
    ]


def _batches(prepared: Sequence[_Prepared], most: int) -> list[list[_Prepared]]:
    """Prepared stacks gathered until they hold ``most`` columns."""
    batches: list[list[_Prepared]] = [[]]
    held = 0
    for whole in prepared:
        for stack in _parts(whole.stack, most):
            if held + len(stack.of) > most:
                batches.append([])
                held = 0
            batches[-1].append(whole if len(stack.of) == len(whole.stack.of) else _Prepared.of(stack, NEARLY_EVEN))
            held += len(stack.of)
    return [batch for batch in batches if batch]


@dataclass(frozen=True)
class _Prepared:
    """A stack and what its arrangements are summed over: centred values ``z`` (n, e) and the centred indicator ``x`` (n,)."""

    stack: Stack
    z: Floats
    x: Floats
    first: Flags
    slack: float = 0.0

    @classmethod
    def of(cls, stack: Stack, slack: float = 0.0) -> _Prepared:
        """``stack`` made ready; numbers that differ by a share of ``slack`` count as even."""
        first = treatments_in(stack.layout) == 0
        x = first.astype(np.float64)
        for rows in slices_of(stack.layout):
            x[rows] -= x[rows].mean()
        return cls(stack, centred(stack), x, first, slack)

    @property
    def layout(self) -> Layout:
        """The layout of the stack."""
        return self.stack.layout

    @property
    def drawn(self) -> Layout:
        """The layout that is drawn: its own, or that of all samples where it lacks some."""
        return self.stack.layout if self.stack.seats is None else self.stack.seats.layout

    def seated(self, weights: Floats) -> Floats:
        """``weights`` (w, n) in the rows of what is drawn; a sample that is not there weighs nothing."""
        seats = self.stack.seats
        if seats is None:
            return weights
        found = np.zeros((len(weights), sum(map(sum, seats.layout))))
        found[:, seats.rows] = weights
        return found

    @property
    def numbers(self) -> tuple[int, int]:
        """How many samples the two treatments have."""
        return int(self.first.sum()), int((~self.first).sum())

    @cached_property
    def even(self) -> bool:
        """Whether both have as many, so that the studentised difference orders arrangements as the plain one does."""
        a, b = self.numbers
        return abs(a - b) <= self.slack * max(a, b)

    def weights(self, wanted: str) -> Floats:
        """What is summed (w·e, n): ``s`` values, ``q`` squares, ``w`` values times indicator, ``x`` the indicator, ``r`` its square."""
        z, x = self.z, self.x[:, None]
        every = {"s": z, "q": z**2, "w": z * x, "x": x, "r": x**2}
        return np.ascontiguousarray(np.concatenate([every[name] for name in wanted], axis=1).T)

    def split(self, sums: Floats, wanted: str) -> dict[str, Floats]:
        """``sums`` (w·e, k) of :meth:`weights` by name."""
        e, at, found = self.z.shape[1], 0, {}
        for name in wanted:
            wide = e if name in "sqw" else 1
            found[name] = sums[at : at + wide]
            at += wide
        return found

    def seen(self, wanted: str) -> dict[str, Floats]:
        """The sums of the arrangement that was seen."""
        return self.split(self.weights(wanted)[:, self.first].sum(axis=1)[:, None], wanted)


def _enumerated(one: _Prepared, reference: Reference, found: PairTests, alpha: float, intervals: bool) -> None:
    wanted = "s" if one.even else "sq"
    if intervals:
        wanted = "sx" if one.even else "sqwxr"
    weights = one.weights(wanted)
    sums = np.zeros((len(weights), 1))
    for rows, counts in zip(slices_of(one.layout), one.layout, strict=True):
        part = weights[:, rows] @ (distinct(counts) == 0).astype(np.float64).T
        sums = (sums[:, :, None] + part[:, None, :]).reshape(len(weights), -1)
    every = one.split(sums, wanted)
    test = _tell(one, every, reference, found)
    if intervals and sums.shape[1] > ENDS_FROM:
        some = np.random.default_rng(reference.seed).choice(sums.shape[1], ENDS_FROM, replace=False)
        _bound(one, {name: own[:, some] for name, own in every.items()}, (ENDS_FROM + 1, 1), found, alpha, test)
    elif intervals:
        _bound(one, every, (sums.shape[1], 0), found, alpha, test)


def _by_draws(
    batch: Sequence[_Prepared], draws: int, reference: Reference, found: PairTests, alpha: float, intervals: bool
) -> None:
    few = min(draws, ENDS_FROM)
    at_once = intervals and few == draws
    wanted = [("sx" if one.even else "sqwxr") if at_once else ("s" if one.even else "sq") for one in batch]
    sums = [
        one.split(own, names)
        for one, names, own in zip(batch, wanted, _summed(batch, wanted, draws, draws, reference), strict=True)
    ]
    tests = [_tell(one, every, reference, found) for one, every in zip(batch, sums, strict=True)]
    if not intervals:
        return
    if not at_once:
        # A few of the draws are enough for the ends.
        also = ["x" if one.even else "wxr" for one in batch]
        summed = _summed(batch, also, draws, few, reference)
        sums = [
            {**{name: own[:, :few] for name, own in every.items()}, **one.split(more, names)}
            for one, names, every, more in zip(batch, also, sums, summed, strict=True)
        ]
    uneven = [i for i, one in enumerate(batch) if not one.even]
    ends = dict(zip(uneven, _near([batch[i] for i in uneven], [sums[i] for i in uneven], few + 1, alpha), strict=True))
    for i, (one, every, test) in enumerate(zip(batch, sums, tests, strict=True)):
        _bound(one, every, (few + 1, 1), found, alpha, test, ends.get(i))


def _summed(
    batch: Sequence[_Prepared], wanted: Sequence[str], draws: int, rows: int, reference: Reference
) -> list[Floats]:
    """For each of ``batch`` the sums (w·e, rows) over the first treatment, of what is ``wanted``."""
    weights = [one.seated(one.weights(names)) for one, names in zip(batch, wanted, strict=True)]
    sums = [np.empty((len(one), rows)) for one in weights]
    begun = [False] * len(batch)
    places: dict[tuple[int, tuple[int, ...]], list[tuple[int, slice]]] = {}
    for i, one in enumerate(batch):
        for slot, (at, counts) in enumerate(zip(slices_of(one.drawn), one.drawn, strict=True)):
            places.setdefault((slot, counts), []).append((i, at))
    for (slot, counts), members in places.items():
        labels = reference.draws(slot, counts, draws)[:rows]
        step = max(1, 2 * CELLS_AT_ONCE // labels.shape[1])
        stacked = np.concatenate([weights[i][:, at] for i, at in members])
        for begin in range(0, rows, step):
            part = stacked @ (labels[begin : begin + step] == 0).astype(np.float64).T
            at_row = 0
            for i, _ in members:
                many, own = len(weights[i]), sums[i][:, begin : begin + step]
                if begun[i]:
                    own += part[at_row : at_row + many]
                else:
                    own[:] = part[at_row : at_row + many]
                at_row += many
        for i, _ in members:
            begun[i] = True
    return sums


def _tell(one: _Prepared, every: dict[str, Floats], reference: Reference, found: PairTests) -> Welch:
    """Write p and difference of one stack into ``found``."""
    of = np.array(one.stack.of)
    seen = one.seen("sqwxr")
    apart = float(seen["x"][0, 0])
    size = (one.z**2).sum(axis=0)
    difference = seen["s"][:, 0] / apart
    difference = np.where(np.abs(seen["s"][:, 0]) <= TIE * np.sqrt(size), 0.0, difference)
    if one.even:
        least = np.abs(seen["s"]) * (1 - TIE) - TIE * np.sqrt(size)[:, None]
        extreme = (every["s"] >= least) | (every["s"] <= -least)
    else:
        extreme = _Studentised(*one.numbers).extreme(seen, every, size[:, None])
    p = reference.p(np.count_nonzero(extreme, axis=1), one.drawn)
    test = welch(one.z, one.layout)
    larger = test.p(difference)
    found.p[of] = np.maximum(p, larger)
    found.welch[of] = larger > p
    found.difference[of] = difference
    left = np.maximum(size - seen["s"][:, 0] ** 2 / apart, 0.0) / max(1, len(one.x) - len(one.layout) - 1)
    with np.errstate(divide="ignore", invalid="ignore"):
        found.effect[of] = difference / np.sqrt(left)
    found.way[of] = np.sign(difference).astype(np.int64)
    found.exact[of] = reference.exact(one.layout)
    found.arrangements[of] = reference.count(one.drawn)
    return test


def _bound(
    one: _Prepared,
    every: dict[str, Floats],
    counted: tuple[int, int],
    found: PairTests,
    alpha: float,
    test: Welch,
    ends: tuple[Floats, Floats] | None = None,
) -> None:
    """Write the intervals of one stack into ``found``, which holds its p already; ``counted``: what extreme arrangements are divided by,
    and how many are added to them."""
    total, extra = counted
    of = np.array(one.stack.of)
    if one.even:
        low, high = _solved(one.seen("sx"), every, total, extra, alpha)
    elif ends is not None and np.isfinite(ends).all():
        low, high = ends
    else:
        low, high = _Shifted(one, every, total, extra).interval(alpha)
    difference = found.difference[of]
    reach = test.reach(alpha)
    low, high = np.fmin(low, difference - reach), np.fmax(high, difference + reach)
    kept = found.p[of] > alpha
    found.low[of] = np.where(kept, np.fmin(low, 0.0), np.where(difference > 0, np.fmax(low, 0.0), low))
    found.high[of] = np.where(kept, np.fmax(high, 0.0), np.where(difference < 0, np.fmin(high, 0.0), high))


def _solved(
    seen: dict[str, Floats], every: dict[str, Floats], total: int, extra: int, alpha: float
) -> tuple[Floats, Floats]:
    """The intervals for equal numbers, from each arrangement's own condition on the shift."""
    s0, x0 = seen["s"], float(seen["x"][0, 0])
    # p(δ) = (arrangements whose condition holds at δ, + the observed where it was not drawn) / all; the shift stays in
    # the interval while p(δ) > alpha.
    k = math.floor(alpha * total + TIE) - extra
    many = every["s"].shape[1]
    if k < 0 or k >= many:
        unbounded = np.full(len(s0), np.inf)
        return -unbounded, unbounded
    with np.errstate(divide="ignore", invalid="ignore"):
        one = (s0 - every["s"]) / (x0 - every["x"])
        two = (s0 + every["s"]) / (x0 + every["x"])
    always = np.abs(every["x"][0]) >= x0 * (1 - TIE)
    low, high = np.fmin(one, two), np.fmax(one, two)
    low[:, always], high[:, always] = -np.inf, np.inf
    return np.partition(low, k, axis=1)[:, k], np.partition(high, many - 1 - k, axis=1)[:, many - 1 - k]


@dataclass(frozen=True)
class _Studentised:
    """The studentised statistic squared, up to a constant, from sums over the first treatment alone."""

    n_a: int
    n_b: int

    def variance(self, s: Floats, q: Floats, size: Floats) -> Floats:
        """s²_a/n_a + s²_b/n_b of centred values whose squares sum to ``size``; rounding is cut to 0."""
        a, b = self.n_a, self.n_b
        one, other = 1 / (a * max(a - 1, 1)), 1 / (b * max(b - 1, 1))
        total = np.asarray((one - other) * q - (one / a + other / b) * s**2 + other * size)
        np.copyto(total, 0.0, where=total <= FLAT + TIE * 1e-3 * size * max(one, other))
        return total

    def extreme(self, seen: dict[str, Floats], every: dict[str, Floats], size: Floats) -> Flags:
        """Which arrangements (c, k) are at least as far out as the one seen (c, 1); ``size`` (c, 1)."""
        d0, v0 = seen["s"] ** 2, self.variance(seen["s"], seen["q"], size)
        d, v = every["s"] ** 2, self.variance(every["s"], every["q"], size)
        out = d * v0 >= v * (d0 * (1 - TIE)) - TIE * TIE * size**2
        flat = v0[:, 0] == 0
        if flat.any():
            out[flat] = (v[flat] == 0) & (d[flat] >= d0[flat] * (1 - TIE))
        return np.asarray(out, dtype=np.bool_)


class _Shifted:
    """The tests of a stack after shifts (e,) are taken off the first treatment."""

    def __init__(self, one: _Prepared, every: dict[str, Floats], total: int, extra: int) -> None:
        self.form, self.total, self.extra = _Studentised(*one.numbers), total, extra
        self.seen, self.every = one.seen("sqwxr"), every
        self.size = (one.z**2).sum(axis=0)[:, None]
        self.estimate = self.seen["s"][:, 0] / float(self.seen["x"][0, 0])

    def p(self, shift: Floats) -> Floats:
        """p (e,) of the null hypotheses that the differences are ``shift``."""
        # The centred values times the centred indicator sum to the first treatment's own sum, and likewise for squares.
        s0, x0, by = self.seen["s"], float(self.seen["x"][0, 0]), shift[:, None]
        size = self.size - 2 * by * s0 + by**2 * x0
        extreme = self.form.extreme(self._moved(self.seen, by), self._moved(self.every, by), size)
        return np.asarray((np.count_nonzero(extreme, axis=1) + self.extra) / self.total)

    def _moved(self, sums: dict[str, Floats], shift: Floats) -> dict[str, Floats]:
        return {
            "s": sums["s"] - sums["x"] * shift,
            "q": sums["q"] - sums["w"] * (2 * shift) + sums["r"] * shift**2,
        }

    def interval(self, alpha: float) -> tuple[Floats, Floats]:
        """The shifts that the tests do not reject at ``alpha``."""
        variance = self.form.variance(self.seen["s"], self.seen["q"], self.size)[:, 0]
        step = 2.0 * np.sqrt(variance)
        step = np.where(step > 0, step, np.maximum(np.maximum(np.abs(self.estimate), np.sqrt(self.size[:, 0])), 1e-9))
        return self._end(-step, alpha), self._end(step, alpha)

    def _end(self, step: Floats, alpha: float) -> Floats:
        endless = self.p(self.estimate + 1e6 * step) > alpha
        # Two standard errors are nearly there: most ends lie between 0.9 and 1.2 of that.
        inside, outside = np.zeros_like(step), 1.2 * step
        while (far := ~endless & (self.p(self.estimate + outside) > alpha)).any():
            inside, outside = np.where(far, outside, inside), np.where(far, outside * 1.5, outside)
        for _ in range(FINE):
            middle = (inside + outside) / 2
            held = self.p(self.estimate + middle) > alpha
            inside, outside = np.where(held, middle, inside), np.where(held, outside, middle)
        return np.where(endless, np.copysign(np.inf, step), self.estimate + outside)


def _near(
    batch: Sequence[_Prepared], sums: Sequence[dict[str, Floats]], total: int, alpha: float
) -> list[tuple[Floats, Floats]]:
    """The ends (e,), (e,) of the intervals of stacks with uneven numbers, from draws.

    The normal deviate of p rises nearly straight with the shift, so that three looks find where it is alpha's.  NaN where they do not."""
    ends: list[tuple[Floats, Floats]] = []
    at = 0
    while at < len(batch):
        # So many at once that their sums stay near the processor.
        upto, held = at, 0
        while upto < len(batch) and (held == 0 or held + batch[upto].z.shape[1] <= NEAR_AT_ONCE):
            held += batch[upto].z.shape[1]
            upto += 1
        ends += _some_near(batch[at:upto], sums[at:upto], total, alpha)
        at = upto
    return ends


def _some_near(
    batch: Sequence[_Prepared], sums: Sequence[dict[str, Floats]], total: int, alpha: float
) -> list[tuple[Floats, Floats]]:
    wide = [one.z.shape[1] for one in batch]
    many = sums[0]["s"].shape[1]
    every = {
        name: np.concatenate([np.broadcast_to(own[name], (e, many)) for own, e in zip(sums, wide, strict=True)])
        for name in "sqwxr"
    }
    seen = {
        name: np.concatenate(
            [np.broadcast_to(own[name], (e, 1)) for own, e in zip(map(_seen, batch), wide, strict=True)]
        )
        for name in "sqwxr"
    }
    size = np.concatenate([(one.z**2).sum(axis=0) for one in batch])[:, None]
    a, b = (np.repeat([float(one.numbers[side]) for one in batch], wide)[:, None] for side in (0, 1))
    weighed = _Weighed(every, seen, size, 1 / (a * (a - 1).clip(1)), 1 / (b * (b - 1).clip(1)), a, b)
    with np.errstate(divide="ignore", invalid="ignore"):
        ends = [weighed.end(way, total, alpha) for way in (-1, 1)]
    edges = np.cumsum(wide)[:-1]
    return list(zip(np.split(ends[0], edges), np.split(ends[1], edges), strict=True))


def _seen(one: _Prepared) -> dict[str, Floats]:
    return one.seen("sqwxr")


@dataclass(frozen=True)
class _Weighed:
    """Sums (c, k) and those seen (c, 1) of comparisons with uneven numbers, for shifts that differ from one to the next.

    With s′ and q′ the sums after a shift, v = (α − β) q′ − (α/a + β/b) s′² + β size′ and s₀′, v₀′ of what was seen, an arrangement is as
    far out where s′² v₀′ ≥ s₀′² v: one inequality between s′² and a line in q, w and r."""

    every: dict[str, Floats]
    seen: dict[str, Floats]
    size: Floats
    alpha: Floats
    beta: Floats
    a: Floats
    b: Floats

    def deviate(self, shift: Floats, total: int) -> Floats:
        """The normal deviate (c,) of p at ``shift`` (c, 1)."""
        seen, every = self.seen, self.every
        s0, q0 = seen["s"] - shift * seen["x"], seen["q"] - 2 * shift * seen["w"] + shift**2 * seen["r"]
        size = self.size - 2 * shift * seen["s"] + shift**2 * seen["x"]
        own = self.alpha / self.a + self.beta / self.b
        v0 = (self.alpha - self.beta) * q0 - own * s0**2 + self.beta * size
        d0 = s0**2 * (1 - TIE)
        left = every["x"] * -shift
        left += every["s"]
        left *= left
        left *= v0 + own * d0
        line = every["q"] * (d0 * (self.alpha - self.beta))
        line += every["w"] * (d0 * (self.alpha - self.beta) * -2 * shift)
        line += every["r"] * (d0 * (self.alpha - self.beta) * shift**2)
        line += d0 * self.beta * size
        p = (np.count_nonzero(left >= line, axis=1) + 1) / total
        return np.asarray(ndtri(1 - p / 2))

    def end(self, way: int, total: int, alpha: float) -> Floats:
        """One end (c,) of each interval, below (``way`` −1) or above."""
        estimate = self.seen["s"] / self.seen["x"]
        variance = (self.alpha - self.beta) * self.seen["q"] + self.beta * self.size
        variance -= (self.alpha / self.a + self.beta / self.b) * self.seen["s"] ** 2
        wanted = float(ndtri(1 - alpha / 2))
        step = wanted * way * np.sqrt(np.maximum(variance, 0.0))[:, 0]
        inner, outer = (
            (np.zeros_like(step), np.zeros_like(step)),
            (np.full_like(step, np.nan), np.full_like(step, np.nan)),
        )
        shift = step
        for _ in range(LOOKS):
            found = self.deviate(estimate + shift[:, None], total)
            under = found < wanted
            inner = (np.where(under, shift, inner[0]), np.where(under, found, inner[1]))
            outer = (np.where(under, outer[0], shift), np.where(under, outer[1], found))
            rise = np.where(np.isnan(outer[0]), inner[0] / inner[1], (outer[0] - inner[0]) / (outer[1] - inner[1]))
            shift = inner[0] + rise * (wanted - inner[1])
        # An end that was never looked beyond, nor nearly, is no end.
        lost = np.isnan(outer[0]) & (inner[1] < NEARLY * wanted)
        return np.where(lost | (step == 0), np.nan, estimate[:, 0] + shift)


def one_pair(
    values: Floats,
    in_a: Flags,
    blocks: Ints,
    rng: np.random.Generator,
    *,
    alpha: float = 0.05,
    intervals: bool = True,
    most: int = MOST_ENUMERATED,
    draws: int = DRAWS,
) -> PairTests:
    """Compare the samples ``in_a`` (n,) with the others, for each column of ``values`` (n, c), without gaps.

    ``blocks`` (n,) are integers.  Blocks that hold only one of the two are left out.  With no block that holds both, the
    difference is the plain one, p is 1 and the interval unbounded.
    """
    columns = values.shape[1]
    kept = both_present(in_a, blocks)
    if not kept.any():
        return replace(PairTests.none(columns), difference=values[in_a].mean(axis=0) - values[~in_a].mean(axis=0))
    layout, order = laid_out((~in_a[kept]).astype(np.int64), blocks[kept], 2)
    stack = Stack(layout, values[kept][order], tuple(range(columns)))
    reference = Reference(int(rng.integers(2**63)), most=most, draws=draws)
    return pair_tests([stack], columns, reference, alpha=alpha, intervals=intervals)
