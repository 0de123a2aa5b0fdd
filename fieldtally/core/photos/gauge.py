"""The photo gauge: one number from a photo, with its uncertainty and all that must be said about it.

A :class:`Recipe` says what is measured and how, :class:`~fieldtally.core.photos.marks.Marks` say where on this photo.  The same recipe on
all samples of a look is what makes their numbers comparable.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np
from scipy.ndimage import gaussian_filter

from fieldtally.core.photos import card, quality
from fieldtally.core.photos.colour import Lab, Pixels, Reals, delta_e, greenness, lab_of, linear_of
from fieldtally.core.photos.correcting import AS_TAKEN, Correction, from_area, from_card
from fieldtally.core.photos.counting import (
    margin_by_colour,
    margin_by_difference,
    share_of,
    spots_in,
    thing_in,
)
from fieldtally.core.photos.finding import Found, find_card
from fieldtally.core.photos.marks import Marks, Region, mask_of, pixels_of
from fieldtally.core.photos.quality import Flag
from fieldtally.core.photos.shades import OFF_THE_CHART, OnChart, on_chart
from fieldtally.core.photos.sizes import area_of, edge_of, flat, longest_across, plane_of
from fieldtally.core.problems import Problem

Measure = Literal["difference", "shade", "cover", "spots", "greenness", "lightness", "length", "area"]
MEASURES: dict[Measure, tuple[str, str]] = {
    "difference": ("colour difference", "ΔE2000"),
    "shade": ("shade on the chart", "steps"),
    "cover": ("share of the area", "%"),
    "spots": ("separate spots", "spots"),
    "greenness": ("greenness", "excess green"),
    "lightness": ("lightness L*", "L*"),
    "length": ("longest across", "mm"),
    "area": ("area", "cm²"),
}
"""Each measure in words, and its unit."""
NEEDS_LIGHT = ("difference", "shade", "greenness", "lightness")
NEEDS_SIZE = ("length", "area")
MOST_WORKED = 700_000
"""Pixels that are looked at; a larger object is looked at in squares of several pixels."""
FEWEST = 150
MOST_COLOURS = 60
LEAST_ERROR = 0.4
"""ΔE2000 that is always left between two photos of one thing."""


@dataclass(frozen=True)
class Recipe:
    """What is measured, and how.

    ``outline``: the object is all that is marked, or what ``stands_out`` from the ground inside the mark.  For ``cover`` and ``spots``,
    what counts is told by ``counts`` and ``ignores`` (CIELAB colours picked on a photo), or where none is picked by its difference from the
    surroundings; ``tolerance`` is a distance in CIELAB, None: found by itself.  ``smallest`` is the smallest spot in percent of the object.
    ``steps`` are the colours of the chart for ``shade``.  A ``difference`` is taken from the same sample at another look
    (``since_look``, its key) or from another sample (``since_sample``, its code) at the same look.
    """

    measure: Measure
    outline: Literal["marked", "stands_out"] = "marked"
    counts: tuple[Lab, ...] = ()
    ignores: tuple[Lab, ...] = ()
    tolerance: float | None = None
    smallest: float = 0.05
    steps: tuple[Lab, ...] = ()
    since_look: str = ""
    since_sample: str = ""

    def problems(self) -> list[Problem]:
        """What keeps it from being used."""
        found = []
        if self.measure == "shade" and len(self.steps) < 2:
            found.append(Problem("steps", "The chart has no colours yet: at least two of its steps need one."))
        if self.measure == "difference" and not (self.since_look or self.since_sample):
            found.append(
                Problem("since_look", "Say what the difference is taken from: an earlier look, or another sample.")
            )
        if self.ignores and not self.counts:
            found.append(Problem("counts", "Pick a colour that counts as well."))
        for at, colours in (("counts", self.counts), ("ignores", self.ignores), ("steps", self.steps)):
            if len(colours) > MOST_COLOURS:
                found.append(Problem(at, f"Up to {MOST_COLOURS} colours, please."))
            elif any(not -200 <= part <= 200 for colour in colours for part in colour):
                found.append(Problem(at, "This is no colour in CIELAB."))
        if self.tolerance is not None and not 1 <= self.tolerance <= 100:
            found.append(Problem("tolerance", "A tolerance lies between 1 and 100."))
        if not 0.001 <= self.smallest <= 20:
            found.append(Problem("smallest", "The smallest spot lies between 0.001 and 20 % of the object."))
        return found


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

    ``colour`` is the object's mean colour and ``hue_spread`` how much it varies (ΔE2000 of its parts from the mean, root mean square).
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

    @property
    def refused(self) -> bool:
        """Whether there is no reading in this photo."""
        return any(flag.refuses for flag in self.flags)


@dataclass(frozen=True)
class Base:
    """The colour that a difference is taken from, and the light in which it was seen."""

    colour: Lab
    correction: Correction = field(default_factory=lambda: AS_TAKEN)


@dataclass(frozen=True)
class _Worked:
    """A photo cut to the box around its object, in squares of several pixels: light in daylight, CIELAB, pixels as taken, what is marked,
    and the colour of the ground around the mark."""

    size: tuple[int, int]
    marks: Marks
    found: Found | None
    correction: Correction
    box: tuple[int, int, int, int]
    shrunk: int
    light: Any
    lab: Reals
    raw: Pixels
    inside: Any
    around: Lab

    @property
    def ground(self) -> Any:
        """What lies around the mark, without the card (h, w)."""
        return ~self.inside & ~self.covered

    @property
    def covered(self) -> Any:
        """Where the card lies (h, w)."""
        if self.found is None:
            return np.zeros_like(self.inside)
        edge = np.array([[0, 0], [card.WIDTH, 0], [card.WIDTH, card.HEIGHT], [0, card.HEIGHT]])
        corners = tuple((float(x) / self.size[0], float(y) / self.size[1]) for x, y in self.found.at(edge))
        return mask_of(Region("polygon", corners), *self.size, self.box, self.shrunk)


def _worked(pixels: Pixels, marks: Marks, found: Found | None) -> _Worked:
    height, width = pixels.shape[:2]
    box = _box_of(marks.thing, width, height, 0.18)
    shrunk = max(1, int(np.ceil(np.sqrt((box[2] - box[0]) * (box[3] - box[1]) / MOST_WORKED))))
    inside = mask_of(marks.thing, width, height, box, shrunk)
    tall, wide = inside.shape
    cut = pixels[box[1] : box[1] + tall * shrunk, box[0] : box[0] + wide * shrunk]
    correction = correction_of(pixels, marks, found)
    taken = np.zeros((tall, wide, 3), dtype=np.float32)
    for down in range(shrunk):
        for across in range(shrunk):
            taken += linear_of(cut[down::shrunk, across::shrunk])
    light = correction.apply(taken / shrunk**2)
    calm = light if shrunk > 2 else gaussian_filter(light, (0.8, 0.8, 0), truncate=2.5)
    lab = lab_of(calm)
    first = _Worked(
        (width, height), marks, found, correction, box, shrunk, light, lab, cut[::shrunk, ::shrunk], inside, (0, 0, 0)
    )
    ring = first.ground
    around = _commonest(lab[ring][::3]) if ring.sum() >= FEWEST else (0.0, 0.0, 0.0)
    return replace(first, around=around)


def _box_of(region: Region, width: int, height: int, more: float) -> tuple[int, int, int, int]:
    """The box around a region in pixels, wider by the share ``more`` on every side, inside the photo."""
    points = pixels_of(region.outline, width, height)
    (left, top), (right, bottom) = points.min(axis=0), points.max(axis=0)
    across, down = more * (right - left), more * (bottom - top)
    low_x, low_y = int(np.clip(left - across, 0, width - 2)), int(np.clip(top - down, 0, height - 2))
    high_x = int(np.clip(np.ceil(right + across), low_x + 2, width))
    high_y = int(np.clip(np.ceil(bottom + down), low_y + 2, height))
    return low_x, low_y, high_x, high_y


def correction_of(pixels: Pixels, marks: Marks, found: Found | None) -> Correction:
    """How the light is taken out of a photo (height, width, 3): by the card where it is found, by the marked area, or not at all."""
    height, width = pixels.shape[:2]
    if marks.reference == "card" and found is not None:
        return from_card(pixels, found)
    if marks.reference in ("grey", "white") and marks.area is not None:
        box = _box_of(marks.area, width, height, 0.0)
        shrunk = max(1, int(np.sqrt((box[2] - box[0]) * (box[3] - box[1]) / 40_000)))
        cut = pixels[box[1] : box[3], box[0] : box[2]][::shrunk, ::shrunk]
        mask = mask_of(marks.area, width, height, box, shrunk)
        samples = cut[: mask.shape[0], : mask.shape[1]][mask[: cut.shape[0], : cut.shape[1]]]
        if len(samples) >= 25:
            return from_area(samples, "grey" if marks.reference == "grey" else "white")
    return AS_TAKEN


def measure(
    pixels: Pixels, recipe: Recipe, marks: Marks, base: Base | None = None, found: Found | None = None
) -> Measured:
    """Measure a photo (height, width, 3) in sRGB.  ``found`` is the card where it was looked for already.

    ``base`` is what a difference is taken from; without one there is none.
    """
    if found is None:
        found = find_card(pixels)
    worked = _worked(pixels, marks, found)
    correction, box, shrunk = worked.correction, worked.box, worked.shrunk
    flags = [
        *quality.reference(correction, marks.reference, recipe.measure in NEEDS_LIGHT),
        *quality.sharpness(pixels, found if marks.reference == "card" else None),
        *quality.overlap(worked.inside, worked.covered),
    ]
    thing = worked.inside
    if recipe.outline == "stands_out" or recipe.measure in NEEDS_SIZE:
        own = recipe.tolerance if recipe.measure not in ("cover", "spots") else None
        margin, _ = margin_by_difference(worked.lab, worked.inside, worked.around, own, worked.ground)
        thing = thing_in(margin, worked.inside)
    if int(thing.sum()) < FEWEST:
        marked = int(worked.inside.sum()) >= FEWEST
        says = "Nothing stands out from the ground inside the mark." if marked else "The mark is too small to measure."
        refusal = (*flags, Flag("small", says, True))
        return Measured(None, None, (0.0, 0.0, 0.0), 0.0, refusal, Looked(box, shrunk, thing), correction)
    flags += quality.clipping(worked.raw[thing])
    first, second, third = (float(x) for x in lab_of(worked.light[thing].mean(axis=0)))
    colour = (first, second, third)
    parts = worked.lab[thing][:: max(1, int(thing.sum()) // 4000)]
    spread = float(np.sqrt((delta_e(parts, np.broadcast_to(np.array(colour), parts.shape)) ** 2).mean()))
    told = _told(recipe, worked, thing, colour, base)
    flags += told.flags
    refused = any(flag.refuses for flag in flags)
    return Measured(
        None if refused else told.value,
        None if refused else told.uncertainty,
        colour,
        spread,
        tuple(flags),
        Looked(box, shrunk, thing, told.counted),
        correction,
        told.on_chart,
        told.threshold,
        told.unsure,
    )


@dataclass(frozen=True)
class _Told:
    value: float | None
    uncertainty: float | None
    flags: tuple[Flag, ...] = ()
    counted: Any | None = None
    on_chart: OnChart | None = None
    threshold: float | None = None
    unsure: int = 0


def _told(recipe: Recipe, worked: _Worked, thing: Any, colour: Lab, base: Base | None) -> _Told:
    correction = worked.correction
    error = max(LEAST_ERROR, correction.left or (1.5 if correction.kind in ("grey", "white") else 3.0))
    match recipe.measure:
        case "difference":
            return _difference(colour, correction, base, error)
        case "shade":
            stands = on_chart(colour, recipe.steps, error)
            says = f"This colour is ΔE {stands.off:.0f} away from every step of the chart: it is not on it."
            off = (Flag("off the chart", says, True),) if stands.off > OFF_THE_CHART else ()
            return _Told(stands.value, stands.uncertainty, off, on_chart=stands)
        case "lightness":
            return _Told(colour[0], error)
        case "greenness":
            light = worked.light[thing]
            return _Told(greenness(light), 0.004 * error)
        case "cover" | "spots":
            return _counted(recipe, worked, thing)
        case "length" | "area":
            return _sized(recipe, worked, thing)


def _difference(colour: Lab, correction: Correction, base: Base | None, error: float) -> _Told:
    if base is None:
        says = "There is no photo to take the difference from: mark the first look, or another sample."
        return _Told(None, None, (Flag("no base", says, True),))
    before = max(LEAST_ERROR, base.correction.left or LEAST_ERROR)
    value = float(delta_e(colour, base.colour))
    flags = tuple(quality.other_light(correction, base.correction)) if base.correction.kind != "none" else ()
    return _Told(value, float(np.hypot(error, before)) / 1.4, flags)


def _counted(recipe: Recipe, worked: _Worked, thing: Any) -> _Told:
    threshold: float | None = None
    flags: tuple[Flag, ...] = ()
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
            flags = (Flag("guessed", says),)
    counted = (margin > 0) & thing
    if recipe.measure == "cover":
        share, unsure = share_of(margin, thing)
        return _Told(share, max(0.2, unsure), flags, counted, threshold=threshold)
    numbers, many, close = spots_in(counted, recipe.smallest / 100 * float(thing.sum()))
    return _Told(float(many), close / 2, flags, numbers > 0, threshold=threshold, unsure=close)


def _commonest(lab: Reals) -> Lab:
    """The colour that most of these pixels (n, 3) have, about: the middle of the fullest box of 6 × 6 × 6."""
    boxes = np.floor(lab / 6).astype(np.int64)
    codes = (boxes[:, 0] * 1000 + boxes[:, 1] + 500) * 1000 + boxes[:, 2] + 500
    values, counts = np.unique(codes, return_counts=True)
    own = lab[codes == values[int(np.argmax(counts))]]
    first, second, third = (float(x) for x in np.median(own, axis=0))
    return first, second, third


def _sized(recipe: Recipe, worked: _Worked, thing: Any) -> _Told:
    known = worked.marks.length
    if known is not None:
        ends = pixels_of((known.start, known.end), *worked.size)
        plane = plane_of(flat(float(np.linalg.norm(ends[1] - ends[0])) / known.mm))
        error = 0.015
    elif worked.found is not None:
        plane, error = plane_of(worked.found.view), 0.01
    else:
        says = "There is no card and no known length on this photo: a size cannot be measured."
        return _Told(None, None, (Flag("no scale", says, True),))
    corner = np.array(worked.box[:2], dtype=float)
    edge = edge_of(thing) * worked.shrunk + corner
    square = float(worked.shrunk) * float(np.sqrt(area_of(edge[:1], 1.0, plane) * 100))
    if recipe.measure == "length":
        value = longest_across(edge, plane)
        return _Told(value, float(np.hypot(error * value, square)), counted=thing)
    rows, columns = np.nonzero(thing)
    pixels = (np.column_stack([columns, rows]) + 0.5) * worked.shrunk + corner
    value = area_of(pixels, float(worked.shrunk**2), plane)
    return _Told(value, float(np.hypot(2 * error * value, len(edge) / 4 * square**2 / 100)), counted=thing)
