"""The tally over outcomes: which treatment is worth most, all in all, and how steady that is.

Each sample's number becomes a worth between 0 and 1: between the ends of its scale where it has any, else between the worst and the best
sample that no typing error explains (:func:`robust_ends`), but never over less than four margins, so that a difference that does not matter
cannot fill the scale.  A treatment's worth on an outcome is its samples' mean; the total is weighted.  How steady the order is, is seen by
drawing again and shaking the weights (Dirichlet, Rubin 1981, Ann. Stat. 9:130, in kind): the share of first places.  Drawn again are
samples
inside treatment and block where each has two or more there, else whole blocks with all they hold; from one sample of each nothing is drawn.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.design.plan import Outcome, Plan, Purpose
from fieldtally.core.dosing.costs import sample_costs
from fieldtally.core.scales import CountScale, EventScale, GradeScale, PassFailScale, PercentScale, ShadeScale
from fieldtally.core.verdict.conclude import Finding, Samples
from fieldtally.core.verdict.telling.figures import money
from fieldtally.core.verdict.telling.names import listed, looks_lowered, lowered

RESAMPLES = 4_000
SHAKES = 12.0
"""How firmly weights are held: each is shaken by about its square root over that."""
MARGINS = 4
GOOD = 0.5
FAR_OUT = 3.0


@dataclass(frozen=True)
class TallyRow:
    """One treatment in the tally: its worth (0–1; None: not known) on each outcome, in total, the share of first places (None: one sample
    each tells none), who is at least
    as good on everything and better on something (names), its cost for each sample, and for each sample that came out good."""

    treatment: str
    worth: tuple[float | None, ...]
    total: float | None
    first: float | None
    beaten_by: tuple[str, ...]
    cost: float | None
    per_good: float | None


@dataclass(frozen=True)
class Best:
    """The best for a purpose, and why."""

    purpose: Purpose
    treatment: str
    why: str


@dataclass(frozen=True)
class WholeTally:
    """Outcomes (keys) with their weights (summing to 1), and the treatments, best first."""

    outcomes: tuple[str, ...]
    weights: tuple[float, ...]
    rows: tuple[TallyRow, ...]
    best: tuple[Best, ...]


def worth_of(finding: Finding, outcome: Outcome) -> Floats:
    """The worth (n,) of each sample's number, NaN where missing."""
    numbers = np.array([np.nan if one is None else one for one in finding.numbers], dtype=np.float64)
    if outcome.better == "target":
        numbers = np.abs(numbers - (outcome.target or 0.0))
    ends = finding.comparison.column.ends
    if np.isnan(numbers).all():
        return numbers
    low, high = ends if ends is not None else robust_ends(numbers)
    if ends is None and outcome.margin is not None and finding.scale == outcome.scale:
        short = MARGINS * outcome.margin - (high - low)
        low, high = (low - short / 2, high + short / 2) if short > 0 else (low, high)
    if high <= low:
        return np.where(np.isnan(numbers), np.nan, 0.5)
    share = np.clip((numbers - low) / (high - low), 0, 1)
    return np.asarray(share if finding.comparison.column.better == "more" else 1 - share)


def robust_ends(numbers: Floats) -> tuple[float, float]:
    """The smallest and the largest of ``numbers`` (n,), NaN where missing, that lie within three widths of the middle half of the
    quartiles; a single typing error lies beyond them (Tukey 1977, Exploratory Data Analysis, ch. 2: far out).

    >>> robust_ends(np.array([48.0, 50.0, 51.0, 52.0, 55.0, 5000.0]))
    (48.0, 55.0)
    """
    known = numbers[~np.isnan(numbers)]
    lower, upper = np.percentile(known, [25, 75])
    fence = FAR_OUT * (upper - lower)
    near = known[(known >= lower - fence) & (known <= upper + fence)]
    return float(near.min()), float(near.max())


def tallied(
    plan: Plan,
    samples: Samples,
    findings: Sequence[Finding],
    rng: np.random.Generator,
    weights: Mapping[str, float] | None = None,
) -> WholeTally | None:
    """The tally of a trial; ``weights`` by outcome (key) in place of the plan's.  None where no outcome has a better side."""
    mains = {one.outcome: one for one in findings if one.checkpoint is None}
    outcomes = [o for o in plan.outcomes if o.key in mains and o.better != "none"]
    asked = np.array([max(0.0, (weights or {}).get(o.key, o.weight)) for o in outcomes])
    if not outcomes or asked.sum() <= 0:
        return None
    share = asked / asked.sum()
    table = np.column_stack([worth_of(mains[o.key], o) for o in outcomes])
    labels = samples.labels(plan)
    count = len(plan.treatments)
    means = np.array([_mean(table[labels == t]) for t in range(count)])
    totals = _totals(means, share)
    costs = {one.treatment: one.money for one in sample_costs(plan)}
    first = _first_places(table, labels, _blocks(samples), count, share, rng)
    rows = [
        TallyRow(
            treatment.name,
            tuple(None if np.isnan(one) else float(one) for one in means[t]),
            None if np.isnan(totals[t]) else float(totals[t]),
            None if first is None else float(first[t]),
            tuple(plan.treatments[u].name for u in range(count) if u != t and _beats(means[u], means[t])),
            costs.get(treatment.name),
            _per_good(costs.get(treatment.name), t, table[:, 0], labels),
        )
        for t, treatment in enumerate(plan.treatments)
    ]
    order = sorted(rows, key=lambda row: -1.0 if row.total is None else row.total, reverse=True)
    best = tuple(_best_for(plan, findings, rows))
    return WholeTally(tuple(o.key for o in outcomes), tuple(share.tolist()), tuple(order), best)


def _blocks(samples: Samples) -> Ints:
    names = list(dict.fromkeys(samples.blocks))
    return np.array([names.index(one) for one in samples.blocks], dtype=np.int64)


def _mean(own: Floats) -> Floats:
    """Column means without gaps; NaN where there is nothing."""
    known = ~np.isnan(own)
    return np.asarray(np.where(known.any(axis=0), np.nansum(own, axis=0) / np.maximum(known.sum(axis=0), 1), np.nan))


def _totals(means: Floats, share: Floats) -> Floats:
    """Weighted worth (…, t) from means (…, t, o); outcomes that a treatment lacks leave their weight to the others."""
    known = ~np.isnan(means)
    weight = known * share
    sums = weight.sum(axis=-1)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(np.where(sums > 0, np.nansum(means * weight, axis=-1) / sums, np.nan))


def _beats(better: Floats, worse: Floats) -> bool:
    both = ~(np.isnan(better) | np.isnan(worse))
    return bool(both.all() and (better >= worse - 1e-12).all() and (better > worse + 1e-12).any())


def _first_places(
    table: Floats, labels: Ints, blocks: Ints, count: int, share: Floats, rng: np.random.Generator
) -> Floats | None:
    """The share of first places (t,) of each treatment over what is drawn again and shaken weights; shared firsts are shared.  None where
    no treatment has two samples to draw from."""
    if np.bincount(labels, minlength=count).max() < 2:
        return None
    known, filled = ~np.isnan(table), np.nan_to_num(table)
    means = np.full((RESAMPLES, count, table.shape[1]), np.nan)
    for t, drawn in enumerate(_drawn_again(labels, blocks, count, rng)):
        own = labels == t
        total, many = drawn @ filled[own], drawn @ known[own]
        with np.errstate(divide="ignore", invalid="ignore"):
            means[:, t] = np.where(many > 0, total / many, np.nan)
    shaken = np.zeros((RESAMPLES, len(share)))
    shaken[:, share > 0] = rng.dirichlet(SHAKES * share[share > 0] * (share > 0).sum(), size=RESAMPLES)
    totals = np.nan_to_num(_totals(means, shaken[:, None, :]), nan=-1.0)
    top = totals >= totals.max(axis=1, keepdims=True) - 1e-12
    return np.asarray((top / top.sum(axis=1, keepdims=True)).mean(axis=0))


def _drawn_again(labels: Ints, blocks: Ints, count: int, rng: np.random.Generator) -> Iterator[Floats]:
    """For each treatment how often each of its samples (RESAMPLES, n_t) is drawn: whole blocks where some cell of block and treatment
    holds one sample, else samples inside their cells."""
    names, at = np.unique(blocks, return_inverse=True)
    cells = np.zeros((count, len(names)), dtype=np.int64)
    np.add.at(cells, (labels, at), 1)
    if len(names) > 1 and (cells == 1).any():
        whole = rng.multinomial(len(names), np.full(len(names), 1 / len(names)), size=RESAMPLES)
        for t in range(count):
            yield whole[:, at[labels == t]].astype(np.float64)
        return
    for t in range(count):
        own = at[labels == t]
        drawn = np.zeros((RESAMPLES, len(own)))
        for block in np.unique(own):
            n = int((own == block).sum())
            drawn[:, own == block] = rng.multinomial(n, np.full(n, 1 / n), size=RESAMPLES)
        yield drawn


def _per_good(cost: float | None, t: int, worth: Floats, labels: Ints) -> float | None:
    """Money for each sample whose first outcome came out at least half way up."""
    own = worth[(labels == t) & ~np.isnan(worth)]
    if cost is None or not len(own):
        return None
    good = float((own >= GOOD).mean())
    return cost / good if good > 0 else None


def _best_for(plan: Plan, findings: Sequence[Finding], rows: Sequence[TallyRow]) -> list[Best]:
    """Fast: ahead at the first look; lasting: at the last; cheap: least money for each good sample; gentle: least of what is unwanted."""
    found = []
    main = next((o for o in plan.outcomes if o.primary and o.compared and o.better != "none"), None)
    looks = [one for one in findings if main is not None and one.outcome == main.key and one.checkpoint is not None]
    moment = {checkpoint.key: (checkpoint.offset, checkpoint.cycle) for checkpoint in plan.checkpoints}
    # Parts of one moment are neither early nor late.
    if main is not None and len({moment.get(one.checkpoint or "") for one in looks}) > 1:
        ends: tuple[tuple[Purpose, Finding], ...] = (("fast", looks[0]), ("lasting", looks[-1]))
        for purpose, look in ends:
            name = _leader(look)
            if name is not None:
                found.append(Best(purpose, name, f"ahead on {lowered(main.name)} {looks_lowered(look.when)}"))
    priced = [row for row in rows if row.per_good is not None]
    if len(priced) > 1:
        least = min(priced, key=lambda row: row.per_good or 0.0)
        found.append(
            Best("cheap", least.treatment, f"{money(least.per_good or 0.0, plan.money)} for each that came out well")
        )
    harms = GradeScale | ShadeScale | PercentScale | PassFailScale | EventScale | CountScale
    unwanted = [o for o in plan.outcomes if o.better == "less" and not o.primary and isinstance(o.scale, harms)]
    mains = [one for one in findings if one.checkpoint is None and one.outcome in {o.key for o in unwanted}]
    leaders = [name for name in map(_leader, mains) if name is not None]
    if leaders and len(set(leaders)) == 1:
        told = listed([lowered(o.name) for o in unwanted])
        found.append(Best("gentle", leaders[0], f"least {told}"))
    return found


def _leader(finding: Finding) -> str | None:
    known = [(one.estimate, one.treatment) for one in finding.comparison.treatments if one.estimate is not None]
    if len(known) < 2:
        return None
    sign = 1 if finding.comparison.column.better == "more" else -1
    top = max(sign * value for value, _ in known)
    first = [name for value, name in known if sign * value == top]
    return first[0] if len(first) == 1 else None
