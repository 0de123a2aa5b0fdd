"""What the printed card tells of the light: one fit of all that can differ, with what it leaves open.

A camera is taken to do this: light falls off over the card, scattered light is added, each channel has a gain and a power (exposure,
white balance, contrast), and a 3 × 3 matrix that leaves greys alone mixes the channels.  All of it is fitted together so that the fields,
the black marks and the bare card come out nearest to what is printed (CIELAB), robustly: a field that does not fit the others (covered,
dirty) is left out.  The black marks tell scattered light from a power, the bare card all round tells how the light falls.  What the fit
leaves open is told as other corrections, each one standard deviation off along one axis of its covariance.  Sources: Finlayson,
Mackiewicz & Hurlbert 2015, Color correction using root-polynomial regression, IEEE Transactions on Image Processing 24:1460, for why the
fit must not depend on exposure; Huber 1981, Robust Statistics, for the loss."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from scipy.optimize import least_squares

from fieldtally.core.photos import card
from fieldtally.core.photos.colour import Pixels, Reals, delta_e, linear_of
from fieldtally.core.photos.correcting import BLACK, BURNT, DARKEST, MIDDLE, Correction
from fieldtally.core.photos.finding import Found

MOST_DROPPED = 3
"""Fields that may be left out; where more do not fit, the card as a whole does not."""
STANDS_OUT, TIMES_OUT = 5.0, 4.0
"""ΔE2000 from what is printed, and how many times what is usual on this card, from which on a field is left out."""
REACH = 60.0
"""Millimetres over which a fall of light is counted in the fit."""
TO_SHARES = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
) / np.array([[0.95047], [1.0], [1.08883]])
"""From linear sRGB to X, Y and Z as shares of white."""
HELD_FIELD, HELD_BLACK, HELD_PAPER = 1.0, 0.45, 0.6
"""How much a field, a black and a bare place weigh."""
GOOD_FIT = 0.4
"""The cost of a place in a fit that need not be tried from elsewhere."""
PATCHY = (0.5, 0.8)
"""L* by which bare places, and black ones, may differ from each other as a rule before it is said."""
LEAST_SPREAD = 0.3
LEAST_INK = 0.35
"""CIELAB that is always left of a colour which is not on the card."""
OTHER_INK = 1.35
"""A thing's colour is none of the card's: so many times more of its a* and b* is left than of those that the fit was made of."""


def from_card(pixels: Pixels, found: Found) -> Correction:
    """The correction by the card found in a picture (height, width, 3)."""
    places = (*card.KNOWN, *card.BLACKS, *card.MARGINS)
    many = len(card.KNOWN)
    seen, burnt, at = _seen(pixels, found, places)
    weights = np.repeat([HELD_FIELD, HELD_BLACK, HELD_PAPER], [many, len(card.BLACKS), len(card.MARGINS)])
    known = card.light_of(places)
    lost = burnt > 0.02
    # What is black for the camera is still an anchor for what is scattered: nothing.
    lost[many : many + len(card.BLACKS)] = False
    fits = bool((~lost[:many]).sum() >= 6)
    used = ~lost if fits else np.ones_like(lost)
    dropped = 0
    while True:
        fit = _Fit(seen[used], known[used], at[used], weights[used])
        off = np.zeros(len(places))
        off[used] = fit.off
        fields = np.flatnonzero(used[:many])
        usual = float(np.median(off[fields]))
        worst = int(fields[np.argmax(off[fields])])
        if off[worst] <= max(STANDS_OUT, TIMES_OUT * usual) or dropped == MOST_DROPPED or len(fields) < 8:
            break
        used[worst] = False
        dropped += 1
    corners = np.array([[0.0, 0.0], [card.WIDTH, 0.0]]) - MIDDLE
    away = np.abs(corners @ np.array(fit.made.fall[1])) * 2
    uneven = float(1 - np.exp(-max(away)))
    share = float(lost[:many].mean()) if fits else 1.0
    return replace(
        fit.made,
        left=float(off[fields].mean()),
        worst=float(off[fields].max()),
        uneven=uneven,
        burnt=share,
        dropped=dropped,
        patchy=fit.patchy(known[used]),
        others=fit.others(known[used]),
        inks=fit.inks(len(fields)),
    )


def _seen(pixels: Pixels, found: Found, places: tuple[card.Patch, ...]) -> tuple[Reals, Reals, Reals]:
    """The linear light of each place on the card (n, 3), the share of it that is burnt out or black (n), and its middle in mm (n, 2)."""
    points = np.concatenate([card.grid_of(patch) for patch in places])
    at = found.at(points)
    step = max(1, int(np.linalg.norm(found.marks[1] - found.marks[0]) / 900))
    rows = np.clip(np.round(at[:, 1]).astype(int), step, pixels.shape[0] - 1 - step)
    columns = np.clip(np.round(at[:, 0]).astype(int), step, pixels.shape[1] - 1 - step)
    samples = np.stack(
        [pixels[rows + dy, columns + dx] for dy in (-step, 0, step) for dx in (-step, 0, step)], axis=1
    ).reshape(len(places), -1, 3)
    lost = ((samples >= BURNT) | (samples < BLACK)).any(axis=2).mean(axis=1)
    middles = np.array([(patch.x + patch.width / 2, patch.y + patch.height / 2) for patch in places])
    # The middle half of what a place shows: dust and a stray edge count for nothing.
    light = np.sort(linear_of(samples).astype(np.float64), axis=1)
    quarter = light.shape[1] // 4
    return light[:, quarter:-quarter].mean(axis=1), np.asarray(lost, dtype=np.float64), middles


class _Fit:
    """The fit of one set of places: ``made`` is the correction, ``off`` how far each place is from what is printed (ΔE2000)."""

    def __init__(self, seen: Reals, known: Reals, at: Reals, weights: Reals) -> None:
        self.seen, self.at, self.weights = seen, (at - MIDDLE) / REACH, weights
        self.curved = np.column_stack([self.at[:, 0] ** 2, self.at[:, 1] ** 2, self.at[:, 0] * self.at[:, 1]])
        self.wanted = _quick_lab(known)
        scale = np.repeat([0.02, 0.02, 0.01, 0.01, 0.05, 0.05, 0.01, 0.03], [3, 3, 3, 2, 6, 6, 3, 3])
        # From several ends, since a power and scattered light are alike in the middle greys.
        tried: list[Any] = []
        for power in (1.0, 0.8, 1.25, None):
            start = _start(seen, known, power)
            tried.append(least_squares(self._apart, start, x_scale=scale, loss="soft_l1", f_scale=2.0, max_nfev=60))
            if tried[-1].cost < GOOD_FIT * len(weights):
                break
        found = min(tried, key=lambda one: float(one.cost))
        self.x = found.x
        self.made = _made(found.x)
        self.lab = _quick_lab(self._light(found.x))
        self.off = delta_e(self.lab, self.wanted)
        jacobian = found.jac
        self.told = len(weights) * 3
        rest = self._apart(found.x)
        freedom = max(6.0, self.told - len(found.x) / 1.5)
        self.spread = float(np.sqrt((np.minimum(np.abs(rest[: self.told]), 6.0) ** 2).sum() / freedom))
        self.values, self.axes = np.linalg.eigh(jacobian.T @ jacobian)

    def patchy(self, known: Reals) -> float:
        """How unlike each other the bare places are, and the black ones, which are printed alike: 1 where it is said, 2 where it
        refuses."""
        off = (self.lab - self.wanted)[:, 0]
        bare, black = known.mean(axis=1) > 0.8, known.mean(axis=1) < 0.02
        spreads = [
            float(off[own].std()) / usual if own.sum() > 2 else 0.0
            for own, usual in ((bare, PATCHY[0]), (black, PATCHY[1]))
        ]
        return float(np.linalg.norm(spreads))

    def others(self, known: Reals) -> tuple[Correction, ...]:
        """Corrections that the card allows for as well, one standard deviation off along each axis of the fit's covariance."""
        spread = max(LEAST_SPREAD, self.spread) * max(1.0, 2 * self.patchy(known))
        reach = np.minimum(spread / np.sqrt(np.maximum(self.values, 1e-9)), 1.0)
        return tuple(_made(self.x + far * axis) for far, axis in zip(reach, self.axes.T, strict=True))

    def _light(self, x: Reals) -> Reals:
        """The light in daylight of all places (n, 3) by a fit, in double precision."""
        gains, powers, shifts, fall, mixing = _parts(x)
        offset = shifts + (self.at @ x[9:11] + self.curved @ x[23:26])[:, None]
        fallen = self.at @ fall.T + (self.curved @ x[26:29])[:, None]
        light = (gains * np.maximum(self.seen, 1e-7) ** powers - offset) / np.exp(np.clip(fallen, -2, 2))
        return np.asarray(light @ mixing.T)

    def _apart(self, x: Reals) -> Reals:
        rest = (_quick_lab(self._light(x)) - self.wanted) * self.weights[:, None]
        # What a plain camera on a plain day does is held on to as far as the card does not tell otherwise.
        held = [6.0 * (x[3:6] - 1), 8.0 * x[6:7], 40.0 * x[7:9], 20.0 * x[9:11], 3.0 * x[11:13], 9.0 * x[13:17]]
        return np.concatenate([rest.ravel(), *held, 0.05 * x[17:23], 20.0 * x[23:26], 15.0 * x[26:]])

    def inks(self, fields: int) -> tuple[float, float, float]:
        """What is left of the colours of the card, by L*, a* and b*, as far as the fit has not used it up."""
        colours = np.abs(self.wanted[:, 1]) + np.abs(self.wanted[:, 2]) > 8
        rest = (self.lab - self.wanted)[colours]
        if not len(rest):
            return LEAST_INK, LEAST_INK, LEAST_INK
        used_up = np.sqrt(len(rest) * 3 / max(3.0, len(rest) * 3 - 9))
        first, second, third = (float(max(LEAST_INK, used_up * np.sqrt((rest[:, i] ** 2).mean()))) for i in range(3))
        return first, OTHER_INK * second, OTHER_INK * third


def _quick_lab(light: Reals) -> Reals:
    """CIELAB of linear light (n, 3), in double precision, going on in a straight line below black so that a fit finds its way back."""
    shares = light @ TO_SHARES.T
    bent = np.where(shares > 216 / 24389, np.cbrt(np.maximum(shares, 1e-9)), shares * (841 / 108) + 4 / 29)
    x, y, z = bent.T
    return np.column_stack([116 * y - 16, 500 * (x - y), 200 * (y - z)])


def _parts(x: Reals) -> tuple[Reals, Reals, Reals, Reals, Reals]:
    """Of a fit: gains (3), powers (3), what is taken off each channel (3), the fall of its light over ``REACH`` (3, 2), the matrix
    (3, 3)."""
    mixing = np.zeros((3, 3))
    mixing[~np.eye(3, dtype=bool)] = np.clip(x[17:23], -3, 3)
    mixing[np.diag_indices(3)] = 1 - mixing.sum(axis=1)
    base, more, less = np.clip(x[6], -0.2, 0.8), *np.clip(x[7:9], -0.2, 0.2)
    bright, warm, cold = x[11:13], x[13:15], x[15:17]
    return (
        np.exp(np.clip(x[:3], -12, 12)),
        np.clip(x[3:6], 0.4, 2.5),
        np.array([base + more, base, base + less]),
        np.stack([bright + warm, bright, bright + cold]),
        mixing,
    )


def _made(x: Reals) -> Correction:
    gains, powers, shifts, fall, mixing = _parts(x)
    return Correction(
        "card",
        (float(gains[0]), float(gains[1]), float(gains[2])),
        (float(powers[0]), float(powers[1]), float(powers[2])),
        tuple(tuple(float(v) for v in row) for row in mixing),
        offset=(float(shifts[0]), float(shifts[1]), float(shifts[2])),
        offset_fall=(float(x[9] / REACH), float(x[10] / REACH)),
        fall=tuple((float(v[0]), float(v[1])) for v in fall / REACH),
    )


def _start(seen: Reals, known: Reals, power: float | None) -> Reals:
    """Where a fit begins: with one power for all channels and what the darkest places say of scattered light then, or without a power with
    those that the greys have without scattered light."""
    rest = np.zeros(8)
    dark, pale = known.mean(axis=1) < 0.02, known.mean(axis=1) > 0.6
    if power is None or not (dark.any() and pale.any()):
        gains, powers = _by_greys(seen, known)
        plain = _mixing(seen**powers * gains, known)[~np.eye(3, dtype=bool)]
        return np.concatenate([np.log(gains), powers, np.zeros(3), rest, plain, np.zeros(6)])
    bent = seen**power
    low, high = np.median(bent[dark], axis=0), np.median(bent[pale], axis=0)
    share = known[dark].mean() / known[pale].mean()
    over = np.maximum(0.0, (low - share * high) / (1 - share))
    gains = known[pale].mean() / np.maximum(high - over, DARKEST)
    offset = over * gains
    plain = _mixing(np.maximum(bent - over, 0) * gains, known)[~np.eye(3, dtype=bool)]
    shifts = [float(offset[1]), float(offset[0] - offset[1]), float(offset[2] - offset[1])]
    return np.concatenate([np.log(gains), np.full(3, power), shifts, rest, plain, np.zeros(6)])


def _by_greys(seen: Reals, known: Reals) -> tuple[Reals, Reals]:
    """Gain and power of each channel, from the fields that are grey and not black."""
    grey = (np.ptp(known, axis=1) < 0.06 * known.mean(axis=1) + 0.01) & (known.mean(axis=1) > 0.02)
    if grey.sum() < 3:
        grey = np.ones(len(known), dtype=bool)
    gains, powers = np.ones(3), np.ones(3)
    for i in range(3):
        x, y = np.log(np.maximum(seen[grey, i], DARKEST)), np.log(known[grey, i])
        slope = float(np.polyfit(x, y, 1)[0]) if np.ptp(x) > 0.5 else 1.0
        powers[i] = np.clip(slope, 0.6, 1.7)
        gains[i] = np.exp(float(np.mean(y - powers[i] * x)))
    return gains, powers


def _mixing(balanced: Reals, known: Reals) -> Any:
    """The matrix whose rows add up to 1 that brings balanced light (n, 3) nearest to what is known, each field in its own measure."""
    mixing = np.eye(3)
    for i in range(3):
        others = [j for j in range(3) if j != i]
        weight = 1 / (known[:, i] + 0.02)
        sides = (balanced[:, others] - balanced[:, [i]]) * weight[:, None]
        found = np.linalg.lstsq(sides, (known[:, i] - balanced[:, i]) * weight, rcond=None)[0]
        mixing[i, others] = found
        mixing[i, i] = 1 - found.sum()
    return mixing
