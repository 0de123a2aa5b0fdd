"""The same amount in another unit, where both are known."""

from __future__ import annotations

from functools import cache

import pint


@cache
def _registry() -> pint.UnitRegistry[float]:
    return pint.UnitRegistry()


def converted(value: float, given: str, wanted: str) -> float | None:
    """``value`` of the unit ``given`` in the unit ``wanted``; None where either is unknown or they measure other things.

    >>> converted(20, "mm", "cm"), converted(20, "mm", "g")
    (2.0, None)
    """
    try:
        amount = _registry().Quantity(value, _registry().parse_units(given)).to(wanted)
    except (pint.PintError, ValueError, AttributeError, TypeError, AssertionError):
        return None
    return float(round(float(amount.magnitude), 12))
