"""Ladder: a load that rises step by step until the sample fails; what counts is the highest step it held.

A sample that holds the top step is right-censored there: it would have held more, nobody knows how much.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import Literal

from fieldtally.core.problems import Problem
from fieldtally.core.quantities.numbers import LARGEST, accepted, honest, number_in, without_unit


def rising(at: str, steps: tuple[float, ...], word: str) -> list[Problem]:
    """What is wrong with ``steps`` that should rise from one to the next; at least two."""
    if len(steps) < 2:
        return [Problem(at, f"A {word} needs at least two steps, as in 5, 10, 15.")]
    if any(abs(step) > LARGEST for step in steps):
        return [Problem(at, "One of these numbers is too large.")]
    for before, step in itertools.pairwise(steps):
        if step <= before:
            tidy = ", ".join(honest(s, 6) for s in sorted(set(steps)))
            return [
                Problem(at, f"Steps rise: {honest(step, 6)} does not lie above {honest(before, 6)}. In order: {tidy}.")
            ]
    return []


@dataclass(frozen=True)
class LadderScale:
    """Loads ``steps`` in ``unit``, each put on ``repeats`` times before the next."""

    unit: str
    steps: tuple[float, ...]
    repeats: int = 1
    kind: Literal["ladder"] = "ladder"

    def problems(self) -> list[Problem]:
        """What keeps this scale from being used; paths are relative to the scale."""
        found = [] if self.unit.strip() else [Problem("unit", "A load needs its unit (for example kg).")]
        found += rising("steps", self.steps, "ladder")
        if self.steps and self.steps[0] <= 0:
            found.append(Problem("steps", "The first step lies above 0; holding nothing is what is left below it."))
        if not 1 <= self.repeats <= 100:
            found.append(Problem("repeats", "Each step is put on at least once, and at most 100 times."))
        return found

    def refusal(self, value: float) -> str | None:
        """Why ``value`` (the highest step held; 0: not even the first) may not stand here, or None."""
        if any(abs(value - step) < 1e-9 for step in (0.0, *self.steps)):
            return None
        steps = ", ".join(honest(step, 6) for step in (0.0, *self.steps))
        return f"{honest(value, 6)} {self.unit} is no step of this ladder: its steps are {steps} {self.unit}."

    def parse(self, text: str) -> float:
        """The step in ``text``, with or without its unit.

        :raises Refused: it is no step of the ladder.
        """
        value = number_in(without_unit(text, self.unit))
        return accepted(value, self.refusal(value))

    @property
    def ends(self) -> tuple[float, float]:
        """Nothing held, and the top step."""
        return 0.0, self.steps[-1] if self.steps else 0.0
