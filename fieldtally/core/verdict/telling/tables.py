"""The rows behind a verdict, every figure said as it is told everywhere: on the page, in the report, in a workbook."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from fieldtally.core.compare.columns import Comparison, Estimate, Pair, turned
from fieldtally.core.design.plan import Plan
from fieldtally.core.quantities.numbers import honest
from fieldtally.core.scales import EventScale, GradeScale, PassFailScale, Scale
from fieldtally.core.verdict.conclude import Finding
from fieldtally.core.verdict.leading import leading
from fieldtally.core.verdict.strength import bounded_p
from fieldtally.core.verdict.telling.figures import difference, hundred, labelled, number, share, signed_share, told_p
from fieldtally.core.verdict.telling.headline import told
from fieldtally.core.verdict.telling.names import listed

MOST_FIRST = 12
"""No table of more rows stands open by itself."""


@dataclass(frozen=True)
class TreatmentTold:
    """A treatment (name) with its ``n`` samples: what it came to, and between what that lies."""

    treatment: str
    n: int
    figure: str
    between: str


@dataclass(frozen=True)
class PairTold:
    """The better one of a pair against the other (names): the effect, between what it lies, its p, the adjusted one, and how it was
    found."""

    better: str
    other: str
    effect: str
    between: str
    p: str
    adjusted: str
    how: str


@dataclass(frozen=True)
class FindingTold:
    """What is told of the summary of an outcome (key): treatments, best first; pairs, of which the ``first`` so many (the leader's and
    the control's, and never more than twelve) are what people ask for; ``heading`` says what the effect is; ``inside`` all pairs in a
    line."""

    outcome: str
    treatments: tuple[TreatmentTold, ...]
    heading: str
    pairs: tuple[PairTold, ...]
    first: int
    inside: str
    overall: str


def told_finding(plan: Plan, finding: Finding) -> FindingTold:
    """The rows of ``finding``."""
    comparison = finding.comparison
    order = [one.treatment for one in leading(comparison).order]
    rest = [one.treatment for one in comparison.treatments if one.treatment not in order]
    place = {name: i for i, name in enumerate([*order, *rest])}
    by_name = {one.treatment: one for one in comparison.treatments}
    ranked = comparison.column.kind == "grade"
    asked, others = _asked_first(plan, comparison, place)
    return FindingTold(
        finding.outcome,
        tuple(_treatment(by_name[name], finding) for name in place),
        "Beats, in 100" if ranked else "Difference",
        tuple(_pair(pair, finding.scale, ranked=ranked) for pair in (*asked, *others)),
        len(asked),
        _inside(comparison, asked, plan.alpha),
        ""
        if comparison.overall is None or comparison.overall.p is None
        else f"All together: p {_overall(comparison)}.",
    )


def _overall(comparison: Comparison) -> str:
    overall = comparison.overall
    return "" if overall is None or overall.p is None else told_p(overall.p)


def _treatment(one: Estimate, finding: Finding) -> TreatmentTold:
    if one.estimate is None:
        return TreatmentTold(one.treatment, one.n, "no reading", "–")
    return TreatmentTold(
        one.treatment, one.n, told(one, finding.comparison, finding.scale, short=True), interval(one, finding)
    )


def interval(one: Estimate, finding: Finding) -> str:
    """Between what the figure of a treatment lies, without its unit; a dash where that cannot be known, or where a mean says nothing."""
    if one.low is None or one.high is None:
        return "–"
    scale, of = finding.scale, finding.comparison.column.of
    if isinstance(scale, GradeScale) and of == "value":
        low, high = labelled(one.low, scale), labelled(one.high, scale)
        return f"mean {low} to {high}" if low and high else "–"
    if isinstance(scale, PassFailScale | EventScale):
        return (
            f"{signed_share(one.low)} to {signed_share(one.high)}"
            if of != "value"
            else f"{share(one.low)} to {share(one.high)}"
        )
    return f"{number(one.low, scale)} to {number(one.high, scale)}"


def _asked_first(plan: Plan, comparison: Comparison, place: dict[str, int]) -> tuple[list[Pair], list[Pair]]:
    """The pairs with the better one first: those that people ask for, nearest first, and all others."""
    better = [pair if place.get(pair.a, 0) <= place.get(pair.b, 0) else turned(pair) for pair in comparison.pairs]
    better.sort(key=lambda pair: (pair.p, place.get(pair.a, 0), place.get(pair.b, 0)))
    if len(better) <= MOST_FIRST:
        return better, []
    first = leading(comparison).first
    leader = first[0].treatment if first else None
    control = plan.control.name if plan.control else None
    mine = [pair for pair in better if leader in (pair.a, pair.b)]
    # The nearest rivals are what a lead hangs on: they come first, the control among them.
    mine.sort(key=lambda pair: (control not in (pair.a, pair.b), -pair.p))
    theirs = [pair for pair in better if pair not in mine and control is not None and control in (pair.a, pair.b)]
    asked = [*mine, *theirs][:MOST_FIRST]
    chosen = {(pair.a, pair.b) for pair in asked}
    return asked, [pair for pair in better if (pair.a, pair.b) not in chosen]


def _inside(comparison: Comparison, asked: Sequence[Pair], alpha: float) -> str:
    """All pairs in a line: how many there are, and how many of them are told apart."""
    pairs = comparison.pairs
    adjusted = [pair for pair in pairs if pair.p_adjusted is not None]
    apart = sum((pair.p_adjusted or 0.0) <= alpha for pair in adjusted)
    many = f"{len(pairs)} pair{'' if len(pairs) == 1 else 's'}"
    told_apart = f", {apart} told apart once all are read together (adjusted p ≤ {honest(alpha)})" if adjusted else ""
    more = f"; the {len(asked)} that are asked for first" if len(asked) < len(pairs) else ""
    return f"{many}{told_apart}{more}."


def _pair(pair: Pair, scale: Scale, *, ranked: bool) -> PairTold:
    if not pair.n_a:
        return PairTold(pair.a, pair.b, "–", "–", "–", "–", "never side by side")
    if ranked:
        low, high = pair.chance_low, pair.chance_high
        between = "no bound" if low is None or high is None else f"{hundred(low)} to {hundred(high)}"
        effect = hundred(pair.chance)
    else:
        effect = difference(pair.difference, scale) if math.isfinite(pair.difference) else "–"
        between = "no bound"
        if pair.low is not None and pair.high is not None:
            between = f"{_bare(pair.low, scale)} to {_bare(pair.high, scale)}"
    return PairTold(
        pair.a,
        pair.b,
        effect,
        between,
        bounded_p(pair),
        "–" if pair.p_adjusted is None else _adjusted(pair),
        _how(pair),
    )


def _bare(value: float, scale: Scale) -> str:
    return signed_share(value) if isinstance(scale, PassFailScale | EventScale) else number(value, scale)


def _adjusted(pair: Pair) -> str:
    """The adjusted p: a bound where the pair's own is one."""
    told = told_p(min(1.0, pair.p_adjusted or 0.0))
    return f"≤ {told}" if bounded_p(pair).startswith("≤") and (pair.p_adjusted or 0.0) < 1 else told


def _how(pair: Pair) -> str:
    if pair.method == "welch":
        return "Welch’s test, for the spreads differ plainly"
    what = "all {} arrangements" if pair.method == "exact" else "{} shuffles"
    return what.format(f"{pair.arrangements:,}")


def ends_told(told_rows: Sequence[TreatmentTold], most: int = 3) -> str:
    """Of many treatments the first few and the last, in words: ``First: A 34 mL, B 31 mL, C 30 mL. Last: Z 4 mL``."""
    known = [one for one in told_rows if one.figure != "no reading"]
    if len(known) < 2:
        return ""
    first = listed([f"{one.treatment} {one.figure}" for one in known[:most]])
    return f"First: {first}. Last of {len(known)}: {known[-1].treatment} {known[-1].figure}."
