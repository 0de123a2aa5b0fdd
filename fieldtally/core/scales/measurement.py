"""Measurement: a number with a unit, a resolution and a plausible range."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from fieldtally.core.problems import Problem
from fieldtally.core.quantities.numbers import LARGEST, accepted, honest, number_in, without_unit


@dataclass(frozen=True)
class MeasurementScale:
    """A number in ``unit``, read to ``resolution``, believed between ``low`` and ``high`` (all in ``unit``)."""

    unit: str
    resolution: float | None = None
    low: float | None = None
    high: float | None = None
    kind: Literal["measurement"] = "measurement"

    def problems(self) -> list[Problem]:
        """What keeps this scale from being used; paths are relative to the scale."""
        found: list[Problem] = []
        if not self.unit.strip():
            found.append(Problem("unit", "A measurement needs its unit (for example mL)."))
        if self.resolution is not None and self.resolution <= 0:
            found.append(Problem("resolution", "The finest step must be more than 0."))
        if self.low is not None and self.high is not None and self.low >= self.high:
            found.append(Problem("high", f"The highest plausible value must be above {honest(self.low)}."))
        return found

    def refusal(self, value: float) -> str | None:
        """Why ``value`` may not stand on this scale, or None."""
        if abs(value) > LARGEST:
            return "This number is too large to be a reading."
        if self.low is not None and value < self.low:
            return (
                f"{honest(value, 6)} {self.unit} is below the plausible range, which starts at {honest(self.low, 6)}."
            )
        if self.high is not None and value > self.high:
            return f"{honest(value, 6)} {self.unit} is above the plausible range, which ends at {honest(self.high, 6)}."
        return None

    def parse(self, text: str) -> float:
        """The number in ``text``, with or without the unit behind it.

        :raises Refused: it is not a number, or not a plausible one.
        """
        value = number_in(without_unit(text, self.unit))
        return accepted(value, self.refusal(value))

    @property
    def ends(self) -> tuple[float, float] | None:
        """The plausible range, where both ends are given."""
        return None if self.low is None or self.high is None else (self.low, self.high)
