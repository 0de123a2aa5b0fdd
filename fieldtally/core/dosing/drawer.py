"""The drawer of bench sums: each takes what people write and answers with its result, its steps and what to do about it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import TypeVar

from fieldtally.core.dosing.bench import (
    alcohol,
    area,
    by_chart,
    current,
    discharge,
    percent_change,
    percent_of_control,
    stiffness,
    volume,
)
from fieldtally.core.dosing.dilution import diluted, parts_of, ratio_in
from fieldtally.core.dosing.measuring import measured, tool_in
from fieldtally.core.dosing.rates import base, coverage_in, for_active, label_rate
from fieldtally.core.dosing.steps import Worked
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.amounts import Amount, amount_in, rate_in, told, written_number
from fieldtally.core.quantities.units import System

Given = Mapping[str, str]
T = TypeVar("T")


@dataclass(frozen=True)
class Asked:
    """A field of a sum: its key, its label, an example of what to write, and whether it may stay empty."""

    key: str
    label: str
    example: str
    optional: bool = False


@dataclass(frozen=True)
class Answer:
    """What a sum came to, in a sentence; its steps; advice where there is any; and the one amount that can be used elsewhere,
    as a number of its unit (None where there is none)."""

    says: str
    steps: tuple[str, ...]
    advice: tuple[str, ...] = ()
    value: float | None = None
    unit: str = ""


@dataclass(frozen=True)
class Sum:
    """One sum of the drawer."""

    key: str
    name: str
    formula: str
    asks: tuple[Asked, ...]
    work: Callable[[Given, System], Answer]


def worked_out(key: str, given: Given, system: System = "metric") -> Answer:
    """The answer of the sum ``key`` for what was written.

    :raises Refused: a field is missing or not understood, at that field; or there is no such sum.
    """
    found = next((one for one in DRAWER if one.key == key), None)
    if found is None:
        raise Refused("There is no such sum in the drawer.", "sum")
    missing = [
        Problem(f"given.{one.key}", f"Write it as in {one.example}.")
        for one in found.asks
        if not one.optional and not given.get(one.key, "").strip()
    ]
    if missing:
        raise Refused(missing)
    return found.work(given, system)


def _field(given: Given, key: str, read: Callable[[str], T]) -> T:
    try:
        return read(given.get(key, ""))
    except Refused as refused:
        raise Refused(refused.problems[0].says, f"given.{key}") from refused


def _amount(given: Given, key: str, system: System) -> Amount:
    return _field(given, key, lambda text: amount_in(text, system))


def _number(given: Given, key: str) -> float:
    return _field(given, key, written_number)


def _in(given: Given, key: str, system: System, unit: str) -> float:
    """What was written, in ``unit``: a bare number is in it already.

    :raises Refused: it is no amount, or measures something else.
    """

    def read(text: str) -> float:
        try:
            return written_number(text)
        except Refused:
            return amount_in(text, system).to(unit)

    return _field(given, key, read)


def _alike(given: Given, first: str, second: str, system: System) -> tuple[float, float, str]:
    """Two numbers, or two amounts of one kind: both in the unit of the first (empty: bare numbers).

    :raises Refused: one has a unit and the other none, or they measure different things.
    """
    try:
        return written_number(given[first]), _number(given, second), ""
    except Refused as refused:
        if refused.problems[0].at == f"given.{second}":
            raise
    one, other = _amount(given, first, system), _amount(given, second, system)
    if one.dimension != other.dimension:
        raise Refused(
            f"“{given[second].strip()}” and “{given[first].strip()}” measure two different things.", f"given.{second}"
        )
    return one.value, other.to(one.unit), one.unit


def _told(worked: Worked) -> str:
    return told(worked.value, worked.unit)


def _answer(says: str, worked: Worked, steps: tuple[str, ...] = (), advice: tuple[str, ...] = ()) -> Answer:
    """``says``, with ``worked`` as the amount to use and its steps unless others are told."""
    return Answer(says, steps or worked.steps, advice, worked.value, worked.unit)


def _dose(worked: Worked, given: Given, system: System) -> Answer:
    advice: tuple[str, ...] = ()
    if given.get("tool", "").strip():
        tool = _field(given, "tool", lambda text: tool_in(text, system))
        if tool.unit != worked.unit:
            raise Refused(f"The dose is told in {worked.unit}; this measures something else.", "given.tool")
        found = measured(worked.value, tool)
        exact = f"Measured to {told(100 * found.relative_error, '%', 2)} with that."
        advice = (
            exact
            if found.standing == "fine"
            else f"{exact} That is {'too coarse' if found.standing == 'refuse' else 'coarse'}.",
        )
        advice += found.advice
    return _answer(f"{_told(worked)} for each.", worked, advice=advice)


def _label(given: Given, system: System) -> Answer:
    rate = _field(given, "rate", lambda text: rate_in(text, system))
    return _dose(label_rate(rate, _amount(given, "size", system)), given, system)


def _pack(given: Given, system: System) -> Answer:
    rate = _field(given, "pack", lambda text: coverage_in(text, system))
    return _dose(label_rate(rate, _amount(given, "size", system)), given, system)


def _active(given: Given, system: System) -> Answer:
    rate = _field(given, "active", lambda text: rate_in(text, system))
    share = _amount(given, "share", system).to("percent") / 100
    return _dose(for_active(rate, _amount(given, "size", system), share), given, system)


def _dilution(given: Given, system: System) -> Answer:
    stock, wanted = (_amount(given, key, system) for key in ("stock", "wanted"))
    final, unit = base(_amount(given, "final", system))
    taken, water = diluted(stock.to("percent"), wanted.to("percent"), final, unit)
    return _answer(f"{_told(taken)} of stock and {_told(water)} of water.", taken)


def _ratio(given: Given, system: System) -> Answer:
    ratio = _field(given, "ratio", ratio_in)
    final, unit = base(_amount(given, "final", system))
    first, second = parts_of(ratio, final, unit)
    return _answer(f"{_told(first)} {ratio.first_name} and {_told(second)} {ratio.second_name}.", first)


def _convert(given: Given, system: System) -> Answer:
    amount = _amount(given, "amount", system)
    wanted = _field(given, "unit", lambda text: amount_in(f"1 {text}", system))
    value = amount.to(wanted.unit)
    found = Worked(value, given["unit"].strip(), (f"Read as {amount.echo}.",))
    return _answer(f"{amount.echo} is {told(found.value, found.unit, 6)}.", found)


def _alcohol(given: Given, system: System) -> Answer:
    del system
    found = alcohol(_number(given, "original"), _number(given, "final"))
    return _answer(f"{_told(found)}.", found)


def _discharge(given: Given, system: System) -> Answer:
    volts, ohms = _in(given, "volts", system, "volt"), _in(given, "ohms", system, "ohm")
    flows = current(volts, ohms)
    if not given.get("capacity", "").strip():
        return _answer(f"{_told(flows)} flow.", flows)
    found = discharge(volts, ohms, _in(given, "capacity", system, "milliampere*hour"))
    return _answer(f"{_told(flows)} flow, for {_told(found)}.", found)


def _beam(given: Given, system: System) -> Answer:
    lengths = [_amount(given, key, system).to("millimeter") for key in ("span", "width", "thickness", "deflection")]
    load = _amount(given, "load", system)
    newtons = load.to("kilogram") * 9.81 if load.dimension == "mass" else load.to("newton")
    found = stiffness(newtons, *lengths)
    return _answer(f"E is {_told(found)}.", found)


def _change(given: Given, system: System) -> Answer:
    before, after, _ = _alike(given, "before", "after", system)
    change, share = percent_change(before, after), percent_of_control(after, before)
    return _answer(
        f"{_told(change)}, that is {_told(share)} of what was before.", change, (*change.steps, *share.steps)
    )


def _length(given: Given, key: str, system: System, unit: str) -> float | None:
    if not given.get(key, "").strip():
        return None
    return _field(given, key, lambda text: amount_in(text, system, "length")).to(unit)


def _area(given: Given, system: System) -> Answer:
    length, width = (_length(given, key, system, "meter") for key in ("length", "width"))
    found = area(length or 0.0, width)
    return _answer(f"{_told(found)}.", found)


def _volume(given: Given, system: System) -> Answer:
    length, width, height = (_length(given, key, system, "centimeter") for key in ("length", "width", "height"))
    found = volume(length or 0.0, width, height or 0.0)
    return _answer(f"{_told(found)}.", found)


def _chart(given: Given, system: System) -> Answer:
    del system
    written = given["steps"].replace(";", " ").split()
    unit = written.pop() if written and not written[-1][0].isdigit() else ""
    steps = _field(given, "steps", lambda _: [written_number(one) for one in written])
    try:
        found = by_chart(steps, _number(given, "place"), unit)
    except Refused as refused:
        raise Refused([Problem(f"given.{p.at.removeprefix('given.')}", p.says) for p in refused.problems]) from refused
    return _answer(f"{_told(found)}.", found, advice=(found.steps[-1],))


def _elapsed(given: Given, system: System) -> Answer:
    del system
    start, end = (_field(given, key, _moment) for key in ("start", "end"))
    hours = (end - start).total_seconds() / 3600
    if hours < 0:
        raise Refused("The end lies before the start.", "given.end")
    step = f"{end:%d %b %H:%M} − {start:%d %b %H:%M} = {told(hours, 'h')}."
    return _answer(f"{told(hours, 'h')}, or {told(hours / 24, 'days')}.", Worked(hours, "h", (step,)))


def _moment(text: str) -> datetime:
    try:
        return datetime.fromisoformat(text.strip()).replace(tzinfo=None)
    except ValueError:
        raise Refused("This is no day and hour, as in 2027-03-01 09:00.") from None


SIZE = Asked("size", "Size of one sample", "750 mL")
TOOL = Asked("tool", "Measured with, if you like", "1 mL by 0.1 mL", True)
FINAL = Asked("final", "How much of it", "3 L")

DRAWER: tuple[Sum, ...] = (
    Sum(
        "label",
        "Dose by the label’s rate",
        "rate × size",
        (Asked("rate", "Rate on the label", "4 mL/L"), SIZE, TOOL),
        _label,
    ),
    Sum(
        "pack",
        "Dose by what a pack treats",
        "pack / what it treats × size",
        (Asked("pack", "Pack", "400 mL treats 80 L"), SIZE, TOOL),
        _pack,
    ),
    Sum(
        "active",
        "Product for an active ingredient",
        "active × size / share",
        (
            Asked("active", "Active wanted", "0.4 lb/1000 ft2"),
            Asked("share", "Active in the product", "34 %"),
            Asked("size", "Size", "40 ft2"),
            Asked("tool", "Measured with, if you like", "50 g by 1 g", True),
        ),
        _active,
    ),
    Sum(
        "dilution",
        "Dilute a stock",
        "C1 · V1 = C2 · V2",
        (Asked("stock", "Strength of the stock", "40 %"), Asked("wanted", "Strength wanted", "10 %"), FINAL),
        _dilution,
    ),
    Sum(
        "ratio",
        "Mix by parts",
        "parts / all parts × how much",
        (Asked("ratio", "Parts", "15:1 water to product"), FINAL),
        _ratio,
    ),
    Sum(
        "convert",
        "The same in another unit",
        "by definition",
        (Asked("amount", "Amount", "1 1/2 US gal"), Asked("unit", "In", "L")),
        _convert,
    ),
    Sum(
        "alcohol",
        "Alcohol from gravity",
        "(OG − FG) × 131.25",
        (Asked("original", "Original gravity", "1.082"), Asked("final", "Final gravity", "1.004")),
        _alcohol,
    ),
    Sum(
        "discharge",
        "Battery through a resistor",
        "I = U/R, hours = capacity / I",
        (
            Asked("volts", "Voltage", "1.2 V"),
            Asked("ohms", "Resistance", "22 ohm"),
            Asked("capacity", "Capacity, for how long it lasts", "2000 mAh", True),
        ),
        _discharge,
    ),
    Sum(
        "beam",
        "Stiffness of a beam",
        "E = F·L³ / (48·I·δ), I = b·h³ / 12",
        (
            Asked("load", "Load in the middle", "1 kg"),
            Asked("span", "Span", "400 mm"),
            Asked("width", "Width", "50 mm"),
            Asked("thickness", "Thickness", "4 mm"),
            Asked("deflection", "It bends by", "6.2 mm"),
        ),
        _beam,
    ),
    Sum(
        "change",
        "Percent change and percent of control",
        "(after − before) / before",
        (Asked("before", "Before, or the control", "20"), Asked("after", "After, or the treatment", "15")),
        _change,
    ),
    Sum(
        "area",
        "Area of a plot",
        "a · b, or π · d² / 4",
        (
            Asked("length", "Length, or across where it is round", "2.4 m"),
            Asked("width", "Width, unless it is round", "1.2 m", True),
        ),
        _area,
    ),
    Sum(
        "volume",
        "Volume of a vessel",
        "area × height",
        (
            Asked("length", "Length, or across where it is round", "20 cm"),
            Asked("width", "Width, unless it is round", "12 cm", True),
            Asked("height", "Filled to a height of", "15 cm"),
        ),
        _volume,
    ),
    Sum(
        "chart",
        "Strength from a colour chart",
        "low + part × (high − low)",
        (
            Asked("steps", "Steps of the chart, in order", "0 0.25 0.5 1 2 4 ppm"),
            Asked("place", "Where the colour lies", "2.5"),
        ),
        _chart,
    ),
    Sum(
        "elapsed",
        "Elapsed time",
        "end − start",
        (Asked("start", "From", "2027-03-01 09:00"), Asked("end", "To", "2027-03-04 21:30")),
        _elapsed,
    ),
)
