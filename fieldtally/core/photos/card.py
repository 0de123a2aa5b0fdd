"""The card that lies beside the sample on every photo: what is printed on it, where, and which colour it has.

The card is 120 × 80 mm.  A mark stands in each corner, a black square with a round hole; the first has two holes, so that the card is
known whichever way it lies.  Between them are six greys from pale to dark, six colours below, and a bar of 50 mm.  Coordinates are
millimetres from the card's upper left corner, x to the right and y down.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.photos.colour import Reals, linear_of

WIDTH, HEIGHT = 120.0, 80.0
CORNERS = np.array([[0, 0], [WIDTH, 0], [WIDTH, HEIGHT], [0, HEIGHT]])
MARK = 10.0
HOLE, SMALL_HOLE = 2.1, 1.45
"""Radii of the hole of a mark, and of each of the two in the first."""
MARKS = ((9.0, 9.0), (111.0, 9.0), (111.0, 71.0), (9.0, 71.0))
"""Centres of the marks: upper left (two holes), upper right, lower right, lower left."""
TWO_HOLES = ((-1.9, -1.9), (1.9, 1.9))
PAPER = "#f2f1ee"
BAR = (35.0, 85.0, 71.0)
"""From x to x, at y."""


@dataclass(frozen=True)
class Patch:
    """A field of one colour: its left upper corner, width and height in mm, and its colour as ``#rrggbb``."""

    x: float
    y: float
    width: float
    height: float
    colour: str


GREYS = ("#e2e2e2", "#c1c1c1", "#a0a0a0", "#7a7a7a", "#565656", "#363636")
COLOURS = ("#a85f55", "#c48f55", "#c6b56c", "#74956a", "#5f7699", "#8c6987")
"""Muted, so that neither a warm lamp nor a bright day drives them out of what a camera can store."""
PATCHES = tuple(
    Patch(17.4 + 14.3 * i, y, 13.7, 21.0, colour)
    for y, row in ((17.0, GREYS), (39.0, COLOURS))
    for i, colour in enumerate(row)
)
WHITES = (Patch(24.0, 4.0, 24.0, 9.0, PAPER), Patch(72.0, 4.0, 24.0, 9.0, PAPER), Patch(92.0, 64.0, 10.0, 12.0, PAPER))
"""Places where the bare card is seen, to tell whether the light on it is even."""
INK = "#1c1c1c"
"""What the marks are printed with."""
BLACKS = tuple(Patch(x + dx, y + dy, 2.2, 2.2, INK) for x, y in MARKS for dx, dy in ((-4.7, 2.5), (2.5, -4.7)))
"""Two corners of each mark, away from its holes: what is black there is scattered light."""
MARGINS = tuple(
    Patch(x, y, 6.0, 4.0, PAPER)
    for x, y in (
        *((x, 5.0) for x in (18.0, 34.0, 50.0, 64.0, 80.0, 95.0)),
        *((x, 74.0) for x in (18.0, 34.0, 50.0, 64.0, 80.0, 95.0)),
        *((x, y) for x in (3.0, 9.0, 108.0) for y in (18.0, 30.0, 42.0, 54.0)),
        (88.0, 64.0),
        (18.0, 64.0),
    )
)
"""Bare card all round: how the light falls."""
KNOWN = (*PATCHES, *WHITES)


def light_of(patches: Sequence[Patch]) -> Reals:
    """The linear light of these fields (n, 3)."""
    codes = [bytes.fromhex(patch.colour[1:]) for patch in patches]
    return linear_of(np.frombuffer(b"".join(codes), np.uint8).reshape(-1, 3)).astype(np.float64)


def grid_of(patch: Patch, across: int = 12) -> Reals:
    """Points inside a field, away from its edges (across², 2) in mm."""
    x = patch.x + patch.width * np.linspace(0.22, 0.78, across)
    y = patch.y + patch.height * np.linspace(0.22, 0.78, across)
    return np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)
