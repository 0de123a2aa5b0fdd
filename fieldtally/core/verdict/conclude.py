"""From a trial's values to its verdicts: every outcome at every checkpoint, and the outcome's own summary.

Only the summary of a primary outcome carries a claim; several primaries share the level by Holm.  All else is supporting.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.compare.columns import Column, Comparison, Kind, compare_columns, compared_as
from fieldtally.core.compare.events import EventCourse, event_course
from fieldtally.core.compare.laid_out import structure_of
from fieldtally.core.compare.structure import Structure
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.scales import EventScale, LadderScale, Scale, honest
from fieldtally.core.verdict.strength import UNDIRECTED, Circumstances, Strength, judge, leader_p
from fieldtally.core.verdict.summing import Summed, summed
from fieldtally.core.verdict.words import luck, sentence


@dataclass(frozen=True)
class Finding:
    """One outcome at one checkpoint, or (``checkpoint`` None) its summary.

    Its figures are told on ``scale``; ``numbers`` are those of each sample, in order, None where missing; ``courses`` the share still
    without an event (or, of a ladder, still holding) by treatment.
    """

    outcome: str
    checkpoint: str | None
    when: str
    claim: bool
    comparison: Comparison
    strength: Strength
    sentence: str
    chance: str
    scale: Scale
    numbers: tuple[float | None, ...]
    courses: tuple[EventCourse, ...]


@dataclass(frozen=True)
class Samples:
    """The samples of a trial, in one order: treatments (keys) and blocks (keys, or None)."""

    treatments: tuple[str, ...]
    blocks: tuple[str | None, ...]
    plots: tuple[int | None, ...] = ()
    rows: tuple[int | None, ...] = ()
    columns: tuple[int | None, ...] = ()

    def labels(self, plan: Plan) -> Ints:
        """Indices (n,) into the plan's treatments."""
        index = {treatment.key: i for i, treatment in enumerate(plan.treatments)}
        return np.array([index[key] for key in self.treatments], dtype=np.int64)

    def structure(self, plan: Plan) -> Structure:
        """What the layout of ``plan`` was for these samples."""
        nowhere = (None,) * len(self.treatments)
        return structure_of(
            plan,
            self.treatments,
            self.blocks,
            self.plots or nowhere,
            self.rows or nowhere,
            self.columns or nowhere,
        )


def conclude(
    plan: Plan,
    samples: Samples,
    values: Mapping[tuple[str, str], Floats],
    rng: np.random.Generator,
    *,
    planned: tuple[int, ...] | None = None,
    key_known: bool = False,
) -> list[Finding]:
    """The findings of ``plan``: for each outcome its summary, then its checkpoints in order of time.

    ``values`` holds, for (outcome key, checkpoint key), an array (n,) in the order of ``samples``, NaN where missing.
    ``planned`` is the number of samples each treatment had at the start.
    """
    wanted: list[tuple[Outcome, str | None, Summed]] = []
    gap = np.full(len(samples.treatments), np.nan)
    for outcome in plan.outcomes:
        if not outcome.compared:
            continue
        looked_at = plan.looked_at(outcome)
        series = {c.key: values.get((outcome.key, c.key), gap) for c in looked_at}
        if isinstance(outcome.scale, EventScale):
            series = _seen_by(series)
        wanted.append((outcome, None, summed(plan, outcome, series)))
        wanted += [
            (outcome, c.key, Summed(series[c.key], outcome.scale, f"at {c.name}", _about(outcome))) for c in looked_at
        ]
    if not wanted:
        return []
    control, structure = plan.control, samples.structure(plan)
    compared = compare_columns(
        np.column_stack([_judged(outcome, one) for outcome, _, one in wanted]),
        [_column(outcome, one) for outcome, _, one in wanted],
        samples.labels(plan),
        [treatment.name for treatment in plan.treatments],
        structure.blocks,
        rng,
        structure=structure,
        alpha=plan.alpha,
        control=plan.treatments.index(control) if control and plan.compare == "control" else None,
        spans={j: one.spans for j, (_, _, one) in enumerate(wanted) if one.spans is not None and _timed(one)},
    )
    circumstances = Circumstances(
        planned=planned,
        controls=tuple(t.name for t in plan.treatments if t.is_control),
        key_known=key_known,
    )
    levels = _shared_level(plan, [(o, c, comparison) for (o, c, _), comparison in zip(wanted, compared, strict=True)])
    labels = samples.labels(plan)
    findings = []
    for (outcome, checkpoint, one), comparison in zip(wanted, compared, strict=True):
        claim = outcome.primary and checkpoint is None
        alpha = levels[outcome.key] if claim else plan.level
        strength = (
            UNDIRECTED
            if outcome.better == "none"
            else judge(comparison, alpha=alpha, margin=_margin(outcome, one), circumstances=circumstances)
        )
        findings.append(
            Finding(
                outcome.key,
                checkpoint,
                one.when,
                claim,
                comparison,
                strength,
                sentence(strength, comparison, one.scale, one.about, one.when),
                luck(leader_p(comparison)),
                one.scale,
                tuple(None if np.isnan(value) else float(value) for value in one.values),
                _courses(plan, one, labels, rng),
            )
        )
    return findings


def _seen_by(series: dict[str, Floats]) -> dict[str, Floats]:
    """An event that was seen once stays seen: at each look whether it was seen by then."""
    seen: Floats | None = None
    found = {}
    for key, column in series.items():
        seen = column if seen is None else np.where(seen == 1.0, 1.0, column)
        found[key] = seen
    return found


def _timed(one: Summed) -> bool:
    """Whether the values are times of an event, compared by log-rank scores; a ladder's steps are compared as grades are."""
    return one.spans is not None and not isinstance(one.scale, LadderScale)


def _margin(outcome: Outcome, one: Summed) -> float | None:
    """The margin, where the values are still in the unit it was given in."""
    return outcome.margin if one.scale == outcome.scale else None


def _courses(plan: Plan, one: Summed, labels: Ints, rng: np.random.Generator) -> tuple[EventCourse, ...]:
    if one.spans is None:
        return ()
    found = []
    for t, treatment in enumerate(plan.treatments):
        own = (labels == t) & ~np.isnan(one.values)
        if own.any():
            found.append(event_course(treatment.name, one.spans.kept(own), rng, plan.alpha))
    return tuple(found)


def _column(outcome: Outcome, one: Summed) -> Column:
    better: Literal["more", "less"] = "more" if outcome.better in ("more", "none") else "less"
    if one.flips:
        better = "less" if better == "more" else "more"
    if _timed(one):
        return Column("event", better)
    kind: Kind = compared_as(one.scale)
    column = Column(kind, better, one.scale.ends)
    if outcome.better == "target" or one.changed:
        # A change or a distance is no longer on the scale: it has other ends, and grades or passes become differences.
        return replace(column, kind="grade" if kind == "grade" else "measurement", ends=None)
    return column


def _judged(outcome: Outcome, one: Summed) -> Floats:
    """The values that are compared: as they are, or how far they lie from the target."""
    return np.asarray(np.abs(one.values - (outcome.target or 0.0))) if outcome.better == "target" else one.values


def _about(outcome: Outcome) -> str:
    """The outcome as the sentence calls it."""
    if outcome.better == "target" and outcome.target is not None:
        return f"{outcome.name}, distance from {honest(outcome.target)},"
    return outcome.name


def _shared_level(plan: Plan, found: list[tuple[Outcome, str | None, Comparison]]) -> dict[str, float]:
    """The level at which each primary outcome's summary is judged: Holm's steps over the primaries."""
    claims = sorted(
        (
            (leader_p(comparison), outcome.key)
            for outcome, checkpoint, comparison in found
            if outcome.primary and checkpoint is None
        )
    )
    levels: dict[str, float] = {}
    failed: float | None = None
    for rank, (p, key) in enumerate(claims):
        # Once a step fails, no larger p may pass: the failed level stands for all that follow.
        levels[key] = plan.level / (len(claims) - rank) if failed is None else failed
        if failed is None and p > levels[key]:
            failed = levels[key]
    return levels
