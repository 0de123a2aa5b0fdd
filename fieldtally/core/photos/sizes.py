"""Lengths and areas on the plane in which the card or a known length lies."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.spatial import ConvexHull, QhullError
from scipy.spatial.distance import pdist

from fieldtally.core.photos.colour import Reals
from fieldtally.core.photos.finding import seen_through, straight


@dataclass(frozen=True)
class Plane:
    """The plane of the card or of a known length in a photo of ``size`` (width, height): the homography from mm to pixels of a
    straight picture (3, 3), and how far the lens bends the corner (a share)."""

    view: Reals
    size: tuple[int, int]
    bend: float = 0.0

    def area_of(self, pixels: Reals, each: float) -> float:
        """The area in cm² of pixels (n, 2), each standing for ``each`` pixels of the photo; nearer ones cover less."""
        if not len(pixels):
            return 0.0
        back = np.linalg.inv(self.view)
        flat = straight(pixels, self.size, self.bend)
        middle, far = np.array(self.size) / 2, float(np.hypot(*self.size)) / 2
        out = self.bend * ((flat - middle) ** 2).sum(axis=1) / far**2
        depth = np.column_stack([flat, np.ones(len(flat))]) @ back[2]
        stretched = (1 + out) * (1 + 3 * out)
        return float(each * (abs(np.linalg.det(back)) / np.abs(depth) ** 3 / stretched).sum()) / 100

    def longest_across(self, pixels: Reals) -> float:
        """The longest straight line in mm between any two of these pixels (n, 2)."""
        if len(pixels) < 3:
            return 0.0
        points = seen_through(np.asarray(np.linalg.inv(self.view)), straight(pixels, self.size, self.bend))
        try:
            corners = points[ConvexHull(points).vertices]
        except QhullError:
            corners = points
        return float(pdist(corners).max())


def flat(pixels_a_mm: float) -> Reals:
    """The homography from mm to pixels of a picture taken straight from above."""
    return np.diag([pixels_a_mm, pixels_a_mm, 1.0])


def edge_of(mask: Any) -> Reals:
    """The pixels on the edge of a mask (n, 2), x and y: for each row and column the first and the last."""
    rows, columns = np.nonzero(mask)
    if not len(rows):
        return np.zeros((0, 2))
    found = []
    for lead, other, swap in ((rows, columns, False), (columns, rows, True)):
        for pick in (np.minimum, np.maximum):
            ends = np.full(int(lead.max()) + 1, -1 if pick is np.maximum else 10**9)
            pick.at(ends, lead, other)
            held = np.unique(lead)
            # The edge runs along the outer side of the outermost pixel.
            outer = ends[held] + (1.0 if pick is np.maximum else 0.0)
            found.append(np.column_stack([held + 0.5, outer] if swap else [outer, held + 0.5]))
    return np.concatenate(found)
