"""The pair test: does one treatment differ from another, and by how much?

Only the two treatments' own labels are shuffled, inside their blocks, so that a third treatment neither widens nor narrows
their difference.  Statistic: the Welch-studentised difference of the block-centred values,

    t = d / √(s²_a/n_a + s²_b/n_b),

and the plain difference d where there is no spread.  Two-sided: an arrangement counts when |t| is at least the observed.

The interval holds every shift δ for which the same test, made after δ is taken off the first treatment, would not reject
at ``alpha`` (inverting the test).  For equal numbers the condition on δ is solved for each arrangement at once: with S the
sum over the first treatment and x its centred indicator, |S − δS_x| ≥ |S₀ − δS_x₀| holds between
(S₀ − S)/(S_x₀ − S_x) and (S₀ + S)/(S_x₀ + S_x), and the ends of the interval are order statistics of these.
Otherwise δ is found by bisection over the same arrangements.

Sources: Ernst 2004 (Statist. Sci. 19:676) for permutation inference; Janssen 1997 (Statist. Probab. Lett. 36:9) for
studentising; Garthwaite 1996 (Biometrics 52:1387) for intervals by inversion.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Flags, Floats, Ints
from fieldtally.core.compare.blocks import both_present, centred
from fieldtally.core.compare.shuffles import Shuffles, shuffles_of

TIE = 1e-9
FLAT = 1e-20
"""A variance below this share of the squared size of the values is rounding."""
COLUMNS_AT_ONCE = 100
FINE = 1 / 256
"""How near an end is found, in steps of two standard errors."""


@dataclass(frozen=True)
class PairTests:
    """Arrays (c,), one entry a column: the difference first minus second, its interval, and p.

    An end of the interval is infinite where the layout cannot bound it.  ``exact`` and ``arrangements`` tell the method.
    """

    difference: Floats
    low: Floats
    high: Floats
    p: Floats
    exact: bool
    arrangements: int


def pair_tests(
    values: Floats,
    in_a: Flags,
    blocks: Ints,
    rng: np.random.Generator,
    *,
    alpha: float = 0.05,
    intervals: bool = True,
    most: int | None = None,
    draws: int | None = None,
) -> PairTests:
    """Compare the samples ``in_a`` (n,) with the others, for each column of ``values`` (n, c), without gaps.

    ``blocks`` (n,) are integers.  Blocks that hold only one of the two are left out.  With no block that holds both, the
    difference is the plain one, p is 1 and the interval unbounded.
    """
    columns = values.shape[1]
    kept = both_present(in_a, blocks)
    if not kept.any():
        difference = values[in_a].mean(axis=0) - values[~in_a].mean(axis=0)
        unbounded = np.full(columns, np.inf)
        return PairTests(difference, -unbounded, unbounded, np.ones(columns), True, 1)
    values, in_a, blocks = values[kept], in_a[kept], blocks[kept]
    limits = {k: v for k, v in (("most", most), ("draws", draws)) if v is not None}
    shuffles = shuffles_of(in_a.astype(np.int64), blocks, rng, **limits)
    found = [
        _some_columns(values[:, i : i + COLUMNS_AT_ONCE], in_a, blocks, shuffles, alpha, intervals)
        for i in range(0, columns, COLUMNS_AT_ONCE)
    ]
    difference, low, high, p = (np.concatenate(parts) for parts in zip(*found, strict=True))
    return PairTests(difference, low, high, p, shuffles.exact, shuffles.count)


@dataclass(frozen=True)
class _Sums:
    """What each arrangement (rows) puts into the first treatment: sums of the centred values ``s`` and squares ``q``,
    of the centred indicator ``x`` and its square ``r``, of their product ``w``."""

    s: Floats
    q: Floats
    x: Floats
    r: Floats
    w: Floats


def _sums(z: Floats, x: Floats, chunks: list[Floats], squares: bool) -> _Sums:
    s = np.concatenate([chunk @ z for chunk in chunks])
    xs = np.concatenate([chunk @ x for chunk in chunks])
    if not squares:
        nothing = np.zeros((len(s), 0))
        return _Sums(s, nothing, xs, nothing, nothing)
    return _Sums(
        s,
        np.concatenate([chunk @ z**2 for chunk in chunks]),
        xs,
        np.concatenate([chunk @ x**2 for chunk in chunks]),
        np.concatenate([chunk @ (z * x[:, None]) for chunk in chunks]),
    )


def _some_columns(
    values: Floats, in_a: Flags, blocks: Ints, shuffles: Shuffles, alpha: float, intervals: bool
) -> tuple[Floats, Floats, Floats, Floats]:
    n_a, n_b = int(in_a.sum()), int((~in_a).sum())
    z, x = centred(values, blocks), centred(in_a.astype(np.float64)[:, None], blocks)[:, 0]
    equal = n_a == n_b
    seen = _sums(z, x, [in_a[None, :].astype(np.float64)], not equal)
    every = _sums(z, x, [(chunk == 1).astype(np.float64) for chunk in shuffles.chunks()], not equal)
    difference = seen.s[0] / seen.x[0]
    size = (z**2).sum(axis=0)
    if equal:
        p = _p_of(np.abs(every.s) >= np.abs(seen.s) * (1 - TIE) - TIE * np.sqrt(size), shuffles)
        low, high = _solved(seen, every, shuffles, alpha) if intervals else (difference, difference)
    else:
        form = _Welch(n_a, n_b)
        p = _p_of(form.extreme(seen, every, size), shuffles)
        low, high = (difference, difference)
        if intervals:
            tests = [_Shifted(form, seen, every, size, shuffles, j) for j in range(z.shape[1])]
            low, high = np.array([test.interval(alpha) for test in tests]).reshape(-1, 2).T
    return difference, low, high, p


def _p_of(extreme: Flags, shuffles: Shuffles) -> Floats:
    return np.asarray((extreme.sum(axis=0) + shuffles.extra) / shuffles.total)


def _solved(seen: _Sums, every: _Sums, shuffles: Shuffles, alpha: float) -> tuple[Floats, Floats]:
    """The interval for equal numbers, from each arrangement's own condition on the shift."""
    s0, x0 = seen.s[0], float(seen.x[0])
    with np.errstate(divide="ignore", invalid="ignore"):
        one = (s0 - every.s) / (x0 - every.x)[:, None]
        two = (s0 + every.s) / (x0 + every.x)[:, None]
    always = np.abs(every.x) >= x0 * (1 - TIE)
    low, high = np.fmin(one, two), np.fmax(one, two)
    low[always], high[always] = -np.inf, np.inf
    # p(δ) = (arrangements whose condition holds at δ, + the observed where it was not drawn) / all; the shift stays in
    # the interval while p(δ) > alpha.
    k = math.floor(alpha * shuffles.total + TIE) - shuffles.extra
    if k < 0 or k >= len(low):
        unbounded = np.full(len(s0), np.inf)
        return -unbounded, unbounded
    return np.partition(low, k, axis=0)[k], np.partition(high, len(high) - 1 - k, axis=0)[len(high) - 1 - k]


@dataclass(frozen=True)
class _Welch:
    """The studentised statistic squared, up to a constant, from sums over the first treatment alone."""

    n_a: int
    n_b: int

    def variance(self, s: Floats, q: Floats, size: Floats) -> Floats:
        """s²_a/n_a + s²_b/n_b of centred values whose squares sum to ``size``; rounding is cut to 0."""
        a, b = self.n_a, self.n_b
        ours = (q - s**2 / a) / (a * max(a - 1, 1))
        theirs = (size - q - s**2 / b) / (b * max(b - 1, 1))
        total = np.asarray(ours + theirs)
        total[total <= FLAT + TIE * 1e-3 * size] = 0.0
        return total

    def extreme(self, seen: _Sums, every: _Sums, size: Floats) -> Flags:
        """Which arrangements (k, c) are at least as far out as the one seen."""
        d0, v0 = seen.s[0] ** 2, self.variance(seen.s, seen.q, size)[0]
        d, v = every.s**2, self.variance(every.s, every.q, size)
        out = d * v0 >= d0 * v * (1 - TIE) - TIE * TIE * size**2
        flat = v0 == 0
        if flat.any():
            out[:, flat] = (v[:, flat] == 0) & (d[:, flat] >= d0[flat] * (1 - TIE))
        return np.asarray(out, dtype=np.bool_)


def _one(sums: _Sums, column: int) -> _Sums:
    """The sums of one column (k, 1), side by side in memory."""
    s, q, w = (np.ascontiguousarray(part[:, [column]]) for part in (sums.s, sums.q, sums.w))
    return _Sums(s, q, sums.x, sums.r, w)


class _Shifted:
    """The test of one column after a shift is taken off the first treatment."""

    def __init__(self, form: _Welch, seen: _Sums, every: _Sums, size: Floats, shuffles: Shuffles, column: int) -> None:
        self.form, self.shuffles = form, shuffles
        self.seen, self.every = _one(seen, column), _one(every, column)
        self.size = float(size[column])
        self.estimate = float(seen.s[0, column] / seen.x[0])

    def p(self, shift: float) -> float:
        """p of the null hypothesis that the difference is ``shift``."""
        # The centred values times the centred indicator sum to the first treatment's own sum, and likewise for squares.
        s0, x0 = float(self.seen.s[0, 0]), float(self.seen.x[0])
        size = np.array([self.size - 2 * shift * s0 + shift**2 * x0])
        extreme = self.form.extreme(self._moved(self.seen, shift), self._moved(self.every, shift), size)
        return float(_p_of(extreme, self.shuffles)[0])

    def _moved(self, sums: _Sums, shift: float) -> _Sums:
        s = sums.s[:, 0] - shift * sums.x
        q = sums.q[:, 0] - (2 * shift) * sums.w[:, 0] + shift**2 * sums.r
        return _Sums(s[:, None], q[:, None], sums.x, sums.r, sums.w)

    def interval(self, alpha: float) -> tuple[float, float]:
        """The shifts that the test does not reject at ``alpha``."""
        variance = float(self.form.variance(self.seen.s, self.seen.q, np.array([self.size]))[0, 0])
        step = 2.0 * math.sqrt(variance)
        if step == 0:
            step = max(abs(self.estimate), math.sqrt(self.size), 1e-9)
        low, high = self._end(-step, alpha), self._end(step, alpha)
        # Bisection stops short of the last digit; p at no shift decides on which side of 0 an end lies.
        if self.p(0.0) > alpha:
            return min(low, 0.0), max(high, 0.0)
        return (max(low, 0.0), high) if self.estimate > 0 else (low, min(high, 0.0))

    def _end(self, step: float, alpha: float) -> float:
        if self.p(self.estimate + 1e6 * step) > alpha:
            return math.copysign(math.inf, step)
        # Two standard errors are nearly there: most ends lie between 0.9 and 1.2 of that.
        inside, outside = 0.0, 0.9 * step
        while self.p(self.estimate + outside) > alpha:
            inside, outside = outside, outside * 4 / 3
        while abs(outside - inside) > FINE * abs(step):
            middle = (inside + outside) / 2
            if self.p(self.estimate + middle) > alpha:
                inside = middle
            else:
                outside = middle
        return self.estimate + outside
