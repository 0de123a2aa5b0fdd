"""Taking the light out of a photo: from the pixels of a camera to the colours in daylight.

With the printed card each channel is first brought to the greys of the card by a power of its own (exposure, white balance, contrast), then
a 3 × 3 matrix that leaves greys alone brings its colours home; both are fitted together so that the fields of the card come as near as they
can to what is printed.  Source: Finlayson, Mackiewicz & Hurlbert 2015, Color correction using root-polynomial regression, IEEE
Transactions on Image Processing 24:1460, for why the fit must not depend on exposure.

With a grey or white area alone, the light's colour is read from it and taken out by a Bradford adaptation.  Source: Lam 1985; CIE 15.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import numpy.typing as npt
from scipy.optimize import least_squares

from fieldtally.core.photos import card
from fieldtally.core.photos.colour import Pixels, Reals, delta_e, lab_of, linear_of
from fieldtally.core.photos.finding import Found

ReferenceKind = Literal["card", "grey", "white", "none"]
GREY, WHITE = 0.184, 0.87
"""The linear light of a grey card, and of plain white paper."""
DARKEST = 3e-4
BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
FROM_SRGB = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)
BURNT, BLACK = 252, 3
"""Channel values beyond which a camera has lost what was there."""


@dataclass(frozen=True)
class Correction:
    """From linear light as taken to linear light in daylight: a gain and a power for each channel, then a matrix.

    ``left`` is what remains on the card, the mean ΔE2000 of its fields (None without a card); ``uneven`` by what share the light differs
    across it; ``gains`` tell how strong and of what colour the light was.
    """

    kind: ReferenceKind
    gains: tuple[float, float, float]
    powers: tuple[float, float, float]
    matrix: tuple[tuple[float, ...], ...]
    left: float | None = None
    uneven: float | None = None
    burnt: float = 0.0

    def apply(self, linear: npt.NDArray[Any]) -> npt.NDArray[Any]:
        """The light in daylight of linear light as taken (…, 3)."""
        held = np.maximum(linear, 0).astype(np.float32)
        powers = np.array(self.powers, dtype=np.float32)
        if not np.allclose(powers, 1):
            held = np.maximum(held, 1e-7) ** powers
        mixed = (np.diag(self.gains).T @ np.array(self.matrix).T).astype(np.float32)
        return np.asarray(held @ mixed)

    @property
    def stops(self) -> float:
        """How many stops darker than full the light was taken."""
        return float(np.log2(max(1e-6, self.gains[1])))

    @property
    def warmth(self) -> float:
        """How much more blue than red had to be added: 1 is neutral, above it the light was warm."""
        return float(self.gains[2] / max(1e-6, self.gains[0]))


AS_TAKEN = Correction("none", (1.0, 1.0, 1.0), (1.0, 1.0, 1.0), ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)))


def from_card(pixels: Pixels, found: Found) -> Correction:
    """The correction by the card found in a picture (height, width, 3)."""
    seen, burnt = _fields(pixels, found)
    known = card.known_light()
    lost = burnt > 0.02
    usable = ~lost
    fits = bool(usable.sum() >= 6)
    if not fits:
        usable = np.ones_like(lost)
    gains, powers = _by_greys(seen[usable], known[usable])
    fitted = _fit(seen[usable], known[usable], gains, powers)
    left = float(delta_e(lab_of(fitted.apply(seen[usable])), lab_of(known[usable])).mean())
    whites = seen[len(card.PATCHES) :]
    evenness = whites.mean(axis=1)[burnt[len(card.PATCHES) :] <= 0.02]
    uneven = float((evenness.max() - evenness.min()) / evenness.max()) if len(evenness) > 1 else None
    share = float(lost.mean()) if fits else 1.0
    return Correction("card", fitted.gains, fitted.powers, fitted.matrix, left, uneven, share)


def _fields(pixels: Pixels, found: Found) -> tuple[Reals, Reals]:
    """The linear light of each known field (n, 3) and the share of it that is burnt out or black (n)."""
    points = np.concatenate([card.grid_of(patch) for patch in card.KNOWN])
    at = found.at(points)
    step = max(1, int(np.linalg.norm(found.marks[1] - found.marks[0]) / 900))
    rows = np.clip(np.round(at[:, 1]).astype(int), step, pixels.shape[0] - 1 - step)
    columns = np.clip(np.round(at[:, 0]).astype(int), step, pixels.shape[1] - 1 - step)
    samples = np.stack(
        [pixels[rows + dy, columns + dx] for dy in (-step, 0, step) for dx in (-step, 0, step)], axis=1
    ).reshape(len(card.KNOWN), -1, 3)
    lost = ((samples >= BURNT) | (samples < BLACK)).any(axis=2).mean(axis=1)
    return linear_of(samples).astype(np.float64).mean(axis=1), np.asarray(lost, dtype=np.float64)


def _by_greys(seen: Reals, known: Reals) -> tuple[Reals, Reals]:
    """Gain and power of each channel, from the fields that are grey."""
    grey = np.ptp(known, axis=1) < 0.06 * known.mean(axis=1) + 0.01
    if grey.sum() < 3:
        grey = np.ones(len(known), dtype=bool)
    gains, powers = np.ones(3), np.ones(3)
    for i in range(3):
        x, y = np.log(np.maximum(seen[grey, i], DARKEST)), np.log(known[grey, i])
        slope = float(np.polyfit(x, y, 1)[0]) if np.ptp(x) > 0.5 else 1.0
        powers[i] = np.clip(slope, 0.6, 1.7)
        gains[i] = np.exp(float(np.mean(y - powers[i] * x)))
    return gains, powers


def _fit(seen: Reals, known: Reals, gains: Reals, powers: Reals) -> Correction:
    """Gains, powers and a matrix whose rows add up to 1, so that the known fields come out nearest in CIELAB."""
    wanted = lab_of(known)

    def made(x: Reals) -> Correction:
        off = np.clip(x[6:], -3, 3).reshape(3, 2)
        rows = [np.insert(off[i], i, 1 - off[i].sum()) for i in range(3)]
        first, second, third = (float(v) for v in np.exp(np.clip(x[:3], -12, 12)))
        one, two, three = (float(v) for v in np.clip(x[3:6], 0.4, 2.5))
        return Correction(
            "card", (first, second, third), (one, two, three), tuple(tuple(float(v) for v in row) for row in rows)
        )

    def apart(x: Reals) -> Reals:
        light = made(x).apply(seen)
        # Powers are held near what a plain camera does, so that the greys are not bent to fit the colours.
        held = np.concatenate([6.0 * (x[3:6] - 1), 0.05 * x[6:]])
        return np.concatenate([(lab_of(light) - wanted).ravel(), held])

    plain = _mixing(seen**powers * gains, known)
    start = np.concatenate([np.log(gains), powers, plain[~np.eye(3, dtype=bool)]])
    found = least_squares(apart, start, method="lm", x_scale=np.repeat([0.02, 0.02, 0.05], [3, 3, 6]), max_nfev=400)
    return made(found.x)


def _mixing(balanced: Reals, known: Reals) -> Reals:
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


def from_area(samples: Pixels, kind: Literal["grey", "white"]) -> Correction:
    """The correction by the pixels (n, 3) of a grey card or of white paper."""
    linear = linear_of(samples).astype(np.float64)
    mean = np.maximum(linear.mean(axis=0), DARKEST)
    lost = float(((samples >= BURNT) | (samples < BLACK)).any(axis=1).mean())
    spread = float(linear.std(axis=0).mean() / max(DARKEST, linear.mean()))
    level = GREY if kind == "grey" else WHITE
    light = FROM_SRGB @ mean
    day = FROM_SRGB @ np.full(3, level)
    scale = np.diag((BRADFORD @ day) / (BRADFORD @ light))
    home = np.linalg.inv(FROM_SRGB) @ np.linalg.inv(BRADFORD) @ scale @ BRADFORD @ FROM_SRGB
    gains = level / mean
    matrix = home / gains[None, :]
    first, second, third = (float(x) for x in gains)
    return Correction(
        kind,
        (first, second, third),
        (1.0, 1.0, 1.0),
        tuple(tuple(float(x) for x in row) for row in matrix),
        None,
        spread,
        lost,
    )
