"""The same amount in another unit, where both are known."""

from __future__ import annotations

from fieldtally.core.quantities.units import System, UnknownUnit, pints, registry, unit_named


def converted(value: float, given: str, wanted: str, system: System = "metric") -> float | None:
    """``value`` of the unit ``given`` in the unit ``wanted``; None where either is unknown or they measure other things.

    >>> converted(20, "mm", "cm"), converted(20, "mm", "g")
    (2.0, None)
    """
    try:
        amount = registry().Quantity(value, unit_named(given, system)).to(unit_named(wanted, system))
    except (UnknownUnit, pints().PintError):
        return None
    return float(round(float(amount.magnitude), 12))
