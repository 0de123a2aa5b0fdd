"""Dilution: C1 · V1 = C2 · V2, and parts.

A ratio ``15:1 water to product`` is 15 parts of water and 1 of product: 16 parts in all, so the product is 1 in 16.
Percentages must be of one kind (by volume, by weight, weight by volume) on both sides; the sums do not convert between them.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from fieldtally.core.dosing.steps import Worked
from fieldtally.core.problems import Refused
from fieldtally.core.quantities.amounts import told, written_number


@dataclass(frozen=True)
class Ratio:
    """``first`` parts of one thing and ``second`` of another, as they were named; ``parts`` in all."""

    first: float
    second: float
    first_name: str
    second_name: str

    @property
    def parts(self) -> float:
        """How many parts there are in all."""
        return self.first + self.second


def diluted(stock: float, wanted: float, final: float, unit: str = "mL") -> tuple[Worked, Worked]:
    """How much stock of strength ``stock`` and how much water make ``final`` of strength ``wanted`` (both in the same
    measure of strength, ``final`` in ``unit``).

    :raises Refused: a strength or the volume is not above 0, or the stock is weaker than what is wanted.
    """
    if stock <= 0 or wanted <= 0 or final <= 0:
        raise Refused("Strengths and the volume wanted lie above 0.")
    if wanted > stock:
        raise Refused(f"A stock of {told(stock, '')} cannot be made into something stronger ({told(wanted, '')}).")
    taken = wanted * final / stock
    steps = (
        "C1 · V1 = C2 · V2.",
        f"V1 = {told(wanted, '')} × {told(final, unit)} / {told(stock, '')} = {told(taken, unit)} of stock.",
        f"Water = {told(final, unit)} − {told(taken, unit)} = {told(final - taken, unit)}.",
    )
    return Worked(taken, unit, steps), Worked(final - taken, unit, steps)


def ratio_in(text: str) -> Ratio:
    """The ratio written in ``text``, with what its two sides are: ``15:1 water to product``.

    :raises Refused: it is no ratio, or does not say which side is which.
    """
    found = re.fullmatch(r"\s*([\d.,/ ]+)\s*:\s*([\d.,/ ]+?)\s*(?:(\D+?)\s+to\s+(\D+?))?\s*", text)
    if found is None:
        raise Refused(f"“{text.strip()}” is not a ratio, as in “15:1 water to product”.")
    if not found[3]:
        raise Refused(f"Which side of “{text.strip()}” is which? Write “{text.strip()} water to product”.")
    first, second = written_number(found[1]), written_number(found[2])
    if first <= 0 or second <= 0:
        raise Refused("Both sides of a ratio lie above 0.")
    return Ratio(first, second, found[3].strip(), found[4].strip())


def parts_of(ratio: Ratio, final: float, unit: str = "mL") -> tuple[Worked, Worked]:
    """How much of each side makes ``final`` of ``unit``."""
    part = final / ratio.parts
    steps = (
        f"{told(ratio.first, '')} parts {ratio.first_name} and {told(ratio.second, '')} {ratio.second_name} are "
        f"{told(ratio.parts, '')} parts in all.",
        f"One part = {told(final, unit)} / {told(ratio.parts, '')} = {told(part, unit)}.",
    )
    return Worked(ratio.first * part, unit, steps), Worked(ratio.second * part, unit, steps)
