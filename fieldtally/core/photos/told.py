"""What each measure makes of a photo that was worked on: a value, its standard uncertainty, and what must be said."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from scipy.ndimage import binary_erosion

from fieldtally.core.photos import quality
from fieldtally.core.photos.colour import Lab, Reals, delta_e, greenness, light_of_lab
from fieldtally.core.photos.correcting import AS_TAKEN, Correction
from fieldtally.core.photos.counting import UNSURE, margin_by_colour, margin_by_difference, share_of, spots_in
from fieldtally.core.photos.marks import pixels_of
from fieldtally.core.photos.quality import Flag
from fieldtally.core.photos.recipe import Recipe
from fieldtally.core.photos.seeing import Seen, Worked, commonest, edge_of_thing, rim_of
from fieldtally.core.photos.shades import OFF_THE_CHART, OnChart, on_chart
from fieldtally.core.photos.sizes import Plane, edge_of, flat

RAGGED_BY_ITSELF = 0.05
"""Unevenness of light around a thing above which what counts is not found by its difference."""
BORDER = 0.06
"""The share of an edge's width to which the border of what counts is known."""
SOFT_PART = 0.2
"""The share of an edge's width to which the edge of a thing is known."""
EDGE_OFF = 0.1
"""By how much the share of light may be off at which the edge of a thing lies."""
PRINTED = 0.006
"""Share by which a printed card may be larger or smaller than it should."""


@dataclass(frozen=True)
class Base:
    """The colour that a difference is taken from, the light in which it was seen, the ways in which it may be off (n, 3), and the
    ``flags`` of its photo; ``refused`` says why there is none in it."""

    colour: Lab
    correction: Correction = field(default_factory=lambda: AS_TAKEN)
    ways_off: Any = field(default_factory=lambda: np.zeros((0, 3)))
    flags: tuple[Flag, ...] = ()
    refused: str = ""


@dataclass(frozen=True)
class Told:
    """What a measure tells: a value and its standard uncertainty (None: nothing), flags, what ``counted`` (h, w), where on a chart
    it stands, the ``threshold`` that was found, and how many spots are ``unsure``."""

    value: float | None
    uncertainty: float | None
    flags: tuple[Flag, ...] = ()
    counted: Any | None = None
    on_chart: OnChart | None = None
    threshold: float | None = None
    unsure: int = 0


def told_of(
    recipe: Recipe, worked: Worked, thing: Any, seen: Seen, base: Base | None, near: tuple[Any, ...] = ()
) -> Told:
    """What the recipe's measure tells of the thing (h, w); ``near`` are things that it might be as well, for sizes."""
    match recipe.measure:
        case "difference":
            return _difference(worked.lit.correction, seen, base)
        case "shade":
            stands = on_chart(seen.colour, recipe.steps)
            unsure = float(np.hypot(seen.doubt(lambda lab: on_chart(lab, recipe.steps).value), stands.beside))
            says = f"This colour is ΔE {stands.off:.0f} away from every step of the chart: it is not on it."
            off = (Flag("off the chart", says, True),) if stands.off > OFF_THE_CHART else ()
            return Told(stands.value, unsure, off, on_chart=stands)
        case "lightness":
            return Told(seen.colour[0], seen.doubt(lambda lab: float(lab[0])))
        case "greenness":
            value = greenness(worked.light[thing])
            return Told(value, max(0.004, seen.doubt(greenness_of)))
        case "cover" | "spots":
            return _counted(recipe, worked, thing, seen)
        case "length" | "area":
            return _sized(recipe, worked, thing, near)


def greenness_of(lab: Reals) -> float:
    """Excess green of one colour in CIELAB."""
    return greenness(light_of_lab(lab)[None])


def _difference(correction: Correction, seen: Seen, base: Base | None) -> Told:
    if base is None:
        says = "There is no photo to take the difference from: mark the first look, or another sample."
        return Told(None, None, (Flag("no base", says, True),))
    if base.refused:
        return Told(None, None, (Flag("base refused", base.refused, True),))
    value = float(delta_e(seen.colour, base.colour))
    own = seen.doubt(lambda lab: float(delta_e(lab, base.colour)))
    before = np.array(base.colour)
    theirs = [float(delta_e(seen.colour, before + way)) - value for way in base.ways_off]
    flags = list(base.flags)
    if base.correction.kind != "none":
        flags += quality.other_light(correction, base.correction)
    return Told(value, float(np.sqrt(own**2 + sum(x * x for x in theirs))), tuple(flags))


def _counted(recipe: Recipe, worked: Worked, thing: Any, seen: Seen) -> Told:
    threshold: float | None = None
    flags: list[Flag] = []
    if recipe.counts:
        margin = margin_by_colour(worked.lab, recipe.counts, recipe.ignores, recipe.tolerance or 14.0)
    elif recipe.outline == "marked" and recipe.measure == "cover":
        margin, threshold = margin_by_difference(worked.lab, thing, worked.around, recipe.tolerance, worked.ground)
    else:
        # Inside a thing that stands out, what counts differs from what most of it looks like.
        common = commonest(worked.lab[thing])
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
        share, unsure = share_of(margin, thing, off, rim_of(worked), recipe.outline == "stands_out")
        # What shines may be what counts, or hide it.
        hidden = 100 * float((seen.shining & thing).sum()) / float(thing.sum())
        if not recipe.counts and hidden > 15:
            says = f"Something shines on {hidden:.0f} % of it, so that what counts cannot be told. Turn it or the lamp, and take it again."
            flags.append(Flag("shines", says, True))
        border = (
            100 * BORDER * worked.shrunk_edge * float((counted & ~binary_erosion(counted)).sum()) / float(thing.sum())
        )
        wide = float(np.sqrt(0.2**2 + unsure**2 + (hidden / 2) ** 2 + border**2))
        return Told(share, wide, tuple(flags), counted, threshold=threshold)
    smallest = recipe.smallest / 100 * float(thing.sum())
    numbers, many, close = spots_in(counted, smallest)
    less, more = (spots_in((margin > edge) & thing, smallest)[1] for edge in (off, -off))
    unsure = float(np.hypot(close / 2, max(abs(many - less), abs(more - many)) / 1.73))
    return Told(float(many), unsure, tuple(flags), numbers > 0, threshold=threshold, unsure=close)


def _sized(recipe: Recipe, worked: Worked, thing: Any, near: tuple[Any, ...]) -> Told:
    known, size = worked.marks.length, worked.lit.size
    found = None if known is not None else worked.found
    if known is not None:
        ends = pixels_of((known.start, known.end), *size)
        plane, error = Plane(flat(float(np.linalg.norm(ends[1] - ends[0])) / known.mm), size), 0.015
    elif found is not None:
        plane, error = Plane(found.view, size, found.bend), PRINTED
    else:
        says = "There is no card and no known length on this photo: a size cannot be measured."
        return Told(None, None, (Flag("no scale", says, True),))
    corner = np.array(worked.box[:2], dtype=float)
    each = float(worked.shrunk)

    def size_of(own: Any) -> float:
        if recipe.measure == "length":
            return plane.longest_across(edge_of(own) * each + corner)
        rows, columns = np.nonzero(own)
        return plane.area_of((np.column_stack([columns, rows]) + 0.5) * each + corner, each**2)

    value = size_of(thing)
    # Where its edge lies when light is mixed a little otherwise there.
    edges = [size_of(edge_of_thing(worked, thing, half)) for half in (0.5 - EDGE_OFF, 0.5 + EDGE_OFF)]
    others = [size_of(edge_of_thing(worked, one)) for one in near if one.any()]
    moved = float(np.hypot((max(edges) - min(edges)) / 2, max((abs(one - value) for one in others), default=0.0) / 2))
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
        return Told(
            value, float(np.sqrt((error * value) ** 2 + max(square, soft) ** 2 + moved**2)), flags, counted=thing
        )
    around = len(edge) / 4 * square
    return Told(
        value, float(np.sqrt((2 * error * value) ** 2 + (around * soft / 100) ** 2 + moved**2)), flags, counted=thing
    )
