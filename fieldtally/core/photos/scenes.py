"""Pictures of made-up samples as flat scenes: shapes of known colour and size, so that the truth about them is known.

Lengths are millimetres on the bench, y down.  A scene is painted shape after shape; colours are linear light (0–1) or ``#rrggbb``.
Nothing here is a photo of anything.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from PIL import Image, ImageDraw

from fieldtally.core.photos import card
from fieldtally.core.photos.colour import Lab, Reals, hex_of, lab_of, lab_of_hex, linear_of

BENCH = "#b9b6aa"
SOUND, SPOILED = "#5f8f3a", "#7a4f2a"
WIDTH, HEIGHT = 320.0, 240.0
CARD_AT = (14.0, 148.0)
FINE = 8
"""Points a millimetre, where the truth is counted."""


@dataclass(frozen=True)
class Shape:
    """A filled outline (points in mm), its colour as ``#rrggbb``, and what it ``counts`` as: object, spot, or nothing."""

    outline: tuple[tuple[float, float], ...]
    colour: str
    counts: str = ""


@dataclass(frozen=True)
class Scene:
    """Shapes on a ground, and where the sample lies (centre and radius of a circle around it, in mm)."""

    shapes: tuple[Shape, ...]
    ground: str = BENCH
    centre: tuple[float, float] = (205.0, 95.0)
    radius: float = 62.0
    spots: int = 0
    card_at: tuple[float, float] = CARD_AT

    def with_card(self, at: tuple[float, float] = CARD_AT) -> Scene:
        """The scene with the printed card lying in it, its corner ``at``."""
        return replace(self, shapes=(*self.shapes, *card_shapes(at)), card_at=at)


@dataclass(frozen=True)
class Truth:
    """What is true of a sample: ``cover`` 0–100 % of the object that is spotted, its mean colour in CIELAB, ``spots``, its area in cm² and
    its longest side in mm."""

    cover: float
    colour: Lab
    spots: int
    area: float
    length: float


def _circle(x: float, y: float, radius: float, points: int = 40) -> tuple[tuple[float, float], ...]:
    return tuple(
        (x + radius * math.cos(2 * math.pi * i / points), y + radius * math.sin(2 * math.pi * i / points))
        for i in range(points)
    )


def _box(x: float, y: float, width: float, height: float) -> tuple[tuple[float, float], ...]:
    return ((x, y), (x + width, y), (x + width, y + height), (x, y + height))


def card_shapes(at: tuple[float, float]) -> tuple[Shape, ...]:
    """The printed card as shapes, its upper left corner ``at``."""
    left, top = at
    ink = "#1c1c1c"
    shapes = [Shape(_box(left, top, card.WIDTH, card.HEIGHT), card.PAPER)]
    for i, (x, y) in enumerate(card.MARKS):
        shapes.append(Shape(_box(left + x - card.MARK / 2, top + y - card.MARK / 2, card.MARK, card.MARK), ink))
        holes = card.TWO_HOLES if i == 0 else ((0.0, 0.0),)
        radius = card.SMALL_HOLE if i == 0 else card.HOLE
        shapes += [Shape(_circle(left + x + dx, top + y + dy, radius), card.PAPER) for dx, dy in holes]
    for patch in card.PATCHES:
        shapes.append(Shape(_box(left + patch.x, top + patch.y, patch.width, patch.height), patch.colour))
    start, end, y = card.BAR
    shapes.append(Shape(_box(left + start, top + y - 0.6, end - start, 1.2), ink))
    shapes += [Shape(_box(left + x - 0.3, top + y - 2.6, 0.6, 5.2), ink) for x in np.linspace(start, end, 6)]
    return tuple(shapes)


def between(swatches: Sequence[str], value: float) -> Lab:
    """The colour at ``value`` on a chart whose steps are numbered from 1, straight between its neighbours in CIELAB.

    >>> between(["#000000", "#ffffff"], 1.5)[0].__round__(2)
    50.0
    """
    labs = np.array([lab_of_hex(code) for code in swatches])
    at = float(np.clip(value, 1, len(labs))) - 1
    low = min(int(at), len(labs) - 2)
    first, second, third = (float(x) for x in labs[low] + (labs[low + 1] - labs[low]) * (at - low))
    return first, second, third


def leaf(cover: float, rng: np.random.Generator, *, sound: str = SOUND, spoiled: str = SPOILED) -> Scene:
    """A broad leaf of which about ``cover`` percent is spoiled, in blotches."""
    cx, cy, radius = 205.0, 95.0, 58.0
    turn = float(rng.uniform(0, 2 * math.pi))

    def edge(angle: float) -> float:
        return radius * (0.82 + 0.1 * math.cos(2 * angle + turn) + 0.05 * math.cos(5 * angle))

    outline = tuple(
        (cx + edge(a) * math.cos(a), cy + edge(a) * math.sin(a))
        for a in np.linspace(0, 2 * math.pi, 120, endpoint=False)
    )
    shapes = [Shape(outline, sound, "object")]
    # Blotches are laid on until they cover what they should; the truth is counted afterwards, not assumed.
    target, covered = cover / 100, 0.0
    plain = Scene(tuple(shapes))
    inside = _painted(plain) == 1
    hidden = np.zeros_like(inside)
    area = float(inside.sum())
    for _ in range(900):
        if covered >= target - 0.004:
            break
        reach = radius * math.sqrt(max(0.012, min(0.2, (target - covered) * rng.uniform(0.1, 0.5))))
        angle, away = float(rng.uniform(0, 2 * math.pi)), radius * 0.92 * math.sqrt(float(rng.random()))
        x, y = away * math.cos(angle), away * math.sin(angle)
        blotch = tuple(
            _held((cx, cy), (x + reach * wide * math.cos(a), y + reach * wide * math.sin(a)), edge)
            for a, wide in zip(np.linspace(0, 2 * math.pi, 44, endpoint=False), _ragged(rng, 44), strict=True)
        )
        mask = _mask(blotch)
        shared = float((mask & inside & ~hidden).sum()) / area
        if shared <= 0 or covered + shared > target + 0.012:
            continue
        hidden |= mask & inside
        covered += shared
        shapes.append(Shape(blotch, spoiled, "spot"))
    return Scene(tuple(shapes))


def _ragged(rng: np.random.Generator, points: int) -> list[float]:
    """How far an uneven edge reaches, around 1, at so many points around."""
    angles = np.linspace(0, 2 * math.pi, points, endpoint=False)
    reach = np.full(points, 0.95)
    for waves in (2, 3, 5):
        reach += 0.09 * float(rng.random()) * np.cos(waves * angles + float(rng.uniform(0, 2 * math.pi)))
    return [float(x) for x in reach]


def _held(
    centre: tuple[float, float], point: tuple[float, float], edge: Callable[[float], float]
) -> tuple[float, float]:
    """A point (from the centre), drawn in where it lies beyond the edge, in place on the bench."""
    angle, away = math.atan2(point[1], point[0]), math.hypot(*point)
    reach = min(away, 0.985 * edge(angle))
    return centre[0] + reach * math.cos(angle), centre[1] + reach * math.sin(angle)


def flower(colour: Lab, rng: np.random.Generator, *, uneven: float = 2.0) -> Scene:
    """A dried flower head whose petals are about ``colour``, each a little lighter or darker (L* by ``uneven``)."""
    cx, cy = 205.0, 95.0
    shapes = []
    for ring, (count, reach) in enumerate(((17, 56.0), (13, 42.0), (10, 29.0), (7, 17.0))):
        for i in range(count):
            angle = 2 * math.pi * (i + ring / 2) / count + float(rng.normal(0, 0.03))
            wide = 0.62 * 2 * math.pi / count
            light = float(np.clip(rng.normal(0, uneven), -2 * uneven, 2 * uneven)) - 1.2 * ring
            shade = hex_of((colour[0] + light, colour[1], colour[2]))
            tip = reach * float(rng.uniform(0.93, 1.05))
            along = np.linspace(0, 1, 11)
            side = 0.95 * wide * np.sin(math.pi * np.minimum(1, along**0.8)) ** 0.7
            out = 0.15 + 0.85 * np.sin(math.pi / 2 * along)
            outline = tuple(
                (cx + float(r) * tip * math.cos(angle + float(w)), cy + float(r) * tip * math.sin(angle + float(w)))
                for r, w in (*zip(out, -side, strict=True), *zip(out[::-1], side[::-1], strict=True))
            )
            shapes.append(Shape(outline, shade, "object"))
    heart = hex_of((max(0.0, colour[0] - 5), colour[1], colour[2]))
    shapes.append(Shape(_circle(cx, cy, 7.0), heart, "object"))
    return Scene(tuple(shapes))


def strip(colour: Lab) -> Scene:
    """A test strip of white plastic with a pad of ``colour``."""
    return Scene(
        (
            Shape(_box(150.0, 80.0, 110.0, 14.0), "#eceae4"),
            Shape(_box(228.0, 80.0, 26.0, 14.0), hex_of(colour), "object"),
        ),
        centre=(241.0, 87.0),
        radius=11.0,
    )


def speckled(spots: int, rng: np.random.Generator, *, ground: str = "#d8d2bd", mark: str = "#4a3d34") -> Scene:
    """A round of card with so many separate dark ``spots``."""
    cx, cy, radius = 205.0, 95.0, 58.0
    shapes = [Shape(_circle(cx, cy, radius, 90), ground, "object")]
    placed: list[tuple[float, float, float]] = []
    for _ in range(20_000):
        if len(placed) == spots:
            break
        reach = float(rng.uniform(1.6, 3.4))
        angle, away = float(rng.uniform(0, 2 * math.pi)), (radius - 6) * math.sqrt(float(rng.random()))
        x, y = cx + away * math.cos(angle), cy + away * math.sin(angle)
        if all(math.hypot(x - ox, y - oy) > reach + other + 1.2 for ox, oy, other in placed):
            placed.append((x, y, reach))
            shapes.append(Shape(_circle(x, y, reach, 24), mark, "spot"))
    return Scene(tuple(shapes), spots=len(placed))


def stick(length: float, wide: float = 12.0, colour: str = "#8a5a33") -> Scene:
    """A straight piece of ``length`` and width in mm."""
    return Scene(
        (Shape(_box(205.0 - length / 2, 95.0 - wide / 2, length, wide), colour, "object"),), radius=length / 2 + 6
    )


def _mask(outline: Sequence[tuple[float, float]], fine: int = FINE) -> np.ndarray:
    image = Image.new("1", (int(WIDTH * fine), int(HEIGHT * fine)))
    ImageDraw.Draw(image).polygon([(x * fine, y * fine) for x, y in outline], fill=1)
    return np.asarray(image)


def _painted(scene: Scene, fine: int = FINE) -> np.ndarray:
    """For each point of the bench the number of the shape that is seen there; 0: the ground."""
    image = Image.new("I;16", (int(WIDTH * fine), int(HEIGHT * fine)))
    draw = ImageDraw.Draw(image)
    for number, shape in enumerate(scene.shapes, start=1):
        draw.polygon([(x * fine, y * fine) for x, y in shape.outline], fill=number)
    return np.asarray(image)


def palette(scene: Scene) -> Reals:
    """The linear light of the ground and of each shape (n + 1, 3)."""
    codes = [bytes.fromhex(code[1:]) for code in (scene.ground, *(shape.colour for shape in scene.shapes))]
    return linear_of(np.frombuffer(b"".join(codes), np.uint8).reshape(-1, 3)).astype(np.float64)


def truth_of(scene: Scene) -> Truth:
    """What is true of the sample in a scene, counted point by point on the bench itself."""
    painted = _painted(scene)
    kinds = np.array(["", *(shape.counts for shape in scene.shapes)])
    spotted, sample = np.isin(painted, np.flatnonzero(kinds == "spot")), np.isin(painted, np.flatnonzero(kinds != ""))
    counts = np.bincount(painted[sample], minlength=len(kinds))
    mean = (palette(scene) * counts[:, None]).sum(axis=0) / max(1, counts.sum())
    first, second, third = (float(x) for x in lab_of(mean))
    rows, columns = np.nonzero(sample)
    sides = (np.ptp(columns) + 1, np.ptp(rows) + 1) if len(rows) else (0, 0)
    return Truth(
        cover=100 * float(spotted.sum()) / max(1, int(sample.sum())),
        colour=(first, second, third),
        spots=scene.spots,
        area=float(sample.sum()) / FINE**2 / 100,
        length=max(sides) / FINE,
    )
