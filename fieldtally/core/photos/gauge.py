"""The photo gauge: one number from a photo, with its uncertainty and all that must be said about it.

A :class:`~fieldtally.core.photos.recipe.Recipe` says what is measured and how, :class:`~fieldtally.core.photos.marks.Marks` say where on
this photo."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from scipy.ndimage import gaussian_filter

from fieldtally.core.photos import card, quality
from fieldtally.core.photos.colour import Lab, Pixels, Reals, delta_e, greenness, lab_of, light_of_lab, linear_of
from fieldtally.core.photos.correcting import AS_TAKEN, Correction
from fieldtally.core.photos.counting import (
    UNSURE,
    edged,
    margin_by_colour,
    margin_by_difference,
    share_of,
    spots_in,
    thing_in,
)
from fieldtally.core.photos.finding import Found
from fieldtally.core.photos.lens import find_card
from fieldtally.core.photos.lit import Lit, box_of, lit_of
from fieldtally.core.photos.marks import Marks, Region, mask_of, pixels_of
from fieldtally.core.photos.quality import Flag
from fieldtally.core.photos.recipe import NEEDS_LIGHT, NEEDS_SIZE, Recipe
from fieldtally.core.photos.shades import OFF_THE_CHART, OnChart, on_chart
from fieldtally.core.photos.sizes import Plane, edge_of, flat

MOST_WORKED = 700_000
"""Pixels that are looked at; a larger object is looked at in squares of several pixels."""
FEWEST = 150
OVER_MIDDLE, SHEEN_MIDDLE, SHEEN_SHARE = 0.5, 0.9, 0.5
"""Where what is brighter may be light or glare, the colour is told half way between."""
RAGGED_BY_ITSELF = 0.05
"""Unevenness of light around a thing above which what counts is not found by its difference."""
ONE_COLOUR = 26.0
"""CIELAB within which pixels are of one colour, also where a lamp shines on a part of them."""
HARDLY = 8.0
"""CIELAB between a thing and its ground below which its outline is not found."""
GLARE_REFUSED = 8.0
"""CIELAB by which a colour may be off for glare, at most."""
MIXED, CHROMA = 0.6, 1.5
"""How much of the width of an edge on the card is mixed on the thing's side, and how many pixels more pictures smear colours over."""
SOFT_PART = 0.2
"""The share of an edge's width to which the edge of a thing is known."""
EDGE_OFF = 0.1
"""By how much the share of light may be off at which the edge of a thing lies."""
PRINTED = 0.006
"""Share by which a printed card may be larger or smaller than it should."""


@dataclass(frozen=True)
class Looked:
    """What was worked on: a box of the photo (left, top, right, bottom in pixels), in squares of ``shrunk`` pixels; the ``thing`` measured
    and, of cover and spots, what ``counted`` (h, w)."""

    box: tuple[int, int, int, int]
    shrunk: int
    thing: Any
    counted: Any | None = None


@dataclass(frozen=True)
class Measured:
    """A number from a photo in the unit of its measure, or None where it is refused; ``uncertainty`` is its standard uncertainty.

    ``colour`` is the object's mean colour and ``hue_spread`` how much it varies (ΔE2000 of its parts from the mean, root mean square);
    ``ways_off`` are the ways in which the colour may be off, each one standard deviation (n, 3 of CIELAB).
    """

    value: float | None
    uncertainty: float | None
    colour: Lab
    hue_spread: float
    flags: tuple[Flag, ...]
    looked: Looked
    correction: Correction
    on_chart: OnChart | None = None
    threshold: float | None = None
    unsure: int = 0
    ways_off: Any = field(default_factory=lambda: np.zeros((0, 3)))
    around: float = 0.0

    @property
    def refused(self) -> bool:
        """Whether there is no reading in this photo."""
        return any(flag.refuses for flag in self.flags)


@dataclass(frozen=True)
class Base:
    """The colour that a difference is taken from, the light in which it was seen, the ways in which it may be off (n, 3), and the
    ``flags`` of its photo; ``refused`` says why there is none in it."""

    colour: Lab
    correction: Correction = field(default_factory=lambda: AS_TAKEN)
    ways_off: Any = field(default_factory=lambda: np.zeros((0, 3)))
    flags: tuple[Flag, ...] = ()
    refused: str = ""


def base_of(found: Measured, where: str) -> Base:
    """What was measured in one photo as what a difference is taken from; ``where`` names that photo in a sentence."""
    flags = tuple(Flag(f"base {flag.key}", f"In {where}: {flag.says}") for flag in found.flags if not flag.refuses)
    refused = next((flag.says for flag in found.flags if flag.refuses), "")
    return Base(found.colour, found.correction, found.ways_off, flags, f"In {where}: {refused}" if refused else "")


@dataclass(frozen=True)
class _Worked:
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
    def ground(self) -> Any:
        """What lies around the mark, without the card (h, w)."""
        return ~self.inside & ~self.covered


def _worked(pixels: Pixels, marks: Marks, found: Found | None, recipe: Recipe) -> _Worked:
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
    around = _commonest(lab[ring][::3]) if ring.sum() >= FEWEST else (0.0, 0.0, 0.0)
    a_mm = 2.0
    if found is not None:
        a_mm = float(np.linalg.norm(found.marks[1] - found.marks[0])) / (card.MARKS[1][0] - card.MARKS[0][0])
    edge = quality.edge_width(pixels, found) * a_mm / shrunk if found is not None else 3.0
    return _Worked(
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


def measure(
    pixels: Pixels, recipe: Recipe, marks: Marks, base: Base | None = None, found: Found | None = None
) -> Measured:
    """Measure a photo (height, width, 3) in sRGB.  ``found`` is the card where it was looked for already.

    ``base`` is what a difference is taken from; without one there is none.
    """
    if found is None:
        found = find_card(pixels)
    of_colour = recipe.measure in NEEDS_LIGHT
    worked = _worked(pixels, marks, found, recipe)
    lit, box, shrunk = worked.lit, worked.box, worked.shrunk
    flags = [
        *quality.reference(lit.correction, marks.reference, recipe.measure),
        *quality.sharpness(pixels, found if marks.reference == "card" else None),
        *quality.overlap(worked.inside, worked.covered),
    ]
    if lit.there is not None:
        flags += lit.there.flags
    thing = worked.inside
    if recipe.outline == "stands_out" or recipe.measure in NEEDS_SIZE:
        own = recipe.tolerance if recipe.measure not in ("cover", "spots") else None
        margin, _ = margin_by_difference(worked.lab, worked.inside, worked.around, own, worked.ground)
        thing = _edged(worked, thing_in(margin, worked.inside))
    if int(thing.sum()) < FEWEST:
        marked = int(worked.inside.sum()) >= FEWEST
        says = "Nothing stands out from the ground inside the mark." if marked else "The mark is too small to measure."
        refusal = (*flags, Flag("small", says, True))
        return Measured(None, None, (0.0, 0.0, 0.0), 0.0, refusal, Looked(box, shrunk, thing), lit.correction)
    if recipe.measure not in NEEDS_SIZE:
        flags += quality.clipping(worked.raw[thing], of_colour)
    seen = _seen(worked, thing)
    flags += seen.flags if recipe.measure not in NEEDS_SIZE else ()
    parts = worked.lab[thing][:: max(1, int(thing.sum()) // 4000)]
    spread = float(np.sqrt((delta_e(parts, np.broadcast_to(np.array(seen.colour), parts.shape)) ** 2).mean()))
    if (
        recipe.outline == "stands_out"
        and float(np.linalg.norm(np.array(_commonest(worked.lab[thing])) - worked.around)) < HARDLY
    ):
        says = "It hardly stands out from the ground: lay it on another ground, or mark its own outline."
        flags.append(Flag("hardly", says, True))
    told = _told(recipe, worked, thing, seen, base)
    flags += told.flags
    refused = any(flag.refuses for flag in flags)
    return Measured(
        None if refused else told.value,
        None if refused else told.uncertainty,
        seen.colour,
        spread,
        tuple(flags),
        Looked(box, shrunk, thing, told.counted),
        lit.correction,
        told.on_chart,
        told.threshold,
        told.unsure,
        seen.ways_off,
        float(delta_e(seen.colour, worked.around)),
    )


def _edged(worked: _Worked, thing: Any, half: float = 0.5) -> Any:
    """The thing with its edge where its light is half its own and half the ground's, inside the mark."""
    return edged(thing, worked.calm, _rim(worked) + 1, half) & worked.inside


def _rim(worked: _Worked) -> float:
    """How many pixels from its edge a thing's light is mixed with that of the ground."""
    return MIXED * worked.edge + CHROMA


@dataclass(frozen=True)
class _Seen:
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


def _seen(worked: _Worked, thing: Any) -> _Seen:
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
            says = (
                "It is brighter beside the sample than the card lets expect: more light or glare, which cannot be told apart; "
                f"the colour is left open by ΔE {off:.0f}."
            )
            way_out = " Turn the sample or the lamp until nothing shines, and take it again." if refused else ""
            flags.append(Flag("glare", says + way_out, refused))
    # Over what most of it is: a mark round a thing and some ground is not lighter there for a lamp.
    common = np.linalg.norm(worked.lab - np.array(_commonest(worked.lab[thing])), axis=2) < ONE_COLOUR
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
    return _Seen((first, second, third), ways, shining, tuple(flags))


@dataclass(frozen=True)
class _Told:
    value: float | None
    uncertainty: float | None
    flags: tuple[Flag, ...] = ()
    counted: Any | None = None
    on_chart: OnChart | None = None
    threshold: float | None = None
    unsure: int = 0


def _told(recipe: Recipe, worked: _Worked, thing: Any, seen: _Seen, base: Base | None) -> _Told:
    match recipe.measure:
        case "difference":
            return _difference(worked.lit.correction, seen, base)
        case "shade":
            stands = on_chart(seen.colour, recipe.steps)
            unsure = float(np.hypot(seen.doubt(lambda lab: on_chart(lab, recipe.steps).value), stands.beside))
            says = f"This colour is ΔE {stands.off:.0f} away from every step of the chart: it is not on it."
            off = (Flag("off the chart", says, True),) if stands.off > OFF_THE_CHART else ()
            return _Told(stands.value, unsure, off, on_chart=stands)
        case "lightness":
            return _Told(seen.colour[0], seen.doubt(lambda lab: float(lab[0])))
        case "greenness":
            value = greenness(worked.light[thing])
            return _Told(value, max(0.004, seen.doubt(greenness_of)))
        case "cover" | "spots":
            return _counted(recipe, worked, thing, seen)
        case "length" | "area":
            return _sized(recipe, worked, thing)


def greenness_of(lab: Reals) -> float:
    """Excess green of one colour in CIELAB."""
    return greenness(light_of_lab(lab)[None])


def _difference(correction: Correction, seen: _Seen, base: Base | None) -> _Told:
    if base is None:
        says = "There is no photo to take the difference from: mark the first look, or another sample."
        return _Told(None, None, (Flag("no base", says, True),))
    if base.refused:
        return _Told(None, None, (Flag("base refused", base.refused, True),))
    value = float(delta_e(seen.colour, base.colour))
    own = seen.doubt(lambda lab: float(delta_e(lab, base.colour)))
    before = np.array(base.colour)
    theirs = [float(delta_e(seen.colour, before + way)) - value for way in base.ways_off]
    flags = list(base.flags)
    if base.correction.kind != "none":
        flags += quality.other_light(correction, base.correction)
    return _Told(value, float(np.sqrt(own**2 + sum(x * x for x in theirs))), tuple(flags))


def _counted(recipe: Recipe, worked: _Worked, thing: Any, seen: _Seen) -> _Told:
    threshold: float | None = None
    flags: list[Flag] = []
    if recipe.counts:
        margin = margin_by_colour(worked.lab, recipe.counts, recipe.ignores, recipe.tolerance or 14.0)
    elif recipe.outline == "marked" and recipe.measure == "cover":
        margin, threshold = margin_by_difference(worked.lab, thing, worked.around, recipe.tolerance, worked.ground)
    else:
        # Inside a thing that stands out, what counts differs from what most of it looks like.
        common = _commonest(worked.lab[thing])
        margin, threshold = margin_by_difference(worked.lab, thing, common, recipe.tolerance)
        if float((margin > 0)[thing].mean()) > 0.35:
            says = (
                "So much differs that which part counts is a guess: pick a colour that counts, and one that does not."
            )
            flags.append(Flag("guessed", says, True))
    counted = (margin > 0) & thing
    off = float(
        np.hypot(max(UNSURE, float(np.sqrt((seen.ways_off**2).sum() / 3))), worked.lit.across(worked.marks.thing))
    )
    if not recipe.counts and worked.lit.ragged > RAGGED_BY_ITSELF:
        says = (
            f"The light is uneven around the sample, by {round(100 * worked.lit.ragged)} %, so that what differs may be a shadow: "
            f"pick a colour that counts and one that does not, or {quality.APART}."
        )
        flags.append(Flag("uneven there", says, True))
    if recipe.measure == "cover":
        share, unsure = share_of(margin, thing, off, _rim(worked), recipe.outline == "stands_out")
        # What shines may be what counts, or hide it.
        hidden = 100 * float((seen.shining & thing).sum()) / float(thing.sum())
        if not recipe.counts and hidden > 15:
            says = f"Something shines on {hidden:.0f} % of it, so that what counts cannot be told. Turn it or the lamp, and take it again."
            flags.append(Flag("shines", says, True))
        wide = float(np.sqrt(0.2**2 + unsure**2 + (hidden / 2) ** 2))
        return _Told(share, wide, tuple(flags), counted, threshold=threshold)
    smallest = recipe.smallest / 100 * float(thing.sum())
    numbers, many, close = spots_in(counted, smallest)
    less, more = (spots_in((margin > edge) & thing, smallest)[1] for edge in (off, -off))
    unsure = float(np.hypot(close / 2, max(abs(many - less), abs(more - many)) / 1.73))
    return _Told(float(many), unsure, tuple(flags), numbers > 0, threshold=threshold, unsure=close)


def _commonest(lab: Reals) -> Lab:
    """The colour that most of these pixels (n, 3) have, about: the middle of the fullest box of 6 × 6 × 6."""
    boxes = np.floor(lab / 6).astype(np.int64)
    codes = (boxes[:, 0] * 1000 + boxes[:, 1] + 500) * 1000 + boxes[:, 2] + 500
    values, counts = np.unique(codes, return_counts=True)
    own = lab[codes == values[int(np.argmax(counts))]]
    first, second, third = (float(x) for x in np.median(own, axis=0))
    return first, second, third


def _sized(recipe: Recipe, worked: _Worked, thing: Any) -> _Told:
    known, size = worked.marks.length, worked.lit.size
    found = None if known is not None else worked.found
    if known is not None:
        ends = pixels_of((known.start, known.end), *size)
        plane, error = Plane(flat(float(np.linalg.norm(ends[1] - ends[0])) / known.mm), size), 0.015
    elif found is not None:
        plane, error = Plane(found.view, size, found.bend), PRINTED
    else:
        says = "There is no card and no known length on this photo: a size cannot be measured."
        return _Told(None, None, (Flag("no scale", says, True),))
    corner = np.array(worked.box[:2], dtype=float)
    each = float(worked.shrunk)

    def size_of(own: Any) -> float:
        if recipe.measure == "length":
            return plane.longest_across(edge_of(own) * each + corner)
        rows, columns = np.nonzero(own)
        return plane.area_of((np.column_stack([columns, rows]) + 0.5) * each + corner, each**2)

    value = size_of(thing)
    # Where its edge lies when light is mixed a little otherwise there.
    near = [size_of(_edged(worked, thing, half)) for half in (0.5 - EDGE_OFF, 0.5 + EDGE_OFF)]
    moved = (max(near) - min(near)) / 2
    middle = np.argwhere(thing).mean(axis=0)[::-1] * each + corner
    edge = edge_of(thing) * each + corner
    square = each * float(np.sqrt(plane.area_of(edge[:1], 1.0) * 100))
    flags: tuple[Flag, ...] = ()
    if found is not None:
        # How a lens that is a little otherwise would change the scale between card and thing.
        apart = abs(found.far_out(middle) - found.far_out(found.marks.mean(axis=0)))
        error = float(np.hypot(error, 2.5 * found.unsure * apart))
        flags = tuple(quality.bending(found.bend))
    # An edge is known to a part of its own softness, all round.
    soft = SOFT_PART * max(1.0, worked.edge) * square
    if recipe.measure == "length":
        return _Told(
            value, float(np.sqrt((error * value) ** 2 + max(square, soft) ** 2 + moved**2)), flags, counted=thing
        )
    around = len(edge) / 4 * square
    return _Told(
        value, float(np.sqrt((2 * error * value) ** 2 + (around * soft / 100) ** 2 + moved**2)), flags, counted=thing
    )
