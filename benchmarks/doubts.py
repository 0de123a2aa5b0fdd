"""How often the true value lies within two of the gauge's standard uncertainties, by what is wrong with the light: on photos of a second
simulated camera, with other spectra, sensors and lenses than the first.

``python -m benchmarks.doubts [PHOTOS] [FIRST SEED]``.  Printed for each condition and measure: the share within, of how many
readings, how many were refused, and the usual and the largest error.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace

import numpy as np

from fieldtally.core.photos.camera import Shot
from fieldtally.core.photos.colour import Pixels, delta_e, lab_of_hex
from fieldtally.core.photos.finding import Found
from fieldtally.core.photos.gauge import Base, Measured, measure
from fieldtally.core.photos.lens import find_card
from fieldtally.core.photos.marks import Marks
from fieldtally.core.photos.recipe import Recipe
from fieldtally.core.photos.scenes import CARD_AT, Scene, Shape, between, flower, leaf, speckled, stick, strip, truth_of
from fieldtally.core.photos.spectral import Blot, Lamp, Setting, marked, photo_of

CHART = ("#d9b23c", "#c98f3a", "#b06f36", "#8d5433", "#6a4030")
GROUNDS = ("#b9b6aa", "#d8d4c8", "#8f8a80", "#a98f6e", "#6d6a66")
WIDE = 1300


def _one(rng: np.random.Generator) -> Setting:
    lamps: tuple[Lamp, ...] = ("daylight", "shade", "bulb", "led", "tube")
    return Setting(lamps[int(rng.integers(5))], sensor=int(rng.integers(2)), vignette=float(rng.uniform(0, 0.08)))


def _towards(rng: np.random.Generator) -> float:
    return float(rng.uniform(0, 360))


def _blot(rng: np.random.Generator, at: tuple[float, float], radius: float, strength: float, edge: float) -> Blot:
    x, y = at[0] + float(rng.normal(0, 6)), at[1] + float(rng.normal(0, 6))
    return Blot(x, y, radius * float(rng.uniform(0.85, 1.15)), strength * float(rng.uniform(0.7, 1.3)), edge)


SAMPLE, CARD = (205.0, 95.0), (CARD_AT[0] + 60, CARD_AT[1] + 40)
Changed = Callable[[Setting, np.random.Generator], Setting]
CONDITIONS: dict[str, Changed] = {
    "even light": lambda s, rng: s,
    "a fall of light of 30 %": lambda s, rng: replace(s, fall=0.3, fall_to=_towards(rng)),
    "a fall of light of 60 %": lambda s, rng: replace(s, fall=0.6, fall_to=_towards(rng)),
    "two lamps": lambda s, rng: replace(
        s, lamp="bulb", second="daylight", share=float(rng.uniform(0.3, 0.7)), fall_to=_towards(rng)
    ),
    "soft shadow on the sample": lambda s, rng: replace(s, shadows=(_blot(rng, SAMPLE, 85, 0.45, 45),)),
    "hard shadow on the sample": lambda s, rng: replace(s, shadows=(_blot(rng, SAMPLE, 85, 0.45, 3),)),
    "shadow on half the sample": lambda s, rng: replace(s, shadows=(_blot(rng, (265, 95), 75, 0.45, 12),)),
    "shadow on the card": lambda s, rng: replace(s, shadows=(_blot(rng, CARD, 95, 0.45, 12),)),
    "shadow on half the card": lambda s, rng: replace(s, shadows=(_blot(rng, (CARD[0] - 50, CARD[1]), 60, 0.45, 12),)),
    "scattered light of 10 %": lambda s, rng: replace(s, veil=float(rng.uniform(0.06, 0.14))),
    "glare on the card": lambda s, rng: replace(s, glares=(_blot(rng, CARD, 35, 0.15, 50),)),
    "glare on the sample": lambda s, rng: replace(s, glares=(_blot(rng, SAMPLE, 30, 0.15, 40),)),
    "glare over the sample": lambda s, rng: replace(s, glares=(_blot(rng, SAMPLE, 110, 0.15, 50),)),
    "one field covered": lambda s, rng: s,
    "a contrasty camera": lambda s, rng: replace(s, contrast=float(rng.uniform(0.9, 1.25))),
    "a bending lens": lambda s, rng: replace(s, lens=float(rng.uniform(-0.15, 0.06))),
}
SPOILED, SOUND = lab_of_hex("#7a4f2a"), lab_of_hex("#5f8f3a")
MEASURES = ("lightness", "difference", "shade", "cover", "cover by itself", "spots", "length", "area")
PAD = ((230.0, 82.0), (252.0, 82.0), (252.0, 92.0), (230.0, 92.0))


@dataclass(frozen=True)
class Try:
    """One photo measured: how far off it was, and its standard uncertainty; both None where it was refused."""

    condition: str
    measure: str
    error: float | None
    uncertainty: float | None
    flags: tuple[str, ...] = ()


def _with(scene: Scene, condition: str, rng: np.random.Generator) -> Scene:
    shown = replace(scene, ground=GROUNDS[int(rng.integers(len(GROUNDS)))]).with_card()
    if condition != "one field covered":
        return shown
    x, y = CARD_AT[0] + 17 + 14.3 * int(rng.integers(6)), CARD_AT[1] + 16 + 22 * int(rng.integers(2))
    thumb = ((x, y), (x + 14, y), (x + 14, y + 21), (x, y + 21))
    return replace(shown, shapes=(*shown.shapes, Shape(thumb, "#c79a7d")))


def taken(condition: str, scene: Scene, rng: np.random.Generator) -> tuple[Pixels, Shot, Setting, Found | None]:
    """A photo of a scene under a condition, by chance in all else, and the card in it."""
    setting = CONDITIONS[condition](_one(rng), rng)
    shot = Shot(
        width=WIDE,
        stops=float(rng.uniform(-0.7, 0.7)),
        balanced=float(rng.uniform(0.7, 1.0)),
        tilt=float(rng.uniform(0, 12)),
        tilt_to=_towards(rng),
        turn=float(rng.uniform(-6, 6)),
        noise=float(rng.uniform(0.003, 0.009)),
        soft=float(rng.uniform(0.6, 1.4)),
    )
    pixels = photo_of(scene, shot, setting, rng)
    return pixels, shot, setting, find_card(pixels)


def tries(condition: str, seed: int) -> Iterator[Try]:
    """One photo of each kind under a condition, with all that is measured in it."""
    rng = np.random.default_rng([seed, list(CONDITIONS).index(condition)])

    def told(kind: str, found: Measured, true: float) -> Try:
        keys = tuple(flag.key for flag in found.flags)
        if found.value is None:
            return Try(condition, kind, None, None, keys)
        return Try(condition, kind, found.value - true, found.uncertainty, keys)

    head = flower(between(CHART, float(rng.uniform(1, 5))), rng)
    truth = truth_of(head)
    pixels, shot, setting, card = taken(condition, _with(head, condition, rng), rng)
    marks = Marks(marked(head, shot, setting))
    yield told("lightness", measure(pixels, Recipe("lightness", "stands_out"), marks, found=card), truth.colour[0])
    other = tuple(float(v) for v in np.array(truth.colour) + rng.normal(0, 1, 3) * (9, 7, 9))
    from_other = measure(pixels, Recipe("difference", "stands_out"), marks, Base((other[0], other[1], other[2])), card)
    yield told("difference", from_other, float(delta_e(truth.colour, other)))

    value = float(rng.uniform(1, 5))
    pad = strip(between(CHART, value))
    pixels, shot, setting, card = taken(condition, _with(pad, condition, rng), rng)
    chart = Recipe("shade", steps=tuple(lab_of_hex(code) for code in CHART))
    yield told("shade", measure(pixels, chart, Marks(marked(pad, shot, setting, PAD)), found=card), value)

    green = leaf(float(rng.choice([0, 2, 5, 15, 30, 55])), rng)
    truth = truth_of(green)
    pixels, shot, setting, card = taken(condition, _with(green, condition, rng), rng)
    marks = Marks(marked(green, shot, setting))
    yield told(
        "cover", measure(pixels, Recipe("cover", "stands_out", (SPOILED,), (SOUND,)), marks, found=card), truth.cover
    )
    if truth.cover < 35:
        yield told("cover by itself", measure(pixels, Recipe("cover", "stands_out"), marks, found=card), truth.cover)
    yield told("area", measure(pixels, Recipe("area"), marks, found=card), truth.area)

    round_card = speckled(int(rng.integers(0, 30)), rng)
    pixels, shot, setting, card = taken(condition, _with(round_card, condition, rng), rng)
    spots = measure(pixels, Recipe("spots", "stands_out"), Marks(marked(round_card, shot, setting)), found=card)
    yield told("spots", spots, round_card.spots)

    piece = stick(float(rng.uniform(40, 105)), float(rng.uniform(8, 20)))
    true = truth_of(piece).length
    wide = max(y for _, y in piece.shapes[0].outline) - min(y for _, y in piece.shapes[0].outline)
    pixels, shot, setting, card = taken(condition, _with(piece, condition, rng), rng)
    yield told(
        "length",
        measure(pixels, Recipe("length"), Marks(marked(piece, shot, setting)), found=card),
        float(np.hypot(true, wide)),
    )


def _all_of(asked: tuple[str, int]) -> list[Try]:
    return list(tries(*asked))


def played(many: int, conditions: tuple[str, ...] = tuple(CONDITIONS), workers: int = 2, first: int = 100) -> list[Try]:
    """All tries of ``many`` photos of each kind under each condition, from seed ``first`` on."""
    asked = [(condition, seed) for condition in conditions for seed in range(first, first + many)]
    with ProcessPoolExecutor(workers) as pool:
        return [one for several in pool.map(_all_of, asked) for one in several]


def told(found: list[Try]) -> None:
    """Print the table."""
    print("| light | measure | within two deviations | refused | off as a rule | at most | deviation as a rule |")
    print("| --- | --- | --- | --- | --- | --- | --- |")
    for condition in dict.fromkeys(one.condition for one in found):
        for kind in MEASURES:
            own = [one for one in found if one.condition == condition and one.measure == kind]
            read = [
                (abs(one.error), one.uncertainty)
                for one in own
                if one.error is not None and one.uncertainty is not None
            ]
            if not own:
                continue
            if not read:
                print(f"| {condition} | {kind} | | {len(own)} of {len(own)} | | | |")
                continue
            errors, unsure = np.array([e for e, _ in read]), np.array([u for _, u in read])
            within = float((errors <= np.maximum(2 * unsure, 1e-9)).mean())
            print(
                f"| {condition} | {kind} | {100 * within:.0f} % of {len(read)} | {len(own) - len(read)} of {len(own)}"
                f" | {np.median(errors):.2f} | {errors.max():.2f} | {np.median(unsure):.2f} |"
            )


if __name__ == "__main__":
    given = [int(x) for x in sys.argv[1:]]
    many, since = given + [30, 100][len(given) :]
    told(played(many, first=since))
