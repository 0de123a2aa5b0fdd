"""From a trial's values to its verdicts: every outcome at every checkpoint, and the outcome's own summary.

Only the summary of a primary outcome carries a claim; several primaries share the level by Holm.  All else is supporting.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.compare.columns import Column, Comparison, References, compare_columns, compared_as, worth
from fieldtally.core.compare.events import EventCourse, Spans
from fieldtally.core.compare.laid_out import structure_of
from fieldtally.core.compare.places import Where, who_wins_early_and_late, who_wins_where
from fieldtally.core.compare.ranks import midranks
from fieldtally.core.compare.scores import block_log_rank
from fieldtally.core.compare.structure import Structure
from fieldtally.core.design.asked import asks_some, planned_for
from fieldtally.core.design.later import never_beside
from fieldtally.core.design.plan import Outcome, Plan, Treatment
from fieldtally.core.kinds import Kind
from fieldtally.core.scales import EventScale, LadderScale, Scale, honest
from fieldtally.core.schedule.naming import called
from fieldtally.core.verdict.strength import UNDIRECTED, Circumstances, Strength, judge, leader_p, nearest_rival
from fieldtally.core.verdict.summing import Summed, ladder_spans, summed
from fieldtally.core.verdict.telling.headline import luck, sentence
from fieldtally.core.verdict.telling.names import listed


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
    where: tuple[Where, ...] = ()
    """Who wins where, of the summary of an outcome that has a better side."""


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
    key_known: Collection[str] = (),
    summaries_only: bool = False,
    references: References | None = None,
) -> list[Finding]:
    """The findings of ``plan``: for each outcome its summary, then its checkpoints in order of time.

    ``values`` holds, for (outcome key, checkpoint key), an array (n,) in the order of ``samples``, NaN where missing.
    ``planned`` is the number of samples each treatment had at the start; ``key_known`` the outcomes (keys) that were scored by somebody who
    knew the key.  With ``summaries_only`` checkpoints are compared only where an outcome's summary needs them.
    ``references`` are shared with other findings of the same samples.
    """
    wanted = _wanted(plan, samples, values, summaries_only=summaries_only)
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
        spans={j: one.spans for j, (_, _, one) in enumerate(wanted) if one.spans is not None},
        references=references,
    )
    around = Circumstances(
        planned=planned,
        controls=tuple(t.name for t in plan.treatments if t.is_control),
        apart={late.name: f"added later, and never beside {_either(apart)}" for late, apart in never_beside(plan)},
    )
    some = planned is not None and asks_some(plan)
    judged = [
        Compared(
            outcome,
            checkpoint,
            one,
            comparison,
            replace(
                around,
                key_known=outcome.key in key_known,
                planned=planned_for(plan, outcome) if some else planned,
            ),
        )
        for (outcome, checkpoint, one), comparison in zip(wanted, compared, strict=True)
    ]
    levels = _shared_level(plan, judged)
    where = _where(plan, samples, judged, rng)
    return [_finding(plan, one, levels, where) for one in judged]


def _either(treatments: Sequence[Treatment]) -> str:
    return listed([one.name.strip() for one in treatments]).replace(" and ", " or ")


Wanted = tuple[Outcome, str | None, Summed]
"""An outcome, its checkpoint (None: its summary), and the values that are compared there."""


@dataclass(frozen=True)
class Compared:
    """What is judged: an outcome at a checkpoint (None: its summary) with its values, what was compared, and what surrounds it."""

    outcome: Outcome
    checkpoint: str | None
    summed: Summed
    comparison: Comparison
    around: Circumstances


def _wanted(
    plan: Plan, samples: Samples, values: Mapping[tuple[str, str], Floats], *, summaries_only: bool
) -> list[Wanted]:
    """All that is compared, an outcome's summary before its checkpoints."""
    found: list[Wanted] = []
    gap = np.full(len(samples.treatments), np.nan)
    for outcome in plan.outcomes:
        if not outcome.compared:
            continue
        looked_at = plan.looked_at(outcome)
        series = {c.key: values.get((outcome.key, c.key), gap) for c in looked_at}
        if isinstance(outcome.scale, EventScale):
            series = _seen_by(series)
        found.append((outcome, None, summed(plan, outcome, series)))
        for c in looked_at if not summaries_only or outcome.summary.kind == "area" else ():
            spans = ladder_spans(outcome.scale, series[c.key])
            one = Summed(series[c.key], outcome.scale, f"at {called(c)}", _about(outcome), spans)
            found.append((outcome, c.key, one))
    return found


def _where(
    plan: Plan, samples: Samples, judged: Sequence[Compared], rng: np.random.Generator
) -> dict[str, list[Where]]:
    """Who wins where, of the summary of each outcome (key) that has a better side."""
    found = {
        one.outcome.key: who_wins_in(
            plan,
            samples,
            _judged(one.outcome, one.summed),
            _column(one.outcome, one.summed),
            one.summed.spans,
            rng,
        )
        for one in judged
        if one.checkpoint is None and one.outcome.better != "none"
    }
    for outcome in plan.outcomes:
        if outcome.key in found and outcome.summary.kind == "area":
            looks = [one for one in judged if one.outcome.key == outcome.key and one.checkpoint is not None]
            over_time = _early_and_late(plan, samples, outcome, looks, rng)
            found[outcome.key] += [over_time] if over_time else []
    return found


def _early_and_late(
    plan: Plan, samples: Samples, outcome: Outcome, looks: Sequence[Compared], rng: np.random.Generator
) -> Where | None:
    names = {c.key: c.name for c in plan.checkpoints}
    series = [_judged(outcome, Summed(one.summed.values, outcome.scale, "", "")) for one in looks]
    return who_wins_early_and_late(
        [one.comparison for one in looks],
        [names[one.checkpoint or ""] for one in looks],
        np.column_stack(series),
        samples.labels(plan),
        samples.structure(plan),
        np.random.default_rng([int(rng.integers(2**63)), 3]),
        alpha=plan.alpha,
    )


def _finding(plan: Plan, of: Compared, levels: Mapping[str, float], where: Mapping[str, list[Where]]) -> Finding:
    outcome, one = of.outcome, of.summed
    claim = outcome.primary and of.checkpoint is None
    places = tuple(where.get(outcome.key, ())) if of.checkpoint is None else ()
    strength = UNDIRECTED
    if outcome.better != "none":
        strength = judge(
            of.comparison,
            alpha=levels[outcome.key] if claim else plan.level,
            margin=_margin(outcome, one),
            circumstances=of.around,
            where=places,
        )
    return Finding(
        outcome.key,
        of.checkpoint,
        one.when,
        claim,
        of.comparison,
        strength,
        sentence(strength, of.comparison, one.scale, one.about, one.when),
        _luck(of),
        one.scale,
        tuple(None if np.isnan(value) else float(value) for value in one.values),
        of.comparison.courses,
        places,
    )


def _luck(of: Compared) -> str:
    pair = nearest_rival(of.comparison, of.around)
    return (
        "nobody leads, so there is no lead that chance could have made"
        if pair is None
        else luck(pair.p, pair.method, pair.arrangements)
    )


def _seen_by(series: dict[str, Floats]) -> dict[str, Floats]:
    """An event that was seen once stays seen: at each look whether it was seen by then."""
    seen: Floats | None = None
    found = {}
    for key, column in series.items():
        seen = column if seen is None else np.where(seen == 1.0, 1.0, column)
        found[key] = seen
    return found


def _margin(outcome: Outcome, one: Summed) -> float | None:
    """The margin, where the values are still in the unit it was given in."""
    return outcome.margin if one.scale == outcome.scale else None


def who_wins_in(
    plan: Plan, samples: Samples, values: Floats, column: Column, spans: Spans | None, rng: np.random.Generator
) -> list[Where]:
    """Who wins where: in each place (block), and at each level of each factor, the treatments there being those that differ in the
    others."""
    labels = samples.labels(plan)
    good = orders(values, column, spans)
    seed = int(rng.integers(2**63))
    found: list[Where | None] = []
    blocks = plan.layout.blocks if plan.layout.in_blocks else ()
    if len(blocks) > 1:
        keys = [block.key for block in blocks]
        at = np.array([keys.index(one) if one in keys else 0 for one in samples.blocks], dtype=np.int64)
        found.append(
            where_by(
                "place",
                [block.name for block in blocks],
                at,
                Judged(values, good, column, spans, labels, tuple(t.name for t in plan.treatments)),
                samples.structure(plan),
                np.random.default_rng([seed, 0]),
                plan.alpha,
            )
        )
    for f, factor in enumerate(plan.factors):
        level, rest = _levels(plan, samples, factor.key)
        kept = np.flatnonzero(level >= 0)
        names = sorted({rest[i] for i in kept})
        if len(names) < 2 or len(factor.levels) < 2:
            continue
        judged = Judged(
            values,
            good,
            column,
            spans,
            np.array([names.index(rest[i]) if rest[i] in names else 0 for i in range(len(rest))]),
            tuple(names),
        )
        found.append(
            where_by(
                factor.name.strip().lower(),
                [one.name for one in factor.levels],
                level[kept],
                judged.kept(kept),
                samples.structure(plan).kept(np.isin(np.arange(len(level)), kept)),
                np.random.default_rng([seed, 1 + f]),
                plan.alpha,
            )
        )
    return [one for one in found if one is not None]


def _levels(plan: Plan, samples: Samples, factor: str) -> tuple[Ints, list[str]]:
    """For each sample which level of ``factor`` it has (−1: none), and the levels of all other factors in words."""
    at = next(one for one in plan.factors if one.key == factor)
    keys = [level.key for level in at.levels]
    names = {(one.key, level.key): level.name for one in plan.factors for level in one.levels}
    by_key = {treatment.key: treatment for treatment in plan.treatments}
    level, rest = [], []
    for key in samples.treatments:
        own = by_key[key].levels
        others = [
            names.get((one.key, own[one.key]), "") for one in plan.factors if one.key != factor and one.key in own
        ]
        whole = factor in own and own[factor] in keys and len(others) == len(plan.factors) - 1 and bool(others)
        level.append(keys.index(own[factor]) if whole else -1)
        rest.append(" / ".join(others))
    return np.array(level, dtype=np.int64), rest


@dataclass(frozen=True)
class Judged:
    """One column of values (n,) with what orders it (``good``, higher better), its spans, and labels (n,) into ``treatments``."""

    values: Floats
    good: Floats
    column: Column
    spans: Spans | None
    labels: Ints
    treatments: tuple[str, ...]

    def kept(self, rows: Ints) -> Judged:
        """Those of some samples."""
        spans = None if self.spans is None else self.spans.kept(rows)
        return replace(self, values=self.values[rows], good=self.good[rows], spans=spans, labels=self.labels[rows])


def where_by(
    by: str,
    places: Sequence[str],
    at: Ints,
    judged: Judged,
    structure: Structure,
    rng: np.random.Generator,
    alpha: float,
) -> Where | None:
    """Who wins in each of ``places``, ``at`` (n,) numbering them; in each the treatments are compared as over all."""
    seed = int(rng.integers(2**63))

    def within(rows: Ints) -> Comparison:
        own = judged.kept(rows)
        (told,) = compare_columns(
            own.values[:, None],
            [own.column],
            own.labels,
            own.treatments,
            structure.blocks[rows],
            np.random.default_rng(seed),
            alpha=alpha,
            structure=_inside(structure, rows),
            spans=None if own.spans is None else {0: own.spans},
        )
        return told

    return who_wins_where(
        judged.good,
        judged.labels,
        judged.treatments,
        at,
        places,
        by,
        rng,
        alpha=alpha,
        told=worth(judged.values, judged.column),
        within=within,
    )


def _inside(structure: Structure, rows: Ints) -> Structure:
    """The structure of some samples: a part of a square is no square."""
    kept = structure.kept(rows)
    return Structure.plain(kept.blocks) if kept.kind == "latin" else kept


def orders(values: Floats, column: Column, spans: Spans | None) -> Floats:
    """What orders samples (n,), higher better: values, ranks of grades, log-rank scores."""
    known = ~np.isnan(values)
    good = values.copy()
    if column.timed and spans is not None:
        good[known] = block_log_rank(spans.kept(known), np.zeros(int(known.sum()), dtype=np.int64))
    elif column.kind == "grade":
        good[known] = midranks(values[known][:, None])[:, 0]
    return worth(good, column)


def _column(outcome: Outcome, one: Summed) -> Column:
    better: Literal["more", "less"] = "more" if outcome.better in ("more", "none") else "less"
    if one.flips:
        better = "less" if better == "more" else "more"
    if one.spans is not None and not isinstance(one.scale, LadderScale):
        return Column("event", better)
    kind: Kind = compared_as(one.scale)
    column = Column(kind, better, one.scale.ends, "change" if one.changed else "value")
    if outcome.better == "target" or one.changed:
        # A change or a distance is no longer on the scale: it has other ends, and grades or passes become differences.
        kind = "grade" if kind == "grade" else "measurement"
        return replace(column, kind=kind, ends=None, of="distance" if outcome.better == "target" else column.of)
    return column


def _judged(outcome: Outcome, one: Summed) -> Floats:
    """The values that are compared: as they are, or how far they lie from the target."""
    return np.asarray(np.abs(one.values - (outcome.target or 0.0))) if outcome.better == "target" else one.values


def _about(outcome: Outcome) -> str:
    """The outcome as the sentence calls it."""
    if outcome.better == "target" and outcome.target is not None:
        return f"{outcome.name}, distance from {honest(outcome.target)},"
    return outcome.name


def _shared_level(plan: Plan, judged: Sequence[Compared]) -> dict[str, float]:
    """The level at which each primary outcome's summary is judged: Holm's steps over the primaries."""
    claims = sorted(
        (leader_p(one.comparison, one.around), one.outcome.key)
        for one in judged
        if one.outcome.primary and one.checkpoint is None
    )
    levels: dict[str, float] = {}
    failed: float | None = None
    for rank, (p, key) in enumerate(claims):
        # Once a step fails, no larger p may pass: the failed level stands for all that follow.
        levels[key] = plan.level / (len(claims) - rank) if failed is None else failed
        if failed is None and p > levels[key]:
            failed = levels[key]
    return levels
