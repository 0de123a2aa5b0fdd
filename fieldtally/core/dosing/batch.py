"""Batch and cost: how much in all, how many whole packs, what is left over, what it costs."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import date, timedelta

from fieldtally.core.problems import Refused


@dataclass(frozen=True)
class Batch:
    """What ``samples`` doses take, in the dose's unit: ``needed`` with the overage, ``packs`` to buy, what is ``left``.

    Costs are in the money of the pack's price; None where that is not known.
    """

    needed: float
    packs: int | None
    left: float | None
    cost: float | None
    cost_per_sample: float | None


def batch(
    dose: float, samples: int, *, overage: float = 0.1, pack: float | None = None, price: float | None = None
) -> Batch:
    """The batch for ``samples`` doses with an ``overage`` (0.1: a tenth more), from packs of ``pack`` at ``price`` each.

    :raises Refused: there is nothing to mix, or a pack holds nothing.
    """
    if dose < 0 or samples < 1 or overage < 0:
        raise Refused("A batch needs at least one sample, a dose and an overage of 0 or more.")
    if pack is not None and pack <= 0:
        raise Refused("A pack holds more than nothing.", "pack")
    if price is not None and price < 0:
        raise Refused("A price cannot be below 0.", "price")
    needed = dose * samples * (1 + overage)
    if pack is None:
        return Batch(needed, None, None, None, None)
    packs = math.ceil(needed / pack - 1e-9)
    cost = None if price is None else packs * price
    # A sample costs what is in it; what is left over may serve another day.
    per_sample = None if price is None else dose / pack * price
    return Batch(needed, packs, packs * pack - needed, cost, per_sample)


def shelf_life_problem(last_use: date, expires: date | None, opened: date | None, keeps_open: int | None) -> str | None:
    """Why a product does not last until ``last_use``: past its date, or open for longer than it keeps (days); else None."""
    if expires is not None and last_use > expires:
        return f"It is past its date ({expires.isoformat()}) before the last look on {last_use.isoformat()}."
    if opened is not None and keeps_open is not None and last_use > opened + timedelta(days=keeps_open):
        until = opened + timedelta(days=keeps_open)
        return f"Opened on {opened.isoformat()} it keeps until {until.isoformat()}, not to the last look on {last_use.isoformat()}."
    return None
