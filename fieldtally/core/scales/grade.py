"""Grade: ordered levels, each anchored by a sentence."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from fieldtally.core.problems import Problem
from fieldtally.core.quantities.numbers import LARGEST, accepted, folded, honest, number_in

RANGE = re.compile(r"(\d+(?:[.,]\d+)?)\s*(?:-|–|to)\s*(\d+(?:[.,]\d+)?)\s*(%|[^\W\d_]*)")


def range_in(anchor: str) -> tuple[float, float, str] | None:
    """The range that ``anchor`` gives and what it is of, in small letters; None where it gives none.

    >>> range_in("10–30 % brown"), range_in("a few spots")
    ((10.0, 30.0, '%'), None)
    """
    found = RANGE.search(anchor)
    if found is None:
        return None
    low, high = (number_in(found[part]) for part in (1, 2))
    return (low, high, found[3].casefold()) if low < high else None


@dataclass(frozen=True)
class Level:
    """One level of a grade: its number, the label on its pad, and the sentence that says when it is given."""

    value: float
    label: str
    anchor: str = ""


@dataclass(frozen=True)
class GradeScale:
    """Ordered levels, lowest first.  A reading is the ``value`` of one of them."""

    levels: tuple[Level, ...]
    kind: Literal["grade"] = "grade"

    def problems(self) -> list[Problem]:
        """What keeps this scale from being used; paths are relative to the scale."""
        found: list[Problem] = []
        if len(self.levels) < 2:
            found.append(Problem("levels", "A grade needs at least two levels."))
        labels: set[str] = set()
        for i, level in enumerate(self.levels):
            if not level.label.strip():
                found.append(Problem(f"levels.{i}.label", "This level has no label."))
            elif level.label.strip().casefold() in labels:
                found.append(Problem(f"levels.{i}.label", f"Two levels are called “{level.label.strip()}”."))
            labels.add(level.label.strip().casefold())
            if abs(level.value) > LARGEST:
                found.append(Problem(f"levels.{i}.value", "This number is too large for a grade."))
            if i and level.value <= self.levels[i - 1].value:
                found.append(Problem(f"levels.{i}.value", "Levels go up from the lowest: this one does not."))
        anchors = [level.anchor.strip().casefold() for level in self.levels]
        for i, anchor in enumerate(anchors):
            if anchor and anchor in anchors[:i]:
                found.append(Problem(f"levels.{i}.anchor", "Two levels are anchored by the same words."))
        return found + self._overlaps()

    def _overlaps(self) -> list[Problem]:
        """Anchors that give ranges of the same thing (``10–30 % brown``) where one number would fit two levels."""
        found: list[Problem] = []
        ranges: list[tuple[float, float, str, str]] = []
        for i, level in enumerate(self.levels):
            own = range_in(level.anchor)
            if own is None:
                continue
            low, high, of = own
            for other_low, other_high, other_of, label in ranges:
                if of == other_of and low < other_high and other_low < high:
                    both = honest((max(low, other_low) + min(high, other_high)) / 2, 4)
                    meant = (
                        f"{honest(other_high, 6)}–{honest(high, 6)}"
                        if high > other_high
                        else f"{honest(low, 6)}–{honest(other_low, 6)}"
                    )
                    found.append(
                        Problem(
                            f"levels.{i}.anchor",
                            f"{both} would fit level {label} as well as this one; {meant} would not overlap.",
                        )
                    )
                    break
            ranges.append((low, high, of, level.label.strip()))
        return found

    def refusal(self, value: float) -> str | None:
        """Why ``value`` may not stand on this scale, or None."""
        if any(abs(level.value - value) < 1e-9 for level in self.levels):
            return None
        labels = ", ".join(level.label for level in self.levels)
        return f"{honest(value)} is not one of the grades {labels}."

    def parse(self, text: str) -> float:
        """The value of the level whose label or number is ``text``.

        :raises Refused: no level is meant by it.
        """
        wanted = folded(text)
        for level in self.levels:
            if folded(level.label) == wanted:
                return level.value
        value = number_in(text)
        return accepted(value, self.refusal(value))

    @property
    def ends(self) -> tuple[float, float]:
        """The lowest and the highest value."""
        return self.levels[0].value, self.levels[-1].value
