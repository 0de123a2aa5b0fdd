"""Amounts as people write them: ``2.5 mL``, ``1 1/2 tsp``, ``½ tsp``, ``0.4 lb/1000 ft2``, ``6 %``, ``3 h 20 min``, ``68 °F``.

An amount is a number with a unit; a rate is one for so much of something (``4 mL/L``).  What was understood is echoed back
in full, so that a person sees whose gallon was meant.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from fieldtally.core.problems import Refused
from fieldtally.core.quantities.numbers import honest
from fieldtally.core.quantities.units import System, UnknownUnit, pints, registry, system_named, unit_named

if TYPE_CHECKING:
    import pint

FRACTIONS = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅓": "1/3", "⅔": "2/3", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}
NUMBER = r"[+\-−]?(?:\d+ \d+/\d+|\d+/\d+|\d+(?:[.,]\d+)?(?:e[+\-]?\d+)?|[.,]\d+)"
PIECE = re.compile(rf"\s*({NUMBER})\s*([^\d+\-/]*)")
POWERS = re.compile(r"(?<=[a-z])([23])(?![\d.,])", re.IGNORECASE)
Dimension = Literal["volume", "mass", "length", "area", "time", "temperature", "share", "other"]
PLURAL = re.compile(
    r"(liter|gram|spoon|gallon|pint|quart|cup|ounce|pound|hour|minute|second|day|week|meter|drop|acre|hectare)$"
)
LARGEST = 1e12


@dataclass(frozen=True)
class Amount:
    """``value`` of ``unit`` (as pint names it), what it measures, and the words it was understood as."""

    value: float
    unit: str
    dimension: Dimension
    echo: str

    def to(self, unit: str) -> float:
        """The number of ``unit`` that this is.

        :raises Refused: it measures something else.
        """
        try:
            quantity = registry().Quantity(self.value, self.unit)
            return float(quantity.to(registry().parse_units(unit)).magnitude)
        except pints().DimensionalityError as error:
            raise Refused(f"{self.echo} cannot be told in {unit}: that measures something else.") from error


@dataclass(frozen=True)
class Rate:
    """``amount`` for each ``per`` of something, and the words it was understood as."""

    amount: Amount
    per: Amount
    echo: str


def written_number(text: str) -> float:
    """The number written in ``text``: ``2.5``, ``2,5``, ``3/4``, ``1 1/2``, ``½``, ``1½``.

    >>> [written_number(text) for text in ("2,5", "1 1/2", "1½", "¾")]
    [2.5, 1.5, 1.5, 0.75]

    :raises Refused: it is none.
    """
    written = _plain(text)
    whole = re.fullmatch(r"([+-]?)(?:(\d+) )?(\d+)/(\d+)", written)
    if whole:
        sign, ones, above, below = whole.groups()
        if int(below) == 0:
            raise Refused(f"“{text.strip()}” divides by nothing.")
        return (int(ones or 0) + int(above) / int(below)) * (-1 if sign == "-" else 1)
    try:
        value = float(written.replace(",", "."))
    except ValueError:
        raise Refused(f"“{text.strip()}” is not a number." if text.strip() else "A number is missing here.") from None
    if not abs(value) < LARGEST:
        raise Refused(f"“{text.strip()}” is too large a number.")
    return value


def amount_in(text: str, system: System = "metric", dimension: Dimension | None = None) -> Amount:
    """The amount written in ``text``, of that ``dimension`` where one is wanted.

    :raises Refused: a piece is not understood, it is negative, or it measures something else.
    """
    written = _plain(text)
    if not written:
        raise Refused("An amount is missing here, as in 2.5 mL.")
    pieces = _pieces(written)
    total: pint.Quantity[float] | None = None
    words = []
    for number, word in pieces:
        value = written_number(number)
        try:
            unit = unit_named(word, system)
        except UnknownUnit as unknown:
            raise Refused(
                unknown.says if word else f"“{text.strip()}” has no unit: write 2.5 mL, not 2.5."
            ) from unknown
        quantity = registry().Quantity(value, unit)
        if total is not None and not total.check(quantity.dimensionality):
            raise Refused(f"“{text.strip()}” mixes two things that cannot be added.")
        total = quantity if total is None else total + quantity
        words.append(_echo(value, unit))
    assert total is not None
    found = _dimension(total)
    if total.magnitude < 0 and found != "temperature":
        raise Refused(f"“{text.strip()}” is less than nothing.")
    if dimension is not None and found != dimension:
        raise Refused(f"“{text.strip()}” is {_article(found)}; {_article(dimension)} is wanted here.")
    return Amount(float(total.magnitude), str(total.units), found, " ".join(words))


def rate_in(text: str, system: System = "metric") -> Rate:
    """The rate written in ``text``: an amount for so much of something, ``4 mL/L``, ``0.4 lb per 1000 ft2``, ``3/4 tsp/US gal``.

    :raises Refused: either half is not understood.
    """
    written = re.sub(r"\bper\b", " / ", _plain(text))
    # Whose gallon is named says whose spoon is meant beside it.
    system = system_named(written) or system
    # A slash between digits is a fraction; the one that divides the rate follows a unit.
    cut = next((found.start() for found in re.finditer("/", written) if not _is_fraction(written, found.start())), None)
    if cut is None:
        raise Refused(f"“{text.strip()}” is not a rate: write so much for so much, as in 4 mL/L.")
    of = written[cut + 1 :].strip()
    if of and not re.match(r"[\d.,+\-]", of):
        of = f"1 {of}"
    amount, per = amount_in(written[:cut], system), amount_in(of, system)
    if per.value <= 0:
        raise Refused(f"“{text.strip()}” is for nothing at all.")
    return Rate(amount, per, f"{amount.echo} for each {per.echo}")


def told(value: float, unit: str, digits: int = 4) -> str:
    """``value`` of ``unit`` as it is told back: ``1.953 mL``."""
    return f"{honest(value, digits)} {unit}".strip()


def _plain(text: str) -> str:
    for sign, written in FRACTIONS.items():
        text = re.sub(rf"(\d){sign}", rf"\1 {written}", text).replace(sign, written)
    text = POWERS.sub(lambda power: "²" if power[1] == "2" else "³", text)
    return " ".join(text.replace("−", "-").replace("\u2044", "/").split())


def _is_fraction(text: str, at: int) -> bool:
    return bool(
        re.search(r"\d\s*$", text[:at])
        and re.match(r"\s*\d", text[at + 1 :])
        and not re.search(r"[^\W\d_]\d*\s*$", text[:at])
    )


def _pieces(written: str) -> list[tuple[str, str]]:
    """The numbers in ``written``, each with the unit behind it."""
    found = []
    at = 0
    while at < len(written):
        match = PIECE.match(written, at)
        if match is None:
            raise Refused(f"“{written[at:].strip()}” is not understood as an amount, as in 2.5 mL.")
        found.append((match[1], match[2].strip(" ,")))
        at = match.end()
    return found


def _echo(value: float, unit: pint.Unit) -> str:
    words = str(unit).replace("metric_", "metric ").replace("imperial_", "imperial ").replace("_", " ")
    words = words.replace(" ** 2", "²").replace(" ** 3", "³")
    if words in ("gallon", "quart", "pint", "cup", "fluid ounce", "teaspoon", "tablespoon"):
        words = f"US {words}"
    if value != 1:
        words = PLURAL.sub(r"\1s", words)
    return f"{honest(value, 6)} {words}"


def _dimension(quantity: pint.Quantity[float]) -> Dimension:
    known: dict[str, Dimension] = {
        "[length] ** 3": "volume",
        "[mass]": "mass",
        "[length]": "length",
        "[length] ** 2": "area",
        "[time]": "time",
        "[temperature]": "temperature",
        "dimensionless": "share",
    }
    return known.get(str(quantity.dimensionality), "other")


def _article(dimension: str) -> str:
    return "something else" if dimension == "other" else f"an {dimension}" if dimension == "area" else f"a {dimension}"
