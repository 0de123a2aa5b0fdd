"""Colour as numbers: sRGB, linear light, CIELAB (D65, 2°) and the difference between two colours.

Linear light is sRGB without its tone curve, 0–1 where 1 is white.  CIELAB: L* 0 (black) to 100 (white), a* green to red, b* blue to
yellow.  ΔE2000 of 1 is about what a trained eye just sees side by side, of 2 what most see.  Sources: IEC 61966-2-1; CIE 15; Sharma, Wu &
Dalal 2005, The CIEDE2000 color-difference formula, Color Research & Application 30:21.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt
from skimage.color import deltaE_ciede2000, lab2rgb, rgb2lab

from fieldtally.core.problems import Refused

Pixels = npt.NDArray[np.uint8]
Reals = npt.NDArray[np.float64]
Lab = tuple[float, float, float]

_STEPS = np.arange(256) / 255
LINEAR = np.where(_STEPS <= 0.04045, _STEPS / 12.92, ((_STEPS + 0.055) / 1.055) ** 2.4).astype(np.float32)
"""The linear light of each of the 256 values of a channel."""


def linear_of(pixels: Pixels) -> npt.NDArray[np.float32]:
    """The linear light of sRGB pixels of any shape."""
    return np.asarray(LINEAR[pixels], dtype=np.float32)


def encoded(linear: npt.NDArray[Any]) -> npt.NDArray[Any]:
    """sRGB (0–1) of linear light; what lies outside is cut off."""
    held = np.clip(linear, 0, 1)
    return np.asarray(np.where(held <= 0.0031308, held * 12.92, 1.055 * np.maximum(held, 1e-9) ** (1 / 2.4) - 0.055))


def lab_of(linear: npt.NDArray[Any]) -> Reals:
    """CIELAB of linear light (…, 3).  Light a little below black is taken for black."""
    held = np.maximum(np.asarray(linear), 0)
    curved = np.where(held <= 0.0031308, held * 12.92, 1.055 * np.maximum(held, 1e-9) ** (1 / 2.4) - 0.055)
    return np.asarray(rgb2lab(curved), dtype=np.float64)


def light_of_lab(lab: npt.ArrayLike) -> Reals:
    """Linear light of CIELAB colours (…, 3), as far as sRGB can show them."""
    shown = np.clip(np.asarray(lab2rgb(np.asarray(lab, dtype=np.float64))), 0, 1)
    return np.asarray(np.where(shown <= 0.04045, shown / 12.92, ((shown + 0.055) / 1.055) ** 2.4))


def lab_of_hex(code: str) -> Lab:
    """CIELAB of ``#rrggbb``.

    :raises Refused: it is no such colour.

    >>> [round(part, 1) for part in lab_of_hex("#ffffff")]
    [100.0, -0.0, 0.0]
    """
    try:
        parts = bytes.fromhex(code.removeprefix("#"))
    except ValueError:
        parts = b""
    if len(parts) != 3:
        raise Refused(f"{code or 'This'} is no colour; it is written as # and six digits, as in #c68a2e.")
    first, second, third = (float(x) for x in lab_of(linear_of(np.frombuffer(parts, np.uint8))))
    return first, second, third


def hex_of(lab: Sequence[float]) -> str:
    """The nearest sRGB colour, to be shown.

    >>> hex_of((53.24, 80.09, 67.2))
    '#ff0000'
    """
    rgb = np.clip(np.round(np.asarray(lab2rgb(np.array(lab, dtype=np.float64))) * 255), 0, 255).astype(int)
    return "#" + "".join(f"{part:02x}" for part in rgb)


def delta_e(one: npt.ArrayLike, other: npt.ArrayLike) -> Reals:
    """ΔE2000 between CIELAB colours (…, 3).

    >>> float(delta_e((50, 2.5, 0), (50, 0, -2.5)).round(4))
    4.3065
    """
    return np.asarray(deltaE_ciede2000(np.asarray(one, dtype=float), np.asarray(other, dtype=float)), dtype=np.float64)


def greenness(linear: npt.NDArray[Any]) -> float:
    """Excess green, 2g − r − b of the shares of red, green and blue: −1 (no green at all) to 2 (nothing else); grey is 0.

    Source: Woebbecke, Meyer, Von Bargen & Mortensen 1995, Color indices for weed identification, Transactions of the ASAE 38:259.

    >>> greenness(np.full((2, 2, 3), 0.4))
    0.0
    """
    shown = encoded(linear).reshape(-1, 3).mean(axis=0)
    total = float(shown.sum())
    return 0.0 if total <= 0 else round(float((2 * shown[1] - shown[0] - shown[2]) / total), 6)
