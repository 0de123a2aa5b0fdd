"""What is practised for an outcome: rendered samples whose truth is known, or the trial's own photos of what each level means."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from fieldtally.core.photos.camera import Shot, photo_of
from fieldtally.core.photos.colour import Pixels
from fieldtally.core.photos.scenes import Scene, between, flower, leaf, speckled, truth_of
from fieldtally.core.problems import Refused
from fieldtally.core.scales import CountScale, GradeScale, PassFailScale, PercentScale, Scale, ShadeScale
from fieldtally.core.scales.grade import range_in

SET_OF = 12
Kind = Literal["cover", "shade", "spots", "photos"]
MOST_SPOTS = 60
FEWEST_LEVELS, FEWEST_PHOTOS = 2, 8
"""Levels that need a photo, and photos that a set needs: none is shown twice."""
LAMPS = (3200.0, 4200.0, 5200.0, 6500.0, 7600.0)


@dataclass(frozen=True)
class Item:
    """One thing to grade: its ``truth`` on the outcome's scale and the seed of its picture, or the ``photo`` (id) that it is."""

    truth: float
    seed: int
    photo: str = ""


def kind_for(scale: Scale, photographed: Sequence[float] = ()) -> Kind | None:
    """How an outcome on ``scale`` is practised; None where it cannot be yet.  ``photographed`` are the levels that have a photo.

    A grade whose sentences give shares (10–30 % brown) is practised on rendered samples; others on the trial's own photos.
    """
    match scale:
        case PercentScale():
            return "cover"
        case ShadeScale(steps=steps):
            return "shade" if all(step.swatch for step in steps) else _by_photos(photographed)
        case CountScale():
            return "spots"
        case GradeScale():
            return "cover" if _shares(scale) else _by_photos(photographed)
        case PassFailScale():
            return _by_photos(photographed)
        case _:
            return None


def _by_photos(photographed: Sequence[float]) -> Kind | None:
    return "photos" if len(set(photographed)) >= FEWEST_LEVELS and len(photographed) >= FEWEST_PHOTOS else None


def _shares(scale: GradeScale) -> list[tuple[float, float, float]]:
    """Level, from and to in percent, of a grade all of whose sentences but the ends give shares; empty else."""
    found: list[tuple[float, float, float] | None] = []
    for level in scale.levels:
        told = range_in(level.anchor)
        found.append((level.value, told[0], told[1]) if told and told[2] in ("%", "percent") else None)
    known = [one for one in found if one is not None]
    return known if len(known) >= 3 and len(known) >= len(scale.levels) - 1 else []


def level_at(scale: GradeScale, share: float) -> float | None:
    """The level whose sentence gives a range that ``share`` (percent) lies in, or the nearest."""
    shares = _shares(scale)
    if not shares:
        return None
    return min(shares, key=lambda one: max(one[1] - share, share - one[2], 0.0))[0]


def drawn_set(
    scale: Scale, rng: np.random.Generator, photos: Mapping[str, float] | None = None, size: int = SET_OF
) -> list[Item]:
    """A set to grade, its truths spread over the whole scale and in an order of chance.  ``photos`` gives the level of each photo (id).

    :raises Refused: the scale cannot be practised yet.
    """
    kind = kind_for(scale, list((photos or {}).values()))
    seeds = [int(x) for x in rng.integers(1, 2**31 - 1, size)]
    match kind:
        case "cover" if isinstance(scale, GradeScale):
            levels = _shares(scale)
            picked = [levels[i % len(levels)] for i in range(size)]
            truths = [one[0] for one in picked]
        case "cover":
            # More of them where the eye is worst: between the ends.
            truths = [float(np.round(100 * x)) for x in (np.arange(size) + rng.random(size)) / size * 0.94 + 0.02]
        case "shade" if isinstance(scale, ShadeScale):
            grain = 2 if scale.between else 1
            places = [1 + i / grain for i in range(grain * (len(scale.steps) - 1) + 1)]
            truths = [places[i % len(places)] for i in range(size)]
        case "spots":
            most = min(MOST_SPOTS, scale.of or MOST_SPOTS) if isinstance(scale, CountScale) else MOST_SPOTS
            truths = [float(np.round(x)) for x in most * (np.arange(size) + rng.random(size)) / size]
        case "photos" if photos:
            order = _one_of_each_level([str(one) for one in rng.permutation(sorted(photos))], photos)[:size]
            shuffled = [order[i] for i in rng.permutation(len(order))]
            return [Item(photos[name], seed, name) for name, seed in zip(shuffled, seeds, strict=False)]
        case _:
            raise Refused(
                f"This cannot be practised yet: it needs at least {FEWEST_PHOTOS} photos of what its levels mean, of two levels or more."
            )
    return [Item(truth, seed) for truth, seed in zip(rng.permutation(truths).tolist(), seeds, strict=True)]


def _one_of_each_level(names: Sequence[str], levels: Mapping[str, float]) -> list[str]:
    """Photos in turn: one of each level, then another of each, as far as there are."""
    waiting: dict[float, list[str]] = {}
    for name in names:
        waiting.setdefault(levels[name], []).append(name)
    turns = max(len(own) for own in waiting.values())
    return [own[i] for i in range(turns) for own in waiting.values() if i < len(own)]


def picture_of(scale: Scale, item: Item, width: int = 1000) -> Pixels:
    """The picture of a rendered item: in some light, with the card beside it.  The same item gives the same picture."""
    rng = np.random.default_rng(item.seed)
    scene, _ = scene_of(scale, item)
    shot = Shot(
        width=width,
        kelvin=float(rng.choice(LAMPS)),
        stops=float(rng.uniform(-0.6, 0.6)),
        tilt=float(rng.uniform(0, 8)),
        tilt_to=float(rng.uniform(0, 360)),
        turn=float(rng.uniform(-4, 4)),
        balanced=0.8,
    )
    return photo_of(scene, shot, rng)


def scene_of(scale: Scale, item: Item) -> tuple[Scene, float]:
    """The scene of a rendered item, and what is true of it as it was drawn (percent, steps or spots)."""
    rng = np.random.default_rng([item.seed, 1])
    match scale:
        case GradeScale():
            low, high = next((low, high) for level, low, high in _shares(scale) if level == item.truth)
            # Well inside its level, so that no picture stands on the border of two.
            drawn = leaf(low + (high - low) * float(rng.uniform(0.25, 0.75)), rng)
            return drawn.with_card(), truth_of(drawn).cover
        case ShadeScale(steps=steps):
            drawn = flower(between([step.swatch for step in steps], item.truth), rng, uneven=1.2)
            return drawn.with_card(), item.truth
        case CountScale():
            drawn = speckled(int(item.truth), rng)
            return drawn.with_card(), float(drawn.spots)
        case _:
            drawn = leaf(item.truth, rng)
            return drawn.with_card(), truth_of(drawn).cover
