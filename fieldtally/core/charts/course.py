"""The whole trial in one picture: when it was sealed, started, looked at and opened, planned below the line and truly above it, and what
happened on the way."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from html import escape

from fieldtally.core.charts.dots import FONT, INK, LINE, SOFT

TALL, LEFT, RIGHT, AXIS = 150.0, 14.0, 14.0, 78.0
NAME_APART = 46.0
"""Names of looks nearer than so many units are told on lines of their own."""
MOMENT_APART = 68.0
"""The same of what is written above the line."""


@dataclass(frozen=True)
class Stop:
    """A look: its name, when it was planned and (None: not taken) truly taken, in minutes from the start; ``missed``: skipped or not taken
    in time."""

    name: str
    planned: float
    taken: float | None
    missed: bool = False


@dataclass(frozen=True)
class Mark:
    """Something that happened, ``at`` minutes from the start, under its number in the list beside."""

    at: float
    number: int


def course_svg(
    stops: Sequence[Stop], marks: Sequence[Mark], *, sealed: float, opened: float, title: str, width: float = 640
) -> str:
    """An SVG of the course; ``sealed`` and ``opened`` (minutes from the start) are when the plan was sealed and the key opened."""
    ends = [0.0, sealed, opened, *(s.planned for s in stops), *(s.taken for s in stops if s.taken is not None)]
    low, high = min(ends), max(ends)
    # A seal long before the start would press all looks together: it stands at the left edge then.
    watched = max(1.0, max((s.planned for s in stops), default=1.0))
    low = max(low, -0.25 * watched)
    high = min(high, max(1.4 * watched, *(s.taken or 0.0 for s in stops), 1.0)) if stops else max(high, 1.0)
    span = max(1e-9, high - low)

    def x(at: float) -> float:
        return LEFT + (width - LEFT - RIGHT) * (min(max(at, low), high) - low) / span

    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}" height="{TALL:g}" viewBox="0 0 {width:g} {TALL:g}" role="img" '
        f'aria-label="{escape(title)}" {FONT} font-size="11">',
        f"<title>{escape(title)}</title>",
        f'<line x1="{LEFT}" x2="{width - RIGHT}" y1="{AXIS}" y2="{AXIS}" stroke="{INK}" stroke-width="2.5"/>',
    ]
    rows: dict[float, list[float]] = {36.0: [], 48.0: [], 60.0: []}
    for at, word in ((sealed, "sealed"), (opened, "key opened"), (0.0, "start")):
        parts.append(
            f'<line x1="{x(at):.1f}" x2="{x(at):.1f}" y1="{AXIS - 30}" y2="{AXIS + 8}" stroke="{INK}" stroke-width="1.5"/>'
        )
        # What happened at nearly the same moment stands one above the other, and nothing beyond the edge.
        anchor = "start" if x(at) < MOMENT_APART / 2 else "end" if x(at) > width - MOMENT_APART / 2 else "middle"
        dy = next(up for up, taken in rows.items() if all(abs(x(at) - other) > MOMENT_APART for other in taken))
        rows[dy].append(x(at))
        parts.append(
            f'<text x="{x(at):.1f}" y="{AXIS - dy:.1f}" text-anchor="{anchor}" fill="{INK}" font-weight="700">{word}</text>'
        )
    parts += _stops(stops, x, width)
    for mark in marks:
        parts.append(
            f'<circle cx="{x(mark.at):.1f}" cy="{AXIS - 18}" r="8" fill="#fbfcfa" stroke="{INK}" stroke-width="1.4"/>'
        )
        parts.append(
            f'<text x="{x(mark.at):.1f}" y="{AXIS - 14:.1f}" text-anchor="middle" fill="{INK}" font-weight="700">{mark.number}</text>'
        )
    parts.append("</svg>")
    return "".join(parts)


def _stops(stops: Sequence[Stop], x: Callable[[float], float], width: float) -> list[str]:
    parts = []
    last, line = -1e9, 0
    for stop in sorted(stops, key=lambda one: one.planned):
        at = x(stop.planned)
        line = (line + 1) % 3 if at - last < NAME_APART else 0
        last = at
        parts.append(f'<circle cx="{at:.1f}" cy="{AXIS:.1f}" r="5" fill="#fbfcfa" stroke="{INK}" stroke-width="1.8"/>')
        if stop.taken is not None:
            true = x(stop.taken)
            parts.append(f'<circle cx="{true:.1f}" cy="{AXIS:.1f}" r="5" fill="{INK}"/>')
            if abs(true - at) > 6:
                path = f"M{at:.1f} {AXIS + 7:.1f}V{AXIS + 12:.1f}H{true:.1f}V{AXIS + 7:.1f}"
                parts.append(f'<path d="{path}" fill="none" stroke="{INK}" stroke-width="1.2"/>')
        elif stop.missed:
            parts.append(
                f'<path d="M{at - 5:.1f} {AXIS - 5:.1f}l10 10m0 -10l-10 10" stroke="{INK}" stroke-width="1.6"/>'
            )
        anchor = "start" if at < 40 else "end" if at > width - 60 else "middle"
        y = AXIS + 26 + 15 * line
        parts.append(f'<line x1="{at:.1f}" x2="{at:.1f}" y1="{AXIS + 6:.1f}" y2="{y - 10:.1f}" stroke="{LINE}"/>')
        name = stop.name if len(stop.name) <= 22 else f"{stop.name[:21].rstrip()}…"
        parts.append(f'<text x="{at:.1f}" y="{y:.1f}" text-anchor="{anchor}" fill="{SOFT}">{escape(name)}</text>')
    return parts
