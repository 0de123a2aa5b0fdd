"""Shade: an ordered chart; a reading is the step of the chart that comes nearest."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from fieldtally.core.problems import Problem
from fieldtally.core.quantities.numbers import accepted, folded, honest, number_in

SWATCH = re.compile(r"#[0-9a-fA-F]{6}")


@dataclass(frozen=True)
class Shade:
    """One step of the chart: its name, and its colour as ``#rrggbb`` where it has one to be shown."""

    label: str
    swatch: str = ""


@dataclass(frozen=True)
class ShadeScale:
    """Steps from one end of the chart to the other, numbered from 1; with ``between`` also half way between two."""

    steps: tuple[Shade, ...]
    between: bool = False
    kind: Literal["shade"] = "shade"

    def problems(self) -> list[Problem]:
        """What keeps this scale from being used; paths are relative to the scale."""
        found: list[Problem] = []
        if len(self.steps) < 2:
            found.append(Problem("steps", "A chart needs at least two steps."))
        for i, step in enumerate(self.steps):
            name, before = step.label.strip().casefold(), self.steps[:i]
            if not name:
                found.append(Problem(f"steps.{i}.label", "This step has no name; its number would do."))
            elif any(name == other.label.strip().casefold() for other in before):
                found.append(Problem(f"steps.{i}.label", f"Two steps are called “{step.label.strip()}”."))
            if step.swatch and not SWATCH.fullmatch(step.swatch):
                found.append(Problem(f"steps.{i}.swatch", "A colour is written as # and six digits, as in #c68a2e."))
            elif step.swatch and any(step.swatch.lower() == other.swatch.lower() for other in before):
                found.append(
                    Problem(f"steps.{i}.swatch", "Two steps have the same colour: nobody could tell them apart.")
                )
        return found

    def refusal(self, value: float) -> str | None:
        """Why ``value`` may not stand on this scale, or None."""
        grain = 2 if self.between else 1
        whole = abs(value * grain - round(value * grain)) < 1e-9
        if whole and 1 <= value <= len(self.steps):
            return None
        halves = ", or half way between two" if self.between else ""
        return f"{honest(value)} is not a step of this chart, which has {len(self.steps)}{halves}."

    def measured_refusal(self, value: float) -> str | None:
        """Why a ``value`` that was measured, and may lie anywhere between two steps, may not stand on this scale, or None."""
        if 1 <= value <= len(self.steps):
            return None
        return f"{honest(value)} is not on this chart, which goes from 1 to {len(self.steps)}."

    def parse(self, text: str) -> float:
        """The number of the step named or numbered by ``text``.

        :raises Refused: no step is meant by it.
        """
        wanted = folded(text)
        for number, step in enumerate(self.steps, start=1):
            if folded(step.label) == wanted:
                return float(number)
        value = number_in(text)
        return accepted(value, self.refusal(value))

    @property
    def unit(self) -> str:
        """Distance is counted in steps."""
        return "steps"

    @property
    def ends(self) -> tuple[float, float]:
        """The first and the last step."""
        return 1.0, float(max(1, len(self.steps)))
