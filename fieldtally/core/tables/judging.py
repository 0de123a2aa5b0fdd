"""A table judged: the verdict at each of its checkpoints, as the command and the library tell it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from fieldtally.core.compare.columns import Column, Comparison, compare_columns
from fieldtally.core.compare.effects import Effect, effects
from fieldtally.core.compare.events import log_rank_scores
from fieldtally.core.compare.places import Where
from fieldtally.core.kinds import Kind
from fieldtally.core.problems import Refused
from fieldtally.core.scales import (
    CountScale,
    GradeScale,
    LadderScale,
    Level,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    Scale,
)
from fieldtally.core.tables.readings import LETTERS, Columns, Results, results_in
from fieldtally.core.tables.table import Table
from fieldtally.core.verdict.conclude import Judged, orders, where_by
from fieldtally.core.verdict.strength import Circumstances, Strength, judge
from fieldtally.core.verdict.telling.headline import sentence

Better = Literal["higher", "lower"]


@dataclass(frozen=True)
class Asked:
    """What is asked of a table."""

    columns: Columns
    kind: Kind = "measurement"
    better: Better = "higher"
    control: str | None = None
    margin: float | None = None
    alpha: float = 0.05
    seed: int = 1


@dataclass(frozen=True)
class TableVerdict:
    """The verdict at one checkpoint (None: the table has none)."""

    asked: Asked
    checkpoint: str | None
    comparison: Comparison
    strength: Strength
    sentence: str
    effects: tuple[Effect, ...]
    where: tuple[Where, ...]

    def to_dict(self) -> dict[str, Any]:
        """The stable form that scripts rely on."""
        told = as_json(self.asked.columns.value, self.asked.kind, self.comparison, self.strength)
        effects = [{"term": one.term, "p": one.p, "method": one.method} for one in self.effects]
        return {
            "outcome": told.pop("outcome"),
            **({} if self.checkpoint is None else {"checkpoint": self.checkpoint}),
            **told,
            **({"effects": effects} if self.asked.columns.factors else {}),
        }


def judged(table: Table, asked: Asked) -> tuple[list[TableVerdict], list[str]]:
    """The verdicts of ``table``, and warnings about what was left out.

    :raises Refused: what is asked does not go together, or the table cannot be read.
    """
    _check(asked)
    found, warnings = results_in(table, asked.columns, asked.kind)
    treatments = found[0].treatments
    if asked.control is not None and asked.control not in treatments:
        some = ", ".join(treatments[:20]) + (" …" if len(treatments) > 20 else "")
        raise Refused(f"There is no treatment “{asked.control}” to be the control; there are {some}.")
    told = [_judged(results, asked) for results in found]
    for results, one in zip(found, told, strict=True):
        lost = _without_shared_block(results)
        warnings += [lost] if lost else []
        when = f" at {one.checkpoint}" if one.checkpoint else ""
        warnings += [f"{out.treatment} is left out of the claim{when}: {out.why}." for out in one.strength.left_out]
    return told, list(dict.fromkeys(warnings))


def _check(asked: Asked) -> None:
    columns = asked.columns
    if not 0 < asked.alpha < 1:
        raise Refused("--alpha is a level between 0 and 1.")
    if asked.margin is not None and not (asked.margin > 0 and np.isfinite(asked.margin)):
        raise Refused("--margin must be more than 0.")
    if asked.seed < 0:
        raise Refused("--seed is 0 or more.")
    if not columns.treatment:
        raise Refused("Give either --treatment or --factor, once for each factor.")
    if columns.event is not None and asked.kind != "event":
        raise Refused("--event goes with --kind event.")
    if columns.held is not None and asked.kind != "ladder":
        raise Refused("--held goes with --kind ladder.")
    if (columns.row is None) != (columns.column is None):
        raise Refused("A Latin square has both: --row and --column.")
    if sum(one is not None for one in (columns.row, columns.plot, columns.pair)) > 1:
        raise Refused(
            "A table is laid out in pairs, in Latin squares or in whole plots: give one of --pair, --row, --plot."
        )


def _judged(results: Results, asked: Asked) -> TableVerdict:
    scale, column = scale_of(results, asked.kind), _column(results, asked)
    (comparison,) = compare_columns(
        results.values[:, None],
        [column],
        results.labels,
        results.treatments,
        results.blocks,
        np.random.default_rng(asked.seed),
        alpha=asked.alpha,
        control=None if asked.control is None else results.treatments.index(asked.control),
        structure=results.structure,
        spans=None if results.spans is None else {0: results.spans},
    )
    circumstances = Circumstances(planned=results.planned, controls=() if asked.control is None else (asked.control,))
    where = tuple(_where(results, asked, column))
    strength = judge(comparison, alpha=asked.alpha, margin=asked.margin, circumstances=circumstances, where=where)
    when = f"at {results.checkpoint}" if results.checkpoint else ""
    return TableVerdict(
        asked,
        results.checkpoint,
        comparison,
        strength,
        sentence(strength, comparison, scale, asked.columns.value, when),
        tuple(_effects(results, asked)),
        where,
    )


def scale_of(results: Results, kind: Kind) -> Scale:
    """The scale that figures of a table are told on."""
    match kind:
        case "grade":
            letters = {float(rank): label for label, rank in LETTERS.items()}
            values = sorted(set(results.values.tolist())) or [0.0, 1.0]
            lettered = results.lettered and all(value in letters for value in values)
            return GradeScale(tuple(Level(v, letters[v] if lettered else f"{v:g}") for v in values))
        case "count":
            return CountScale()
        case "passfail":
            return PassFailScale()
        case "percent":
            return PercentScale()
        case "ladder":
            return LadderScale("", tuple(sorted(set(results.values.tolist()))))
        case _:
            return MeasurementScale("")


def _column(results: Results, asked: Asked) -> Column:
    ends: dict[str, tuple[float, float]] = {"percent": (0.0, 100.0), "passfail": (0.0, 1.0)}
    if asked.kind == "grade" and len(results.values):
        # What lies beyond the grades that were given nobody has told.
        ends["grade"] = (float(results.values.min()), float(results.values.max()))
    return Column(asked.kind, "more" if asked.better == "higher" else "less", ends.get(asked.kind))


def _where(results: Results, asked: Asked, column: Column) -> list[Where]:
    """Who wins in each place that the blocks name, and at each level of each factor."""
    good = orders(results.values, column, results.spans)
    groups = [
        (one.by, one.names, one.at, results.labels, results.treatments)
        for one in results.places
        if asked.columns.row is None
    ]
    if len(asked.columns.factors) > 1:
        levels = [treatment.split(" / ") for treatment in results.treatments]
        for f, name in enumerate(asked.columns.factors):
            rest = [" / ".join(one[:f] + one[f + 1 :]) for one in levels]
            others = tuple(dict.fromkeys(rest))
            own = tuple(dict.fromkeys(one[f] for one in levels))
            if len(others) > 1 and len(own) > 1:
                at = np.array([own.index(one[f]) for one in levels], dtype=np.int64)[results.labels]
                labels = np.array([others.index(one) for one in rest], dtype=np.int64)[results.labels]
                groups.append((name, own, at, labels, others))
    found = [
        where_by(
            by,
            names,
            at,
            Judged(results.values, good, column, results.spans, labels, treatments),
            results.structure,
            np.random.default_rng([asked.seed, 2, i]),
            asked.alpha,
        )
        for i, (by, names, at, labels, treatments) in enumerate(groups)
    ]
    return [one for one in found if one is not None]


def _effects(results: Results, asked: Asked) -> Sequence[Effect]:
    if not asked.columns.factors:
        return ()
    values = results.values if results.spans is None else log_rank_scores(results.spans)
    rng = np.random.default_rng([asked.seed, 1])
    return effects(values, results.levels, asked.columns.factors, results.structure, rng)


def _without_shared_block(results: Results) -> str | None:
    if results.structure.kind != "plain":
        return None
    blocks = [set(results.blocks[results.labels == label].tolist()) for label in range(len(results.treatments))]
    if len(set().union(*blocks)) < 2:
        return None
    for i, ours in enumerate(blocks):
        for j in range(i + 1, len(blocks)):
            if ours and blocks[j] and not ours & blocks[j]:
                a, b = results.treatments[i], results.treatments[j]
                return f"{a} and {b} never stand in the same block, so they cannot be compared with each other."
    return None


def as_json(outcome: str, kind: str, comparison: Comparison, strength: Strength) -> dict[str, Any]:
    """The stable form that scripts rely on."""
    overall = comparison.overall
    return {
        "outcome": outcome,
        "kind": kind,
        "n": comparison.n,
        "overall": {
            "p": None if overall is None else overall.p,
            "method": "none" if overall is None else overall.method,
            "arrangements": 0 if overall is None else overall.arrangements,
        },
        "treatments": [
            {
                "treatment": one.treatment,
                "n": one.n,
                "estimate": one.estimate,
                "low": one.low,
                "high": one.high,
                "median": one.median,
                **({} if one.seen is None else {"seen": one.seen}),
            }
            for one in comparison.treatments
        ],
        **(
            {
                "courses": [
                    {
                        "treatment": one.treatment,
                        "end": one.end,
                        "left": one.left,
                        "left_low": one.left_low,
                        "left_high": one.left_high,
                        "median": one.median,
                        "median_low": one.low,
                        "median_high": one.high,
                    }
                    for one in comparison.courses
                ]
            }
            if comparison.courses
            else {}
        ),
        "pairs": [
            {
                "a": pair.a,
                "b": pair.b,
                "difference": pair.difference,
                "low": pair.low,
                "high": pair.high,
                "p": pair.p,
                "p_adjusted": pair.p_adjusted,
                "favours": pair.favours,
                "method": pair.method,
                "chance": pair.chance,
                "chance_low": pair.chance_low,
                "chance_high": pair.chance_high,
            }
            for pair in comparison.pairs
        ],
        "verdict": {
            "level": strength.level,
            "winner": strength.winner,
            "winners": list(strength.winners),
            "because": strength.because,
            **(
                {"by": strength.by, "where": [{"place": one.place, "winner": one.winner} for one in strength.where]}
                if strength.by is not None
                else {}
            ),
            **(
                {"left_out": [{"treatment": one.treatment, "why": one.why} for one in strength.left_out]}
                if strength.left_out
                else {}
            ),
        },
    }
