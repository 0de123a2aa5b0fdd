"""Curve: the response of a sample at each step of a load, a dose or a time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.numbers import LARGEST, honest, number_in
from fieldtally.core.scales.departing import straight
from fieldtally.core.scales.ladder import rising

CurveNumber = Literal["slope", "last"]


@dataclass(frozen=True)
class CurveScale:
    """Responses in ``unit`` at ``steps`` of ``step_unit``.

    ``number`` says which one number a curve gives: its ``slope`` (of the straight part, in ``unit`` for each ``step_unit``) or the
    response at the ``last`` step.  ``through_zero``: at a step of 0 the response is 0 by nature.
    """

    unit: str
    step_unit: str
    steps: tuple[float, ...]
    number: CurveNumber = "slope"
    through_zero: bool = False
    kind: Literal["curve"] = "curve"

    def problems(self) -> list[Problem]:
        """What keeps this scale from being used; paths are relative to the scale."""
        found = (
            [] if self.unit.strip() else [Problem("unit", "What is read at each step needs its unit (for example mm).")]
        )
        if not self.step_unit.strip():
            found.append(Problem("step_unit", "The steps need their unit (for example kg)."))
        if len(self.steps) > 60:
            found.append(
                Problem("steps", f"{len(self.steps)} steps a sample are more than the 60 that anyone would read.")
            )
        return found + rising("steps", self.steps, "curve")

    def refusal(self, value: float) -> str | None:
        """Why ``value`` (the one number of a curve) may not stand on this scale, or None."""
        return "This number is too large to be a reading." if abs(value) > LARGEST else None

    def parse(self, text: str) -> float:
        """The one number of a curve.

        :raises Refused: it is not a number.
        """
        return number_in(text)

    def number_of(self, responses: Sequence[float | None]) -> float:
        """The one number of a curve of ``responses`` in ``unit``, at the first so many steps: a piece may break before the last, and a step
        that was not taken is None.

        >>> CurveScale("mm", "kg", (1.0, 2.0, 3.0)).number_of((2.0, 4.1, 5.9))
        1.95
        >>> CurveScale("mm", "kg", (1.0, 2.0, 3.0)).number_of((2.0, None, 6.0))
        2.0

        :raises Refused: there are too few or too many.
        """
        known = [one for one in responses if one is not None]
        if len(responses) > len(self.steps):
            raise Refused(f"{len(responses)} responses are more than the {len(self.steps)} steps.")
        if self.number == "last":
            last = responses[-1] if len(responses) == len(self.steps) else None
            if last is None:
                raise Refused(f"{len(known)} of {len(self.steps)} steps have a value, and the last one has none.")
            return last
        found = straight(self.steps, responses, through_zero=self.through_zero)
        if found is None:
            raise Refused(f"{len(known)} of {len(self.steps)} steps have a value: too few for a slope.")
        return round(found.slope, 12)

    @property
    def words(self) -> str:
        """The unit of the one number: ``mm per kg``, or ``mm at 25 kg``."""
        if self.number == "slope":
            return f"{self.unit} per {self.step_unit}"
        return f"{self.unit} at {honest(self.steps[-1], 6)} {self.step_unit}" if self.steps else self.unit

    @property
    def ends(self) -> None:
        """A curve has no ends of its own."""
        return
