"""A photo with its light taken out: by the card and the ground round the thing, by a grey or white area, or not at all."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from fieldtally.core.photos.colour import Lab, Pixels, Reals, lab_of
from fieldtally.core.photos.correcting import AS_TAKEN, Correction, from_area
from fieldtally.core.photos.finding import Found
from fieldtally.core.photos.ground import LightThere, light_there
from fieldtally.core.photos.marks import Marks, Region, mask_of, pixels_of
from fieldtally.core.photos.reading_card import from_card

COARSE = 12
"""Pixels between two places at which the light is worked out."""
ACROSS = (4.0, 30.0)
"""CIELAB by which colours may be off for a fall of light over a thing by a factor e: in brightness, and in tint."""
OTHER_LIGHT = 6.0
"""How much more is left of a colour under light of another tint than the card lies in, for a tint by a factor e."""
BY_AREA = 2.0
"""CIELAB that a grey or white area leaves open: what it is, and where it lies."""


@dataclass(frozen=True)
class Lit:
    """How the light is taken out of a photo of ``size`` (width, height): the ``correction``, and with a card the light ``there`` at
    the thing."""

    size: tuple[int, int]
    correction: Correction
    found: Found | None = None
    there: LightThere | None = None

    def light(self, linear: Any, box: tuple[int, int], each: int) -> Any:
        """Light in daylight of linear light as taken (h, w, 3), whose upper left pixel lies at ``box`` (left, top), every pixel
        standing for ``each`` pixels of the photo."""
        if self.there is None or self.found is None:
            return self.correction.apply(linear)
        tall, wide = linear.shape[:2]
        rows, columns = np.arange(0, tall + COARSE, COARSE), np.arange(0, wide + COARSE, COARSE)
        across, down = np.meshgrid(columns, rows)
        at = np.column_stack([across.ravel() * each + box[0], down.ravel() * each + box[1]]).astype(float)
        coarse = self.there.at(self.found.back(at)).reshape(len(rows), len(columns), 3)
        return self.correction.apply(linear, _between(coarse, tall, wide))

    def mean(self, linear: Reals) -> Reals:
        """The light in daylight of the mean light of the thing as taken (3)."""
        return np.asarray(self.correction.apply(linear, self._level), dtype=np.float64)

    @property
    def _level(self) -> Reals | None:
        return None if self.there is None else np.exp(self.there.log)

    def ways_off(self, linear: Reals, also: tuple[Lab, ...] = ()) -> Reals:
        """The ways in which the colour of a thing may be off whose mean light is ``linear`` as taken (3), each one standard
        deviation (n, 3 of CIELAB); ``also``: further ones."""
        if self.correction.kind != "card":
            step = BY_AREA if self.correction.kind != "none" else 3.0
            return np.concatenate([step * np.eye(3), np.array(also).reshape(-1, 3)])
        at = lab_of(self.mean(linear))
        ways = [
            lab_of(np.asarray(other.apply(linear, self._level), dtype=np.float64)) - at
            for other in self.correction.others
        ]
        if self.there is not None:
            for step in self.there.open:
                ways.append(
                    lab_of(np.asarray(self.correction.apply(linear, np.exp(self.there.log + step)), dtype=np.float64))
                    - at
                )
        # Under another light than the card's, inks differ otherwise.
        tint = 0.0 if self.there is None else float(np.ptp(self.there.log))
        ways += list(np.diag(self.correction.inks) * (1 + OTHER_LIGHT * tint))
        return np.concatenate([np.array(ways), np.array(also).reshape(-1, 3)])

    @property
    def veiled(self) -> bool:
        """Whether scattered light lies on the card that may not lie over the thing."""
        return self.there is not None and bool(self.there.over.mean() < 0)

    @property
    def ragged(self) -> float:
        """How uneven the light is around the thing, as a share."""
        return 0.0 if self.there is None else self.there.ragged

    def across(self, thing: Region) -> float:
        """How far colours on one side of the thing may be off from those on the other, for the light's fall over it (CIELAB)."""
        if self.there is None or self.found is None:
            return 0.0
        at = self.found.back(pixels_of(thing.outline, *self.size))
        logs = np.log(self.there.at(at))
        tints = np.ptp(logs - logs.mean(axis=1, keepdims=True), axis=0).max()
        return float(ACROSS[0] * np.ptp(logs.mean(axis=1)) + ACROSS[1] * tints)

    def as_glare(self, linear: Reals) -> Lab | None:
        """How the colour of the thing changes when what is brighter there than the card lets expect is glare and not light, or when
        scattered light that lies on the card does not lie there; None where nothing speaks for either."""
        if self.there is None or not self.there.over.any():
            return None
        if self.there.over.mean() < 0:
            there = np.asarray(self.correction.balanced(linear), dtype=np.float64) + np.array(self.correction.offset)
            unveiled = (there / np.exp(self.there.log - self.there.over)) @ np.array(self.correction.matrix).T
            first, second, third = (float(v) for v in lab_of(np.maximum(unveiled, 0.001)) - lab_of(self.mean(linear)))
            return first, second, third
        less = np.exp(self.there.log - self.there.over)
        over = np.exp(self.there.ground - self.there.over) * (np.exp(self.there.over) - 1)
        balanced = (np.asarray(self.correction.balanced(linear), dtype=np.float64) - over) / less
        light = np.maximum(balanced @ np.array(self.correction.matrix).T, 0.001)
        first, second, third = (float(v) for v in lab_of(light) - lab_of(self.mean(linear)))
        return first, second, third


def _between(coarse: Reals, tall: int, wide: int) -> Any:
    """Values at every ``COARSE``-th pixel (n, m, 3) drawn out to all pixels (tall, wide, 3)."""
    rows, columns = np.arange(tall) / COARSE, np.arange(wide) / COARSE
    down, across = rows.astype(int), columns.astype(int)
    f, g = (rows - down)[:, None, None].astype(np.float32), (columns - across)[None, :, None].astype(np.float32)
    held = coarse.astype(np.float32)
    upper = held[down][:, across] * (1 - g) + held[down][:, across + 1] * g
    lower = held[down + 1][:, across] * (1 - g) + held[down + 1][:, across + 1] * g
    return upper * (1 - f) + lower * f


def lit_of(pixels: Pixels, marks: Marks, found: Found | None) -> Lit:
    """How the light is taken out of a photo (height, width, 3)."""
    height, width = pixels.shape[:2]
    size = (width, height)
    if marks.reference == "card" and found is not None:
        correction = from_card(pixels, found)
        return Lit(size, correction, found, light_there(pixels, found, correction, marks.thing))
    if marks.reference in ("grey", "white") and marks.area is not None:
        samples = _inside(pixels, marks.area)
        if len(samples) >= 25:
            return Lit(size, from_area(samples, "grey" if marks.reference == "grey" else "white"))
    return Lit(size, AS_TAKEN)


def _inside(pixels: Pixels, area: Region) -> Pixels:
    height, width = pixels.shape[:2]
    box = box_of(area, width, height, 0.0)
    shrunk = max(1, int(np.sqrt((box[2] - box[0]) * (box[3] - box[1]) / 40_000)))
    cut = pixels[box[1] : box[3], box[0] : box[2]][::shrunk, ::shrunk]
    mask = mask_of(area, width, height, box, shrunk)
    return np.asarray(cut[: mask.shape[0], : mask.shape[1]][mask[: cut.shape[0], : cut.shape[1]]])


def box_of(region: Region, width: int, height: int, more: float) -> tuple[int, int, int, int]:
    """The box around a region in pixels, wider by the share ``more`` on every side, inside the photo."""
    points = pixels_of(region.outline, width, height)
    (left, top), (right, bottom) = points.min(axis=0), points.max(axis=0)
    across, down = more * (right - left), more * (bottom - top)
    low_x, low_y = int(np.clip(left - across, 0, width - 2)), int(np.clip(top - down, 0, height - 2))
    high_x = int(np.clip(np.ceil(right + across), low_x + 2, width))
    high_y = int(np.clip(np.ceil(bottom + down), low_y + 2, height))
    return low_x, low_y, high_x, high_y
