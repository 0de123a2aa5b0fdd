"""Can it be measured?  A tool with graduation g reads to ± g/2.

A relative error above 5 % is a warning; above 20 % a refusal, with three ways out: a finer tool of those at hand, a stock
solution (so much made up to so much, then that much of it), or a larger sample.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from fieldtally.core.problems import Refused
from fieldtally.core.quantities.amounts import amount_in, told
from fieldtally.core.quantities.units import System

WARNS_ABOVE = 0.05
REFUSES_ABOVE = 0.20
NICE = (1.0, 2.0, 2.5, 5.0)
Standing = Literal["fine", "warn", "refuse"]


@dataclass(frozen=True)
class Tool:
    """Something to measure with: it holds ``most`` and is marked every ``graduation``, both in ``unit`` (mL or g)."""

    most: float
    graduation: float
    unit: str
    name: str = ""

    def error(self, dose: float) -> float:
        """The relative error of ``dose``: half a graduation for each filling of the tool, as a share of the dose."""
        fillings = max(1, math.ceil(dose / self.most - 1e-9))
        return fillings * self.graduation / 2 / dose


@dataclass(frozen=True)
class Measured:
    """How well a dose can be measured with a tool: the relative error, how that stands, and what to do about it."""

    relative_error: float
    standing: Standing
    advice: tuple[str, ...]


def tool_in(text: str, system: System = "metric") -> Tool:
    """The tool written in ``text``: what it holds and how it is marked, ``1 mL by 0.1 mL``.

    :raises Refused: it is not written so, or its marks do not fit into it.
    """
    halves = re.split(r"\s+by\s+", text.strip(), maxsplit=1)
    if len(halves) != 2:
        raise Refused(f"“{text.strip()}” is no tool, as in “1 mL by 0.1 mL”: what it holds, and how it is marked.")
    most, mark = (amount_in(half, system) for half in halves)
    if most.dimension not in ("volume", "mass") or mark.dimension != most.dimension:
        raise Refused(f"“{text.strip()}” measures neither a volume nor a mass.")
    unit = "milliliter" if most.dimension == "volume" else "gram"
    holds, marks = most.to(unit), mark.to(unit)
    if not 0 < marks <= holds:
        raise Refused(f"Marks of {mark.echo} do not fit into {most.echo}.")
    return Tool(holds, marks, "mL" if unit == "milliliter" else "g", text.strip())


def measured(dose: float, tool: Tool, others: Sequence[Tool] = (), smallest_sample: float = 1.0) -> Measured:
    """How well ``dose`` (in the tool's unit, above 0) can be measured with ``tool``; ``others`` are the tools at hand.

    ``smallest_sample`` times the present size is the least that would be a larger sample.

    :raises Refused: there is no dose to measure.
    """
    if not dose > 0:
        raise Refused("There is no dose to measure: it lies above 0.")
    error = tool.error(dose)
    if error <= WARNS_ABOVE:
        return Measured(error, "fine", ())
    ways = []
    finer = sorted(
        (one for one in others if one.unit == tool.unit and one.error(dose) <= WARNS_ABOVE),
        key=lambda one: one.error(dose),
    )
    if finer:
        best = finer[0]
        name = best.name or told(best.most, best.unit)
        ways.append(f"Take {name}: it measures this to {told(100 * best.error(dose), '%', 2)}.")
    ways.append(stock_way(dose, tool))
    times = max(error / WARNS_ABOVE, smallest_sample)
    ways.append(
        f"Make the sample {told(times, '', 2)} times as large: its dose of {told(dose * times, tool.unit)} is measured to 5 %."
    )
    return Measured(error, "refuse" if error > REFUSES_ABOVE else "warn", tuple(ways))


def stock_way(dose: float, tool: Tool) -> str:
    """A stock solution from which this tool takes the dose to 5 %: so much made up to so much, then that much of it."""
    aliquot = _nice(max(tool.graduation / 2 / WARNS_ABOVE, tool.graduation))
    product = _nice(max(tool.graduation / 2 / WARNS_ABOVE, dose))
    total = product / dose * aliquot
    unit = tool.unit
    return (
        f"Make a stock: {told(product, unit)} made up to {told(total, 'mL')}, mixed well; {told(aliquot, 'mL')} of it "
        f"holds {told(dose, unit)}, and both are measured to 5 %."
    )


def _nice(least: float) -> float:
    """The smallest of 1, 2, 2.5, 5, 10 … that is at least ``least``."""
    power = 10.0 ** math.floor(math.log10(least))
    return next(round(power * step, 12) for step in (*NICE, 10.0) if power * step >= least * (1 - 1e-9))
