"""What the photo gauge makes of a practice picture, so that eye and gauge can be held against the same truth."""

from __future__ import annotations

import numpy as np

from fieldtally.core.photos.colour import Pixels, lab_of_hex
from fieldtally.core.photos.gauge import measure
from fieldtally.core.photos.lens import find_card
from fieldtally.core.photos.marks import Marks, Region
from fieldtally.core.photos.recipe import Recipe
from fieldtally.core.photos.scenes import SOUND, SPOILED
from fieldtally.core.scales import CountScale, GradeScale, Scale, ShadeScale
from fieldtally.core.training.sets import Item, level_at, scene_of


def gauged_value(scale: Scale, item: Item, pixels: Pixels) -> float | None:
    """The gauge's own reading of a rendered picture on the outcome's scale; None where it refuses."""
    match scale:
        case ShadeScale(steps=steps):
            recipe = Recipe("shade", "stands_out", steps=tuple(lab_of_hex(step.swatch) for step in steps))
        case CountScale():
            recipe = Recipe("spots", "stands_out")
        case _:
            recipe = Recipe("cover", "stands_out", (lab_of_hex(SPOILED),), (lab_of_hex(SOUND),))
    found = find_card(pixels)
    if found is None:
        return None
    scene, _ = scene_of(scale, item)
    height, width = pixels.shape[:2]
    left, top = scene.card_at
    corner = scene.radius * 1.05
    x, y = scene.centre[0] - left, scene.centre[1] - top
    box = [(x - corner, y - corner), (x + corner, y - corner), (x + corner, y + corner), (x - corner, y + corner)]
    points = tuple((float(px) / width, float(py) / height) for px, py in found.at(np.array(box)))
    read = measure(pixels, recipe, Marks(Region("polygon", points)), found=found)
    if read.value is None:
        return None
    return level_at(scale, read.value) if isinstance(scale, GradeScale) else read.value
