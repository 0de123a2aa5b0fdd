"""Numbers as people write them, and back again with honest digits."""

from __future__ import annotations

import math

from fieldtally.core.problems import Refused

LARGEST = 1e15
"""Numbers farther from 0 than this cannot be told apart well enough to be averaged and compared."""


def number_in(text: str) -> float:
    """The finite number written in ``text``; a decimal comma is read as a point.

    >>> number_in(" 3,5 ")
    3.5

    :raises Refused: the text is empty or is not one finite number.
    """
    written = text.strip().replace("\u2212", "-")
    if written.count(",") == 1 and "." not in written:
        written = written.replace(",", ".")
    try:
        value = float(written)
    except ValueError:
        value = math.nan
    if not math.isfinite(value) or "_" in written:
        raise Refused(f"“{text.strip()}” is not a number." if text.strip() else "A number is missing here.")
    if abs(value) > LARGEST:
        raise Refused(f"“{text.strip()}” is too large a number to be compared.")
    return value


def accepted(value: float, refusal: str | None) -> float:
    """``value``, unless a scale has a ``refusal`` for it.

    :raises Refused: it has.
    """
    if refusal:
        raise Refused(refusal)
    return value


def honest(value: float, digits: int = 3) -> str:
    """``value`` in plain notation with at most ``digits`` significant digits, and no trailing zeros.

    Digits before the point are never rounded away.

    >>> honest(17.125), honest(1234.5), honest(0.02857)
    ('17.1', '1234', '0.0286')
    """
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else str(value)
    decimals = max(0, digits - 1 - math.floor(math.log10(abs(value))))
    written = f"{value:.{decimals}f}"
    return written.rstrip("0").rstrip(".") if "." in written else written
