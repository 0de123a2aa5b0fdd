"""Instruments, kits and eyes as outcomes of a trial that asks whether they agree: what each reads, in the unit they are all told in."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Sequence
from itertools import pairwise

from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.problems import Refused
from fieldtally.core.quantities.converting import converted
from fieldtally.core.quantities.numbers import folded, number_in
from fieldtally.core.scales import (
    CountScale,
    GradeScale,
    LadderScale,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    ShadeScale,
    unit_of,
)

NOTHING = ("none", "nothing", "blank")


def kit(outcome: Outcome) -> bool:
    """Whether it says no more than pass or fail."""
    return isinstance(outcome.scale, PassFailScale)


def told_in(plan: Plan) -> str:
    """The unit that all of them are told in; empty where none has any."""
    asked = plan.agreement.unit.strip() if plan.agreement is not None else ""
    own = (unit_of(o.scale) for o in plan.outcomes if isinstance(o.scale, MeasurementScale | PercentScale))
    return asked or next((unit for unit in own if unit), "")


def reads(plan: Plan, outcome: Outcome) -> Callable[[float], float]:
    """What a value kept on the scale of ``outcome`` says, in the unit of all: a chart its labels and not the number of its step, between
    two of them as far between; pass or fail 0 or 1, 1 failed.

    :raises Refused: it says no amount, or one of something else.
    """
    scale, unit = outcome.scale, told_in(plan)
    name = outcome.name.strip() or "This"
    match scale:
        case PassFailScale():
            return lambda value: 1.0 - value
        case ShadeScale():
            return _between(range(1, len(scale.steps) + 1), [step.label for step in scale.steps], name)
        case GradeScale():
            levels = sorted(scale.levels, key=lambda level: level.value)
            return _between([level.value for level in levels], [level.label for level in levels], name)
        case MeasurementScale() | PercentScale():
            own = unit_of(scale)
            if not own or not unit or own == unit:
                return lambda value: value
            nothing, one = converted(0.0, own, unit), converted(1.0, own, unit)
            if nothing is None or one is None:
                raise Refused(f"{name} reads in {own}, which is no {unit}: they could not be held against each other.")
            return lambda value: nothing + value * (one - nothing)
        case CountScale() | LadderScale():
            return lambda value: value
        case _:
            raise Refused(
                f"{name} says no amount that others could be held against: a number, a chart, or pass and fail."
            )


def _between(values: Sequence[float], labels: Sequence[str], name: str) -> Callable[[float], float]:
    """What lies at each of ``values`` (rising), told by ``labels``, and between them.

    :raises Refused: a label is no number, or they do not rise.
    """
    try:
        amounts = [0.0 if folded(label) in NOTHING else number_in(label) for label in labels]
    except Refused as refused:
        raise Refused(
            f"{name} is read at its labels, and they are words: name each by how much it stands for."
        ) from refused
    if any(b <= a for a, b in pairwise(amounts)):
        raise Refused(f"The labels of {name} do not rise from step to step.")

    def read(value: float) -> float:
        i = min(max(bisect_right(values, value) - 1, 0), len(values) - 2)
        share = (value - values[i]) / (values[i + 1] - values[i])
        return amounts[i] + share * (amounts[i + 1] - amounts[i])

    return read
