"""The sums of the bench, each with its formula and its steps.

Sources: alcohol from gravity, (OG − FG) × 131.25 (the brewer's linear rule); Ohm's law; simple beam under a central load,
E = F·L³ / (48·I·δ) with I = b·h³/12; areas and volumes of rectangles, circles, boxes and cylinders.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

from fieldtally.core.dosing.steps import Worked
from fieldtally.core.problems import Refused
from fieldtally.core.quantities.amounts import told


def alcohol(original: float, final: float) -> Worked:
    """Alcohol in % by volume from the ``original`` and ``final`` specific gravity (1.000 is water).

    :raises Refused: no gravities, or the final one above the original.
    """
    if not 0.98 <= final <= original <= 1.2:
        raise Refused("Gravities lie between 0.980 and 1.200, the final one at most at the original (1.050, not 1050).")
    value = (original - final) * 131.25
    return Worked(
        value, "% vol", (f"(OG − FG) × 131.25 = ({original:.3f} − {final:.3f}) × 131.25 = {told(value, '% vol')}.",)
    )


def current(volts: float, ohms: float) -> Worked:
    """The current in mA that flows at ``volts`` across a resistor of ``ohms``."""
    _above_zero(volts=volts, resistance=ohms)
    found = 1000 * volts / ohms
    return Worked(found, "mA", (f"I = U/R = {told(volts, 'V')} / {told(ohms, 'Ω')} = {told(found, 'mA')}.",))


def discharge(volts: float, ohms: float, milliamp_hours: float) -> Worked:
    """Hours that a battery of ``milliamp_hours`` lasts at ``volts`` across a resistor of ``ohms``."""
    _above_zero(volts=volts, resistance=ohms, capacity=milliamp_hours)
    flows = current(volts, ohms)
    hours = milliamp_hours / flows.value
    return Worked(
        hours,
        "h",
        (*flows.steps, f"Hours = {told(milliamp_hours, 'mAh')} / {told(flows.value, 'mA')} = {told(hours, 'h')}."),
    )


def stiffness(load: float, span: float, width: float, thickness: float, deflection: float) -> Worked:
    """E in MPa of a simple beam of rectangular section under a central ``load`` (N); lengths in mm."""
    _above_zero(load=load, span=span, width=width, thickness=thickness, deflection=deflection)
    moment = width * thickness**3 / 12
    value = load * span**3 / (48 * moment * deflection)
    return Worked(
        value,
        "MPa",
        (
            f"I = b·h³/12 = {told(width, 'mm')} × ({told(thickness, 'mm')})³ / 12 = {told(moment, 'mm⁴')}.",
            f"E = F·L³/(48·I·δ) = {told(load, 'N')} × ({told(span, 'mm')})³ / (48 × {told(moment, 'mm⁴')} × "
            f"{told(deflection, 'mm')}) = {told(value, 'MPa')}.",
        ),
    )


def percent_change(before: float, after: float) -> Worked:
    """Change from ``before`` to ``after`` in percent of what was before."""
    if before == 0:
        raise Refused("A change in percent needs something to begin with; it was 0.")
    value = 100 * (after - before) / abs(before)
    return Worked(
        value, "%", (f"({told(after, '')} − {told(before, '')}) / {told(abs(before), '')} = {told(value, '%')}.",)
    )


def percent_of_control(value: float, control: float) -> Worked:
    """``value`` as percent of the ``control``."""
    if control == 0:
        raise Refused("The control is 0, so nothing can be told in percent of it.")
    share = 100 * value / control
    return Worked(share, "%", (f"{told(value, '')} / {told(control, '')} = {told(share, '%')}.",))


def area(length: float, width: float | None, unit: str = "m") -> Worked:
    """The area of a plot, ``length`` × ``width``; of a round one of diameter ``length`` where there is no width."""
    _above_zero(length=length, width=1.0 if width is None else width)
    if width is None:
        value = math.pi * length**2 / 4
        return Worked(
            value, f"{unit}²", (f"π · d² / 4 = π × ({told(length, unit)})² / 4 = {told(value, f'{unit}²')}.",)
        )
    value = length * width
    return Worked(
        value, f"{unit}²", (f"a · b = {told(length, unit)} × {told(width, unit)} = {told(value, f'{unit}²')}.",)
    )


def volume(length: float, width: float | None, height: float) -> Worked:
    """The volume in L of a vessel, all lengths in cm: a box, or a cylinder of diameter ``length`` where there is no width."""
    _above_zero(height=height)
    base = area(length, width, "cm")
    value = base.value * height / 1000
    return Worked(
        value,
        "L",
        (
            *base.steps,
            f"Volume = {told(base.value, 'cm²')} × {told(height, 'cm')} = {told(value, 'L')} (1000 cm³ to the litre).",
        ),
    )


def by_chart(steps: Sequence[float], place: float, unit: str) -> Worked:
    """The concentration at ``place`` on a colour chart (1 is its first step, 2.5 halfway between the second and the third), by
    straight interpolation, with half a step as its uncertainty, as of any graduated tool.

    :raises Refused: the chart has no two rising steps, or the place lies off it.
    """
    if len(steps) < 2 or any(b <= a for a, b in itertools.pairwise(steps)):
        raise Refused("A chart has at least two steps, each higher than the one before.", "steps")
    if not 1 <= place <= len(steps):
        raise Refused(
            f"The chart has the steps 1 to {len(steps)}; 2.5 is halfway between the second and the third.", "place"
        )
    below = min(int(place), len(steps) - 1)
    low, high = steps[below - 1], steps[below]
    value = low + (place - below) * (high - low)
    around = [b - a for a, b in itertools.pairwise(steps)]
    near = around[max(0, below - 2) : below] if place == below and below > 1 else [high - low]
    half = max(near) / 2
    return Worked(
        value,
        unit,
        (
            f"Between {told(low, unit)} and {told(high, unit)}: {told(low, '')} + {told(place - below, '')} × "
            f"({told(high, '')} − {told(low, '')}) = {told(value, unit)}.",
            f"Read to half a step: ± {told(half, unit)}.",
        ),
    )


def _above_zero(**values: float) -> None:
    for name, value in values.items():
        if not value > 0:
            raise Refused(f"The {name} lies above 0.", name)
