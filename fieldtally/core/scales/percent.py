"""Percent: a share of the whole, as it is estimated or measured."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from fieldtally.core.problems import Problem
from fieldtally.core.quantities.numbers import accepted, honest, number_in, without_unit


@dataclass(frozen=True)
class PercentScale:
    """A share from 0 to 100 %, told in steps of ``resolution`` points, of ``what`` (cover, browning …)."""

    what: str = ""
    resolution: float | None = 5.0
    kind: Literal["percent"] = "percent"

    def problems(self) -> list[Problem]:
        """What keeps this scale from being used; paths are relative to the scale."""
        if self.resolution is not None and not 0 < self.resolution <= 50:
            return [Problem("resolution", "The finest step lies above 0 and at most at 50 points; by eye 5 is usual.")]
        return []

    def refusal(self, value: float) -> str | None:
        """Why ``value`` may not stand on this scale, or None."""
        return (
            None if 0 <= value <= 100 else f"{honest(value, 6)} % is no share of a whole: it lies between 0 and 100 %."
        )

    def parse(self, text: str) -> float:
        """The number in ``text``, with or without the percent sign.

        :raises Refused: it is not a share.
        """
        value = number_in(without_unit(text, "%"))
        return accepted(value, self.refusal(value))

    @property
    def unit(self) -> str:
        """Percent points."""
        return "%"

    @property
    def ends(self) -> tuple[float, float]:
        """None of it, and all."""
        return 0.0, 100.0
