"""The photo gauge: one number from a photo, with its uncertainty and all that must be said about it.

A :class:`~fieldtally.core.photos.recipe.Recipe` says what is measured and how, :class:`~fieldtally.core.photos.marks.Marks` say where on
this photo.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np

from fieldtally.core.photos import quality
from fieldtally.core.photos.colour import Lab, Pixels, delta_e
from fieldtally.core.photos.correcting import Correction
from fieldtally.core.photos.counting import margin_by_difference, thing_in
from fieldtally.core.photos.finding import Found
from fieldtally.core.photos.lens import find_card
from fieldtally.core.photos.marks import Marks
from fieldtally.core.photos.quality import Flag
from fieldtally.core.photos.recipe import NEEDS_LIGHT, NEEDS_SIZE, Recipe
from fieldtally.core.photos.seeing import FEWEST, commonest, edge_of_thing, seen_of, worked_on
from fieldtally.core.photos.shades import OnChart
from fieldtally.core.photos.told import Base, told_of

__all__ = ["Base", "Looked", "Measured", "base_of", "measure"]

OTHERWISE = 0.35
"""The share of what parts thing and ground by which that may lie otherwise."""
HARDLY = 8.0
"""CIELAB between a thing and its ground below which its outline is not found."""


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


def base_of(found: Measured, where: str) -> Base:
    """What was measured in one photo as what a difference is taken from; ``where`` names that photo in a sentence."""
    flags = tuple(Flag(f"base {flag.key}", f"In {where}: {flag.says}") for flag in found.flags if not flag.refuses)
    refused = next((flag.says for flag in found.flags if flag.refuses), "")
    return Base(found.colour, found.correction, found.ways_off, flags, f"In {where}: {refused}" if refused else "")


def measure(
    pixels: Pixels, recipe: Recipe, marks: Marks, base: Base | None = None, found: Found | None = None
) -> Measured:
    """Measure a photo (height, width, 3) in sRGB.  ``found`` is the card where it was looked for already.

    ``base`` is what a difference is taken from; without one there is none.
    """
    if found is None:
        found = find_card(pixels)
    of_colour = recipe.measure in NEEDS_LIGHT
    worked = worked_on(pixels, marks, found)
    lit, box, shrunk = worked.lit, worked.box, worked.shrunk
    flags = [
        *quality.reference(lit.correction, marks.reference, recipe.measure),
        *quality.sharpness(pixels, found if marks.reference == "card" else None),
        *quality.overlap(worked.inside, worked.covered),
    ]
    if lit.there is not None:
        flags += lit.there.flags
    thing, near = worked.inside, ()
    if recipe.outline == "stands_out" or recipe.measure in NEEDS_SIZE:
        own = recipe.tolerance if recipe.measure not in ("cover", "spots") else None
        margin, apart = margin_by_difference(worked.lab, worked.inside, worked.around, own, worked.ground)
        thing = edge_of_thing(worked, thing_in(margin, worked.inside))
        if recipe.measure in NEEDS_SIZE:
            near = tuple(thing_in(margin + step * apart, worked.inside) for step in (-OTHERWISE, OTHERWISE))
        elif recipe.measure in ("cover", "spots"):
            flags += quality.crumbs(thing)
    if int(thing.sum()) < FEWEST:
        marked = int(worked.inside.sum()) >= FEWEST
        says = "Nothing stands out from the ground inside the mark." if marked else "The mark is too small to measure."
        refusal = (*flags, Flag("small", says, True))
        return Measured(None, None, (0.0, 0.0, 0.0), 0.0, refusal, Looked(box, shrunk, thing), lit.correction)
    if recipe.measure not in NEEDS_SIZE:
        flags += quality.clipping(worked.raw[thing], of_colour)
    seen = seen_of(worked, thing)
    flags += seen.flags if recipe.measure not in NEEDS_SIZE else ()
    parts = worked.lab[thing][:: max(1, int(thing.sum()) // 4000)]
    spread = float(np.sqrt((delta_e(parts, np.broadcast_to(np.array(seen.colour), parts.shape)) ** 2).mean()))
    if (
        recipe.outline == "stands_out"
        and float(np.linalg.norm(np.array(commonest(worked.lab[thing])) - worked.around)) < HARDLY
    ):
        says = "It hardly stands out from the ground: lay it on another ground, or mark its own outline."
        flags.append(Flag("hardly", says, True))
    told = told_of(recipe, worked, thing, seen, base, near)
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
