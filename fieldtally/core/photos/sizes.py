"""Lengths and areas on the plane in which the card or a known length lies."""

from __future__ import annotations

from typing import Any

import numpy as np
from scipy.spatial import ConvexHull, QhullError
from scipy.spatial.distance import pdist

from fieldtally.core.photos.colour import Reals
from fieldtally.core.photos.finding import seen_through


def plane_of(mm_to_pixels: Reals) -> Reals:
    """The homography from pixels to mm."""
    return np.asarray(np.linalg.inv(mm_to_pixels))


def flat(pixels_a_mm: float) -> Reals:
    """The homography from mm to pixels of a picture taken straight from above."""
    return np.diag([pixels_a_mm, pixels_a_mm, 1.0])


def area_of(pixels: Reals, each: float, plane: Reals) -> float:
    """The area in cm² of pixels (n, 2), each standing for ``each`` pixels of the photo; nearer ones cover less."""
    if not len(pixels):
        return 0.0
    depth = np.column_stack([pixels, np.ones(len(pixels))]) @ plane[2]
    return float(each * (abs(np.linalg.det(plane)) / np.abs(depth) ** 3).sum()) / 100


def longest_across(pixels: Reals, plane: Reals) -> float:
    """The longest straight line in mm between any two of these pixels (n, 2)."""
    if len(pixels) < 3:
        return 0.0
    points = seen_through(plane, pixels)
    try:
        corners = points[ConvexHull(points).vertices]
    except QhullError:
        corners = points
    return float(pdist(corners).max())


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
