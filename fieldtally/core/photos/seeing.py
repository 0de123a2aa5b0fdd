"""A photo worked on: cut to its thing, its light taken out, and the colour of the thing with the ways in which it may be off."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.ndimage import gaussian_filter

from fieldtally.core.photos import card, quality
from fieldtally.core.photos.colour import Lab, Pixels, Reals, lab_of, linear_of
from fieldtally.core.photos.counting import edged
from fieldtally.core.photos.finding import Found
from fieldtally.core.photos.lit import Lit, box_of, lit_of
from fieldtally.core.photos.marks import Marks, Region, mask_of
from fieldtally.core.photos.quality import Flag

MOST_WORKED = 700_000
"""Pixels that are looked at; a larger object is looked at in squares of several pixels."""
FEWEST = 150
OVER_MIDDLE, SHEEN_MIDDLE, SHEEN_SHARE = 0.5, 0.9, 0.5
"""Where what is brighter may be light or glare, the colour is told half way between."""
ONE_COLOUR = 26.0
"""CIELAB within which pixels are of one colour, also where a lamp shines on a part of them."""
GLARE = (
    "It is brighter beside the sample than the card lets expect: more light or glare",
    "Scattered light lies over the card, and it is darker beside the sample: less light, or none of that glare",
)
GLARE_REFUSED = 8.0
"""CIELAB by which a colour may be off for glare, at most."""
MIXED, CHROMA = 0.6, 1.5
"""How much of the width of an edge on the card is mixed on the thing's side, and how many pixels more pictures smear colours over."""


@dataclass(frozen=True)
class Worked:
    """A photo cut to the box around its object, in squares of several pixels: light as ``taken`` and in daylight, CIELAB, pixels as
    taken, what is marked, where the card lies, the colour of the ground around the mark, and how wide an edge is in these pixels."""

    lit: Lit
    marks: Marks
    found: Found | None
    box: tuple[int, int, int, int]
    shrunk: int
    taken: Any
    light: Any
    calm: Any
    lab: Reals
    raw: Pixels
    inside: Any
    covered: Any
    around: Lab
    edge: float

    @property
    def shrunk_edge(self) -> float:
        """How wide an edge is in the pixels that are worked on, colours smeared by the picture's format with it."""
        return self.edge + CHROMA

    @property
    def ground(self) -> Any:
        """What lies around the mark, without the card (h, w)."""
        return ~self.inside & ~self.covered


def worked_on(pixels: Pixels, marks: Marks, found: Found | None) -> Worked:
    """A photo (height, width, 3) cut to the box around its mark and worked on."""
    height, width = pixels.shape[:2]
    box = box_of(marks.thing, width, height, 0.18)
    shrunk = max(1, int(np.ceil(np.sqrt((box[2] - box[0]) * (box[3] - box[1]) / MOST_WORKED))))
    inside = mask_of(marks.thing, width, height, box, shrunk)
    tall, wide = inside.shape
    cut = pixels[box[1] : box[1] + tall * shrunk, box[0] : box[0] + wide * shrunk]
    lit = lit_of(pixels, marks, found)
    taken = np.zeros((tall, wide, 3), dtype=np.float32)
    for down in range(shrunk):
        for across in range(shrunk):
            taken += linear_of(cut[down::shrunk, across::shrunk])
    taken /= shrunk**2
    light = lit.light(taken, box[:2], shrunk)
    calm = light if shrunk > 2 else gaussian_filter(light, (0.8, 0.8, 0), truncate=2.5)
    lab = lab_of(calm)
    covered = _covered(found, (width, height), box, shrunk, inside)
    ring = ~inside & ~covered
    around = commonest(lab[ring][::3]) if ring.sum() >= FEWEST else (0.0, 0.0, 0.0)
    a_mm = 2.0
    if found is not None:
        a_mm = float(np.linalg.norm(found.marks[1] - found.marks[0])) / (card.MARKS[1][0] - card.MARKS[0][0])
    edge = quality.edge_width(pixels, found) * a_mm / shrunk if found is not None else 3.0
    return Worked(
        lit,
        marks,
        found,
        box,
        shrunk,
        taken,
        light,
        calm,
        lab,
        cut[::shrunk, ::shrunk],
        inside,
        covered,
        around,
        edge,
    )


def _covered(
    found: Found | None, size: tuple[int, int], box: tuple[int, int, int, int], shrunk: int, inside: Any
) -> Any:
    """Where the card lies (h, w)."""
    if found is None:
        return np.zeros_like(inside)
    corners = tuple((float(x) / size[0], float(y) / size[1]) for x, y in found.at(card.CORNERS))
    return mask_of(Region("polygon", corners), *size, box, shrunk)


def edge_of_thing(worked: Worked, thing: Any, half: float = 0.5) -> Any:
    """The thing with its edge where its light is half its own and half the ground's, inside the mark."""
    return edged(thing, worked.calm, rim_of(worked) + 1, half) & worked.inside


def rim_of(worked: Worked) -> float:
    """How many pixels from its edge a thing's light is mixed with that of the ground."""
    return MIXED * worked.edge + CHROMA


def commonest(lab: Reals) -> Lab:
    """The colour that most of these pixels (n, 3) have, about: the middle of the fullest box of 6 × 6 × 6."""
    boxes = np.floor(lab / 6).astype(np.int64)
    codes = (boxes[:, 0] * 1000 + boxes[:, 1] + 500) * 1000 + boxes[:, 2] + 500
    values, counts = np.unique(codes, return_counts=True)
    own = lab[codes == values[int(np.argmax(counts))]]
    first, second, third = (float(x) for x in np.median(own, axis=0))
    return first, second, third


@dataclass(frozen=True)
class Seen:
    """The mean colour of the thing, the ways in which it may be off (n, 3), where on it something shines (h, w), and what is said
    of that."""

    colour: Lab
    ways_off: Reals
    shining: Any
    flags: tuple[Flag, ...] = ()

    def doubt(self, value: Any) -> float:
        """The standard uncertainty of what a function makes of the colour (CIELAB): how it moves with each way the colour may be off."""
        at = value(np.array(self.colour))
        return float(np.sqrt(sum((value(np.array(self.colour) + way) - at) ** 2 for way in self.ways_off)))


def seen_of(worked: Worked, thing: Any) -> Seen:
    """The colour of the thing (h, w), with glare and sheen looked for."""
    mean = worked.taken[thing].astype(np.float64).mean(axis=0)
    at = np.array(lab_of(worked.light[thing].astype(np.float64).mean(axis=0)))
    flags: list[Flag] = []
    also: list[Lab] = []
    glare = worked.lit.as_glare(mean)
    if glare is not None:
        shift = np.array(glare)
        at = at + OVER_MIDDLE * shift
        first, second, third = (float(v) for v in OVER_MIDDLE * shift)
        also.append((first, second, third))
        off = float(np.linalg.norm(shift))
        if off > 1.0:
            refused = off > GLARE_REFUSED
            says = f"{GLARE[bool(worked.lit.veiled)]}, which cannot be told apart; the colour is left open by ΔE {off:.0f}."
            way_out = " Turn the sample or the lamp until nothing shines, and take it again." if refused else ""
            flags.append(Flag("glare", says + way_out, refused))
    # Over what most of it is: a mark round a thing and some ground is not lighter there for a lamp.
    common = np.linalg.norm(worked.lab - np.array(commonest(worked.lab[thing])), axis=2) < ONE_COLOUR
    over = quality.sheen(worked.light, thing & common)
    if over > quality.SHEEN_SAID:
        light = worked.light[thing].astype(np.float64).mean(axis=0)
        shift = lab_of(np.maximum(light - over, 0.001)) - lab_of(light)
        at = at + SHEEN_MIDDLE * shift
        first, second, third = (float(v) for v in SHEEN_SHARE * shift)
        also.append((first, second, third))
        off = float(np.linalg.norm(shift))
        if off > 1.0:
            refused = off > GLARE_REFUSED
            says = f"It grows lighter towards one place, as if a lamp shone on it; the colour is left open by ΔE {off:.0f}."
            way_out = " Turn it or the lamp until nothing shines, and take it again." if refused else ""
            flags.append(Flag("sheen", says + way_out, refused))
    shining = quality.shining(worked.light, thing)
    share = float(shining[thing].mean())
    if share > 0.003 and share < 0.9:
        matt = worked.light[thing & ~shining].astype(np.float64).mean(axis=0)
        first, second, third = (
            float(v) for v in lab_of(matt) - lab_of(worked.light[thing].astype(np.float64).mean(axis=0))
        )
        also.append((first, second, third))
        off = float(np.linalg.norm((first, second, third)))
        if share > 0.01:
            refused = off > GLARE_REFUSED
            says = f"Something shines on {round(100 * share)} % of it: glare, or a paler part."
            way_out = " Turn it or the lamp until nothing shines, and take it again." if refused else ""
            flags.append(Flag("shines", says + way_out, refused))
    ways = worked.lit.ways_off(mean, tuple(also))
    first, second, third = (float(v) for v in at)
    return Seen((first, second, third), ways, shining, tuple(flags))
