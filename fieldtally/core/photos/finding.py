"""Finding the printed card in a photo by its corner marks, whichever way it lies and tilted up to some 20°.

Dark fields are told from their own surroundings, so shade over half of the picture does no harm.  A mark is a dark square with one hole, or
with two in the first; four of them that lie as on the card, with paler and darker greys where they belong, are the card.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np
from PIL import Image
from scipy.ndimage import binary_fill_holes, map_coordinates, uniform_filter
from skimage.measure import label, regionprops
from skimage.transform import ProjectiveTransform

from fieldtally.core.photos import card
from fieldtally.core.photos.colour import Pixels, Reals

WORKED_AT = 1400
"""The longer side, in pixels, at which marks are looked for."""
FARTHEST = 4.0
ONE_COVERED = 0.95
"""How much a card counts of which one field is covered, beside a whole one."""
SMALLEST = 9
"""Pixels across, below which a mark is not told from dirt."""


@dataclass(frozen=True)
class Found:
    """Where the card lies in a photo of ``size`` (width, height): the four marks' centres in pixels (4, 2), the homography from mm
    on the card to pixels of a straight picture (3, 3), how far the lens bends its corner (``bend``, a share), and how ``unsure``
    that is."""

    marks: Reals
    view: Reals
    size: tuple[int, int]
    bend: float = 0.0
    unsure: float = 0.0

    def at(self, points: Reals) -> Reals:
        """Pixels (n, 2) of points on the card (n, 2) in mm."""
        return bent(seen_through(self.view, points), self.size, self.bend)

    def back(self, points: Reals) -> Reals:
        """Points on the card in mm of pixels (n, 2)."""
        inverse = np.asarray(np.linalg.inv(self.view), dtype=np.float64)
        return seen_through(inverse, straight(points, self.size, self.bend))

    def far_out(self, pixel: Reals) -> float:
        """How far from the middle of the photo a pixel (2) lies, squared; 1 in its corner."""
        middle, far = _middle(self.size)
        return float(((pixel - middle) ** 2).sum() / far**2)


def _middle(size: tuple[int, int]) -> tuple[Reals, float]:
    half = np.array(size, dtype=float) / 2
    return half, float(np.hypot(*half))


def bent(points: Reals, size: tuple[int, int], bend: float) -> Reals:
    """Where pixels (n, 2) of a straight picture lie through the lens."""
    if bend == 0:
        return points
    middle, far = _middle(size)
    away = points - middle
    # Far outside the picture no lens is known.
    out = np.minimum((away**2).sum(axis=1, keepdims=True) / far**2, FARTHEST)
    return np.asarray(middle + away * (1 + bend * out))


def straight(points: Reals, size: tuple[int, int], bend: float) -> Reals:
    """Where pixels (n, 2) of a photo would lie without the lens."""
    if bend == 0:
        return points
    found = points
    for _ in range(8):
        found = points - (bent(found, size, bend) - found)
    return found


@dataclass(frozen=True)
class _Mark:
    x: float
    y: float
    side: float
    holes: int


def seen_through(view: Reals, points: Reals) -> Reals:
    """Points (n, 2) through a homography (3, 3)."""
    seen = np.column_stack([points, np.ones(len(points))]) @ view.T
    return np.asarray(seen[:, :2] / seen[:, 2:])


def view_through(marks: Reals) -> Reals:
    """The homography from mm on the card to pixels that puts its marks at these pixels (4, 2).

    :raises ValueError: three of them lie in a line.
    """
    found = ProjectiveTransform.from_estimate(np.array(card.MARKS), np.asarray(marks, dtype=float))
    if not found:
        raise ValueError("These are no four corners.")
    return np.asarray(found.params, dtype=np.float64)


def card_by_marks(pixels: Pixels) -> Found | None:
    """The card in a picture (height, width, 3) by its four marks alone, or None where it is not to be seen whole."""
    height, width = pixels.shape[:2]
    shrunk = max(1.0, max(height, width) / WORKED_AT)
    small = Image.fromarray(pixels).convert("L")
    if shrunk > 1:
        small = small.resize((round(width / shrunk), round(height / shrunk)), Image.Resampling.BOX)
    grey = np.asarray(small, dtype=np.float32)
    for window in (0.11, 0.05):
        marks = _marks_in(grey, max(15, int(window * max(grey.shape))) | 1)
        best = _card_among(marks, grey)
        if best is not None:
            return _at_scale(best, (width, height), grey.shape)
    return None


def _at_scale(marks: Reals, size: tuple[int, int], small: tuple[int, ...]) -> Found:
    scaled = (marks + 0.5) * np.array([size[0] / small[1], size[1] / small[0]]) - 0.5
    return Found(scaled, view_through(scaled), size)


def _marks_in(grey: np.ndarray, window: int) -> list[_Mark]:
    around = uniform_filter(grey, window)
    dark = grey < 0.72 * around - 2
    labelled = label(dark, connectivity=1)
    found = []
    for region in regionprops(labelled):
        top, left, bottom, right = region.bbox
        tall, wide = bottom - top, right - left
        if min(tall, wide) < SMALLEST or max(tall, wide) > min(grey.shape) / 4 or not 0.5 < tall / wide < 2:
            continue
        if top == 0 or left == 0 or bottom == grey.shape[0] or right == grey.shape[1]:
            continue  # Cut off by the edge of the picture: its middle is not its centre.
        own = region.image
        filled = binary_fill_holes(own)
        area = float(filled.sum())
        if area < 0.45 * tall * wide:
            continue
        holes = label(filled & ~own, connectivity=1)
        sizes = np.bincount(holes.ravel())[1:] / area
        large = sizes[sizes > 0.02]
        if len(large) not in (1, 2) or not 0.05 < large.sum() < 0.32:
            continue
        rows, columns = np.nonzero(filled)
        found.append(_Mark(left + float(columns.mean()), top + float(rows.mean()), float(np.sqrt(area)), len(large)))
    return found


def _card_among(marks: list[_Mark], grey: np.ndarray) -> Reals | None:
    best, found = 0.9, None
    firsts = [mark for mark in marks if mark.holes == 2]
    others = [mark for mark in marks if mark.holes == 1]
    for first in firsts[:12]:
        near = [mark for mark in others if 0.5 < mark.side / first.side < 2.0]
        near.sort(key=lambda mark: (mark.x - first.x) ** 2 + (mark.y - first.y) ** 2)
        for three in combinations(near[:9], 3):
            ring = _in_order(first, three)
            if ring is None:
                continue
            likeness = _likeness(ring, grey)
            if likeness > best:
                best, found = likeness, ring
    return found


def _in_order(first: _Mark, three: tuple[_Mark, ...]) -> Reals | None:
    """The four clockwise from the first, if they lie about as on the card."""
    points = np.array([(first.x, first.y), *((mark.x, mark.y) for mark in three)])
    centre = points.mean(axis=0)
    angles = np.arctan2(points[:, 1] - centre[1], points[:, 0] - centre[0])
    order = np.argsort((angles - angles[0]) % (2 * np.pi))
    ring = points[order]
    sides = np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1)
    across, down = (sides[0] + sides[2]) / 2, (sides[1] + sides[3]) / 2
    if not 6 < across / first.side < 16 or not 1.05 < across / max(down, 1e-6) < 2.6:
        return None
    if min(sides[0], sides[2]) < 0.6 * max(sides[0], sides[2]) or min(sides[1], sides[3]) < 0.6 * max(
        sides[1], sides[3]
    ):
        return None
    return ring


def _likeness(ring: Reals, grey: np.ndarray) -> float:
    """How well the greys between these marks follow those of the card: their rank order, 1 at best."""
    try:
        view = view_through(ring)
    except ValueError:
        return 0.0
    means = []
    for patch in card.PATCHES[: len(card.GREYS)]:
        at = seen_through(view, card.grid_of(patch, 4))
        if at.min() < 0 or at[:, 0].max() > grey.shape[1] - 1 or at[:, 1].max() > grey.shape[0] - 1:
            return 0.0
        means.append(float(map_coordinates(grey, [at[:, 1], at[:, 0]], order=1).mean()))
    # One of them may be covered.
    kept = [np.delete(means, one) for one in range(len(means))]
    whole, but_one = (max(float(np.mean(-np.diff(own) > 0.5)) for own in several) for several in ([means], kept))
    return max(whole, ONE_COVERED * but_one) if max(means[:2]) > min(means[-2:]) + 12 else 0.0
