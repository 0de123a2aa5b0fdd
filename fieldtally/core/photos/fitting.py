"""Which measure of the photo gauge fits which scale, and its number in the scale's own unit."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from statistics import fmean, stdev

from fieldtally.core.photos.recipe import MEASURES, Measure
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
LENGTH = re.compile(r"(?:[kdcmµμu]?m|in|inch(?:es)?|ft|foot|feet|yd|yards?|(?:milli|centi|deci|micro)?met(?:er|re)s?)")
"""Units of length as people write them; a registry of units knows others, such as the points of printers."""
SQUARE = re.compile(r"(?:\s*(?:\^|\*\*)?\s*2|²)")
PLAIN: dict[str, Measure] = {
    **dict.fromkeys(("δe", "de", "δe*", "δe2000", "δe00", "de2000", "delta e"), "difference"),
    **dict.fromkeys(("l*", "l", "lightness"), "lightness"),
    **dict.fromkeys(("gli", "green leaf index", "greenness"), "greenness"),
}
"""Units of colour, in small letters, and what is measured in them."""


def measures_for(scale: Scale) -> tuple[Measure, ...]:
    """What the photo gauge can measure for an outcome on ``scale``; nothing where it has to be judged.

    >>> measures_for(MeasurementScale("mm")), measures_for(MeasurementScale("points")), measures_for(MeasurementScale("ΔE"))
    (('length',), (), ('difference',))
    """
    match scale:
        case PercentScale():
            return ("cover",)
        case ShadeScale():
            return ("shade",)
        case CountScale():
            return ("spots",)
        case MeasurementScale(unit=unit):
            written = unit.strip().casefold()
            if LENGTH.fullmatch(written) and converted(1.0, "mm", unit) is not None:
                return ("length",)
            side = SQUARE.search(written)
            if side and side.end() == len(written) and LENGTH.fullmatch(written[: side.start()]):
                return ("area",) if converted(1.0, "cm2", unit) is not None else ()
            measure = PLAIN.get(written)
            return (measure,) if measure else ()
        case _:
            return ()


def mean_of(measure: Measure, values: Sequence[float]) -> float:
    """The mean of several values of one sample, in the unit that they are in, with as many decimals as photos can tell.

    >>> mean_of("spots", [3, 4, 4])
    4.0
    """
    return round(fmean(values), ROUNDED[measure] + (1 if measure in ("length", "area") else 0)) + 0.0


def doubt_of_mean(values: Sequence[float], doubts: Sequence[float]) -> float:
    """The standard uncertainty of the mean of several ``values`` of one sample: no less than the ``doubts`` of the single ones, which share
    their light and card, and no less than how far apart the values lie says.

    >>> doubt_of_mean([4.0], [0.4]), doubt_of_mean([0.0, 9.2], [0.4, 0.3])
    (0.4, 4.6)
    """
    apart = stdev(values) / math.sqrt(len(values)) if len(values) > 1 else 0.0
    return max([*doubts, round(apart, 6)])


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
