"""Pictures made ready to be compared by eye: in one frame, each copy a little different in bytes, never in size."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from PIL import Image

WIDE, HIGH = 960, 720
GREY = (119, 119, 119)


def framed(picture: Image.Image) -> Image.Image:
    """The picture as large as it goes into 960 × 720 pixels, on middle grey."""
    inside = picture.convert("RGB")
    shrink = min(WIDE / inside.width, HIGH / inside.height)
    inside = inside.resize(
        (max(1, round(inside.width * shrink)), max(1, round(inside.height * shrink))), Image.Resampling.LANCZOS
    )
    frame = Image.new("RGB", (WIDE, HIGH), GREY)
    frame.paste(inside, ((WIDE - inside.width) // 2, (HIGH - inside.height) // 2))
    return frame


def matched(shown: Sequence[Image.Image]) -> tuple[Image.Image, ...]:
    """The pictures at one size: cut around their middle to one shape, made as coarse as the coarsest, and framed.  Neither a border nor
    sharpness tells which is which.

    >>> wide, high = matched([Image.new("RGB", (400, 200)), Image.new("RGB", (200, 400))])
    >>> wide.size == high.size == (960, 720)
    True
    """
    shape = math.exp(sum(math.log(one.width / one.height) for one in shown) / len(shown))
    cut = []
    for one in shown:
        wide, high = min(one.width, one.height * shape), min(one.height, one.width / shape)
        left, top = (one.width - wide) / 2, (one.height - high) / 2
        cut.append(one.convert("RGB").crop((round(left), round(top), round(left + wide), round(top + high))))
    least = min(one.width for one in cut)
    size = (max(1, least), max(1, round(least / shape)))
    return tuple(framed(one.resize(size, Image.Resampling.LANCZOS)) for one in cut)


def copy_of(frame: Image.Image, rng: np.random.Generator) -> bytes:
    """The framed picture as a PNG with every pixel off by at most one step of 255: two copies of one picture never have the same bytes, and
    nothing is packed, so that all have the same size."""
    pixels = np.asarray(frame, dtype=np.int16)
    noisy: NDArray[np.uint8] = np.clip(pixels + rng.integers(-1, 2, pixels.shape), 0, 255).astype(np.uint8)
    written = io.BytesIO()
    Image.fromarray(noisy).save(written, "PNG", compress_level=0)
    return written.getvalue()


def shipped_picture(*, other: bool, step: int) -> Image.Image:
    """A leaf on soil, and the ``other`` one, a little yellower; by how much says ``step``, 1 (hardly) to 5 (plainly)."""
    across, down = np.meshgrid(np.linspace(-1.6, 1.6, WIDE), np.linspace(-1.2, 1.2, HIGH))
    grain = np.random.default_rng(5).normal(0, 1, (HIGH, WIDE))
    width = 0.55 * np.clip(1 - (across / 1.35) ** 2, 0, None) ** 0.8
    vein = np.minimum(np.abs(down) * 18, np.abs(np.sin(7 * (across - np.abs(down)))) * 5 + 0.4).clip(0, 1)
    leaf = (np.abs(down) < width)[..., None]
    shift = (2, 4, 7, 11, 18)[step - 1] if other else 0
    green = np.stack([78 + shift + 18 * vein, 128 + shift / 2 + 20 * vein, 58 + 6 * vein], axis=-1)
    soil = np.stack([92 + 7 * grain, 74 + 6 * grain, 58 + 5 * grain], axis=-1)
    return Image.fromarray(np.clip(np.where(leaf, green + 2 * grain[..., None], soil), 0, 255).astype(np.uint8))
