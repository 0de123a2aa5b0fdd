"""Which part of a picture counts: by its colour, or by its difference from what lies around it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from scipy.ndimage import binary_fill_holes, binary_opening, distance_transform_edt, gaussian_filter, label
from skimage.feature import peak_local_max
from skimage.segmentation import watershed

from fieldtally.core.photos.colour import Lab, Reals

LEAST_APART = 5.0
"""CIELAB distance below which nothing is said to differ from its surroundings."""
UNSURE = 1.5
"""CIELAB distance by which colours may be off: what lies within it of the border might count or not."""


def distance_from(lab: Reals, colours: Sequence[Lab]) -> Reals:
    """The distance in CIELAB of each pixel (h, w, 3) from the nearest of these colours (h, w)."""
    nearest = np.full(lab.shape[:2], np.inf)
    for colour in colours:
        nearest = np.minimum(nearest, ((lab - np.array(colour)) ** 2).sum(axis=2))
    return np.asarray(np.sqrt(nearest))


def margin_by_colour(lab: Reals, counts: Sequence[Lab], ignores: Sequence[Lab], tolerance: float) -> Reals:
    """How far each pixel is on the side of what counts (h, w): it is nearer to a colour that counts than to any that does not, or, where
    none is named that does not, within ``tolerance`` of it.  Above 0 it counts."""
    if ignores:
        return (distance_from(lab, ignores) - distance_from(lab, counts)) / 2
    return tolerance - distance_from(lab, counts)


def margin_by_difference(
    lab: Reals, inside: Any, around: Lab, tolerance: float | None, plain: Any | None = None
) -> tuple[Reals, float]:
    """How far each pixel is from being like its surroundings (h, w), above 0 where it differs; and the distance that parts them.

    That is the ``tolerance``, or else half way to what differs beyond doubt: by more than nearly all of what is ``plain`` (h, w) does, or
    without that by five times the grain of what is most alike inside.
    """
    away = distance_from(lab, [around])
    if tolerance is None:
        tolerance = LEAST_APART
        if plain is not None and plain.any():
            tolerance = max(tolerance, float(np.quantile(away[plain], 0.98)) + 1)
        elif inside.any():
            tolerance = max(tolerance, 5 * float(np.quantile(away[inside], 0.25)))
        beyond = away[inside & (away > tolerance)]
        if len(beyond) > 5:
            tolerance = max(tolerance, float(np.median(beyond)) / 2)
    return away - tolerance, tolerance


def share_of(
    margin: Reals, inside: Any, off: float = UNSURE, rim: float = 0.0, edged: bool = False
) -> tuple[float, float]:
    """The share of ``inside`` that counts, 0–100 %, and its standard uncertainty: by how much it moves when colours are ``off`` that much.

    ``edged``: what is inside ends at its mark with another thing, and pixels up to ``rim`` from there are mixed of both: what counts on
    that rim is taken from the strip next to it."""
    total = int(inside.sum())
    if not total:
        return 0.0, 0.0
    kept, strip = inside, np.zeros_like(inside)
    if edged and rim > 0:
        depth = distance_transform_edt(np.pad(inside, 1))[1:-1, 1:-1]
        kept, strip = inside & (depth > rim), inside & (depth > rim) & (depth <= 3 * rim)
        if kept.sum() < 0.3 * total:
            kept, strip = inside, np.zeros_like(inside)
    lost = (total - int(kept.sum())) / total
    shares = []
    for edge in (off, 0.0, -off):
        whole = float((margin[kept] > edge).mean())
        shares.append(
            100 * (whole * (1 - lost) + lost * (float((margin[strip] > edge).mean()) if strip.any() else whole))
        )
    low, mid, high = shares
    rest = abs(100 * float((margin[kept] > 0).mean()) - mid) / 2
    # A strip stands for a rim of which nothing is seen: patches that end there are cut by chance.
    guessed = 100 * lost * np.sqrt(max(mid, 0.5) / 100 * (1 - min(mid, 99.5) / 100)) / 4
    return mid, float(np.sqrt(((high - low) / 2 / 1.73) ** 2 + rest**2 + guessed**2))


def thing_in(margin: Reals, inside: Any) -> Any:
    """The thing that stands out inside a mark (h, w): all that differs, without crumbs, its holes filled."""
    stands = binary_opening((margin > 0) & inside, iterations=1)
    parts, many = label(stands)
    if not many:
        return stands
    sizes = np.bincount(parts.ravel())
    sizes[0] = 0
    kept = np.isin(parts, np.flatnonzero(sizes >= 0.05 * sizes.max()))
    return binary_fill_holes(kept) & inside


def edged(thing: Any, light: Any, reach: float, half: float = 0.5) -> Any:
    """A thing (h, w) with its edge where ``light`` (h, w, 3, linear) is ``half`` of the thing's and half of what lies outside:
    within ``reach`` pixels of the edge light is mixed of both, and mixes as light does, not as colours look."""
    padded = np.pad(thing, 1)
    inner = distance_transform_edt(padded)[1:-1, 1:-1] > reach
    outer = distance_transform_edt(~thing) > reach
    if inner.sum() < 0.2 * thing.sum() or not outer.any():
        return thing
    band = ~(inner | outer)
    own = distance_transform_edt(~inner, return_distances=False, return_indices=True)[:, band]
    other = distance_transform_edt(~outer, return_distances=False, return_indices=True)[:, band]
    within, without = light[own[0], own[1]].astype(np.float64), light[other[0], other[1]].astype(np.float64)
    way = within - without
    share = ((light[band] - without) * way).sum(axis=1) / np.maximum((way**2).sum(axis=1), 1e-9)
    found = inner.copy()
    found[band] = share > half
    return found


def spots_in(counted: Any, smallest: float) -> tuple[Any, int, int]:
    """Separate spots of at least ``smallest`` pixels: their numbers (h, w), how many, and how many are near the smallest size.

    Spots that touch are parted at their waists (watershed of the distance from the edge).
    """
    clean = binary_opening(counted, iterations=1) if smallest > 12 else counted
    depth = distance_transform_edt(clean)
    parts, _ = label(clean)
    reach = max(2, int(np.sqrt(max(smallest, 1.0) / np.pi)))
    peaks = peak_local_max(np.asarray(_flattened(depth)), min_distance=reach, labels=parts, exclude_border=False)
    seeds = np.zeros(clean.shape, dtype=np.int32)
    seeds[tuple(peaks.T)] = np.arange(1, len(peaks) + 1)
    found = np.asarray(watershed(-depth, seeds, mask=clean))
    sizes = np.bincount(found.ravel())
    sizes[0] = 0
    kept = np.flatnonzero(sizes >= smallest)
    close = int(((sizes >= smallest / 1.5) & (sizes < smallest * 1.5) & (sizes > 0)).sum())
    numbers = np.zeros(len(sizes), dtype=np.int32)
    numbers[kept] = np.arange(1, len(kept) + 1)
    return numbers[found], len(kept), close


def _flattened(depth: Any) -> Any:
    """The depth without small ripples, which would part one spot in two."""
    return np.where(depth > 0, gaussian_filter(depth, 1.5), 0)
