"""A second simulated camera, of another build than :mod:`~fieldtally.core.photos.camera`: so that the gauge is not tried on the one it
grew up with.

Every colour becomes the flattest reflectance that shows it in daylight, with a wave of its own that daylight hides (no two inks are
alike); one or two lamps light the bench, each with its spectrum, its fall of light and its shadow; one of two sensors sees it through a
lens that bends straight lines and scatters light; the maker's matrix, white balance and contrast make a picture of it.  Sources: Burns
2020, Numerical methods for smoothest reflectance reconstruction, Color Research & Application 45:8; the eye as in the first camera.
"""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

import numpy as np
from PIL import Image, ImageDraw
from scipy.ndimage import gaussian_filter, zoom

from fieldtally.core.photos.camera import HEADROOM, TO_SRGB, WAVES, Shot, view_of
from fieldtally.core.photos.camera import _glow as glow
from fieldtally.core.photos.camera import _sight as eye
from fieldtally.core.photos.colour import Pixels, Reals, encoded
from fieldtally.core.photos.finding import seen_through
from fieldtally.core.photos.marks import Region
from fieldtally.core.photos.scenes import HEIGHT, WIDTH, Scene, palette

Lamp = Literal["daylight", "shade", "bulb", "led", "tube"]
SENSORS = (((596, 38), (532, 40), (452, 27)), ((612, 30), (541, 34), (463, 23)))
"""Where the three kinds of cells of each sensor see best, and how wide, in nm."""
COARSE = 8
"""Pixels between two places at which the light is worked out."""


@dataclass(frozen=True)
class Blot:
    """A round of shade or glare on the bench: middle and radius in mm, how strong (0–1), and over how many mm its edge is soft."""

    x: float
    y: float
    radius: float
    strength: float
    edge: float = 12.0


@dataclass(frozen=True)
class Setting:
    """The light and the camera.  ``fall``: how much darker the far end is, 0–1, towards ``fall_to`` degrees; ``second`` lamp, from the
    other side, with its ``share`` of the light; ``veil``: scattered light over all, as a share of white; ``shadows`` and ``glares``;
    ``lens``: how far the corner of the picture is bent outwards, as a share; ``vignette``: how much darker it is there; ``contrast`` of
    the maker's curve; ``grain``: how far inks differ in what daylight hides; ``texture`` of the ground, as a share; ``jpeg`` quality, 0:
    none."""

    lamp: Lamp = "daylight"
    second: Lamp | None = None
    share: float = 0.5
    fall: float = 0.0
    fall_to: float = 0.0
    veil: float = 0.0
    shadows: tuple[Blot, ...] = ()
    glares: tuple[Blot, ...] = ()
    lens: float = 0.0
    vignette: float = 0.0
    sensor: int = 0
    contrast: float = 1.0
    grain: float = 0.015
    texture: float = 0.02
    jpeg: int = 90


@lru_cache(maxsize=8)
def spectrum(lamp: Lamp) -> Reals:
    """The power of a lamp (waves), as bright to the eye as any other."""

    def peak(at: float, wide: float, high: float) -> Reals:
        return np.asarray(high * np.exp(-0.5 * ((WAVES - at) / wide) ** 2))

    match lamp:
        case "daylight":
            return glow(6504.0)
        case "shade":
            return glow(8500.0)
        case "bulb":
            return glow(2850.0)
        case "led":
            power = peak(452, 11, 0.75) + peak(562, 58, 1.0) + peak(622, 35, 0.25)
        case "tube":
            lines = ((436, 0.6), (488, 0.3), (544, 1.3), (587, 0.5), (611, 1.2))
            power = sum((peak(at, 6, high) for at, high in lines), np.full(len(WAVES), 0.12))
    return np.asarray(power / float((power * eye()[1]).sum()))


@lru_cache(maxsize=1)
def _flattest() -> tuple[Reals, Reals]:
    """From linear light in daylight to the flattest reflectance (waves, 3); and what daylight hides (waves, waves − 3)."""
    day = TO_SRGB @ (eye() * spectrum("daylight"))
    day = day / day.sum(axis=1, keepdims=True)  # What reflects all is white.
    slope = np.diff(np.eye(len(WAVES)), axis=0)
    stiff = slope.T @ slope + 1e-6 * np.eye(len(WAVES))
    inverse = np.linalg.inv(stiff)
    hidden = np.linalg.svd(day)[2][3:].T
    return np.asarray(inverse @ day.T @ np.linalg.inv(day @ inverse @ day.T)), np.asarray(hidden)


def reflectances(light: Reals, grain: float, rng: np.random.Generator) -> Reals:
    """Reflectances (n, waves) of colours in linear light as seen in daylight (n, 3), each with a wave of its own that daylight hides."""
    flattest, hidden = _flattest()
    ripple = gaussian_filter(rng.standard_normal((len(light), len(WAVES))), (0, 5)) * 3.5
    own = ripple @ hidden @ hidden.T
    bright = light.mean(axis=1, keepdims=True)
    return np.asarray(np.clip(light @ flattest.T + grain * own * np.sqrt(bright), 0.002, 1.1))


@lru_cache(maxsize=2)
def _sensed(sensor: int) -> tuple[Reals, Reals]:
    """What the cells of a sensor see (3, waves), and the maker's matrix from them to linear light, learnt in daylight (3, 3)."""
    cells = np.stack([np.exp(-0.5 * ((WAVES - at) / wide) ** 2) for at, wide in SENSORS[sensor]])
    day = cells * spectrum("daylight")
    cells = cells / day.sum(axis=1, keepdims=True)
    rng = np.random.default_rng(11)
    shown = rng.uniform(0.03, 0.85, (60, 3)) * 0.6 + rng.uniform(0.03, 0.4, (60, 1))
    seen = reflectances(shown, 0.0, rng) @ (cells * spectrum("daylight")).T
    matrix = np.linalg.lstsq(seen, shown, rcond=None)[0].T
    return cells, np.asarray(matrix / matrix.sum(axis=1, keepdims=True))


def _shown(scene: Scene, lamp: Lamp, main: Lamp, shot: Shot, setting: Setting, seed: int) -> Reals:
    """Linear light of every colour of a scene under a lamp (n, 3), as a camera shows it that has balanced for ``main``."""
    cells, matrix = _sensed(setting.sensor)
    made = reflectances(palette(scene), setting.grain, np.random.default_rng(seed))
    white = cells @ spectrum(main)
    balance = (1 / white) ** shot.balanced
    return np.asarray((made @ (cells * spectrum(lamp)).T * balance) @ matrix.T)


def bent(points: Reals, shot: Shot, lens: float) -> Reals:
    """Where pixels (n, 2) of a straight picture come to lie through a lens."""
    middle = np.array([shot.width, shot.width * HEIGHT / WIDTH]) / 2
    away = (points - middle) / np.hypot(*middle)
    return np.asarray(middle + (points - middle) * (1 + lens * (away**2).sum(axis=1, keepdims=True)))


def _straight(points: Reals, shot: Shot, lens: float) -> Reals:
    found = points
    for _ in range(6):
        found = points - (bent(found, shot, lens) - found)
    return found


def marked(scene: Scene, shot: Shot, setting: Setting, outline: Sequence[tuple[float, float]] | None = None) -> Region:
    """The mark that a person would make on that picture: round the sample with room to spare, or round ``outline`` (mm on the bench)."""
    turns = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    ring = np.column_stack(
        [scene.centre[0] + scene.radius * np.cos(turns), scene.centre[1] + scene.radius * np.sin(turns)]
    )
    points = np.array(outline if outline is not None else ring, dtype=float)
    seen = bent(seen_through(view_of(shot), points), shot, setting.lens)
    height = round(shot.width * HEIGHT / WIDTH)
    return Region("polygon", tuple((float(x) / shot.width, float(y) / height) for x, y in seen))


def _fine(outline: Sequence[tuple[float, float]]) -> Reals:
    """An outline (mm) with points no more than 4 mm apart, so that its sides can be bent."""
    points = np.array(outline, dtype=float)
    found = []
    for one, other in zip(points, np.roll(points, -1, axis=0), strict=True):
        many = max(1, math.ceil(float(np.hypot(*(other - one))) / 4))
        found.append(one + (other - one) * np.linspace(0, 1, many, endpoint=False)[:, None])
    return np.concatenate(found)


def _in(blot: Blot, x: Reals, y: Reals) -> Reals:
    away = np.hypot(x - blot.x, y - blot.y)
    return np.asarray(1 / (1 + np.exp(np.clip((away - blot.radius) / (blot.edge / 4), -40, 40))))


def _falling(setting: Setting, x: Reals, y: Reals) -> tuple[Reals, Reals, Reals, Reals]:
    """At places on the bench (h, w) in mm: the light of the first lamp, of the second, of the sky in the shade, and glare."""
    towards = math.radians(setting.fall_to)
    along = ((x - WIDTH / 2) * math.cos(towards) + (y - HEIGHT / 2) * math.sin(towards)) / (WIDTH / 2)
    main = 1 - setting.fall * np.clip(0.5 + along / 2, -0.2, 1.2)
    other = np.zeros_like(main)
    if setting.second:
        mix = 1 / (1 + np.exp(-along * 1.6))
        other = 2 * setting.share * mix * main
        main = 2 * (1 - setting.share) * (1 - mix) * main
    ambient = np.zeros_like(main)
    for blot in setting.shadows:
        dark = blot.strength * _in(blot, x, y)
        ambient = ambient * (1 - dark) + 0.12 * dark
        main, other = main * (1 - dark), other * (1 - dark)
    glare = sum((blot.strength * _in(blot, x, y) for blot in setting.glares), np.full_like(main, setting.veil))
    return main, other, ambient, glare


def photo_of(scene: Scene, shot: Shot, setting: Setting, rng: np.random.Generator) -> Pixels:
    """The picture (height, width, 3) in sRGB."""
    height = round(shot.width * HEIGHT / WIDTH)
    fine = 2
    labels = Image.new("I;16", (shot.width * fine, height * fine))
    draw = ImageDraw.Draw(labels)
    view = view_of(shot)
    for number, shape in enumerate(scene.shapes, start=1):
        seen = bent(seen_through(view, _fine(shape.outline)), shot, setting.lens) * fine
        draw.polygon([(float(x), float(y)) for x, y in seen], fill=number)
    # Where each pixel lies on the bench, and what light falls there.
    rows, columns = np.mgrid[0 : height + COARSE : COARSE, 0 : shot.width + COARSE : COARSE]
    grid = np.column_stack([columns.ravel(), rows.ravel()]).astype(float)
    at = seen_through(np.asarray(np.linalg.inv(view)), _straight(grid, shot, setting.lens))
    x, y = at[:, 0].reshape(rows.shape), at[:, 1].reshape(rows.shape)
    main, other, ambient, glare = _falling(setting, x, y)
    corner = ((columns - shot.width / 2) ** 2 + (rows - height / 2) ** 2) / (np.hypot(shot.width, height) / 2) ** 2
    dim = 1 - setting.vignette * corner
    if setting.texture:
        spots = gaussian_filter(rng.standard_normal((height, shot.width), dtype=np.float32), 1.6) * 5.6
    seed = int(rng.integers(1 << 30))

    def spread(field: Reals) -> np.ndarray:
        wide = zoom(field, COARSE, order=1, grid_mode=True, mode="nearest")
        return np.asarray(wide[:height, : shot.width, None], dtype=np.float32)

    painted = np.asarray(labels)
    parts = (painted[::2, ::2], painted[1::2, ::2], painted[::2, 1::2], painted[1::2, 1::2])
    light: Any = np.zeros((height, shot.width, 3), dtype=np.float32)
    for lamp, field in ((setting.lamp, main), (setting.second, other), ("shade", ambient)):
        if lamp is None or not field.any():
            continue
        colours = _shown(scene, lamp, setting.lamp, shot, setting, seed).astype(np.float32)
        light += spread(field) * sum(colours[part] for part in parts) / 4
    if setting.texture:
        light *= np.where(parts[0] == 0, 1 + setting.texture * spots, 1)[:, :, None]
    cells, matrix = _sensed(setting.sensor)
    lit = cells @ spectrum(setting.lamp)
    white = matrix @ (lit * (1 / lit) ** shot.balanced)
    light += spread(glare) * white.astype(np.float32)
    light *= spread(dim) * HEADROOM * 2**shot.stops
    if shot.soft > 0:
        light = gaussian_filter(light, (shot.soft, shot.soft, 0), truncate=3.0)
    light += rng.standard_normal(light.shape, dtype=np.float32) * shot.noise * np.sqrt(np.maximum(light, 0) + 0.01)
    if setting.contrast != 1:
        light = 0.3 * (np.maximum(light, 0) / 0.3) ** setting.contrast
    pixels = np.asarray(np.round(encoded(light) * 255), dtype=np.uint8)
    if not setting.jpeg:
        return pixels
    kept = io.BytesIO()
    Image.fromarray(pixels).save(kept, "JPEG", quality=setting.jpeg)
    return np.asarray(Image.open(kept).convert("RGB"))
