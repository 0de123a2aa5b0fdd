"""Tags in made-up scenes: a printed tag as shapes on the bench, its square and its digits, lying at any turn, whole or half hidden.

The measures are those of the label sheets (mm).
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
import segno
from PIL import Image, ImageDraw, ImageFont

from fieldtally.core.photos.colour import Reals
from fieldtally.core.photos.scenes import Scene, Shape

PAPER, INK, LEAF = "#f2f1ec", "#1a1a1a", "#567a3c"
QUIET = 4
FINE = 48
"""Height of a digit's line in the bitmap from which it is drawn."""
SIZES = ((95.0, 52.0), (99.1, 67.7), (70.0, 37.0), (63.5, 38.1))


@dataclass(frozen=True)
class Tag:
    """A tag: what its square says, its ``code`` with its ``letter``, its ``size`` (mm), where its middle lies (mm), its ``turn`` (degrees),
    and the share of it that something ``hides`` (0–1, from the side of the square)."""

    square: str
    code: str
    letter: str
    size: tuple[float, float] = SIZES[0]
    at: tuple[float, float] = (70.0, 60.0)
    turn: float = 0.0
    hides: float = 0.0


Font = ImageFont.FreeTypeFont | ImageFont.ImageFont


def with_tag(scene: Scene, tag: Tag, font: Font | None = None) -> Scene:
    """The ``scene`` with a ``tag`` lying in it, its text set in ``font`` (of 48 points; None: Pillow's own)."""
    return replace(scene, shapes=(*scene.shapes, *_shapes(tag, font or ImageFont.load_default(FINE))))


def _shapes(tag: Tag, font: Font) -> Iterator[Shape]:
    width, height = tag.size
    inset = max(2.0, height * 0.06)
    side = min(height - 2 * inset, width * 0.4)
    left = 13.0 if tag.size == SIZES[0] else inset + 1
    digits = min((width - left - side - inset - 1) / 1.95, height * 0.4)
    corners: list[tuple[float, float, float, float, str]] = [(0, 0, width, height, PAPER)]
    code = segno.make(tag.square, error="m", micro=False)
    square = np.array([list(row) for row in code.matrix], bool)
    each = side / (len(square) + 2 * QUIET)
    at = (width - inset - side + QUIET * each, (height - side) / 2 + QUIET * each)
    corners += [(at[0] + x * each, at[1] + y * each, n * each, each, INK) for x, y, n in _runs(square)]
    small = max(2.4, digits * 0.17)
    for text, top, high in (
        (tag.code, height / 2 - digits * 0.75, digits),
        (f"Check {tag.code} {tag.letter}", height / 2 + digits * 0.35, small),
    ):
        point = high / FINE
        drawn = _text(text, font)
        corners += [(left + x * point, top + y * point, n * point, point, INK) for x, y, n in _runs(drawn)]
    if tag.hides:
        corners.append((width * (1 - tag.hides), -4.0, width * tag.hides + 4, height + 8, LEAF))
    for x, y, wide, high, colour in corners:
        box = ((x, y), (x + wide, y), (x + wide, y + high), (x, y + high))
        yield Shape(tuple(_laid(tag, point) for point in box), colour)


def _text(text: str, font: Font) -> np.ndarray:
    picture = Image.new("L", (FINE * len(text), round(FINE * 1.3)))
    ImageDraw.Draw(picture).text((0, 0), text, font=font, fill=255)
    return np.asarray(picture) > 127


def _runs(bitmap: np.ndarray) -> Iterator[tuple[int, int, int]]:
    """The runs of what is set: where each begins (column, row), and its length."""
    for y, row in enumerate(bitmap):
        edges = np.diff(np.concatenate([[0], row.astype(np.int8), [0]]))
        for start, end in zip(np.flatnonzero(edges == 1), np.flatnonzero(edges == -1), strict=True):
            yield int(start), y, int(end - start)


def _laid(tag: Tag, point: Sequence[float]) -> tuple[float, float]:
    cos, sin = math.cos(math.radians(tag.turn)), math.sin(math.radians(tag.turn))
    x, y = point[0] - tag.size[0] / 2, point[1] - tag.size[1] / 2
    return tag.at[0] + cos * x - sin * y, tag.at[1] + sin * x + cos * y


def shaded(picture: np.ndarray, side: float, darker: float) -> np.ndarray:
    """A ``picture`` (height, width, 3; sRGB) over whose left ``side`` (share of its width) a soft shadow lies, so much ``darker`` (0–1)."""
    width = picture.shape[1]
    across = (np.arange(width) / width - side) / 0.02
    light: Reals = 1 - darker / (1 + np.exp(np.clip(across, -50, 50)))
    return np.asarray(np.round(picture * light[None, :, None] ** (1 / 2.2)), dtype=np.uint8)
