"""Numbers, units and small words as people write them."""

from __future__ import annotations

_UP_TO_TEN = "one two three four five six seven eight nine ten"
_TO_TWENTY = "eleven twelve thirteen fourteen fifteen sixteen seventeen eighteen nineteen twenty"
NUMBERS: dict[str, int] = {
    **{word: n for n, word in enumerate(f"{_UP_TO_TEN} {_TO_TWENTY}".split(), start=1)},
    "thirty": 30,
    "forty": 40,
    "fifty": 50,
    "hundred": 100,
    "a dozen": 12,
    "half a dozen": 6,
    "a couple of": 2,
    "a pair of": 2,
    "both": 2,
    "once": 1,
}
NUMBER = r"(?:\d+(?:[.,]\d+)?|" + "|".join(sorted(NUMBERS, key=len, reverse=True)) + r")"
"""A number in figures or words."""
TIMES = r"(?:minutes?|mins?|hours?|hrs?|h|days?|d|weeks?|wks?|months?|years?|yrs?|seconds?|secs?|fortnights?|nights?|mornings?|evenings?)"
CYCLES = (
    r"(?:wash(?:es)?|washings?|firings?|uses|cycles?|bends?|rubs|strokes|wearings?|charges|"
    r"openings|dips|km|kilometres|miles|passes|rounds)"
)
PEOPLE = (
    r"(?:people|persons?|tasters?|testers?|volunteers?|assessors?|judges?|panellists?|members|friends|neighbours|children|kids|adults|visitors|"
    r"guests|customers|ladies|women|men|pupils|students|participants)"
)
"""Who looks, tastes or judges: they are none of what is compared."""
CONTAINER = (
    r"(?:pens?|trays?|pots?|tanks?|box(?:es)?|jars?|bags?|cages?|baskets?|crates?|hives?|aquariums?|troughs?|dish(?:es)?|tubs?|buckets?|bowls?|"
    r"bins?|tins?|cups?|plots?|rows?|frames?)"
)
"""What holds several pieces and is itself one sample."""
DURATION = rf"(?:half\s+an?\s+(?:year|hour|day)|a\s+year\s+and\s+a\s+half|(?:{NUMBER}\s*|an?\s+){TIMES}\b)"
"""How long something goes on, in figures or words."""
MONTHS = r"(?:january|february|march|april|may|june|july|august|september|october|november|december)"
UNIT = (
    r"(?:(?:kg|g|mL|L|l)\s?/\s?(?:m2|m²|ha)|[mµ]?g/(?:kg|m3|m³)|mmol/L|km/h|m/s|mg/L|g/L|mL/L|µg|mcg|mg|kg|g|grams?|grammes?|kilos?|kilograms?|lb|"
    r"lbs|pounds?|oz|ounces?|µm|microns?|(?:mm|cm|m)[2²3³]|mm|millimetres?|cm|centimetres?|km|m|"
    r"metres?|inch(?:es)?|in(?=[).,;]|$)|ft|feet|µL|mL|ml|millilitres?|cL|L|l|litres?|"
    r"°C|°F|(?-i:C)(?=[).,;]|$)|degrees|%|percent|per cent|kN|(?-i:N)|newtons?|"
    r"MPa|kPa|Pa|bar|(?-i:V)|volts?|mV|(?-i:A)|mA|amps?|(?-i:W)|watts?|kWh|Wh|lux|"
    r"ΔE(?:2000)?|(?-i:dE)|delta\s?E|dB|s|sec|secs|seconds?|min|mins|minutes?|h|hrs?|hours?|days?|ppm|pH|Hz|"
    r"ohms?|rpm|teaspoons?|tablespoons?|drops)"
)
PEST = (
    r"(?:slugs?|snails?|pests?|flies|fly|aphids?|moss|weeds?|rust|mould|mildew|mice|mouse|moths?|rabbits?|pigeons?|birds?|blight|frost|damp|rot|"
    r"ants?|wasps?|cats?|foxes|deer|algae|stains?|limescale|scale|odou?rs?|smells?|cold|wind|greenfly|blackfly|mosquitoe?s?)"
)
"""What something is done against, and is none of what is compared."""
FULL: dict[str, str] = {
    **dict.fromkeys(("gram", "grams", "gramme", "grammes"), "g"),
    **dict.fromkeys(("kilo", "kilos", "kilogram", "kilograms"), "kg"),
    **dict.fromkeys(("pound", "pounds", "lbs"), "lb"),
    **dict.fromkeys(("ounce", "ounces"), "oz"),
    **dict.fromkeys(("millimetre", "millimetres"), "mm"),
    **dict.fromkeys(("centimetre", "centimetres"), "cm"),
    **dict.fromkeys(("metre", "metres"), "m"),
    **dict.fromkeys(("inch", "inches"), "in"),
    **dict.fromkeys(("feet",), "ft"),
    **dict.fromkeys(("millilitre", "millilitres", "ml"), "mL"),
    **dict.fromkeys(("litre", "litres", "l"), "L"),
    **dict.fromkeys(("degrees", "c"), "°C"),
    **dict.fromkeys(("percent", "per cent"), "%"),
    **dict.fromkeys(("newton", "newtons"), "N"),
    **dict.fromkeys(("sec", "secs", "second", "seconds"), "s"),
    **dict.fromkeys(("mins", "minute", "minutes"), "min"),
    **dict.fromkeys(("hr", "hrs", "hour", "hours"), "h"),
    **dict.fromkeys(("day", "days"), "d"),
    **dict.fromkeys(("volt", "volts"), "V"),
    **dict.fromkeys(("amp", "amps"), "A"),
    **dict.fromkeys(("watt", "watts"), "W"),
    **dict.fromkeys(("δe", "de", "delta e", "deltae"), "ΔE"),
    **dict.fromkeys(("db",), "dB"),
    **dict.fromkeys(("micron", "microns"), "µm"),
}


def number(text: str) -> float:
    """The number that ``text`` is, in figures or in words.

    >>> number("4"), number("Twelve"), number("a dozen"), number("2,5")
    (4.0, 12.0, 12.0, 2.5)

    :raises KeyError: it is none.
    """
    lower = " ".join(text.casefold().split())
    return float(lower.replace(",", ".")) if lower[:1].isdecimal() else float(NUMBERS[lower])


def unit_of(text: str) -> str:
    """The sign of the unit that ``text`` names.

    >>> unit_of("grams"), unit_of("cm"), unit_of("minutes")
    ('g', 'cm', 'min')
    """
    return FULL.get(text.strip().casefold(), text.strip())
