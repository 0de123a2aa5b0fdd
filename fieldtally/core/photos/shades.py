"""Reading a colour off a chart: the step that comes nearest, and the value between two steps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.photos.colour import Lab, Reals, delta_e

FINE = 201
OFF_THE_CHART = 12.0
"""ΔE2000 from the chart's line beyond which a colour is not on it."""


@dataclass(frozen=True)
class OnChart:
    """Where a colour stands on a chart numbered from 1: ``value`` between steps, its ``nearest`` step, how far it lies ``off`` the line
    from step to step (ΔE2000), how far its two neighbours are ``apart`` (ΔE2000), and how uncertain lying ``beside`` it makes the value,
    in steps."""

    value: float
    nearest: int
    off: float
    apart: float
    beside: float


def on_chart(colour: Sequence[float] | Reals, steps: Sequence[Lab]) -> OnChart:
    """Where ``colour`` stands between ``steps`` (two or more).

    The way from one step to the next is taken straight through CIELAB.  A colour beside that line makes the value less certain.

    >>> found = on_chart((50, 0, 0), [(20, 0, 0), (60, 0, 0)])
    >>> round(found.value, 2), found.nearest
    (1.75, 2)
    """
    labs = np.array(steps, dtype=float)
    share = np.linspace(0, 1, FINE)[None, :, None]
    line = labs[:-1, None] + (labs[1:] - labs[:-1])[:, None] * share
    away = delta_e(np.broadcast_to(np.array(colour, dtype=float), line.shape), line)
    segment, at = np.unravel_index(int(np.argmin(away)), away.shape)
    off, apart = float(away[segment, at]), float(delta_e(labs[segment], labs[segment + 1]))
    nearest = int(np.argmin(delta_e(np.broadcast_to(np.array(colour, dtype=float), labs.shape), labs))) + 1
    return OnChart(
        float(1 + segment + at / (FINE - 1)),
        nearest,
        off,
        apart,
        off / 3 / max(apart, 0.5),
    )
