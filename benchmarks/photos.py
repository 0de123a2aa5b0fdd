"""How well and how fast the photo gauge measures, on rendered photos whose truth is known.

Light of 3,000 to 8,000 K (of which the camera's own white balance takes out 70 %), a stop and a half brighter and darker, tilted up to 15°.
"""

from __future__ import annotations

import io
import time
from dataclasses import replace
from itertools import product

import numpy as np
from PIL import Image

from fieldtally.core.photos.camera import Shot, marked, photo_of
from fieldtally.core.photos.colour import delta_e, lab_of_hex
from fieldtally.core.photos.gauge import Base, measure
from fieldtally.core.photos.marks import Marks
from fieldtally.core.photos.recipe import Recipe
from fieldtally.core.photos.scenes import between, flower, leaf, speckled, strip, truth_of

CHART = ("#d9b23c", "#c98f3a", "#b06f36", "#8d5433", "#6a4030")
SHOTS = [
    Shot(width=1400, kelvin=kelvin, stops=stops, tilt=tilt, tilt_to=towards, turn=turn)
    for kelvin, stops, (tilt, towards, turn) in product(
        (3000, 4200, 5500, 8000), (-1.5, 0.0, 1.5), ((0, 0, 0), (15, 60, 4), (15, 200, -4))
    )
]


def accuracy() -> None:
    """Print the largest and the usual error of each measure, over all lights."""
    rng = np.random.default_rng(9)
    spoiled = Recipe("cover", "stands_out", (lab_of_hex("#7a4f2a"),), (lab_of_hex("#5f8f3a"),))
    chart = Recipe("shade", steps=tuple(lab_of_hex(code) for code in CHART))
    errors: dict[str, list[float]] = {"cover": [], "ΔE2000": [], "strip": [], "spots": [], "area": []}
    refused = 0
    for i, shot in enumerate(SHOTS):
        share, value = (4, 18, 35, 62)[i % 4], (1.3, 2.2, 3.5, 4.4, 4.9)[i % 5]
        for name, recipe, scene in (
            ("cover", spoiled, leaf(share, rng)),
            ("area", Recipe("area"), leaf(share, rng)),
            ("spots", Recipe("spots", "stands_out"), speckled(int(rng.integers(3, 40)), rng)),
            ("ΔE2000", Recipe("difference", "stands_out"), flower(between(CHART, value), rng)),
            ("strip", chart, strip(between(CHART, value))),
        ):
            shown, truth = scene.with_card(), truth_of(scene)
            pad = ((230.0, 82.0), (252.0, 82.0), (252.0, 92.0), (230.0, 92.0)) if name == "strip" else None
            found = measure(photo_of(shown, shot, rng), recipe, Marks(marked(shown, shot, pad)), Base(truth.colour))
            if found.value is None:
                refused += 1
                print(f"  refused: {name} at {shot.kelvin:.0f} K, {shot.stops:+} stops: {found.flags[-1].says}")
                continue
            match name:
                case "cover":
                    errors[name].append(abs(found.value - truth.cover))
                case "area":
                    errors[name].append(100 * abs(found.value / truth.area - 1))
                case "spots":
                    errors[name].append(abs(found.value - truth.spots))
                case "ΔE2000":
                    errors[name].append(float(delta_e(found.colour, truth.colour)))
                case _:
                    errors[name].append(100 * abs(found.value - value) / (len(CHART) - 1))
    words = {"cover": "points", "ΔE2000": "", "strip": "% of range", "spots": "spots", "area": "%"}
    aims = {"cover": 2, "ΔE2000": 1, "strip": 5}
    for name, found_errors in errors.items():
        aim = f" (aim {aims[name]})" if name in aims else ""
        print(
            f"photo gauge, {name}: off by {np.mean(found_errors):.2f} on average, {max(found_errors):.2f} at most"
            f" {words[name]}{aim}, {len(found_errors)} photos of {SHOTS[0].kelvin:.0f} to {SHOTS[-1].kelvin:.0f} K"
        )
    print(f"photo gauge, refused: {refused} of {len(SHOTS) * 5}")


def pace() -> None:
    """Print how long a photo of 12 megapixels takes, from the pixels and from the file."""
    rng = np.random.default_rng(4)
    scene = leaf(30, rng).with_card()
    shot = replace(SHOTS[1], width=4000)
    pixels = photo_of(scene, shot, rng)
    marks = Marks(marked(scene, shot))
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "JPEG", quality=92)
    recipe = Recipe("cover", "stands_out", (lab_of_hex("#7a4f2a"),), (lab_of_hex("#5f8f3a"),))
    times = []
    for _ in range(5):
        start = time.perf_counter()
        measure(pixels, recipe, marks)
        times.append(time.perf_counter() - start)
    start = time.perf_counter()
    measure(np.asarray(Image.open(io.BytesIO(file.getvalue())).convert("RGB")), recipe, marks)
    whole = time.perf_counter() - start
    size = pixels.shape[0] * pixels.shape[1] / 1e6
    print(
        f"photo gauge, {size:.0f} megapixels: {np.median(times):.2f} s from pixels, {whole:.2f} s from a JPEG (aim 1)"
    )


if __name__ == "__main__":
    accuracy()
    pace()
