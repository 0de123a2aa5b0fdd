"""Each sample as a dot, or columns that count very many, with its treatment's mean and the interval of that, one row a treatment; and means
over the looks, with letters at the ends."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from html import escape

from fieldtally.core.quantities.numbers import honest

HUES = ("#1f62c9", "#00796b", "#8a3fb0", "#b0436e", "#5c6bc0", "#6d6a1c", "#0b7fa5", "#74506b")
DASHES = ("", "9 4", "2 4", "12 3 2 3", "5 5", "1 3", "14 4", "8 3 2 3 2 3")
INK, SOFT, LINE = "#14201b", "#4d5c54", "#bcc7bf"
FONT = "font-family=\"'Tally','Atkinson Hyperlegible Next',sans-serif\""
SIZE = 9.0
GAP = 19
"""So far apart are letters at the ends of lines."""
FOOT = 40.0
"""What the axis takes below the rows."""
MOST_LEVELS = 14
"""Where more dots than so many would stand on each other, columns count them instead."""


@dataclass(frozen=True)
class DotsRow:
    """A treatment: its place among all (for letter and hue), its values, its estimate and the interval of that."""

    place: int
    letter: str
    name: str
    values: tuple[float, ...]
    estimate: float | None
    low: float | None
    high: float | None


@dataclass(frozen=True)
class MeansLine:
    """A treatment's means: (offset, mean) in order of time."""

    place: int
    letter: str
    name: str
    points: tuple[tuple[float, float], ...]


def dots_svg(
    rows: Sequence[DotsRow],
    axis: str,
    *,
    title: str,
    width: float = 640,
    ends: tuple[float, float] | None = None,
    share: bool = False,
    words: Mapping[float, str] | None = None,
) -> str:
    """An SVG of ``rows``, best first as given; ``axis`` names the unit, ``ends`` fix the axis, ``share``: values 0 to 1 told in percent;
    ``words`` stand at values that have labels of their own, and nothing at others."""
    return dots_svgs(rows, axis, title=title, width=width, ends=ends, share=share, words=words)[0]


def dots_svgs(
    rows: Sequence[DotsRow],
    axis: str,
    *,
    title: str,
    tallest: float = math.inf,
    width: float = 640,
    ends: tuple[float, float] | None = None,
    share: bool = False,
    words: Mapping[float, str] | None = None,
) -> list[str]:
    """The same, parted into pictures of at most ``tallest`` units with one axis for all: what is taller than a page is cut off by it."""
    known = [v for row in rows for v in (*row.values, row.low, row.high, row.estimate) if v is not None]
    low, high = ends or ((min(known), max(known)) if known else (0.0, 1.0))
    if low == high:
        low, high = low - 1, high + 1
    ticks = sorted(words) if words else nice(low, high)
    low, high = min(low, ticks[0]), max(high, ticks[-1])

    def told(tick: float) -> str:
        return words.get(tick, "") if words else honest(100 * tick if share else tick, 6)

    left, right = 190.0, width - 20
    at = _scale(low, high, left, right)
    dots = {row.letter: [] if share else _stacked([at(v) for v in row.values]) for row in rows}
    most = max((level + 1 for own in dots.values() for _, level in own), default=0)
    columns = {row.letter: _columned([at(v) for v in row.values]) for row in rows} if most > MOST_LEVELS else {}
    peak = max((many for own in columns.values() for _, many in own), default=0)
    drawn = [
        _row(row, [] if columns else dots[row.letter], columns.get(row.letter, []), peak, at, share=share)
        for row in rows
    ]
    found: list[str] = []
    begin = 0
    while begin < len(rows) or not found:
        top, parts, end = 6.0, [], begin
        while end < len(rows) and (end == begin or top + drawn[end][0] + FOOT <= tallest):
            parts.append(
                f'<line x1="0" x2="{width:g}" y1="{top:g}" y2="{top:g}" stroke="{LINE}"/>'
                f'<g transform="translate(0 {top:.1f})">{drawn[end][1]}</g>'
            )
            top += drawn[end][0]
            end += 1
        grid = "".join(
            f'<line x1="{at(t):.1f}" x2="{at(t):.1f}" y1="4" y2="{top:.1f}" stroke="{LINE}" stroke-dasharray="1 5"/>'
            f'<text x="{at(t):.1f}" y="{top + 17:.1f}" font-size="12" text-anchor="middle" fill="{SOFT}">'
            f"{escape(told(t))}</text>"
            for t in ticks
        )
        foot = (
            f'<line x1="{left:g}" x2="{right:g}" y1="{top:.1f}" y2="{top:.1f}" stroke="{INK}" stroke-width="1.6"/>'
            f'<text x="{right:g}" y="{top + 34:.1f}" font-size="12" text-anchor="end" fill="{SOFT}">'
            f"{escape('%' if share else axis)}</text>"
        )
        if columns:
            foot += _words(4, top + 34, f"Columns count samples, the tallest {peak}.")
        found.append(_svg(width, top + FOOT, title, grid + "".join(parts) + foot))
        begin = max(end, begin + 1)
    return found


def _row(
    row: DotsRow,
    stacked: Sequence[tuple[float, int]],
    heaped: Sequence[tuple[float, int]],
    peak: int,
    at: Callable[[float], float],
    *,
    share: bool,
) -> tuple[float, str]:
    """One treatment: how tall it is, and what is drawn, from its own upper edge."""
    tall = max((level for _, level in stacked), default=0) + 1
    if heaped:
        tall = math.ceil(MOST_LEVELS * max(many for _, many in heaped) / peak)
    height = 34 + tall * SIZE
    base, hue = height - 8, HUES[row.place % len(HUES)]
    parts = [_chip(4, base - 24, row.letter, hue)]
    parts += [
        f'<text x="36" y="{base - 14 + 15 * i:.1f}" font-size="13" font-weight="700" fill="{INK}">{escape(line)}</text>'
        for i, line in enumerate(_wrapped(row.name, 22))
    ]
    bar = base - tall * SIZE - 12
    if row.low is not None and row.high is not None:
        wide = max(2.0, at(row.high) - at(row.low))
        parts.append(
            f'<rect x="{at(row.low):.1f}" y="{bar:.1f}" width="{wide:.1f}" height="10" fill="{hue}" opacity="0.32"/>'
        )
    if row.estimate is not None:
        x = at(row.estimate)
        parts.append(
            f'<line x1="{x:.1f}" x2="{x:.1f}" y1="{bar - 4:.1f}" y2="{bar + 14:.1f}" stroke="{hue}" stroke-width="3"/>'
        )
    parts += [
        f'<circle cx="{x:.1f}" cy="{base - 4 - level * SIZE:.1f}" r="{SIZE / 2 - 0.7:.1f}" fill="{hue}"/>'
        for x, level in stacked
    ]
    parts += [
        f'<rect x="{x - SIZE / 2 + 0.5:.1f}" y="{base - (up := MOST_LEVELS * SIZE * many / peak):.1f}" width="{SIZE - 1:g}" '
        f'height="{up:.1f}" fill="{hue}"/>'
        for x, many in heaped
    ]
    if share and row.estimate is not None:
        passed = sum(1 for v in row.values if v == 1)
        parts.append(_words(at(row.estimate), base + 2, f"{passed} of {len(row.values)}", "middle"))
    return height, "".join(parts)


def means_svg(
    lines: Sequence[MeansLine],
    stops: Sequence[tuple[float, str]],
    axis: str,
    *,
    title: str,
    width: float = 640,
    share: bool = False,
    words: Mapping[float, str] | None = None,
) -> str:
    """An SVG of means over ``stops`` (offset, name), at honest distances."""
    values = [value for line in lines for _, value in line.points]
    low, high = (0.0, 1.0) if share else (min(values), max(values)) if values else (0.0, 1.0)
    if low == high:
        low, high = low - 1, high + 1
    ticks = sorted(words) if words else nice(low, high)
    low, high = min(low, ticks[0]), max(high, ticks[-1])
    height = max(250.0, GAP * len(lines) + 60)
    x = _scale(stops[0][0], max(stops[-1][0], stops[0][0] + 1), 50, width - 44)
    y = _scale(low, high, height - 40, 12)
    parts = [
        f'<line x1="50" x2="{width - 44:g}" y1="{y(t):.1f}" y2="{y(t):.1f}" stroke="{LINE}" stroke-dasharray="1 5"/>'
        + _words(
            44, y(t) + 4, f"{honest(100 * t, 4)} %" if share else words.get(t, "") if words else honest(t, 4), "end"
        )
        for t in ticks
    ]
    reached = -math.inf
    for offset, name in stops:
        if x(offset) - reached > 56:
            reached = x(offset)
            parts.append(
                f'<text x="{reached:.1f}" y="{height - 16:g}" font-size="12" text-anchor="middle" fill="{SOFT}">{escape(name)}</text>'
            )
    ends = sorted(((y(line.points[-1][1]), line) for line in lines if line.points), key=lambda one: one[0])
    for line in lines:
        hue, dash = HUES[line.place % len(HUES)], DASHES[line.place % len(DASHES)]
        path = " ".join(f"{'L' if i else 'M'}{x(o):.1f} {y(v):.1f}" for i, (o, v) in enumerate(line.points))
        parts.append(f'<path d="{path}" fill="none" stroke="{hue}" stroke-width="2.6" stroke-dasharray="{dash}"/>')
        parts += [f'<circle cx="{x(o):.1f}" cy="{y(v):.1f}" r="3.2" fill="{hue}"/>' for o, v in line.points]
    for place, (_, line) in zip(_spread([place for place, _ in ends], height - 40), ends, strict=True):
        parts.append(_chip(width - 36, place - 9, line.letter, HUES[line.place % len(HUES)]))
    parts.append(_words(width - 44, height - 1, axis, "end"))
    return _svg(width, height, title, "".join(parts))


def _spread(places: Sequence[float], bottom: float) -> list[float]:
    """Rising ``places`` moved apart so that letters have room, none below ``bottom``.

    >>> _spread([10, 12, 95], 100)
    [10, 29, 95]
    >>> _spread([90, 95, 99], 100)
    [62, 81, 100]
    """
    found: list[float] = []
    for place in places:
        found.append(max(place, found[-1] + GAP) if found else place)
    edge = bottom
    for i in reversed(range(len(found))):
        found[i] = min(found[i], edge)
        edge = found[i] - GAP
    return found


def nice(low: float, high: float, many: int = 6) -> list[float]:
    """Round numbers that span ``low`` to ``high``.

    >>> nice(3, 17)
    [0.0, 5.0, 10.0, 15.0, 20.0]
    """
    raw = (high - low) / max(1, many - 1)
    size = 10.0 ** math.floor(math.log10(raw))
    step = next(size * factor for factor in (1, 2, 5, 10) if size * factor >= raw * 0.999)
    first = math.floor(low / step + 1e-9)
    last = math.ceil(high / step - 1e-9)
    return [round(i * step, 12) for i in range(first, last + 1)]


def _scale(low: float, high: float, start: float, end: float) -> Callable[[float], float]:
    return lambda value: start + (value - low) / (high - low) * (end - start)


def _stacked(places: Sequence[float]) -> list[tuple[float, int]]:
    """Dots that would overlap stand on each other: (x, level)."""
    found: list[tuple[float, int]] = []
    newest: list[float] = []
    for x in sorted(places):
        # From left to right, so that on each level only the newest can be in the way.
        level = next((i for i, other in enumerate(newest) if x - other >= SIZE - 0.5), len(newest))
        newest[level : level + 1] = [x]
        found.append((x, level))
    return found


def _columned(places: Sequence[float]) -> list[tuple[float, int]]:
    """How many lie within each dot's width: (where they lie on average, how many)."""
    found: dict[int, list[float]] = {}
    for x in places:
        found.setdefault(round(x / SIZE), []).append(x)
    return [(sum(own) / len(own), len(own)) for _, own in sorted(found.items())]


def _wrapped(name: str, width: int) -> list[str]:
    lines = [""]
    for word in (one if len(one) <= width else f"{one[: width - 1]}…" for one in name.split()):
        if lines[-1] and len(lines[-1]) + 1 + len(word) > width:
            lines.append(word)
        else:
            lines[-1] = f"{lines[-1]} {word}".strip()
    return [*lines[:1], f"{lines[1][: width - 1]}…" if len(lines) > 2 else lines[1]] if len(lines) > 1 else lines


def _words(x: float, y: float, text: str, anchor: str = "start", size: int = 12) -> str:
    return (
        f'<text x="{x:.1f}" y="{y:.1f}" font-size="{size}" text-anchor="{anchor}" fill="{SOFT}">{escape(text)}</text>'
    )


def _chip(x: float, y: float, letter: str, hue: str) -> str:
    wide = 24 if len(letter) < 2 else 32
    return (
        f'<rect x="{x:g}" y="{y:.1f}" width="{wide}" height="20" fill="{hue}"/>'
        f'<text x="{x + wide / 2:g}" y="{y + 15:.1f}" font-size="14" font-weight="700" text-anchor="middle" fill="#fbfcfa">'
        f"{escape(letter)}</text>"
    )


def _svg(width: float, height: float, title: str, inside: str) -> str:
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height:g}" width="{width:g}" height="{height:g}" role="img" '
        f'{FONT}><title>{escape(title)}</title><rect width="100%" height="100%" fill="#fbfcfa"/>{inside}</svg>'
    )
