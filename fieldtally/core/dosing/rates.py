"""Doses from a label's rate, from what a pack treats, or from the active ingredient; and back again.

All volumes are told in mL and all masses in g.  Sources: the arithmetic of product labels; percent strength by weight.
"""

from __future__ import annotations

import re

from fieldtally.core.dosing.steps import Worked
from fieldtally.core.problems import Refused
from fieldtally.core.quantities.amounts import Amount, Rate, amount_in, told
from fieldtally.core.quantities.units import System

TOLD_IN = {
    "volume": "milliliter",
    "mass": "gram",
    "length": "meter",
    "area": "meter**2",
    "time": "hour",
    "share": "percent",
}
SHORT = {"milliliter": "mL", "gram": "g", "meter": "m", "meter**2": "m²", "hour": "h", "percent": "%"}


def base(amount: Amount) -> tuple[float, str]:
    """``amount`` in the unit in which doses are told: mL, g, m, m², h or %."""
    unit = TOLD_IN.get(amount.dimension)
    if unit is None:
        return amount.value, amount.unit
    return amount.to(unit), SHORT[unit]


def label_rate(rate: Rate, size: Amount) -> Worked:
    """The dose for ``size`` at the label's ``rate``: rate × size.

    :raises Refused: the rate is for something other than what the size measures.
    """
    times = _times(size, rate.per)
    amount, unit = base(rate.amount)
    dose = amount * times
    return Worked(
        dose,
        unit,
        (
            f"Rate: {rate.echo}.",
            f"Size: {size.echo}, which is {told(times, '')} times {rate.per.echo}.",
            f"Dose = {told(amount, unit)} × {told(times, '')} = {told(dose, unit)}.",
        ),
    )


def size_for(rate: Rate, dose: Amount) -> Worked:
    """Backwards: the size that ``dose`` serves at ``rate``."""
    times = _times(dose, rate.amount)
    per, unit = base(rate.per)
    return Worked(
        per * times,
        unit,
        (
            f"Rate: {rate.echo}.",
            f"{dose.echo} is {told(times, '')} times {rate.amount.echo}.",
            f"Size = {told(per * times, unit)}.",
        ),
    )


def coverage_in(text: str, system: System = "metric") -> Rate:
    """What a pack treats, as in ``400 mL treats 80 L``, as a rate.

    :raises Refused: it is not written so.
    """
    halves = re.split(r"\s+(?:treats|does|covers|is enough for|for)\s+", text.strip(), maxsplit=1)
    if len(halves) != 2:
        raise Refused(f"“{text.strip()}” does not say what the pack treats, as in “400 mL treats 80 L”.")
    pack, treats = amount_in(halves[0], system), amount_in(halves[1], system)
    if treats.value <= 0:
        raise Refused("A pack that treats nothing has no rate.")
    return Rate(pack, treats, f"{pack.echo} for each {treats.echo}")


def for_active(active: Rate, size: Amount, fraction: float) -> Worked:
    """The product for ``size`` at a rate of ``active`` ingredient, of which the product holds the ``fraction`` (above 0 to 1).

    product = target active × size / fraction

    :raises Refused: the fraction is none, or the rate is for something else.
    """
    if not 0 < fraction <= 1:
        raise Refused("The share of active ingredient in the product lies above 0 and at most at 100 %.")
    wanted = label_rate(active, size)
    product = wanted.value / fraction
    return Worked(
        product,
        wanted.unit,
        (
            *wanted.steps[:-1],
            f"Active = {told(wanted.value, wanted.unit)}.",
            f"Product = {told(wanted.value, wanted.unit)} / {told(100 * fraction, '%')} = {told(product, wanted.unit)}.",
        ),
    )


def active_ratio(dose: float, fraction: float, other_dose: float, other_fraction: float) -> float:
    """How many times as much active ingredient the first dose brings as the other; doses in the same unit, fractions to 1.

    >>> round(active_ratio(3, 0.34, 3, 0.15), 2)
    2.27
    """
    return dose * fraction / (other_dose * other_fraction)


def _times(size: Amount, per: Amount) -> float:
    if size.dimension != per.dimension:
        raise Refused(f"The rate is for a {per.dimension}, but {size.echo} is a {size.dimension}.")
    return size.to(per.unit) / per.value
