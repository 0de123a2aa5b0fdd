"""Finding in one photo the thing that was marked in another: by the card, and by what stands out there."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy.ndimage import binary_dilation, label
from skimage.measure import find_contours

from fieldtally.core.photos.colour import Pixels, lab_of, linear_of
from fieldtally.core.photos.counting import margin_by_difference, thing_in
from fieldtally.core.photos.finding import Found
from fieldtally.core.photos.lit import box_of
from fieldtally.core.photos.marks import MOST_POINTS, Marks, Region, carried_marks, mask_of

SEARCHED = 0.75
"""How far beyond a carried mark the thing is looked for, as a share of its size."""
ROOM = 0.12
LOOKED_AT = 260
"""Pixels across, at which the thing is looked for."""
BY_PLACE = (
    "The thing was looked for at the same place in the photo that this one is compared with, since the card is not to be seen on both: "
    "mark it there by hand."
)
NOT_THERE = (
    "Where the thing should be in the photo that this one is compared with nothing stands out: mark it there by hand."
)


def found_again(
    marks: Marks,
    size: tuple[int, int],
    found: Found | None,
    there: Pixels,
    there_found: Found | None,
    *,
    stands_out: bool,
) -> tuple[Marks, str]:
    """Marks of a photo (``size``: width, height) on the photo ``there`` (height, width, 3), put where the thing is in that one, and
    what has to be said of it: the card carries them, and what stands out from the ground near that place draws them to itself."""
    height, width = there.shape[:2]
    moved = carried_marks(marks, size, found, (width, height), there_found)
    carried = found is not None and there_found is not None
    if not stands_out:
        return moved, "" if carried else BY_PLACE
    drawn = _drawn_to(moved.thing, there)
    if drawn is None:
        return moved, NOT_THERE
    return replace(moved, thing=drawn), "" if carried else BY_PLACE


def _drawn_to(mark: Region, pixels: Pixels) -> Region | None:
    """The mark laid round what stands out near it, or None where nothing does.  Where the thing lies inside the mark already, it stays."""
    height, width = pixels.shape[:2]
    box = box_of(mark, width, height, SEARCHED)
    shrunk = max(1, (box[2] - box[0]) // LOOKED_AT)
    inside = mask_of(mark, width, height, box, shrunk)
    tall, wide = inside.shape
    cut = pixels[box[1] : box[1] + tall * shrunk : shrunk, box[0] : box[0] + wide * shrunk : shrunk][:tall, :wide]
    lab = lab_of(linear_of(cut))
    frame = np.ones_like(inside)
    frame[2:-2, 2:-2] = False
    around = np.median(lab[frame], axis=0)
    first, second, third = (float(v) for v in around)
    everywhere = np.ones_like(inside)
    margin, _ = margin_by_difference(lab, everywhere, (first, second, third), None, frame)
    parts, many = label(thing_in(margin, everywhere))
    if not many:
        return None
    # The part that most of it shares with the mark, or else the nearest of a like size.
    sizes = np.bincount(parts.ravel())[1:]
    shared = np.bincount(parts[inside], minlength=many + 1)[1:]
    best = int(np.argmax(shared))
    if shared[best] < 0.25 * sizes[best] and shared[best] < 0.1 * inside.sum():
        rows, columns = np.nonzero(inside)
        centres = np.array([np.argwhere(parts == one + 1).mean(axis=0) for one in range(many)])
        away = np.linalg.norm(centres - np.array([rows.mean(), columns.mean()]), axis=1)
        alike = sizes > 0.15 * inside.sum()
        if not alike.any():
            return None
        best = int(np.argmin(np.where(alike, away, np.inf)))
    thing = parts == best + 1
    if (thing & ~inside).sum() == 0:
        return mark
    grown = binary_dilation(np.pad(thing, 1), iterations=max(2, round(ROOM * np.sqrt(thing.sum()))))[1:-1, 1:-1]
    edges = find_contours(np.pad(grown.astype(float), 1), 0.5)
    outline = max(edges, key=len)[:, ::-1] - 1
    step = max(1, len(outline) // (MOST_POINTS // 2))
    points = (outline[::step] + 0.5) * shrunk + np.array(box[:2])
    return Region("polygon", tuple((float(x) / width, float(y) / height) for x, y in points))
