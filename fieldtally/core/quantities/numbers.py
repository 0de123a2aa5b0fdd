"""Numbers as people write them, and back again with honest digits."""

from __future__ import annotations

import math
from decimal import ROUND_HALF_UP, Context, Decimal

from fieldtally.core.problems import Refused

WIDE = Context(prec=400)
"""Digits enough before and behind the point of any number there is."""
MOST_DECIMALS = 12
"""What is smaller than the last of these is told as 0."""
MISSING = "A value is missing here."
LARGEST = 1e15
"""Numbers farther from 0 than this cannot be told apart well enough to be averaged and compared."""


def number_in(text: str) -> float:
    """The finite number written in ``text``; a decimal comma is read as a point.

    The digits are those of every keyboard, 0 to 9; nothing is read as a number in another base or with marks between its digits.

    >>> number_in(" 3,5 ")
    3.5

    :raises Refused: the text is empty or is not one finite number.
    """
    written = text.replace("\u2212", "-").strip()
    if written.count(",") == 1 and "." not in written:
        written = written.replace(",", ".")
    try:
        value = float(written)
    except ValueError:
        value = math.nan
    if not math.isfinite(value) or "_" in written or not written.isascii():
        raise Refused(f"“{text.strip()}” is not a number." if text.strip() else MISSING)
    if abs(value) > LARGEST:
        raise Refused(f"“{text.strip()}” is too large a number to be compared.")
    return value


def without_unit(text: str, unit: str) -> str:
    """``text`` without the ``unit`` behind its number, in whatever case it is written.

    >>> without_unit("12,5 ML", "mL"), without_unit("7", "%")
    ('12,5', '7')
    """
    written = text.strip()
    behind = bool(unit) and written.casefold().endswith(unit.casefold())
    return written[: len(written) - len(unit)].strip() if behind else written


def folded(text: str) -> str:
    """A word as it is compared: in any case, and with whichever sign people type for a minus.

    >>> folded(" A− ") == folded("a-")
    True
    """
    return text.replace("\u2212", "-").strip().casefold()


def accepted(value: float, refusal: str | None) -> float:
    """``value``, unless a scale has a ``refusal`` for it.

    :raises Refused: it has.
    """
    if refusal:
        raise Refused(refusal)
    return value


def honest(value: float, digits: int = 3) -> str:
    """``value`` in plain notation with at most ``digits`` significant digits, and no trailing zeros.

    Digits before the point are never rounded away, and there are at most twelve behind it; a half is rounded away from 0, as
    people do.

    >>> honest(17.125), honest(1234.5), honest(0.02857), honest(-12.25), honest(0.625, 2)
    ('17.1', '1235', '0.0286', '-12.3', '0.63')
    """
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else str(value)
    decimals = min(MOST_DECIMALS, max(0, digits - 1 - math.floor(math.log10(abs(value)))))
    written = f"{Decimal(value).quantize(Decimal(1).scaleb(-decimals), ROUND_HALF_UP, WIDE):f}"
    short = written.rstrip("0").rstrip(".") if "." in written else written
    return "0" if short == "-0" else short
