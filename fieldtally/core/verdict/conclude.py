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
from fieldtally.core.compare.laid_out import structure_of
from fieldtally.core.compare.persample import change
from fieldtally.core.compare.structure import Structure
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.scales import EventScale, honest
from fieldtally.core.verdict.strength import UNDIRECTED, Circumstances, Strength, judge, leader_p
from fieldtally.core.verdict.words import luck, sentence


@dataclass(frozen=True)
class Finding:
    """One outcome at one checkpoint, or (``checkpoint`` None) its summary."""

    outcome: str
    checkpoint: str | None
    when: str
    claim: bool
    comparison: Comparison
    strength: Strength
    sentence: str
    chance: str


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
    wanted: list[tuple[Outcome, str | None, str, Floats]] = []
    gap = np.full(len(samples.treatments), np.nan)
    for outcome in plan.outcomes:
        if not outcome.compared:
            continue
        looked_at = plan.looked_at(outcome)
        series = {c.key: values.get((outcome.key, c.key), gap) for c in looked_at}
        if isinstance(outcome.scale, EventScale):
            series = _seen_by(series)
        names = {c.key: c.name for c in looked_at}
        last = plan.judged_at(outcome) or looked_at[-1].key
        when, summary = f"at {names[last]}", series[last]
        if outcome.summary.kind == "change":
            first = outcome.summary.baseline or looked_at[0].key
            when, summary = f"from {names[first]} to {names[last]}", change(summary, series[first])
        wanted.append((outcome, None, when, summary))
        wanted += [(outcome, c.key, f"at {c.name}", series[c.key]) for c in looked_at]
    if not wanted:
        return []
    control, structure = plan.control, samples.structure(plan)
    compared = compare_columns(
        np.column_stack([_judged(outcome, column) for outcome, _, _, column in wanted]),
        [_column(outcome, changed=checkpoint is None) for outcome, checkpoint, *_ in wanted],
        samples.labels(plan),
        [treatment.name for treatment in plan.treatments],
        structure.blocks,
        rng,
        structure=structure,
        alpha=plan.alpha,
        control=plan.treatments.index(control) if control and plan.compare == "control" else None,
    )
    circumstances = Circumstances(
        planned=planned,
        controls=tuple(t.name for t in plan.treatments if t.is_control),
        key_known=key_known,
    )
    levels = _shared_level(plan, [(o, c, comparison) for (o, c, *_), comparison in zip(wanted, compared, strict=True)])
    findings = []
    for (outcome, checkpoint, when, _), comparison in zip(wanted, compared, strict=True):
        claim = outcome.primary and checkpoint is None
        alpha = levels[outcome.key] if claim else plan.alpha
        strength = (
            UNDIRECTED
            if outcome.better == "none"
            else judge(comparison, alpha=alpha, margin=outcome.margin, circumstances=circumstances)
        )
        findings.append(
            Finding(
                outcome.key,
                checkpoint,
                when,
                claim,
                comparison,
                strength,
                sentence(strength, comparison, outcome.scale, _about(outcome), when),
                luck(leader_p(comparison)),
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


def _column(outcome: Outcome, *, changed: bool) -> Column:
    kind: Kind = compared_as(outcome.scale)
    better: Literal["more", "less"] = "more" if outcome.better in ("more", "none") else "less"
    column = Column(kind, better, outcome.scale.ends)
    if outcome.better == "target" or (changed and outcome.summary.kind == "change"):
        # A change or a distance is no longer on the scale: it has other ends, and grades or passes become differences.
        return replace(column, kind="grade" if kind == "grade" else "measurement", ends=None)
    return column


def _judged(outcome: Outcome, values: Floats) -> Floats:
    """The values that are compared: as they are, or how far they lie from the target."""
    return np.asarray(np.abs(values - (outcome.target or 0.0))) if outcome.better == "target" else values


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
        levels[key] = plan.alpha / (len(claims) - rank) if failed is None else failed
        if failed is None and p > levels[key]:
            failed = levels[key]
    return levels
