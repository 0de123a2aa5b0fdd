"""What a stand-in measures: a true value that settles after something is put on, with noise and a slow drift."""

from __future__ import annotations

import math
import random
from collections.abc import Mapping
from dataclasses import dataclass, field

SETTLES = 0.25
"""s: after so long two thirds of a change are shown."""


@dataclass(frozen=True)
class Channel:
    """One thing that is measured: its unit and resolution, where it rests, its noise (standard deviation), and its drift an hour."""

    unit: str
    resolution: float
    rest: float
    noise: float
    drift: float = 0.0


@dataclass
class Nature:
    """The channels of one stand-in over time.  All times are in seconds on any one clock; the noise comes from ``seed``."""

    channels: Mapping[str, Channel]
    seed: int
    began: float
    _targets: dict[str, tuple[float, float, float]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._random = random.Random(self.seed)  # noqa: S311

    def put(self, name: str, value: float, now: float) -> None:
        """Put something on: the channel goes towards ``value`` from what it shows now."""
        self._targets[name] = (self._true(name, now), value, now)

    def shows(self, now: float) -> tuple[dict[str, float], bool]:
        """What all channels show at ``now``, and whether they have come to rest."""
        shown, rests = {}, True
        for name, channel in self.channels.items():
            true = self._true(name, now) + channel.drift * (now - self.began) / 3600
            value = true + self._random.gauss(0, channel.noise)
            shown[name] = round(round(value / channel.resolution) * channel.resolution, 6)
            target = self._targets.get(name, (0.0, channel.rest, -math.inf))[1]
            rests = rests and abs(self._true(name, now) - target) <= 3 * max(channel.noise, channel.resolution)
        return shown, rests

    def _true(self, name: str, now: float) -> float:
        start, target, since = self._targets.get(name, (0.0, self.channels[name].rest, -math.inf))
        return target + (start - target) * math.exp(-(now - since) / SETTLES)


KINDS: dict[str, dict[str, Channel]] = {
    "scale": {"mass": Channel("g", 0.1, 114.6, 0.04, 0.3)},
    "meter": {
        "acidity": Channel("pH", 0.01, 6.42, 0.008, 0.02),
        "conductivity": Channel("mS/cm", 0.01, 1.31, 0.006),
        "nitrate": Channel("ppm", 1.0, 42.0, 0.6),
        "lightness": Channel("L*", 0.1, 61.3, 0.1),
        "torque": Channel("N*m", 0.01, 0.84, 0.006),
        "force": Channel("N", 0.1, 23.4, 0.08),
    },
    "weather": {
        "temperature": Channel("°C", 0.1, 12.8, 0.05, -0.4),
        "humidity": Channel("%", 1.0, 71.0, 0.5),
        "rain": Channel("mm", 0.2, 0.0, 0.0),
        "light": Channel("lx", 10.0, 5400.0, 40.0),
    },
}
