"""Count: how many, open or out of a known number."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from fieldtally.core.problems import Problem
from fieldtally.core.quantities.numbers import LARGEST, accepted, honest, number_in


@dataclass(frozen=True)
class CountScale:
    """Whole things counted, ``of`` so many (None: open)."""

    of: int | None = None
    what: str = ""
    kind: Literal["count"] = "count"

    def problems(self) -> list[Problem]:
        """What keeps this scale from being used; paths are relative to the scale."""
        if self.of is not None and self.of < 1:
            return [Problem("of", "Counting out of none cannot tell anything: give the number there are in all.")]
        return []

    def refusal(self, value: float) -> str | None:
        """Why ``value`` may not stand on this scale, or None."""
        if value > LARGEST:
            return "This number is too large to be a count."
        if value < 0:
            return "A count cannot be below 0."
        if abs(value - round(value)) > 1e-9:
            return f"{honest(value)} is not a whole number."
        if self.of is not None and value > self.of:
            return f"{honest(value, 9)} is more than the {self.of} there are."
        return None

    def parse(self, text: str) -> float:
        """The whole number in ``text``.

        :raises Refused: it is not a count that can stand here.
        """
        value = number_in(text)
        return accepted(value, self.refusal(value))

    @property
    def ends(self) -> tuple[float, float] | None:
        """0 and the number there are, where that is known."""
        return None if self.of is None else (0.0, float(self.of))
