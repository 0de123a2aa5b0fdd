"""What a person marks on a photo: the object, the reference beside it, a length that is known.

Points are shares of the photo's width and height, 0–1 from the upper left, so that they hold for every size it is kept in.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
from PIL import Image, ImageDraw

from fieldtally.core.photos.colour import Reals
from fieldtally.core.photos.correcting import ReferenceKind
from fieldtally.core.photos.finding import Found
from fieldtally.core.problems import Problem

Point = tuple[float, float]
MOST_POINTS = 200


@dataclass(frozen=True)
class Region:
    """An area: a ``polygon`` through its points, or the ``ellipse`` that fills the box between two corners."""

    kind: Literal["polygon", "ellipse"]
    points: tuple[Point, ...]

    def problems(self, at: str) -> list[Problem]:
        """What keeps it from being an area."""
        if not all(math.isfinite(v) and -0.5 <= v <= 1.5 for point in self.points for v in point):
            return [Problem(at, "This mark lies outside the photo.")]
        if self.kind == "ellipse" and len(self.points) != 2:
            return [Problem(at, "A round mark has two corners.")]
        if self.kind == "polygon" and not 3 <= len(self.points) <= MOST_POINTS:
            return [Problem(at, f"An outline has from 3 to {MOST_POINTS} points.")]
        return []

    @property
    def outline(self) -> tuple[Point, ...]:
        """Its edge as points."""
        if self.kind == "polygon":
            return self.points
        (left, top), (right, bottom) = self.points
        x, y, across, down = (left + right) / 2, (top + bottom) / 2, (right - left) / 2, (bottom - top) / 2
        turns = [2 * math.pi * i / 48 for i in range(48)]
        return tuple((x + across * math.cos(a), y + down * math.sin(a)) for a in turns)


@dataclass(frozen=True)
class KnownLength:
    """Two points and how many mm lie between them."""

    start: Point
    end: Point
    mm: float


@dataclass(frozen=True)
class Marks:
    """The object, the reference (the ``card`` is found by itself; a ``grey`` or ``white`` area is marked), and a known length."""

    thing: Region
    reference: ReferenceKind = "card"
    area: Region | None = None
    length: KnownLength | None = None

    def problems(self) -> list[Problem]:
        """What is missing or cannot be; paths are relative to the marks."""
        found = self.thing.problems("thing")
        if self.reference in ("grey", "white"):
            if self.area is None:
                found.append(Problem("area", f"Mark the {self.reference} area on the photo."))
            else:
                found += self.area.problems("area")
        if self.length is not None:
            ends = (*self.length.start, *self.length.end)
            if not all(math.isfinite(v) and -0.5 <= v <= 1.5 for v in ends):
                return [*found, Problem("length", "This length lies outside the photo.")]
            apart = math.hypot(self.length.end[0] - self.length.start[0], self.length.end[1] - self.length.start[1])
            if not (math.isfinite(self.length.mm) and 0.1 <= self.length.mm <= 100_000) or apart < 0.01:
                found.append(
                    Problem("length", "A known length has two ends apart from each other, and its millimetres.")
                )
        return found


def pixels_of(points: tuple[Point, ...], width: int, height: int) -> Reals:
    """Points as pixels (n, 2), x and y."""
    return np.array(points, dtype=float) * (width, height)


def mask_of(region: Region, width: int, height: int, box: tuple[int, int, int, int], shrunk: int) -> Any:
    """Which pixels of a ``box`` (left, top, right, bottom) lie in the region, every ``shrunk`` pixels made one."""
    left, top, right, bottom = box
    wide, tall = (right - left) // shrunk, (bottom - top) // shrunk
    image = Image.new("1", (max(1, wide), max(1, tall)))
    points = (pixels_of(region.outline, width, height) - (left, top)) / shrunk
    ImageDraw.Draw(image).polygon([(float(x) - 0.5, float(y) - 0.5) for x, y in points], fill=1)
    return np.asarray(image)


def carried_marks(
    marks: Marks, size: tuple[int, int], found: Found | None, to_size: tuple[int, int], to_found: Found | None
) -> Marks:
    """The same marks on another photo (sizes are width, height): at the same place beside the card where both show it, else at the same
    place in the picture."""
    if found is None or to_found is None:
        return marks

    def moved(region: Region) -> Region:
        pixels = to_found.at(found.back(pixels_of(region.outline, *size)))
        return Region("polygon", tuple((float(x) / to_size[0], float(y) / to_size[1]) for x, y in pixels))

    return replace(marks, thing=moved(marks.thing), area=moved(marks.area) if marks.area else None)
