"""One number for each sample: what an outcome's looks come to, by the summary that the plan fixed.

A value at a look; its change or percent change from an earlier one; the area under the series for each day, which is its mean over
time; its slope; the time until it crosses a threshold; of an event the time without it.  Times are in days, in hours where the
trial is shorter than two days, and in cycles where its looks follow cycles.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.compare.events import Spans, spans_of
from fieldtally.core.compare.persample import change
from fieldtally.core.design.plan import Checkpoint, Outcome, Plan
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.scales import EventScale, LadderScale, MeasurementScale, Scale, honest, unit_of
from fieldtally.core.schedule.naming import called
from fieldtally.core.verdict.telling.names import lowered

HOUR, DAY = 60.0, 24 * 60.0


@dataclass(frozen=True)
class Summed:
    """What is judged: ``values`` (n,) on ``scale``, what it is called (``about``) and ``when``.

    ``spans`` where they are times of an event; ``flips``: more of it is better where less of the outcome was; ``changed``: the values are
    differences, which have other ends than the scale.
    """

    values: Floats
    scale: Scale
    when: str
    about: str
    spans: Spans | None = None
    flips: bool = False
    changed: bool = False


def times_of(plan: Plan, looks: Sequence[Checkpoint]) -> tuple[MeasurementScale, Floats]:
    """When ``looks`` come (l,), and the scale on which times between them are told: in cycles where they follow cycles, else in days, hours
    or minutes; no finer than the looks stand apart."""
    counted = [c for c in looks if not c.baseline]
    if counted and all(c.cycle is not None for c in counted):
        unit, times = noun(plan.cycle_word.strip() or "cycle").many, np.array([float(c.cycle or 0) for c in looks])
    else:
        unit, minutes = _unit_of_time(plan)
        times = np.array([c.offset / minutes for c in looks])
    gaps = np.diff(np.unique(times))
    apart = float(gaps.min()) if len(gaps) else 0.0
    return MeasurementScale(unit, 1.0 if apart >= 0.9 else 0.1 if apart >= 0.09 else None), times


def _unit_of_time(plan: Plan) -> tuple[str, float]:
    """The unit in which times are told, and its minutes."""
    longest = max((c.offset for c in plan.checkpoints), default=0)
    if longest >= 2 * DAY:
        return "days", DAY
    return ("h", HOUR) if longest >= 2 * HOUR else ("min", 1.0)


def summed(plan: Plan, outcome: Outcome, series: Mapping[str, Floats]) -> Summed:
    """The number of each sample; ``series`` holds the values (n,) of each look (key) of the outcome, NaN where missing."""
    looks = plan.looked_at(outcome)
    last = plan.judged_at(outcome) or looks[-1].key
    until = [c for c in looks if c.offset <= next(one.offset for one in looks if one.key == last)] or list(looks)
    names = {c.key: called(c) for c in looks}
    first = outcome.summary.baseline or looks[0].key
    at_end, name = series[last], _about(outcome)
    if isinstance(outcome.scale, EventScale):
        return _event(plan, outcome, series, until, names[last])
    over = f"from {names[first]} to {names[last]}"
    match outcome.summary.kind:
        case "change":
            return Summed(change(at_end, series[first]), outcome.scale, over, name, changed=True)
        case "percent":
            with np.errstate(divide="ignore", invalid="ignore"):
                values = 100 * change(at_end, series[first]) / np.abs(series[first])
            values = np.where(np.isfinite(values), values, np.nan)
            return Summed(values, MeasurementScale("%"), over, f"{name}, change in percent,", changed=True)
        case "area" | "slope":
            return _over_time(plan, outcome, series, until, over, name)
        case "threshold":
            return _threshold(plan, outcome, series, until, names[last])
        case _:
            spans = ladder_spans(outcome.scale, at_end)
            return Summed(at_end, outcome.scale, f"at {names[last]}", name, spans)


def _about(outcome: Outcome) -> str:
    if outcome.better == "target" and outcome.target is not None:
        return f"{outcome.name}, distance from {honest(outcome.target)},"
    return outcome.name


def _matrix(series: Mapping[str, Floats], looks: Sequence[Checkpoint]) -> Floats:
    return np.column_stack([series[c.key] for c in looks])


def _event(
    plan: Plan, outcome: Outcome, series: Mapping[str, Floats], until: Sequence[Checkpoint], last: str
) -> Summed:
    scale, times = times_of(plan, until)
    spans = spans_of(_matrix(series, until), times)
    return Summed(
        spans.without,
        scale,
        f"up to {last}",
        f"time without {lowered(outcome.name)},",
        spans,
        flips=True,
    )


def _over_time(
    plan: Plan, outcome: Outcome, series: Mapping[str, Floats], until: Sequence[Checkpoint], over: str, name: str
) -> Summed:
    (clock, times), table = times_of(plan, until), _matrix(series, until)
    if outcome.summary.kind == "area":
        return Summed(mean_over_time(table, times), outcome.scale, over, f"{name}, mean over time,")
    one = noun(clock.unit).one if clock.unit.endswith("s") else clock.unit
    per = MeasurementScale(f"{unit_of(outcome.scale)} per {one}")
    return Summed(slopes(table, times), per, over, f"{name}, slope,", changed=True)


def mean_over_time(table: Floats, times: Floats) -> Floats:
    """The area under each row of ``table`` (n, l) over ``times`` (l,), divided by its length; gaps inside are bridged straight, and a row
    without its first or last value has none.

    >>> mean_over_time(np.array([[0.0, np.nan, 4.0], [np.nan, 1.0, 1.0]]), np.array([0.0, 1.0, 4.0])).tolist()
    [2.0, nan]
    """
    found = np.full(len(table), np.nan)
    for i, row in enumerate(table):
        known = ~np.isnan(row)
        if known[0] and known[-1] and times[-1] > times[0]:
            found[i] = np.trapezoid(row[known], times[known]) / (times[-1] - times[0])
    return found


def slopes(table: Floats, times: Floats) -> Floats:
    """The slope of the least-squares line through each row; NaN with fewer than two values.

    >>> slopes(np.array([[1.0, np.nan, 5.0], [2.0, np.nan, np.nan]]), np.array([0.0, 1.0, 2.0])).tolist()
    [2.0, nan]
    """
    found = np.full(len(table), np.nan)
    for i, row in enumerate(table):
        known = ~np.isnan(row)
        if known.sum() > 1:
            at = times[known] - times[known].mean()
            found[i] = float((at * row[known]).sum() / (at**2).sum())
    return found


def _threshold(
    plan: Plan, outcome: Outcome, series: Mapping[str, Floats], until: Sequence[Checkpoint], last: str
) -> Summed:
    """Time until the value is on the other side of the threshold than where the samples began; sooner is better where that is the better
    side."""
    scale, times = times_of(plan, until)
    at = outcome.summary.threshold or 0.0
    table = _matrix(series, until)
    began = float(np.nanmean(table[:, 0])) if not np.isnan(table[:, 0]).all() else 0.0
    rising = began < at
    crossed = np.where(np.isnan(table), np.nan, (table >= at) if rising else (table <= at)).astype(np.float64)
    spans = spans_of(crossed, times)
    sooner = rising == (outcome.better != "less")
    word = "above" if rising else "below"
    return Summed(
        spans.without,
        scale,
        f"up to {last}",
        f"time until {lowered(outcome.name)} is {word} {honest(at)},",
        spans,
        flips=sooner == (outcome.better != "less"),
    )


def ladder_spans(scale: Scale, held: Floats) -> Spans | None:
    """Of a ladder (None: it is none): failed between the step that was held and the next one; what held the top is known only to bear
    more."""
    if not isinstance(scale, LadderScale):
        return None
    steps = np.array([0.0, *scale.steps])
    place = np.searchsorted(steps, np.nan_to_num(held), side="right")
    right = np.where(place < len(steps), steps[np.minimum(place, len(steps) - 1)], np.inf)
    return Spans(held, right)
