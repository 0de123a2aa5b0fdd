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
ROUGH_MARK = 1.0
"""mL: the marks of a measuring cup that any kitchen has."""
NICE = (1.0, 2.0, 2.5, 5.0)
Standing = Literal["fine", "warn", "refuse"]


@dataclass(frozen=True)
class Tool:
    """Something to measure with: it holds ``most`` and is marked every ``graduation``, both in ``unit`` (mL or g)."""

    most: float
    graduation: float
    unit: str
    name: str = ""

    @property
    def written(self) -> str:
        """The tool as :func:`tool_in` reads it, whatever gallons and spoons are meant."""
        measures = f"{self.most:.6g} {self.unit} by {self.graduation:.6g} {self.unit}"
        return f"{self.name.replace(':', ' ')}: {measures}" if self.name and self.name != measures else measures

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
    """The tool written in ``text``: what it holds and how it is marked, ``1 mL by 0.1 mL``, with a name before it if you like:
    ``small syringe: 1 mL by 0.1 mL``.

    :raises Refused: it is not written so, or its marks do not fit into it.
    """
    name, _, written = text.rpartition(":")
    halves = re.split(r"\s+by\s+", written.strip(), maxsplit=1)
    if len(halves) != 2:
        raise Refused(f"“{text.strip()}” is no tool, as in “1 mL by 0.1 mL”: what it holds, and how it is marked.")
    most, mark = (amount_in(half, system) for half in halves)
    if most.dimension not in ("volume", "mass") or mark.dimension != most.dimension:
        raise Refused(f"“{text.strip()}” measures neither a volume nor a mass.")
    unit = "milliliter" if most.dimension == "volume" else "gram"
    holds, marks = most.to(unit), mark.to(unit)
    if not 0 < marks <= holds:
        raise Refused(f"Marks of {mark.echo} do not fit into {most.echo}.")
    return Tool(holds, marks, "mL" if unit == "milliliter" else "g", name.strip() or written.strip())


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
    ways.append(stock_for(dose, tool, others).says)
    times = max(error / WARNS_ABOVE, smallest_sample)
    ways.append(
        f"Make the sample {told(times, '', 2)} times as large: its dose of {told(dose * times, tool.unit)} is measured to 5 %."
    )
    return Measured(error, "refuse" if error > REFUSES_ABOVE else "warn", tuple(ways))


def best_of(tools: Sequence[Tool], dose: float, unit: str) -> Tool | None:
    """The tool that measures ``dose`` of ``unit`` with the smallest error; None where none measures that."""
    return (
        min((t for t in tools if t.unit == unit), key=lambda t: (t.error(dose), t.most), default=None)
        if dose > 0
        else None
    )


@dataclass(frozen=True)
class Stock:
    """A stock solution: ``product`` (in ``unit``) made up to ``total`` mL, of which ``aliquot`` mL hold the ``dose``; the
    aliquot is measured with ``with_tool`` where one is at hand."""

    product: float
    unit: str
    total: float
    aliquot: float
    dose: float
    with_tool: str

    @property
    def says(self) -> str:
        """How it is made and used, in a sentence."""
        return (
            f"Make a stock: {told(self.product, self.unit)} made up to {told(self.total, 'mL')}, mixed well; "
            f"{told(self.aliquot, 'mL')} of it{f' ({self.with_tool})' if self.with_tool else ''} holds "
            f"{told(self.dose, self.unit)}, and both are measured to 5 %."
        )


def stock_for(dose: float, tool: Tool, others: Sequence[Tool] = (), batch: float | None = None) -> Stock:
    """A stock solution from which the dose is taken to 5 %: so much made up to so much, then that much of it.

    The product is measured with ``tool``, the aliquot with it too where it measures a volume, else with the finest such tool of
    ``others``.  ``batch`` is the least product that the stock must hold, for all samples together.
    """
    pourer = (
        tool
        if tool.unit == "mL"
        else min((o for o in others if o.unit == "mL"), key=lambda o: o.graduation, default=None)
    )
    mark = pourer.graduation if pourer else ROUGH_MARK
    aliquot = _nice(max(mark / 2 / WARNS_ABOVE, mark))
    product = _nice(max(tool.graduation / 2 / WARNS_ABOVE, dose, batch or 0.0))
    return Stock(
        product,
        tool.unit,
        product / dose * aliquot,
        aliquot,
        dose,
        pourer.name if pourer and pourer is not tool else "",
    )


def _nice(least: float) -> float:
    """The smallest of 1, 2, 2.5, 5, 10 … that is at least ``least``."""
    power = 10.0 ** math.floor(math.log10(least))
    return next(round(power * step, 12) for step in (*NICE, 10.0) if power * step >= least * (1 - 1e-9))
