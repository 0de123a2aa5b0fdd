"""Figures as they are told: with the scale's own words, its unit, and no digit that nobody measured.

A reading stands on its scale; a mean of several is told with one decimal more than the scale is read to, and with three digits at most.  A
share is told in whole percent, and never as 0 or 100 where it is not quite.  The page tells figures by the same rules
(``web/src/parts/amounts.ts``); ``cases/figures.json`` holds both to it.
"""

from __future__ import annotations

import math
import re
from decimal import ROUND_HALF_UP, Decimal
from typing import Literal

from fieldtally.core.quantities.nouns import noun
from fieldtally.core.quantities.numbers import WIDE, honest
from fieldtally.core.scales import (
    CountScale,
    CurveScale,
    EventScale,
    GradeScale,
    LadderScale,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    Scale,
    ShadeScale,
    unit_of,
)

ValueOf = Literal["value", "change", "distance"]
DRAWS = 20_000
"""So many shuffles are drawn where there are more than can be counted."""
DIGITS = 3
LEVEL = 1e-9
DUST = 1e-3
COUNTED = re.compile(r"^[a-z]{3,}s$")
"""Units that are words for several."""
"""What lies nearer to 0 than this, on a scale that is read in coarser steps, is left by arithmetic."""


def decimals_of(scale: Scale) -> int | None:
    """How many decimals a mean on ``scale`` is told with; None where the scale does not say what it is read to.

    >>> decimals_of(MeasurementScale("mL", resolution=0.5)), decimals_of(CountScale(20)), decimals_of(PercentScale())
    (1, 1, 0)
    """
    match scale:
        case MeasurementScale(resolution=float() as step) | PercentScale(resolution=float() as step) if step > 0:
            return max(0, math.floor(-math.log10(step) + LEVEL) + 1)
        case CountScale() | ShadeScale() | GradeScale():
            return 1
        case _:
            return None


def number(value: float, scale: Scale) -> str:
    """The number of ``value`` on ``scale``, without its unit, a true minus before it where it lies below 0.

    >>> number(17.125, MeasurementScale("mL", resolution=0.5)), number(62.4, PercentScale())
    ('17.1', '62')
    >>> number(-0.04, CountScale()), number(1e-9, CountScale())
    ('−0.04', '0')
    """
    most = decimals_of(scale)
    if most is None:
        return minus(honest(value, DIGITS))
    plain = _rounded(value, most)
    if plain == 0 and abs(value) >= DUST:
        # A rare thing counted over many samples is not nothing.
        return minus(honest(value, 1))
    # Digits before the point are told as they are, those behind it as far as three in all.
    return minus(honest(plain, DIGITS))


def _rounded(value: float, decimals: int) -> float:
    return float(Decimal(value).quantize(Decimal(1).scaleb(-decimals), ROUND_HALF_UP, WIDE))


def minus(text: str) -> str:
    """``text`` with a true minus."""
    return text.replace("-", "−")


def share(value: float) -> str:
    """A share (0 to 1) in whole percent, without the sign; 0 and 100 only where it is just that.

    >>> share(0.625), share(0.996), share(0.0004), share(1.0), share(0.999999)
    ('63', '99.6', '<0.1', '100', '>99.9')
    """
    percent = 100 * value
    whole = _rounded(percent, 0)
    if 0 < whole < 100 or percent in (0.0, 100.0):
        return minus(honest(whole))
    if whole <= 0 < percent:
        return honest(percent, 1) if percent >= 0.1 else "<0.1"
    if whole >= 100 > percent:
        tenth = math.floor(10 * percent) / 10
        return honest(tenth) if percent <= 99.9 else ">99.9"
    return minus(honest(whole))


def hundred(chance: float) -> str:
    """A chance as so many in 100: never 0 or 100 where it was not always.

    >>> hundred(0.746), hundred(0.998), hundred(0.0)
    ('75', '99', '0')
    """
    many = int(_rounded(100 * chance, 0))
    return str(min(99, max(1, many)) if 0 < chance < 1 else many)


def amount(value: float, scale: Scale, of: ValueOf = "value") -> str:
    """``value`` of an estimate on ``scale``, with its unit or in its words: ``17.1 of 20``, ``34 mL``, ``62 %``, ``between B and A``.

    A change between two looks is told with its sign, a distance from a target without one.

    >>> amount(0.625, PassFailScale()), amount(17.125, CountScale(20, "seeds")), amount(4.4, ShadeScale(()))
    ('63 %', '17.1 of 20', 'step 4.4')
    >>> amount(4.4, ShadeScale(()), "change"), amount(1, CountScale(20, "seeds"), "change"), amount(0.5, ShadeScale(()), "distance")
    ('+4.4 steps', '+1 seed', '0.5 steps')
    """
    if of != "value":
        return difference(value, scale, signed=of == "change")
    match scale:
        case PassFailScale() | EventScale():
            return f"{share(value)} %"
        case CountScale(of=int() as whole):
            return f"{number(value, scale)} of {whole}"
        case CountScale(what=what) if what.strip():
            told = number(value, scale)
            return f"{told} {noun(what).one if told == '1' else noun(what).many}"
        case ShadeScale():
            return f"step {number(value, scale)}"
        case GradeScale():
            return graded(value, scale)
        case MeasurementScale() | PercentScale() | LadderScale() | CurveScale():
            return with_unit(number(value, scale), unit_of(scale))
        case _:
            return number(value, scale)


def with_unit(told: str, unit: str) -> str:
    """A number with its unit, one of it where it counts something.

    >>> with_unit("1", "days"), with_unit("1.5", "days"), with_unit("1", "mm"), with_unit("3", ""), with_unit("1", "washes")
    ('1 day', '1.5 days', '1 mm', '3', '1 wash')
    """
    if told.lstrip("+−") == "1" and COUNTED.search(unit):
        unit = noun(unit).one
    return f"{told} {unit}".strip()


def reading_told(value: float, scale: Scale) -> str:
    """One reading, as it was given.

    >>> reading_told(14, MeasurementScale("mL")), reading_told(1, PassFailScale("held", "broke")), reading_told(7, CountScale(20))
    ('14 mL', 'held', '7')
    """
    match scale:
        case GradeScale(levels=levels):
            return next((level.label for level in levels if level.value == value), honest(value))
        case PassFailScale(pass_word=passed, fail_word=failed):
            return passed if value == 1 else failed
        case EventScale():
            return "seen" if value == 1 else "not yet"
        case ShadeScale(steps=steps) if float(value).is_integer() and 1 <= value <= len(steps):
            return steps[int(value) - 1].label
        case LadderScale(unit=unit):
            return "held nothing" if value == 0 else f"held {honest(value, 6)} {unit}"
        case MeasurementScale() | PercentScale() | CurveScale():
            return f"{minus(honest(value, 6))} {unit_of(scale)}".strip()
        case _:
            return minus(honest(value, 9))


def entered(value: float, scale: Scale) -> str:
    """A reading as it stands in a table, under a heading that says its outcome: in the words of its scale, without a unit.

    >>> entered(14, MeasurementScale("mL")), entered(0, PassFailScale("held", "broke")), entered(2.5, ShadeScale(()))
    ('14', 'broke', '2.5')
    """
    if isinstance(scale, GradeScale | PassFailScale | EventScale | ShadeScale):
        return reading_told(value, scale)
    return minus(honest(value, 6))


def difference(value: float, scale: Scale, *, signed: bool = True) -> str:
    """A difference on ``scale`` with its sign (if it is ``signed``) and unit: ``+3.4 mL``, ``−12 points``, ``+1 grade``."""
    match scale:
        case PassFailScale() | EventScale():
            told, unit = signed_share(value), "points"
        case PercentScale():
            told, unit = number(value, scale), "points"
        case GradeScale():
            told, unit = number(value, scale), "grades"
        case ShadeScale():
            told, unit = number(value, scale), "steps"
        case _:
            told, unit = number(value, scale), unit_of(scale)
    if isinstance(scale, CountScale) and unit.strip():
        unit = noun(unit).one if told in ("1", "−1") else noun(unit).many
    plus = "+" if signed and value > 0 and told != "0" else ""
    return with_unit(f"{plus}{told}", unit)


def signed_share(value: float) -> str:
    """A difference of shares in points of a hundred."""
    return minus(honest(_rounded(100 * value, 0 if abs(value) >= 0.01 or value == 0 else 1)))


def graded(value: float, scale: GradeScale) -> str:
    """A middle grade by the label of its level, or the two that it lies between.

    >>> from fieldtally.core.scales import Level
    >>> letters = GradeScale((Level(0, "C"), Level(1, "B"), Level(2, "A")))
    >>> graded(2, letters), graded(1.5, letters)
    ('A', 'between B and A')
    """
    below = [level for level in scale.levels if level.value <= value + LEVEL]
    above = [level for level in scale.levels if level.value >= value - LEVEL]
    if not below or not above:
        return (below or above)[-1 if below else 0].label
    return below[-1].label if below[-1].label == above[0].label else f"between {below[-1].label} and {above[0].label}"


def labelled(value: float, scale: GradeScale) -> str | None:
    """A mean of grades on the numbers that people gave: of levels 1 to 5 that are kept as 0 to 4, what lies at 2.4 is 3.4.  None where
    levels are no numbers, so that a mean of them says nothing.

    >>> from fieldtally.core.scales import Level
    >>> labelled(2.4, GradeScale(tuple(Level(n, str(n + 1)) for n in range(5)))), labelled(1, GradeScale((Level(0, "B"), Level(1, "A"))))
    ('3.4', None)
    """
    try:
        own = [float(level.label.replace("½", ".5")) for level in scale.levels]
    except ValueError:
        return None
    values = [level.value for level in scale.levels]
    if not values[0] - LEVEL <= value <= values[-1] + LEVEL or own != sorted(own):
        return None
    at = next((i for i in range(1, len(values)) if value <= values[i]), len(values) - 1)
    part = (value - values[at - 1]) / (values[at] - values[at - 1])
    return number(own[at - 1] + part * (own[at] - own[at - 1]), scale)


def money(value: float, sign: str) -> str:
    """Money with its sign: whole hundredths, and of what costs less than ten of them two digits.

    >>> money(3.5, "£"), money(0.0034, "£"), money(0, "£")
    ('£3.50', '£0.0034', '£0.00')
    """
    small = 0 < abs(value) < 0.0995
    return f"{sign}{honest(value, 2)}" if small else f"{sign}{value:,.2f}"


def told_p(p: float, method: str = "", arrangements: int = 0) -> str:
    """``p`` with two digits, one below 0.001; where draws cannot say less it is told as a bound.

    >>> told_p(0.02857), told_p(0.000816), told_p(1 / 20001, "draws", 20000), told_p(0.9999)
    ('0.029', '0.0008', '≤ 0.00005', '1')
    >>> told_p(1 / 20001), told_p(1 / 50000, "exact", 50000)
    ('≤ 0.00005', '0.00002')
    """
    told = honest(p, 2 if p >= 0.001 else 1)
    least = method != "exact" and p * ((arrangements or DRAWS) + 1) < 1.5
    return f"≤ {told}" if least else told
