"""The sums of the bench, each with its formula and its steps.

Sources: alcohol from gravity, (OG − FG) × 131.25 (the brewer's linear rule); Ohm's law; simple beam under a central load,
E = F·L³ / (48·I·δ) with I = b·h³/12.
"""

from __future__ import annotations

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


def discharge(volts: float, ohms: float, milliamp_hours: float) -> Worked:
    """Hours that a battery of ``milliamp_hours`` lasts at ``volts`` across a resistor of ``ohms``."""
    _above_zero(volts=volts, resistance=ohms, capacity=milliamp_hours)
    current = 1000 * volts / ohms
    return Worked(
        milliamp_hours / current,
        "h",
        (
            f"I = U/R = {told(volts, 'V')} / {told(ohms, 'Ω')} = {told(current, 'mA')}.",
            f"Hours = {told(milliamp_hours, 'mAh')} / {told(current, 'mA')} = {told(milliamp_hours / current, 'h')}.",
        ),
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


def _above_zero(**values: float) -> None:
    for name, value in values.items():
        if not value > 0:
            raise Refused(f"The {name} lies above 0.", name)
