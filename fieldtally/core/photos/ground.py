"""The light where the thing lies, told from the ground that card and thing share.

The card tells the light where it lies itself.  What lies between and around, the bench, the cloth, the soil, is one surface as long as it
changes smoothly; so how much brighter, darker or warmer it is beside the thing than beside the card is how the light differs.  A cast
shadow or another surface shows as an edge, glare as a place that is brighter than the card lets expect.  What cannot be told apart widens
the doubt of the light, or refuses."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from PIL import Image, ImageDraw
from scipy.ndimage import distance_transform_edt, gaussian_filter, label

from fieldtally.core.photos import card
from fieldtally.core.photos.colour import Pixels, Reals, linear_of
from fieldtally.core.photos.correcting import MOST_FALL, Correction
from fieldtally.core.photos.finding import Found
from fieldtally.core.photos.marks import Region, pixels_of
from fieldtally.core.photos.quality import APART, Flag

LOOKED_AT = 420
"""The longer side, in pixels, at which the ground is looked at."""
SMOOTH = 0.035
"""How much the log of light may change from one of those pixels to the next on one surface."""
NEAR, FAR = 3.0, 16.0
"""Millimetres from the edge of the card within which the ground beside it is taken."""
SECTORS, REACH, FEWEST = 12, 70.0, 10
"""Directions round the thing in which ground is looked for, how far (mm), and how many pixels one needs."""
UNSEEN = 0.05
"""Log of light left open where nothing tells it: no common ground."""
ALWAYS = 0.012
"""Log of light left open in any case: card and thing do not lie at one height, paper is not matt."""
BEYOND, FALLEN, TINTED = 0.3, 0.06, 0.1
"""What is left open of a fall of light that the card does not show, of any, and of its tint."""
VEILED = 0.02
"""Scattered light on the card (a share of white) from which on it is asked whether it lies over the thing as well."""
BRIGHTER = 0.04
APART_SHARE = 0.25
"""How much of what lies round the thing may be another surface."""
EDGE_REFUSED, RAGGED_SAID, RAGGED_REFUSED = 0.10, 0.04, 0.09


@dataclass(frozen=True)
class LightThere:
    """How much light there is at points in mm on the card's plane, by channel, as a plane through the ``middle``: ``log`` there (3) and its
    ``slope`` per mm (3, 2), 0 in the middle of the card.

    ``open``: what is left open of ``log``, as ways in which it may be off (n, 3), each one standard deviation.  ``over``: by how much of
    the log it is brighter than the card lets expect, which may as well be glare (3), or below 0 where scattered light that
    lies on the card may not lie here; ``ground`` is the log of the light that comes from
    the ground there (3)."""

    middle: Reals
    log: Reals
    slope: Reals
    open: Reals
    over: Reals = field(default_factory=lambda: np.zeros(3))
    ground: Reals = field(default_factory=lambda: np.zeros(3))
    flags: tuple[Flag, ...] = ()
    ragged: float = 0.0

    def at(self, points: Reals) -> Reals:
        """How much light there is at points (n, 2), by channel (n, 3): 1 in the middle of the card."""
        away = self.log + (points - self.middle) @ self.slope.T
        return np.asarray(np.exp(np.clip(away, -MOST_FALL, MOST_FALL)))


def light_there(pixels: Pixels, found: Found, correction: Correction, thing: Region) -> LightThere:
    """The light at the marked ``thing`` of a picture (height, width, 3)."""
    seen = _Ground(pixels, found, correction, thing)
    plane = np.log(correction.fallen(seen.middle[None]))[0]
    slope = np.array(correction.fall)
    of_card = np.array([np.log(other.fallen(seen.middle[None]))[0] - plane for other in correction.others])
    always = ALWAYS * np.ones((1, 3))
    own = seen.around_thing()
    beside = seen.around_card()
    if beside is not None:
        step = seen.step_beside_thing(beside[0])
        if step is not None and _may_be_shade(step):
            # Lighter things lie on darker ones every day; a ground that is darker only here, or only by the card, may be in the shade.
            darker = bool(step.mean() < 0)
            if darker or seen.card_is_apart:
                says = (
                    f"The ground beside the sample is {'darker' if darker else 'brighter'} than beside the card, with an edge "
                    f"between them: a shadow, or other ground? Lay both on one ground, and {APART}."
                )
                return LightThere(seen.middle, plane, slope, np.array([step]), flags=(Flag("edge", says, True),))
    if beside is None or own is None:
        away = float(np.hypot(*(seen.middle - np.array([card.WIDTH, card.HEIGHT]) / 2)))
        unseen = UNSEEN * max(1.0, away / 120)
        left = np.concatenate([of_card.reshape(-1, 3), always, unseen * _WAYS])
        says = "The sample has no ground in common with the card: whether it lies in the same light cannot be seen."
        return LightThere(seen.middle, plane, slope, left, flags=(Flag("other ground", says),))
    there, turns, ragged, sure = own
    log, unlike = beside
    fall = there - log
    beyond = fall - plane
    flags = []
    if ragged > RAGGED_SAID:
        refused = ragged > RAGGED_REFUSED
        says = (
            f"The light is uneven around the sample, by {round(100 * ragged)} %: a shadow or a glare over a part of it?"
        )
        flags.append(Flag("uneven there", says + (f" Please {APART}." if refused else ""), refused))
    # A lamp or a shade of its own colour changes each channel otherwise: what is told of one is not sure of the others.
    left = np.concatenate(
        [
            always,
            sure * _WAYS,
            unlike * _WAYS,
            0.5 * ragged * np.ones((1, 3)),
            np.array([BEYOND * beyond, FALLEN * fall, TINTED * (fall - fall.mean())]),
        ]
    )
    veiled = correction.scattered > VEILED and fall.mean() < -BRIGHTER
    over = fall if veiled else beyond if beyond.mean() > BRIGHTER else np.zeros(3)
    return LightThere(seen.middle, fall, turns, left, over, there, tuple(flags), ragged)


_WAYS = np.array([[1.0, 1.0, 1.0], [0.35, 0.0, -0.35]])
"""How light may be off: brighter, warmer."""


def _may_be_shade(step: Reals) -> bool:
    """Whether a step in log light between two grounds (3) may be a shadow's: about as much in all channels: a shade is lit by the sky."""
    return bool(EDGE_REFUSED < abs(step.mean()) < 2.2 and np.ptp(step) < 0.2 + 0.6 * abs(step.mean()))


class _Ground:
    """The picture made small, its light as the card has it, and which of it is one surface with the ground beside the card."""

    def __init__(self, pixels: Pixels, found: Found, correction: Correction, thing: Region) -> None:
        height, width = pixels.shape[:2]
        self.scale = min(1.0, LOOKED_AT / max(height, width))
        size = (max(8, round(width * self.scale)), max(8, round(height * self.scale)))
        small = np.asarray(Image.fromarray(pixels).resize(size, Image.Resampling.BOX))
        wide, tall = size
        light = np.maximum(correction.balanced(linear_of(small)), 2e-4)
        self.log = np.log(gaussian_filter(light.astype(np.float64), (0.7, 0.7, 0)))
        rows, columns = np.mgrid[0:tall, 0:wide]
        centres = np.column_stack([(columns.ravel() + 0.5) * width / wide, (rows.ravel() + 0.5) * height / tall]) - 0.5
        self.at = found.back(centres).reshape(tall, wide, 2)
        outline = pixels_of(thing.outline, width, height)
        self.middle = found.back(outline.mean(axis=0)[None])[0]
        self.thing = _filled(outline * (wide / width, tall / height), wide, tall)
        x, y = self.at[..., 0], self.at[..., 1]
        off_x = np.maximum(np.maximum(-x, x - card.WIDTH), 0)
        off_y = np.maximum(np.maximum(-y, y - card.HEIGHT), 0)
        self.from_card = np.hypot(off_x, off_y)
        self.correction = correction
        bright = self.log.mean(axis=2)
        steep = np.maximum(np.abs(_step(bright, 0)), np.abs(_step(bright, 1)))
        free = (self.from_card > NEAR) & ~self.thing
        beside = free & (self.from_card < FAR)
        usual = float(np.median(steep[beside])) if beside.sum() > FEWEST else SMOOTH
        self.calm = free & (steep < max(SMOOTH, 3 * usual))
        self.beside = beside & self.calm
        parts, many = label(self.calm)
        if not many or self.beside.sum() < FEWEST:
            self.surface = np.zeros_like(self.calm)
            return
        sizes = np.bincount(parts[self.beside], minlength=many + 1)
        sizes[0] = 0
        self.surface = parts == int(np.argmax(sizes))

    def around_card(self) -> tuple[Reals, float] | None:
        """The log of light beside the card with its own fall taken out (3), and how unlike it is from side to side."""
        ring = self.surface & self.beside
        if ring.sum() < max(FEWEST, 0.25 * self.beside.sum()):
            return None
        points = self.at[ring]
        flat = self.log[ring] - np.log(self.correction.fallen(points))
        middle = np.median(flat, axis=0)
        angle = np.arctan2(points[:, 1] - card.HEIGHT / 2, points[:, 0] - card.WIDTH / 2)
        side = ((angle + np.pi) / (np.pi / 4)).astype(int)
        sides = [np.median(flat[side == one], axis=0) for one in np.unique(side) if (side == one).sum() >= FEWEST]
        unlike = float(np.std([one.mean() for one in sides]) / np.sqrt(len(sides))) if len(sides) > 2 else 0.02
        return middle, unlike

    def around_thing(self) -> tuple[Reals, Reals, float, float] | None:
        """The log of light at the thing (3), its slope per mm (3, 2), how ragged it is round it, and how sure the first is; None where the
        ground of the card does not reach it."""
        away = distance_transform_edt(~self.thing)
        a_mm = self._pixel()
        near = self.surface & (away * a_mm < REACH) & (away > 1)
        points, light, apart = self.at[near], self.log[near], away[near]
        angle = np.arctan2(points[:, 1] - self.middle[1], points[:, 0] - self.middle[0])
        sector = ((angle + np.pi) / (2 * np.pi) * SECTORS).astype(int) % SECTORS
        where, what = [], []
        for one in range(SECTORS):
            own = np.flatnonzero(sector == one)
            if len(own) < FEWEST:
                continue
            own = own[np.argsort(apart[own])[: 4 * FEWEST]]
            where.append(points[own].mean(axis=0) - self.middle)
            what.append(np.median(light[own], axis=0))
        if len(where) < 5:
            return None
        x, y = np.array(where), np.array(what)
        design = np.column_stack([np.ones(len(x)), x / REACH])
        if np.linalg.cond(design) > 60:
            return None
        fitted = np.linalg.lstsq(design, y, rcond=None)[0]
        rest = y - design @ fitted
        ragged = float(np.sqrt((rest.mean(axis=1) ** 2).sum() / max(1, len(x) - 3)))
        leverage = float(np.linalg.inv(design.T @ design)[0, 0])
        return fitted[0], fitted[1:].T / REACH, ragged, max(0.004, ragged * float(np.sqrt(leverage)))

    def step_beside_thing(self, beside: Reals) -> Reals | None:
        """The step in log light (3) from the ground ``beside`` the card to what lies round the thing; None where that is one surface, or
        nothing is to be seen of it.  A small thing that the sample lies on itself (a plate, a strip) is no ground where it is lighter."""
        away = distance_transform_edt(~self.thing) * self._pixel()
        found = []
        for reach in (12.0, REACH):
            ring = (away > 1.5 * self._pixel()) & (away < reach) & self.calm
            own = ring & ~self.surface
            if own.sum() < max(FEWEST, APART_SHARE * ring.sum()):
                continue
            flat = self.log[own] - np.log(self.correction.fallen(self.at[own]))
            found.append(np.asarray(np.median(flat, axis=0) - beside))
        return min(found, key=lambda step: float(step.mean())) if found else None

    @property
    def card_is_apart(self) -> bool:
        """Whether the ground beside the card is not most of the ground that is to be seen."""
        return bool(self.surface.sum() < 0.5 * self.calm.sum())

    def _pixel(self) -> float:
        """How many mm a pixel is wide, at the thing."""
        rows, columns = np.nonzero(self.thing)
        if not len(rows):
            return 1.0
        row, column = int(np.median(rows)), int(np.median(columns))
        one, other = self.at[row, max(0, column - 2)], self.at[row, min(self.at.shape[1] - 1, column + 2)]
        return float(np.hypot(*(other - one)) / 4)


def _step(values: Reals, axis: int) -> Reals:
    return np.asarray(np.gradient(gaussian_filter(values, 0.8), axis=axis))


def _filled(outline: Reals, wide: int, tall: int) -> Any:
    image = Image.new("1", (wide, tall))
    ImageDraw.Draw(image).polygon([(float(x) - 0.5, float(y) - 0.5) for x, y in outline], fill=1)
    return np.asarray(image)
