"""A simulated camera: a flat scene as a phone's picture of it, with its light, exposure, tilt, noise and softness.

Colours are not tinted by a simple factor.  Every colour is given a smooth reflectance, lit by a black body of the light's temperature and
seen by the eye's own sensitivities, so that a warm lamp changes each colour in its own way.  Sources: Planck's law; Wyman, Sloan & Shirley
2013, Simple analytic approximations to the CIE XYZ color matching functions, Journal of Computer Graphics Techniques 2:2.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from PIL import Image, ImageDraw
from scipy.ndimage import gaussian_filter

from fieldtally.core.photos.colour import Pixels, Reals, encoded
from fieldtally.core.photos.finding import seen_through
from fieldtally.core.photos.marks import Region
from fieldtally.core.photos.scenes import HEIGHT, WIDTH, Scene, palette

WAVES = np.arange(400.0, 701.0, 5.0)
HEADROOM = 0.42
"""How bright something white comes out at no stops: cameras leave room for highlights."""
TO_SRGB = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]])
SENSOR = np.array([[0.7328, 0.4296, -0.1624], [-0.4036, 1.5475, 0.0561], [0.0030, 0.0136, 0.9834]])
"""What the sensor's three kinds of cells see of X, Y and Z."""
NEUTRAL = 6504.0


@dataclass(frozen=True)
class Shot:
    """How a picture is taken.

    ``kelvin`` is the colour of the light, of which the camera's own white balance takes out the share ``balanced`` (0: nothing, 1: all);
    ``stops`` brighter or darker; ``tilt`` degrees between the camera and the upright, towards ``tilt_to`` degrees; ``turn`` degrees round;
    ``noise`` as a share of white; ``soft`` in pixels; ``uneven`` how much darker the far side is.
    """

    width: int = 1600
    kelvin: float = NEUTRAL
    stops: float = 0.0
    balanced: float = 0.7
    tilt: float = 0.0
    tilt_to: float = 0.0
    turn: float = 0.0
    noise: float = 0.006
    soft: float = 0.7
    uneven: float = 0.0


def _lobe(at: float, below: float, above: float) -> Reals:
    return np.exp(-0.5 * ((WAVES - at) / np.where(at > WAVES, below, above)) ** 2)


@lru_cache(maxsize=1)
def _sight() -> Reals:
    """Sensitivities x, y, z (3, waves)."""
    return np.stack(
        [
            1.056 * _lobe(599.8, 37.9, 31.0) + 0.362 * _lobe(442.0, 16.0, 26.7) - 0.065 * _lobe(501.1, 20.4, 26.2),
            0.821 * _lobe(568.8, 46.9, 40.5) + 0.286 * _lobe(530.9, 16.3, 31.1),
            1.217 * _lobe(437.0, 11.8, 36.0) + 0.681 * _lobe(459.0, 26.0, 13.8),
        ]
    )


@lru_cache(maxsize=1)
def _reflectances() -> Reals:
    """Three smooth reflectances that add up to white (3, waves): long, middle and short waves."""
    long, short = 1 / (1 + np.exp(-(WAVES - 585) / 14)), 1 / (1 + np.exp((WAVES - 495) / 14))
    return np.stack([long, np.clip(1 - long - short, 0, None), short])


def _glow(kelvin: float) -> Reals:
    """A black body (waves), as bright to the eye as any other."""
    metres = WAVES * 1e-9
    power = metres**-5 / (np.exp(0.014388 / (metres * kelvin)) - 1)
    return np.asarray(power / float((power * _sight()[1]).sum()))


def light_matrix(kelvin: float, balanced: float = 0.0) -> Reals:
    """What light of ``kelvin`` makes of linear light as seen in daylight: (3, 3), from the left.

    The camera's own white balance has taken the share ``balanced`` of the light's colour out, as it does in the sensor, before the picture
    becomes sRGB.

    >>> bool(np.allclose(light_matrix(6504), np.eye(3)))
    True
    >>> [round(float(x), 2) for x in light_matrix(3000) @ np.ones(3)]
    [1.68, 0.86, 0.26]
    >>> [round(float(x), 2) for x in light_matrix(3000, 1.0) @ np.ones(3)]
    [1.0, 1.0, 1.0]
    """

    def sensed(temperature: float) -> Reals:
        return np.asarray(SENSOR @ (_sight() * _glow(temperature)) @ _reflectances().T)

    neutral, lit = sensed(NEUTRAL), sensed(kelvin)
    gains = (neutral.sum(axis=1) / lit.sum(axis=1)) ** balanced
    shown = TO_SRGB @ np.linalg.inv(SENSOR)
    scale = np.diag(1 / (shown @ neutral @ np.ones(3)))
    return np.asarray(scale @ shown @ np.diag(gains) @ lit @ np.linalg.inv(scale @ shown @ neutral))


def view_of(shot: Shot) -> Reals:
    """From millimetres on the bench to pixels: a homography (3, 3)."""
    height = shot.width * HEIGHT / WIDTH
    tilt, towards, turn = (math.radians(x) for x in (shot.tilt, shot.tilt_to, shot.turn))

    def about(axis: tuple[float, float, float], angle: float) -> Reals:
        x, y, z = axis
        c, s = math.cos(angle), math.sin(angle)
        cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
        return np.asarray(np.eye(3) * c + (1 - c) * np.outer(axis, axis) + s * cross)

    turned = about((math.cos(towards), math.sin(towards), 0.0), tilt) @ about((0.0, 0.0, 1.0), turn)
    away = 1.35 * WIDTH
    lens = away / (1.0 + 0.22 * math.sin(tilt) + 0.28 * abs(math.sin(turn)))
    centred = np.array([[1, 0, -WIDTH / 2], [0, 1, -HEIGHT / 2], [0, 0, 1]])
    placed = np.column_stack([turned[:, 0], turned[:, 1], [0.0, 0.0, away]])
    scale = shot.width / WIDTH * lens
    project = np.array([[scale, 0, shot.width / 2], [0, scale, height / 2], [0, 0, 1]])
    return np.asarray(project @ placed @ centred)


def marked(scene: Scene, shot: Shot, outline: Sequence[tuple[float, float]] | None = None) -> Region:
    """The mark that a person would make on that picture: round the sample with room to spare, or round ``outline`` (mm on the bench)."""
    turns = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    ring = np.column_stack(
        [scene.centre[0] + scene.radius * np.cos(turns), scene.centre[1] + scene.radius * np.sin(turns)]
    )
    seen = seen_through(view_of(shot), ring if outline is None else np.array(outline))
    height = round(shot.width * HEIGHT / WIDTH)
    return Region("polygon", tuple((float(x) / shot.width, float(y) / height) for x, y in seen))


def photo_of(scene: Scene, shot: Shot, rng: np.random.Generator) -> Pixels:
    """The picture (height, width, 3) in sRGB."""
    height = round(shot.width * HEIGHT / WIDTH)
    fine = 2 if shot.width <= 2400 else 1
    view = np.diag([fine, fine, 1.0]) @ view_of(shot)
    labels = Image.new("I;16", (shot.width * fine, height * fine))
    draw = ImageDraw.Draw(labels)
    for number, shape in enumerate(scene.shapes, start=1):
        seen = seen_through(view, np.array(shape.outline))
        draw.polygon([(float(x), float(y)) for x, y in seen], fill=number)
    shown = palette(scene) @ light_matrix(shot.kelvin, shot.balanced).T * (HEADROOM * 2**shot.stops)
    light = shown.astype(np.float32)[np.asarray(labels)]
    if fine == 2:
        light = (light[::2, ::2] + light[1::2, ::2] + light[::2, 1::2] + light[1::2, 1::2]) / 4
    if shot.soft > 0:
        light = gaussian_filter(light, (shot.soft, shot.soft, 0), truncate=3.0)
    if shot.uneven:
        light *= np.linspace(1, 1 - shot.uneven, shot.width, dtype=np.float32)[None, :, None]
    # Noise grows with the root of the light, above a floor.
    grain = rng.standard_normal(light.shape, dtype=np.float32)
    light += grain * shot.noise * np.sqrt(np.maximum(light, 0) + 0.01)
    return np.asarray(np.round(encoded(light) * 255), dtype=np.uint8)
