"""Pictures for the demo, drawn by code: flowers that fade, trays that sprout, twine on a line.  Nothing on them is a photo of anything."""

from __future__ import annotations

import io
import math

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

SIZE = (960, 720)
DAYLIGHT, LAMP = (1.0, 1.0, 1.0), (1.12, 0.96, 0.66)
Colour = tuple[int, int, int]


def _scene(rng: np.random.Generator, ground: Colour) -> tuple[Image.Image, ImageDraw.ImageDraw]:
    """A bench with a grey card in its corner."""
    image = Image.new("RGB", SIZE, ground)
    draw = ImageDraw.Draw(image)
    for y in range(0, SIZE[1], 9):
        shade = int(rng.integers(-7, 8))
        draw.line([(0, y), (SIZE[0], y)], tuple(int(np.clip(c + shade, 0, 255)) for c in ground), 9)
    draw.rectangle((26, SIZE[1] - 150, 190, SIZE[1] - 40), (246, 246, 244))
    draw.rectangle((38, SIZE[1] - 138, 106, SIZE[1] - 52), (119, 119, 119))
    draw.rectangle((110, SIZE[1] - 138, 178, SIZE[1] - 52), (60, 60, 60))
    return image, draw


def _taken(
    image: Image.Image, rng: np.random.Generator, light: tuple[float, float, float], stops: float = 0.0
) -> bytes:
    """The scene as a camera gives it: in its light, a little soft, with noise."""
    soft = np.asarray(image.filter(ImageFilter.GaussianBlur(0.8)), dtype=np.float64)
    lit = soft * np.array(light) * 2**stops + rng.normal(0, 4, soft.shape)
    out = io.BytesIO()
    Image.fromarray(np.clip(lit, 0, 255).astype(np.uint8)).save(out, "JPEG", quality=88)
    return out.getvalue()


def _mixed(one: Colour, other: Colour, share: float) -> Colour:
    return tuple(round(a + (b - a) * share) for a, b in zip(one, other, strict=True))  # type: ignore[return-value]


def _flower(
    draw: ImageDraw.ImageDraw, rng: np.random.Generator, centre: tuple[float, float], radius: float, grade: float
) -> None:
    """A dahlia of that freshness, 5 (as cut) to 0 (dead): petals go limp, brown and fall."""
    faded = 1 - grade / 5
    for ring in range(4):
        count = 13 - 2 * ring
        for i in range(count):
            if rng.random() < max(0.0, faded - 0.45) * 0.9:
                continue
            angle = 2 * math.pi * (i + ring / 2) / count + rng.normal(0, 0.05 + 0.12 * faded)
            reach = radius * (1 - 0.21 * ring) * (1 - 0.16 * faded * rng.random())
            drop = radius * 0.42 * faded * (0.4 + 0.6 * max(0.0, math.sin(angle)))
            tip = (centre[0] + reach * math.cos(angle), centre[1] + reach * math.sin(angle) + drop)
            side = (0.30 - 0.08 * faded) * radius
            across = (-math.sin(angle) * side, math.cos(angle) * side)
            middle = ((centre[0] + tip[0]) / 2, (centre[1] + tip[1]) / 2)
            brown = min(1.0, max(0.0, faded * 1.25 - 0.2 + rng.normal(0, 0.1)))
            colour = _mixed(_mixed((236, 120, 132), (202, 60, 92), ring / 3), (122, 88, 58), brown)
            draw.polygon(
                [
                    centre,
                    (middle[0] + across[0], middle[1] + across[1]),
                    tip,
                    (middle[0] - across[0], middle[1] - across[1]),
                ],
                colour,
                _mixed(colour, (70, 30, 40), 0.35),
            )
    heart = radius * 0.2
    draw.ellipse(
        (centre[0] - heart, centre[1] - heart, centre[0] + heart, centre[1] + heart),
        _mixed((240, 200, 90), (96, 70, 40), faded),
    )


def dahlia(grade: float, rng: np.random.Generator, light: tuple[float, float, float] = DAYLIGHT) -> bytes:
    """One stem in its vase, of that freshness."""
    image, draw = _scene(rng, (196, 200, 192))
    draw.rounded_rectangle((440, 470, 560, 700), 18, (214, 228, 230), (150, 168, 172), 4)
    draw.rectangle((446, 545, 554, 694), (190, 214, 220))
    draw.line([(500, 660), (500 + float(rng.normal(0, 6)), 330)], (78, 112, 62), 13)
    _flower(draw, rng, (500, 270), 205, grade)
    return _taken(image, rng, light)


def bench_of(grades: list[float], rng: np.random.Generator, light: tuple[float, float, float] = DAYLIGHT) -> bytes:
    """Many stems at once, in rows."""
    image, draw = _scene(rng, (186, 190, 182))
    columns = 8
    for i, grade in enumerate(grades):
        x, y = 110 + (i % columns) * 108, 110 + (i // columns) * 165
        draw.rounded_rectangle((x - 18, y + 40, x + 18, y + 110), 6, (206, 222, 226), (150, 168, 172), 2)
        _flower(draw, rng, (x, y), 46, grade)
    return _taken(image, rng, light)


def tray(sprouted: int, rng: np.random.Generator) -> bytes:
    """A tray of twenty peas, so many of them sprouted."""
    image, draw = _scene(rng, (120, 104, 88))
    draw.rounded_rectangle((230, 70, 900, 640), 20, (58, 44, 34), (34, 26, 20), 8)
    up = set(rng.permutation(20)[:sprouted].tolist())
    for i in range(20):
        x, y = 300 + (i % 5) * 132 + float(rng.normal(0, 8)), 150 + (i // 5) * 132 + float(rng.normal(0, 8))
        draw.ellipse((x - 13, y - 9, x + 13, y + 9), (150, 150, 92))
        if i in up:
            draw.line([(x, y), (x + float(rng.normal(0, 8)), y - 52)], (112, 168, 78), 7)
            for side in (-1, 1):
                draw.ellipse((x + side * 16 - 15, y - 66, x + side * 16 + 15, y - 42), (122, 180, 84))
    return _taken(image, rng, DAYLIGHT)


def twine(worn: float, rng: np.random.Generator, light: tuple[float, float, float] = DAYLIGHT) -> bytes:
    """A length of twine on a board, frayed by as much as it is ``worn`` (0 to 1)."""
    image, draw = _scene(rng, (206, 202, 192))
    for strand in range(5):
        points = [(220 + 7 * t, 330 + 9 * strand + 8 * math.sin(t / 3.4 + strand * 2.1)) for t in range(96)]
        draw.line(points, _mixed((176, 142, 92), (206, 196, 176), worn), 10)
    for _ in range(int(130 * worn)):
        x = 220 + float(rng.random()) * 660
        draw.line([(x, 352), (x + float(rng.normal(0, 26)), 352 + float(rng.normal(0, 46)))], (196, 176, 138), 2)
    return _taken(image, rng, light)
