"""What is measured in a photo, and how: the same on all samples of a look is what makes their numbers comparable."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from fieldtally.core.photos.colour import Lab
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
MOST_COLOURS = 60


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
