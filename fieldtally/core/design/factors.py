"""Treatments from factors: every combination of levels, or those that were picked."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from fieldtally.core.design.plan import Factor, Plan, Treatment

MOST_CELLS = 400


@dataclass(frozen=True)
class Cell:
    """One combination of levels: ``levels`` (factor key to level key), the name it would carry, and the key of the
    treatment that has it, None while it is not picked."""

    levels: dict[str, str]
    name: str
    treatment: str | None


def combinations_of(factors: Sequence[Factor]) -> int:
    """How many combinations the full factorial has; 0 without factors."""
    if not factors:
        return 0
    count = 1
    for factor in factors:
        count *= len(factor.levels)
    return count


def cells_of(plan: Plan) -> tuple[Cell, ...]:
    """Every combination of the plan's factors, the last factor changing fastest; none where they are too many.

    >>> from fieldtally.core.design.plan import FactorLevel
    >>> soil = Factor("s", "Soil", (FactorLevel("a", "Sand"), FactorLevel("b", "Loam")))
    >>> water = Factor("w", "Water", (FactorLevel("c", "Dry"), FactorLevel("d", "Wet")))
    >>> [cell.name for cell in cells_of(Plan("", factors=(soil, water)))]
    ['Sand, Dry', 'Sand, Wet', 'Loam, Dry', 'Loam, Wet']
    """
    if not 0 < combinations_of(plan.factors) <= MOST_CELLS:
        return ()
    taken = {_corner(plan, t): t.key for t in reversed(plan.treatments)}
    found = []
    for levels in itertools.product(*(factor.levels for factor in plan.factors)):
        corner = {factor.key: level.key for factor, level in zip(plan.factors, levels, strict=True)}
        name = ", ".join(level.name.strip() for level in levels)
        found.append(Cell(corner, name, taken.get(tuple(corner.values()))))
    return tuple(found)


def _corner(plan: Plan, treatment: Treatment) -> tuple[str | None, ...]:
    return tuple(treatment.levels.get(factor.key) for factor in plan.factors)
