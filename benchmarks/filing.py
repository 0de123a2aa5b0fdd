"""Photos that file themselves: 300 pictures of the simulated camera with their tags, and where they were filed.

``python -m benchmarks.filing [PHOTOS] [SEED]`` prints how many were filed right, how many wrong, how many are asked about, and the time
that each took.  Tags lie at any turn, are soft, dark, tilted, in shade, half hidden; some photos show two, one of another trial, or none.
"""

from __future__ import annotations

import os
import sys
from collections import Counter
from dataclasses import dataclass, replace
from pathlib import Path
from time import perf_counter
from uuid import UUID

import numpy as np
from PIL import Image, ImageFont

from fieldtally.core.blinding.checking import check_letter
from fieldtally.core.photos.camera import Shot, photo_of
from fieldtally.core.photos.reading_tags import DigitReader, squares_in
from fieldtally.core.photos.scenes import leaf
from fieldtally.core.photos.tagged import FINE, SIZES, Font, Tag, shaded, with_tag
from fieldtally.core.photos.tags import Named, Sample, named

FONTS = Path(__file__).resolve().parents[1] / "web/node_modules/@fontsource-variable/atkinson-hyperlegible-mono/files"
TRIAL = "6c9d5f0e-5a53-4a36-9a36-0e6b2f2f7a11"
ELSEWHERE = "9b1e4a4c-7d0f-4a1e-8b57-2f1f3ad0c1a4"
AIM = 0.97
SECONDS = 2.0


@dataclass(frozen=True)
class Photo:
    """A picture, the code it shows (empty: nobody could say), and what is odd about it."""

    picture: Image.Image
    code: str
    kind: str


def tag_font() -> Font:
    """The font that tags are printed in; Pillow's own where the front end is not installed."""
    files = sorted(FONTS.glob("*-latin-wght-normal.woff2"))
    if not files:
        return ImageFont.load_default(FINE)
    font = ImageFont.truetype(files[0], FINE)
    font.set_variation_by_axes([800])
    return font


def samples_of(many: int, rng: np.random.Generator, trial: str = TRIAL) -> dict[str, Sample]:
    """So many samples of a trial with drawn codes, by id."""
    codes = [str(code) for code in rng.choice(np.arange(100, 1000), size=many, replace=False)]
    return {str(UUID(int=int(rng.integers(1, 2**62)))): Sample(code, check_letter(code, trial)) for code in codes}


def photo(samples: dict[str, Sample], others: dict[str, Sample], rng: np.random.Generator, font: Font) -> Photo:
    """A made-up photo of one of the samples, or of what people photograph besides, such as ``others`` of another trial."""
    ids = list(samples)
    kind = str(rng.choice(["plain", "soft", "dark", "shade", "tilted", "hidden", "two", "stranger", "none"], p=KINDS))
    size = SIZES[int(rng.integers(0, len(SIZES)))]

    def tag(at: tuple[float, float], one: str, hides: float = 0.0) -> Tag:
        own = samples[one]
        square = f"https://tally.tarnlane.example/s/{one}"
        return Tag(square, own.code, own.letter, size, at, float(rng.uniform(0, 360)), hides)

    one, other = (str(x) for x in rng.choice(ids, size=2, replace=False))
    scene = leaf(float(rng.uniform(0, 40)), rng)
    place = (float(rng.uniform(70, 85)), float(rng.uniform(70, 170)))
    if kind == "stranger":
        other = str(rng.choice(list(others)))
        square, own = f"https://tally.tarnlane.example/s/{other}", others[other]
        scene = with_tag(scene, replace(tag(place, one), square=square, code=own.code, letter=own.letter), font)
    elif kind != "none":
        scene = with_tag(scene, tag(place, one, float(rng.uniform(0.25, 0.42)) if kind == "hidden" else 0.0), font)
    if kind == "two":
        scene = with_tag(scene, tag((230.0, 190.0), other), font)
    shot = Shot(
        width=int(rng.choice([2048, 3000, 4000])),
        kelvin=float(rng.uniform(2700, 9000)),
        stops=float(rng.uniform(-3.0, -1.5)) if kind == "dark" else float(rng.uniform(-1, 0.8)),
        tilt=float(rng.uniform(25, 42)) if kind == "tilted" else float(rng.uniform(0, 20)),
        tilt_to=float(rng.uniform(0, 360)),
        turn=float(rng.uniform(0, 360)),
        noise=float(rng.uniform(0.004, 0.02)),
        soft=float(rng.uniform(2.0, 4.0)) if kind == "soft" else float(rng.uniform(0.7, 2.0)),
        uneven=float(rng.uniform(0, 0.4)),
    )
    pixels = photo_of(scene, shot, rng)
    if kind == "shade":
        pixels = shaded(pixels, float(rng.uniform(0.2, 0.6)), float(rng.uniform(0.4, 0.8)))
    code = "" if kind in ("two", "stranger", "none") else samples[one].code
    return Photo(Image.fromarray(pixels), code, kind)


KINDS = (0.25, 0.15, 0.12, 0.12, 0.14, 0.1, 0.04, 0.04, 0.04)


def filed(
    one: Photo, reader: DigitReader, samples: dict[str, Sample], others: dict[str, Sample]
) -> tuple[Named, float]:
    """What a photo's tag told, and the seconds that it took, from the picture as it was sent."""
    began = perf_counter()
    squares = squares_in(one.picture)
    kept = one.picture.copy()
    kept.thumbnail((2_048, 2_048))
    found = named(squares, reader.words_in(kept, again=not squares), samples, {own.code for own in others.values()})
    return found, perf_counter() - began


def main(many: int, seed: int) -> int:
    """Print what became of so many photos."""
    rng = np.random.default_rng(seed)
    samples, others = samples_of(60, rng), samples_of(60, rng, ELSEWHERE)
    # As the worker reads them.
    font, reader = tag_font(), DigitReader(min(4, os.cpu_count() or 1))
    became: Counter[tuple[str, str]] = Counter()
    took = []
    for i in range(many):
        one = photo(samples, others, rng, font)
        found, seconds = filed(one, reader, samples, others)
        took.append(seconds)
        how = "right" if found.code == one.code else "wrong" if found.code else "asked"
        became[one.kind, how] += 1
        if how != "right":
            print(f"  {i} {one.kind}: {one.code or 'nothing to tell'}, told {found.code or found.says}", flush=True)
    right, wrong, asked = (
        sum(n for (_, how), n in became.items() if how == told) for told in ("right", "wrong", "asked")
    )
    for kind in sorted({kind for kind, _ in became}):
        print(
            f"{kind:10} "
            + ", ".join(f"{became[kind, how]} {how}" for how in ("right", "asked", "wrong") if became[kind, how])
        )
    print(
        f"of {many} photos {right} right ({100 * right / many:.1f} %, aim {100 * AIM:.0f}), {asked} asked about, {wrong} wrong (aim 0); "
        f"{np.mean(took):.2f} s each, {max(took):.2f} at most (aim {SECONDS:.0f})"
    )
    return int(right < AIM * many or wrong > 0)


if __name__ == "__main__":
    numbers = [int(x) for x in sys.argv[1:]]
    sys.exit(main(*(numbers + [300, 7][len(numbers) :])))
