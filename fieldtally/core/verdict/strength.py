"""How strong is it?  The rule that turns a comparison into one of six levels.

* ``spoiled``: no usable control, the key known before scoring was done, or too much missing.
* ``unreplicated``: one sample of each treatment; chance cannot be judged.
* ``clear``: the best beats each other one in its own pair test at the plan's level, and by at least the margin where one
  is set.  No adjustment is needed for this claim: comparing the leader with each rival keeps the chance of naming a wrong
  best at that level (Gutmann & Maymin 1987, Ann. Statist. 15:870; Hsu 1996, Multiple Comparisons, ch. 4).
* ``equal``: all intervals lie inside the margin.  This is asked before *leaning*: where every difference is known to be
  too small to matter, who would lead again does not matter either.
* ``leaning``: best in at least 80 % of block-wise bootstraps, but not clear.
* ``too_close``: anything else; with the replicates that would probably settle it.

An outcome on which neither more nor less is better is told without a winner: ``undirected``.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from scipy.stats import norm

from fieldtally.core.compare.columns import Comparison, Estimate, Pair

StrengthLevel = Literal["clear", "leaning", "equal", "too_close", "unreplicated", "spoiled", "undirected"]
LEANS_FROM = 0.8
MISSING_FROM = 0.5
SETTLED_AT = 0.8
MOST_REPLICATES = 500


@dataclass(frozen=True)
class Strength:
    """A level, its winner where there is one, the reason in a sentence, and each step of the rule as it was applied."""

    level: StrengthLevel
    winner: str | None
    because: str
    steps: tuple[str, ...]
    settle: int | None = None
    """Samples of each treatment that would find the difference seen 8 times in 10, where that can be told."""


@dataclass(frozen=True)
class Circumstances:
    """What the comparison alone does not know: samples planned for each treatment, controls (by name), whether the key
    was known while scoring."""

    planned: tuple[int, ...] | None = None
    controls: tuple[str, ...] = ()
    key_known: bool = False


def goodness(estimate: Estimate, comparison: Comparison) -> float:
    """How good a treatment's estimate is, higher better; minus infinity where there is none."""
    value = estimate.estimate
    if value is None:
        return -math.inf
    return value if comparison.column.better == "more" else -value


def ranked(comparison: Comparison) -> list[Estimate]:
    """The treatments that have an estimate, best first."""
    known = [t for t in comparison.treatments if t.estimate is not None]
    return sorted(known, key=lambda t: goodness(t, comparison), reverse=True)


UNDIRECTED = Strength(
    "undirected",
    None,
    "The plan names no side as better, so the figures are told and nobody wins.",
    ("The plan says of this outcome that neither more nor less is better.",),
)


def leader_p(comparison: Comparison) -> float:
    """The largest p among the leader's own pair tests; 1 where there is none.  The p of the claim *this one is best*."""
    order = ranked(comparison)
    pairs = [comparison.pair(order[0].treatment, rival.treatment) for rival in order[1:]] if order else []
    return max((pair.p for pair in pairs if pair is not None), default=1.0)


def judge(
    comparison: Comparison,
    *,
    alpha: float = 0.05,
    margin: float | None = None,
    circumstances: Circumstances | None = None,
) -> Strength:
    """The level of one outcome's comparison at level ``alpha``; ``margin`` in the scale's unit."""
    spoiled = _spoiled(comparison, circumstances or Circumstances())
    if spoiled:
        return Strength("spoiled", None, spoiled, (spoiled,))
    order = ranked(comparison)
    if len(order) < 2:
        says = "Fewer than two treatments have readings, so there is nothing to compare."
        return Strength("spoiled", None, says, (says,))
    best = order[0]
    if max(t.n for t in comparison.treatments) == 1:
        says = f"One sample each: {best.treatment} came out ahead here, but chance cannot be judged."
        return Strength("unreplicated", None, says, (says,), settle=None)
    return _by_evidence(comparison, order, alpha, margin)


def _spoiled(comparison: Comparison, circumstances: Circumstances) -> str | None:
    if circumstances.key_known:
        return "The key was open before scoring was done, so the scores cannot be taken as blind."
    left = {t.treatment: t.n for t in comparison.treatments}
    if circumstances.controls and not any(left.get(control, 0) for control in circumstances.controls):
        return f"No reading of the control ({', '.join(circumstances.controls)}) is left, so there is nothing to hold against."
    if circumstances.planned:
        for treatment, planned in zip(comparison.treatments, circumstances.planned, strict=True):
            if planned > 1 and treatment.n < MISSING_FROM * planned:
                return f"Too much is missing: {treatment.n} of the {planned} samples of {treatment.treatment} have a reading."
    return None


def _by_evidence(comparison: Comparison, order: list[Estimate], alpha: float, margin: float | None) -> Strength:
    best, steps = order[0], []
    rivals = [pair for pair in (comparison.pair(best.treatment, r.treatment) for r in order[1:]) if pair is not None]
    tied = goodness(order[1], comparison) >= goodness(best, comparison)
    worst = max(rivals, key=lambda pair: pair.p)
    beaten = not tied and all(pair.p <= alpha for pair in rivals)
    steps.append(
        f"{best.treatment} {'beats' if beaten else 'does not beat'} each other one in its own pair test at {alpha:g}: "
        f"the largest p is {worst.p:.3g}, against {worst.b}."
    )
    wide = True
    if margin is not None:
        gaps = [goodness(best, comparison) - goodness(rival, comparison) for rival in order[1:]]
        wide = min(gaps) >= margin * (1 - 1e-9)
        steps.append(
            f"Its smallest lead is {min(gaps):.3g}; {'at least' if wide else 'less than'} the margin of {margin:g}."
        )
    if beaten and wide:
        against = "the other" if len(rivals) == 1 else f"each of the {len(rivals)} others"
        return Strength(
            "clear",
            best.treatment,
            f"{best.treatment} beats {against} in its own pair test (p ≤ {worst.p:.3g}).",
            tuple(steps),
        )
    if margin is not None:
        inside = all(_inside(pair, margin) for pair in comparison.pairs)
        steps.append(
            f"{'All' if inside else 'Not all'} intervals of the differences lie inside the margin of ±{margin:g}."
        )
        if inside:
            says = f"Every difference lies inside the margin of {margin:g}: none is better by as much as matters."
            return Strength("equal", None, says, tuple(steps))
    share = comparison.first_places[[t.treatment for t in comparison.treatments].index(best.treatment)]
    steps.append(
        f"{best.treatment} leads in {100 * share:.0f} % of bootstraps; leaning starts at {100 * LEANS_FROM:.0f} %."
    )
    settle = _settling(comparison, best, worst, alpha)
    if share >= LEANS_FROM and not tied:
        says = (
            f"{best.treatment} leads in {100 * share:.0f} % of bootstraps, but does not beat every other one for sure."
        )
        return Strength("leaning", best.treatment, says, tuple(steps), settle)
    says = f"{best.treatment} came first, but would lead again only {100 * share:.0f} times in 100."
    return Strength("too_close", None, says, tuple(steps), settle)


def _inside(pair: Pair, margin: float) -> bool:
    return pair.low is not None and pair.high is not None and -margin <= pair.low and pair.high <= margin


def _settling(comparison: Comparison, best: Estimate, pair: Pair, alpha: float) -> int | None:
    """Samples of each for the closest difference, if it is as large as it looks (normal approximation, power 0.8)."""
    del best
    if pair.low is None or pair.high is None or pair.difference == 0:
        return None
    by_name = {t.treatment: t.n for t in comparison.treatments}
    spread = (pair.high - pair.low) / (2 * float(norm.ppf(1 - alpha / 2)))
    per_sample = spread**2 / (1 / by_name[pair.a] + 1 / by_name[pair.b])
    reach = float(norm.ppf(1 - alpha / 2) + norm.ppf(SETTLED_AT))
    needed = math.ceil(2 * per_sample * reach**2 / pair.difference**2)
    return needed if needed <= MOST_REPLICATES else None
