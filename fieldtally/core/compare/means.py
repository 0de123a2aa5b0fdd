"""Each treatment's mean with the interval in which the true mean lies, from the treatment's own spread.

Without blocks: the mean and Student's interval.  With blocks: the mean as it would be with every treatment equally often in every block
(additive model); its spread is what the model leaves of the treatment's own samples, all of it put down to themselves, so that a noisy
treatment among quiet ones is not told too narrowly.  Degrees of freedom by Satterthwaite (1946, Biometr. Bull. 2:110).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from fieldtally.core.compare.arrays import Flags, Floats, Ints

MOST_BLOCKS = 300
"""With more blocks than that, what one block tells about another is left out of the degrees of freedom."""
LEAST_SKEW = 0.75
"""How skewed times and open counts are taken to be at least."""
DIGITS = 12
"""Significant digits, against the largest value, beyond which a sum is dust."""


@dataclass(frozen=True)
class Means:
    """Arrays (treatments, c): estimate, low and high; the ends are NaN where one sample, or samples that are all alike, cannot give an
    interval."""

    estimate: Floats
    low: Floats
    high: Floats


def treatment_means(
    values: Floats,
    labels: Ints,
    blocks: Ints,
    treatments: int,
    alpha: float = 0.05,
    *,
    intervals: bool = True,
    skewed: Flags | None = None,
) -> Means:
    """Means of ``values`` (n, c), NaN where missing, for ``labels`` (n,) from 0 to ``treatments`` − 1; NaN where absent.

    Columns that are ``skewed`` (c,) by nature, as times and open counts are, get the wider of this interval and Hall's."""
    columns = values.shape[1]
    estimate, half = np.full((treatments, columns), np.nan), np.full((treatments, columns), np.nan)
    present = ~np.isnan(values)
    inside = np.unique(blocks, return_inverse=True)[1]
    patterns: dict[bytes, list[int]] = {}
    for j in np.flatnonzero(present.any(axis=0)).tolist():
        patterns.setdefault(present[:, j].tobytes(), []).append(j)
    models = (
        _models(np.stack([present[:, own[0]] for own in patterns.values()], axis=1), labels, inside, treatments)
        if patterns
        else []
    )
    for members, model in zip(patterns.values(), models, strict=True):
        rows = present[:, members[0]]
        own = values[rows][:, members]
        mean, reach = model.means(own, labels[rows], inside[rows], alpha if intervals else None)
        largest = np.maximum(np.abs(own).max(axis=0), 1e-200)
        decimals = DIGITS - np.ceil(np.log10(largest)).astype(int)
        half[:, members] = reach
        for digits in np.unique(decimals).tolist():
            alike = decimals == digits
            at = np.array(members)[alike]
            estimate[:, at] = np.round(mean[:, alike], digits) + 0.0 if abs(digits) < 300 else mean[:, alike]
    # Readings that are all alike say nothing of how far others would lie from them: no interval, and not one of no width.
    half = np.where(half > 0, half, np.nan)
    low, high = estimate - half, estimate + half
    if intervals and skewed is not None and skewed.any():
        under, over = _for_skew(values[:, skewed], labels, estimate[:, skewed], half[:, skewed], alpha)
        low[:, skewed], high[:, skewed] = np.fmin(low[:, skewed], under), np.fmax(high[:, skewed], over)
    return Means(estimate, low, high)


def _for_skew(values: Floats, labels: Ints, mean: Floats, half: Floats, alpha: float) -> tuple[Floats, Floats]:
    """Ends (t, c) of the interval that takes skewness into account (Hall 1992, J. R. Stat. Soc. B 54:221), with Student's quantile."""
    under, over = np.full_like(mean, np.nan), np.full_like(mean, np.nan)
    for t in range(len(mean)):
        own = values[labels == t]
        known = ~np.isnan(own)
        n = known.sum(axis=0)
        away = np.where(known, own - np.where(n > 0, np.nansum(own, axis=0) / np.maximum(n, 1), 0.0), 0.0)
        spread = np.sqrt((away**2).sum(axis=0) / np.maximum(n - 1, 1))
        with np.errstate(divide="ignore", invalid="ignore"):
            skew = (away**3).sum(axis=0) * n / (np.maximum(n - 1, 1) * np.maximum(n - 2, 1)) / spread**3
            # Few samples show little of a tail that is known to be there.
            a = np.maximum(skew, LEAST_SKEW) / np.sqrt(n)
            quantile = stdtrit(np.maximum(n - 1, 1), 1 - alpha / 2)
            error = half[t] / quantile
            ends = [3 / a * (np.cbrt(1 + a * (way * quantile - a / 6)) - 1) for way in (1, -1)]
        told = (n > 2) & np.isfinite(ends[0]) & np.isfinite(ends[1]) & (np.abs(a) > 1e-6)
        under[t] = np.where(told, mean[t] - ends[0] * error, np.nan)
        over[t] = np.where(told, mean[t] - ends[1] * error, np.nan)
    return under, over


@dataclass(frozen=True)
class _Model:
    """The additive model of samples that are there: how many of each treatment stand in each block (t, b), and the inverse (t, t) of what
    is left of that for treatments once blocks are taken out."""

    table: Floats
    inverse: Floats

    def means(self, y: Floats, labels: Ints, blocks: Ints, alpha: float | None) -> tuple[Floats, Floats]:
        """Means and half intervals (t, c; NaN without ``alpha``) of ``y`` (n, c) without gaps."""
        table, inverse = self.table, self.inverse
        treatments = len(table)
        in_all, in_block = table.sum(axis=1), np.maximum(table.sum(axis=0), 1e-300)
        sums = _sums(y, labels, treatments)
        many = np.maximum(in_all, 1)[:, None]
        if np.count_nonzero(table.any(axis=0)) == 1:
            mean = sums / many
            left = y - mean[labels]
            spread = _sums(left**2, labels, treatments) / np.maximum(many - 1, 1)
            freedom, weights = np.maximum(in_all - 1, 1), np.diag(1 / many[:, 0])
        else:
            share = table / in_block
            levels = _sums(y, blocks, table.shape[1])
            effect = inverse @ (sums - share @ levels)
            place = (levels - table.T @ effect) / in_block[:, None]
            # The average block effect over all samples keeps balanced means where a person would compute them.
            mean = effect + (table.sum(axis=0) @ place / len(y))[None, :]
            if alpha is not None:
                squares = _sums((y - effect[labels] - place[blocks]) ** 2, labels, treatments)
                own = [_own_spread(t, table, share, inverse) for t in range(treatments)]
                kept, freedom = np.array([one[0] for one in own]), np.array([one[1] for one in own])
                spread = np.where(kept[:, None] > 0, squares / np.where(kept > 0, kept, 1.0)[:, None], np.nan)
                toward = inverse @ (np.eye(treatments) - in_all[:, None] / len(y))
                weights = np.stack(
                    [(table * (one[:, None] - one @ share + 1 / len(y)) ** 2).sum(axis=1) for one in toward.T]
                )
        mean = np.where(in_all[:, None] > 0, mean, np.nan)
        if alpha is None:
            return mean, np.full_like(mean, np.nan)
        half = np.full_like(mean, np.nan)
        for t in np.flatnonzero(in_all > 1).tolist():
            counts = weights[t] > 1e-12 * weights[t].sum()
            parts = weights[t][counts][:, None] * spread[counts]
            variance = parts.sum(axis=0)
            with np.errstate(divide="ignore", invalid="ignore"):
                free = variance**2 / (parts**2 / np.maximum(freedom[counts], 1.0)[:, None]).sum(axis=0)
            free = np.maximum(np.nan_to_num(free, nan=1.0), 1.0)
            half[t] = stdtrit(free, 1 - alpha / 2) * np.sqrt(variance)
        return mean, half


def _models(present: Flags, labels: Ints, blocks: Ints, treatments: int) -> list[_Model]:
    """The models of samples ``present`` (n, p)."""
    many = int(blocks.max()) + 1
    cell = labels * many + blocks
    tables = np.stack(
        [np.bincount(cell[rows], minlength=treatments * many).reshape(treatments, many) for rows in present.T]
    ).astype(np.float64)
    share = tables / np.maximum(tables.sum(axis=1, keepdims=True), 1e-300)
    middle = np.einsum("pt,tu->ptu", tables.sum(axis=2), np.eye(treatments)) - share @ tables.transpose(0, 2, 1)
    inverses = np.linalg.pinv(middle, hermitian=True) if many > 1 else np.zeros_like(middle)
    return [_Model(table, inverse) for table, inverse in zip(tables, inverses, strict=True)]


def _sums(y: Floats, groups: Ints, many: int) -> Floats:
    """Sums (many, c) of the rows of ``y`` (n, c) in each group."""
    return np.stack([np.bincount(groups, weights=column, minlength=many) for column in y.T], axis=1)


def _own_spread(t: int, table: Floats, share: Floats, inverse: Floats) -> tuple[float, float]:
    """What the squares that the model leaves of treatment ``t`` are to be divided by to be its variance, were all of it its own; and its
    degrees of freedom."""
    at = np.flatnonzero(table[t])
    n, sizes = table[t][at], table[:, at].sum(axis=0)
    toward = (np.arange(len(table)) == t)[:, None] - share[:, at]
    if len(at) > MOST_BLOCKS:
        lever = 1 / sizes + np.einsum("sb,st,tb->b", toward, inverse, toward)
        kept = float((n * (1 - 2 * lever) + n**2 * lever**2).sum())
        return kept, kept
    g = np.diag(1 / sizes) + toward.T @ inverse @ toward
    twice = 2 * g - g @ (n[:, None] * g)

    def trace(of: Floats) -> float:
        return float((n * (1 - 2 * np.diag(of))).sum() + n @ (of**2) @ n)

    kept, fourth = trace(g), trace(twice)
    if kept < 1e-9 or fourth < 1e-12:
        return 0.0, 1.0
    return kept, kept**2 / fourth
