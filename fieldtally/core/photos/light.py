"""The light in which a photo was taken, and whether two photos may be compared by eye.

The colour of the light is estimated from the picture itself as the p-norm of each channel with p = 6: bright, pale parts weigh most, a
dark or colourful object hardly any.  Source: Finlayson & Trezzi 2004, Shades of gray and colour constancy, Color Imaging
Conference 12:37.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

NORM = 6
STOPS_APART = 1.0
"""Brightness: half or twice the light."""
TINT_APART = 0.12
"""Red or blue against green, as a share: about the step from a window in shade to a warm lamp."""
DARK, GLARING = 0.08, 0.92


@dataclass(frozen=True)
class Light:
    """``brightness`` of the bright parts, 0–1 in linear light; ``red`` and ``blue`` as shares of green (1: neutral)."""

    brightness: float
    red: float
    blue: float


def light_of(pixels: NDArray[np.uint8]) -> Light:
    """The light of a picture (height, width, 3) in sRGB, 0–255.

    >>> light_of(np.full((4, 4, 3), 255, np.uint8))
    Light(brightness=1.0, red=1.0, blue=1.0)
    """
    scaled = pixels.reshape(-1, 3).astype(np.float64) / 255
    linear = np.where(scaled <= 0.04045, scaled / 12.92, ((scaled + 0.055) / 1.055) ** 2.4)
    red, green, blue = (float(np.mean(linear[:, i] ** NORM) ** (1 / NORM)) for i in range(3))
    floor = 1e-4
    return Light(
        round(min(1.0, (red + green + blue) / 3), 4),
        round((red + floor) / (green + floor), 4),
        round((blue + floor) / (green + floor), 4),
    )


def plainly_different(one: Light, other: Light) -> str:
    """A sentence where two photos were taken in plainly different light; empty where they may be compared.

    >>> plainly_different(Light(0.8, 1.0, 1.0), Light(0.8, 1.3, 0.7))
    'The light of these two was plainly different: one was warmer than the other. What looks like a change of colour may be the lamp.'
    """
    found = []
    if abs(math.log2(max(one.brightness, 1e-3) / max(other.brightness, 1e-3))) >= STOPS_APART:
        found.append("one was much brighter than the other")
    if abs(one.red / one.blue - other.red / other.blue) / (other.red / other.blue) > 2 * TINT_APART:
        found.append("one was warmer than the other")
    elif abs(one.red - other.red) > TINT_APART or abs(one.blue - other.blue) > TINT_APART:
        found.append("their light had another colour")
    if not found:
        return ""
    return (
        f"The light of these two was plainly different: {' and '.join(found)}. "
        "What looks like a change of colour may be the lamp."
    )
