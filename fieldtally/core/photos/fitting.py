"""Which measure of the photo gauge fits which scale, and its number in the scale's own unit."""

from __future__ import annotations

from collections.abc import Sequence
from statistics import fmean

from fieldtally.core.photos.gauge import MEASURES, Measure
from fieldtally.core.quantities.converting import converted
from fieldtally.core.scales import CountScale, MeasurementScale, PercentScale, Scale, ShadeScale

ROUNDED: dict[Measure, int] = {
    "difference": 1,
    "shade": 2,
    "cover": 1,
    "spots": 0,
    "greenness": 3,
    "lightness": 1,
    "length": 1,
    "area": 2,
}
"""Decimals that a photo can tell at best."""
PLAIN: tuple[Measure, ...] = ("difference", "lightness", "greenness")


def measures_for(scale: Scale) -> tuple[Measure, ...]:
    """What the photo gauge can measure for an outcome on ``scale``; nothing where it has to be judged.

    >>> measures_for(MeasurementScale("mm"))
    ('length',)
    """
    match scale:
        case PercentScale():
            return ("cover",)
        case ShadeScale():
            return ("shade",)
        case CountScale():
            return ("spots",)
        case MeasurementScale(unit=unit):
            if converted(1.0, "mm", unit) is not None:
                return ("length",)
            if converted(1.0, "cm2", unit) is not None:
                return ("area",)
            physical = any(converted(1.0, known, unit) is not None for known in ("g", "mL", "s", "degC", "cm3"))
            return () if physical else PLAIN
        case _:
            return ()


def mean_of(measure: Measure, values: Sequence[float]) -> float:
    """The mean of several values of one sample, in the unit that they are in, with as many decimals as photos can tell.

    >>> mean_of("spots", [3, 4, 4])
    4.0
    """
    return round(fmean(values), ROUNDED[measure] + (1 if measure in ("length", "area") else 0)) + 0.0


def in_unit_of(scale: Scale, measure: Measure, value: float) -> float:
    """A measured ``value`` in the unit of the outcome's scale, with as many decimals as a photo can tell.

    >>> in_unit_of(MeasurementScale("cm"), "length", 123.44)
    12.34
    """
    digits = ROUNDED[measure]
    if isinstance(scale, MeasurementScale) and measure in ("length", "area"):
        told = converted(value, {"mm": "mm", "cm²": "cm2"}[MEASURES[measure][1]], scale.unit)
        if told is not None:
            return round(told, digits + (1 if abs(told) < abs(value) else 0))
    return round(value, digits) + 0.0
