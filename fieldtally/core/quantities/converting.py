"""The same amount in another unit, where both are known."""

from __future__ import annotations

from fieldtally.core.quantities.units import System, UnknownUnit, pints, registry, unit_named


def converted(value: float, given: str, wanted: str, system: System = "metric") -> float | None:
    """``value`` of the unit ``given`` in the unit ``wanted``, or of one for another (``g/L``); None where one is unknown or
    they measure other things.

    >>> converted(20, "mm", "cm"), converted(20, "mm", "g"), converted(20, "mg/L", "g/L")
    (2.0, None, 0.02)
    """
    (over, *under), (wanted_over, *wanted_under) = given.split("/"), wanted.split("/")
    if len(under) == len(wanted_under) == 1:
        top, bottom = converted(value, over, wanted_over, system), converted(1, under[0], wanted_under[0], system)
        return None if top is None or not bottom else float(round(top / bottom, 12))
    try:
        amount = registry().Quantity(value, unit_named(given, system)).to(unit_named(wanted, system))
    except (UnknownUnit, pints().PintError):
        return None
    return float(round(float(amount.magnitude), 12))
