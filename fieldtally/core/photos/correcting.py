"""Taking the light out of a photo: from the pixels of a camera to the colours in daylight.

How it is learnt from the printed card: :mod:`~fieldtally.core.photos.reading_card`.  With a grey or white area alone, the light's colour
is read from it and taken out by a Bradford adaptation.  Source: Lam 1985; CIE 15."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from fieldtally.core.photos import card
from fieldtally.core.photos.colour import Lab, Pixels, Reals, linear_of

ReferenceKind = Literal["card", "grey", "white", "none"]
GREY, WHITE = 0.184, 0.87
"""The linear light of a grey card, and of plain white paper."""
DARKEST = 3e-4
BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
FROM_SRGB = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)
MIDDLE = np.array([card.WIDTH, card.HEIGHT]) / 2
MOST_FALL = 1.6
"""The log of light beyond which no fall is carried on."""
BURNT, BLACK = 252, 3
"""Channel values beyond which a camera has lost what was there."""


@dataclass(frozen=True)
class Correction:
    """From linear light as taken to linear light in daylight: a power and a gain for each channel, scattered light taken off
    (``offset``), the fall of light from place to place (``fall``: log light of each channel per mm, x and y, from the middle of the
    card), then a matrix.

    ``left`` is what remains on the card, the mean ΔE2000 of its fields (None without a card), ``worst`` the most; ``uneven`` by what
    share the light differs across it; ``scattered`` the share of white that lies over all of it; ``dropped``: fields that were left out
    since they do not fit the others (covered, dirty); ``patchy``: how unlike each other places on it are that are printed alike (1: said,
    2: refused); ``gains`` tell how strong and of what colour the light was.  ``others`` are corrections that the card allows for as well,
    each one standard deviation off in a way of its own; ``inks`` what is left of a colour by its own spectrum (L*, a*, b*).
    """

    kind: ReferenceKind
    gains: tuple[float, float, float]
    powers: tuple[float, float, float]
    matrix: tuple[tuple[float, ...], ...]
    left: float | None = None
    uneven: float | None = None
    burnt: float = 0.0
    offset: tuple[float, float, float] = (0.0, 0.0, 0.0)
    offset_fall: tuple[float, float] = (0.0, 0.0)
    fall: tuple[tuple[float, float], ...] = ((0.0, 0.0),) * 3
    worst: float = 0.0
    dropped: int = 0
    patchy: float = 0.0
    others: tuple[Correction, ...] = ()
    inks: Lab = (0.0, 0.0, 0.0)

    def balanced(self, linear: npt.NDArray[Any]) -> npt.NDArray[Any]:
        """Linear light as taken (…, 3) with power, gain and scattered light taken out: what falls off with the light, not yet mixed."""
        held = np.maximum(linear, 0).astype(np.float32)
        powers = np.array(self.powers, dtype=np.float32)
        if not np.allclose(powers, 1):
            held = np.maximum(held, 1e-7) ** powers
        return np.asarray(held * np.array(self.gains, dtype=np.float32) - np.array(self.offset, dtype=np.float32))

    def fallen(self, points: Reals) -> Reals:
        """How much light there is at points on the card's plane (n, 2) in mm, for each channel (n, 3): 1 in the middle of the card."""
        away = (points - MIDDLE) @ np.array(self.fall).T
        return np.asarray(np.exp(np.clip(away, -MOST_FALL, MOST_FALL)))

    def apply(self, linear: npt.NDArray[Any], there: npt.NDArray[Any] | None = None) -> npt.NDArray[Any]:
        """The light in daylight of linear light as taken (…, 3); ``there`` is how much light there is (…, 3), by default as on the card."""
        light = self.balanced(linear)
        if there is not None:
            light = light / there.astype(np.float32)
        return np.asarray(light @ np.array(self.matrix, dtype=np.float32).T)

    @property
    def scattered(self) -> float:
        """The share of white that scattered light lays over everything."""
        return max(0.0, sum(self.offset) / 3)

    @property
    def stops(self) -> float:
        """How many stops darker than full the light was taken."""
        return float(np.log2(max(1e-6, self.gains[1])))

    @property
    def warmth(self) -> float:
        """How much more blue than red had to be added: 1 is neutral, above it the light was warm."""
        return float(self.gains[2] / max(1e-6, self.gains[0]))


AS_TAKEN = Correction("none", (1.0, 1.0, 1.0), (1.0, 1.0, 1.0), ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)))


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
