"""Units as people write them.  US and imperial gallons, pints and ounces differ: the trial says which it means.

The registry is pint's, with the spellings of kitchens and sheds put before it: ``tsp``, ``fl oz``, ``ft2``, ``gal``, and
``US gal`` or ``imp gal`` where somebody says which.
"""

from __future__ import annotations

import re
from functools import cache
from typing import TYPE_CHECKING, Any, Literal

if TYPE_CHECKING:
    import pint

System = Literal["metric", "us", "imperial"]
"""Whose gallons, pints and spoons are meant; in a metric trial a spoon holds 5 mL and a tablespoon 15 mL."""

SPELLINGS: dict[str, str] = {
    "l": "liter",
    "litre": "liter",
    "litres": "liter",
    "liters": "liter",
    "ltr": "liter",
    "ml": "milliliter",
    "millilitre": "milliliter",
    "millilitres": "milliliter",
    "cc": "milliliter",
    "cl": "centiliter",
    "dl": "deciliter",
    "µl": "microliter",
    "ul": "microliter",
    "μl": "microliter",
    "g": "gram",
    "gr": "gram",
    "kg": "kilogram",
    "kilo": "kilogram",
    "kilos": "kilogram",
    "mg": "milligram",
    "µg": "microgram",
    "ug": "microgram",
    "μg": "microgram",
    "t": "metric_ton",
    "lb": "pound",
    "lbs": "pound",
    "oz": "ounce",
    "m": "meter",
    "metre": "meter",
    "metres": "meter",
    "cm": "centimeter",
    "mm": "millimeter",
    "km": "kilometer",
    "in": "inch",
    "ft": "foot",
    "yd": "yard",
    "m2": "meter**2",
    "m²": "meter**2",
    "sqm": "meter**2",
    "cm2": "centimeter**2",
    "cm²": "centimeter**2",
    "mm2": "millimeter**2",
    "mm²": "millimeter**2",
    "ft2": "foot**2",
    "ft²": "foot**2",
    "sqft": "foot**2",
    "in2": "inch**2",
    "in²": "inch**2",
    "yd2": "yard**2",
    "yd²": "yard**2",
    "ac": "acre",
    "ha": "hectare",
    "m3": "meter**3",
    "m³": "meter**3",
    "cm3": "centimeter**3",
    "cm³": "centimeter**3",
    "ft3": "foot**3",
    "s": "second",
    "sec": "second",
    "secs": "second",
    "min": "minute",
    "mins": "minute",
    "h": "hour",
    "hr": "hour",
    "hrs": "hour",
    "d": "day",
    "wk": "week",
    "wks": "week",
    "°c": "degC",
    "c": "degC",
    "°f": "degF",
    "f": "degF",
    "k": "kelvin",
    "n": "newton",
    "w": "watt",
    "v": "volt",
    "a": "ampere",
    "ma": "milliampere",
    "mah": "milliampere*hour",
    "ohm": "ohm",
    "ω": "ohm",
    "mv": "millivolt",
    "kv": "kilovolt",
    "mw": "milliwatt",
    "kw": "kilowatt",
    "µa": "microampere",
    "ua": "microampere",
    "ah": "ampere*hour",
    "kohm": "kiloohm",
    "kω": "kiloohm",
    "kohms": "kiloohm",
    "ohms": "ohm",
    "volts": "volt",
    "amps": "ampere",
    "watts": "watt",
    "pa": "pascal",
    "kpa": "kilopascal",
    "mpa": "megapascal",
    "bar": "bar",
    "%": "percent",
    "percent": "percent",
    "ppm": "ppm",
    "ppb": "ppb",
    "drop": "drop",
    "drops": "drop",
}
BY_SYSTEM: dict[str, dict[System, str]] = {
    "gal": {"us": "gallon", "imperial": "imperial_gallon"},
    "qt": {"us": "quart", "imperial": "imperial_quart"},
    "pt": {"us": "pint", "imperial": "imperial_pint"},
    "cup": {"metric": "metric_cup", "us": "cup", "imperial": "imperial_cup"},
    "fl oz": {"us": "fluid_ounce", "imperial": "imperial_fluid_ounce"},
    "tsp": {"metric": "metric_tsp", "us": "teaspoon", "imperial": "imperial_tsp"},
    "tbsp": {"metric": "metric_tbsp", "us": "tablespoon", "imperial": "imperial_tbsp"},
}
SAME_AS = {
    "gallon": "gal",
    "gallons": "gal",
    "gals": "gal",
    "quart": "qt",
    "quarts": "qt",
    "pint": "pt",
    "pints": "pt",
    "cups": "cup",
    "floz": "fl oz",
    "fl.oz": "fl oz",
    "fl. oz": "fl oz",
    "fluid ounce": "fl oz",
    "fluid ounces": "fl oz",
    "teaspoon": "tsp",
    "teaspoons": "tsp",
    "tablespoon": "tbsp",
    "tablespoons": "tbsp",
    "tbs": "tbsp",
}
WHOSE: dict[str, System] = {"us": "us", "u.s.": "us", "imp": "imperial", "imperial": "imperial", "uk": "imperial"}
DEFINITIONS = (
    "metric_tsp = 5 * milliliter",
    "metric_tbsp = 15 * milliliter",
    "metric_cup = 250 * milliliter",
    "imperial_tsp = imperial_fluid_ounce / 4.8",
    "imperial_tbsp = imperial_fluid_ounce / 1.6",
    "ppb = 1e-9",
    "drop = 0.05 * milliliter",
)


def pints() -> Any:
    """The library of units: loaded once something is converted, so that a verdict, which converts nothing, does not wait for it."""
    import pint

    return pint


@cache
def registry() -> pint.UnitRegistry[float]:
    """The one registry of units."""
    made: pint.UnitRegistry[float] = pints().UnitRegistry(autoconvert_offset_to_baseunit=True)
    for definition in DEFINITIONS:
        made.define(definition)
    return made


class UnknownUnit(ValueError):
    """``word`` is no unit that is known; or one that means two things, and ``says`` which."""

    def __init__(self, word: str, says: str = "") -> None:
        self.word = word
        self.says = says or f"“{word}” is no unit that is known here."
        super().__init__(self.says)


def unit_named(word: str, system: System) -> pint.Unit:
    """The unit that ``word`` means in ``system``.

    :raises UnknownUnit: it means nothing, or two things.
    """
    written = " ".join(word.split()).casefold().rstrip(".")
    whose = system
    first, _, rest = written.partition(" ")
    if first in WHOSE and rest:
        whose, written = WHOSE[first], rest
    written = SAME_AS.get(written, written)
    if written in BY_SYSTEM:
        known = BY_SYSTEM[written]
        if whose not in known:
            raise UnknownUnit(
                word,
                f"A US or an imperial {word.strip()}? They differ: write “US {word.strip()}” or “imp {word.strip()}”.",
            )
        return registry().parse_units(known[whose])
    name = SPELLINGS.get(written)
    if name is None and re.fullmatch(r"[^\W\d_]+", written):
        name = written
    if name is None:
        raise UnknownUnit(word, "" if written else "A unit is missing here.")
    try:
        return registry().parse_units(name)
    except (pints().PintError, ValueError, AttributeError, TypeError) as error:
        raise UnknownUnit(word) from error


def system_named(text: str) -> System | None:
    """Whose units ``text`` names in so many words (``US gal``, ``imp pt``), where it names one."""
    named = {WHOSE[word] for word in re.findall(r"[a-z.]+", text.casefold()) if word in WHOSE}
    return named.pop() if len(named) == 1 else None
