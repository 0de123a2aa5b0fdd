"""Instruments and kits against each other on the same samples.

Bias and limits of agreement: Bland & Altman 1986 (Lancet 327:307), with the t quantile for few samples; the limits' own intervals by
their approximate standard error s·√(1/n + t²/(2(n − 1))).  Does one read more, the more there is: the slope of the differences over the
means.  Pass or fail at a limit: the share that disagree (Wilson) and whether one fails more often (McNemar, exact).  What says no more than
pass or fail is held against the others at the limit, and has neither bias nor limits of agreement.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np
from scipy.stats import binomtest, linregress, t

from fieldtally.core.agreement.icc import icc_2_1
from fieldtally.core.compare.arrays import Flags, Floats
from fieldtally.core.compare.rates import wilson
from fieldtally.core.problems import Refused
from fieldtally.core.scales import honest

FEWEST = 3
ALPHA = 0.05


@dataclass(frozen=True)
class WithEnds:
    """A value and its interval."""

    value: float
    low: float
    high: float


@dataclass(frozen=True)
class OfMany:
    """So many of how many, with Wilson's interval of the share (0 to 1)."""

    many: int
    of: int
    low: float
    high: float


@dataclass(frozen=True)
class Disagreement:
    """Pass or fail at a limit: samples where only the first fails it, where only the second does, all, and McNemar's exact p."""

    only_a: int
    only_b: int
    apart: OfMany
    p: float


@dataclass(frozen=True)
class AgainstEachOther:
    """Two methods (names) on the ``n`` samples that both have read: ``bias`` is the mean of a − b; 19 of 20 differences lie between the
    ``lower`` and the ``upper`` limit of agreement; of each sample its mean and its difference are in ``means`` and ``apart``.

    ``slope`` says how much the difference grows for each unit of the mean, with its p; ``icc`` how alike they are (ICC 2,1).
    """

    a: str
    b: str
    n: int
    bias: WithEnds | None
    lower: WithEnds | None
    upper: WithEnds | None
    slope: float | None
    slope_p: float | None
    icc: float | None
    limit: Disagreement | None
    means: tuple[float, ...]
    apart: tuple[float, ...]
    says: str


@dataclass(frozen=True)
class AgainstTruth:
    """One method (name) on samples whose truth is known: its ``bias`` on those that hold some, how often it found something in a blank
    (``alarms``), nothing where there was some (``misses``), or reacted to the wrong substance (``wrong``)."""

    method: str
    bias: WithEnds | None
    n: int
    alarms: OfMany | None
    misses: OfMany | None
    wrong: OfMany | None
    says: str


@dataclass(frozen=True)
class MethodsCompared:
    """Every pair of methods, and each against the truth where that is known.  ``alarm`` is the reading from which a method says that
    there is something."""

    methods: tuple[str, ...]
    n: int
    unit: str
    alarm: float
    limit: float | None
    pairs: tuple[AgainstEachOther, ...]
    against_truth: tuple[AgainstTruth, ...]


def methods_compared(
    methods: Sequence[str],
    values: Floats,
    *,
    unit: str = "",
    truth: Floats | None = None,
    other: Flags | None = None,
    limit: float | None = None,
    alarm: float | None = None,
    flags: Sequence[bool] = (),
) -> MethodsCompared:
    """Compare ``methods`` (k names) by their ``values`` (n, k) of the same n samples, NaN where one has not read.

    ``truth`` (n,) is what is really in each, in the same unit: 0 is a blank, NaN unknown.  ``other`` (n,) marks blanks that hold another
    substance instead.  At ``limit`` and above a sample fails.  From ``alarm`` on (default: the limit, else anything above 0) a method
    says that there is something.  ``flags`` (k) marks methods that say no more than pass (0) or fail (1).

    :raises Refused: fewer than two methods; no two that have read the same three samples; a kit beside a number, without a limit.
    """
    if len(methods) < 2:
        raise Refused("To compare methods takes at least two of them.", "methods")
    named = [name.strip() for name in methods]
    if "" in named or len(set(named)) < len(named):
        raise Refused("Each method needs a name of its own.", "methods")
    if limit is not None and not math.isfinite(limit):
        raise Refused("The limit is a number in the unit of the readings.", "limit")
    rings = alarm if alarm is not None else limit if limit is not None else np.nextafter(0.0, 1.0)
    kits = list(flags) if flags else [False] * len(named)
    if any(kits) and not all(kits) and limit is None:
        number = named[kits.index(False)]
        raise Refused(
            f"{named[kits.index(True)]} says pass or fail: say from which reading of {number} a sample fails.", "limit"
        )
    fails = [values[:, k] >= (0.5 if kits[k] else np.inf if limit is None else limit) for k in range(len(named))]
    pairs = tuple(
        _of_kits((named[a], named[b]), (values[:, a], values[:, b]), (fails[a], fails[b]))
        if kits[a] or kits[b]
        else _pair(named[a], named[b], values[:, a], values[:, b], unit, limit)
        for a, b in combinations(range(len(named)), 2)
    )
    if all(pair.bias is None and pair.limit is None for pair in pairs):
        raise Refused(f"No two methods have read the same {FEWEST} samples, so there is nothing to compare.", "rows")
    known = (
        ()
        if truth is None
        else tuple(
            _truth(
                name,
                values[:, k],
                values[:, k] >= (0.5 if kits[k] else rings),
                truth,
                np.zeros(len(truth), bool) if other is None else other,
                # What says no more than pass or fail is to fail from the limit on, and is asked for no less.
                limit if kits[k] and limit is not None else rings,
                unit,
                kits[k],
            )
            for k, name in enumerate(named)
        )
    )
    return MethodsCompared(
        tuple(named), len(values), unit, float(rings), limit, pairs, tuple(one for one in known if one is not None)
    )


def _pair(a: str, b: str, ours: Floats, theirs: Floats, unit: str, limit: float | None) -> AgainstEachOther:
    both = ~np.isnan(ours) & ~np.isnan(theirs)
    x, y = ours[both], theirs[both]
    n, apart = len(x), x - y
    points = (tuple(float(one) for one in (x + y) / 2), tuple(float(one) for one in apart))
    if n < FEWEST:
        says = f"{a} and {b} have read {n} of the same samples: too few to compare."
        return AgainstEachOther(a, b, n, None, None, None, None, None, None, None, *points, says)
    bias, lower, upper = _limits(apart)
    slope = slope_p = None
    middle = (x + y) / 2
    if n > FEWEST and np.ptp(middle) > 0 and np.ptp(apart) > 0:
        line = linregress(middle, apart)
        slope, slope_p = float(line.slope), float(line.pvalue)
    told = None if limit is None else _at_limit(x >= limit, y >= limit)
    found = AgainstEachOther(
        a,
        b,
        n,
        bias,
        lower,
        upper,
        slope,
        slope_p,
        icc_2_1(np.column_stack([x, y])),
        told,
        *points,
        "",
    )
    return replace(found, says=_pair_says(found, bias, (lower, upper), unit))


def _of_kits(names: tuple[str, str], read: tuple[Floats, Floats], fails: tuple[Flags, Flags]) -> AgainstEachOther:
    """Two methods of which one at least says no more than pass or fail."""
    both = ~np.isnan(read[0]) & ~np.isnan(read[1])
    n = int(both.sum())
    if n < FEWEST:
        says = f"{names[0]} and {names[1]} have read {n} of the same samples: too few to compare."
        return AgainstEachOther(*names, n, None, None, None, None, None, None, None, (), (), says)
    told = _at_limit(fails[0][both], fails[1][both])
    if told.apart.many:
        first = f"{told.only_a or 'none'} {'fail' if told.only_a > 1 else 'fails'} by {names[0]} alone"
        alone = f"{first}, {told.only_b or 'none'} by {names[1]} alone"
        says = f"At the limit {names[0]} and {names[1]} disagree on {told.apart.many} of {n}: {alone}."
    else:
        says = f"{names[0]} and {names[1]} say the same of all {n}."
    if told.p <= ALPHA:
        says += f" {names[0] if told.only_a > told.only_b else names[1]} fails more of them."
    return AgainstEachOther(*names, n, None, None, None, None, None, None, told, (), (), says)


def _limits(apart: Floats) -> tuple[WithEnds, WithEnds, WithEnds]:
    n, mean, spread = len(apart), float(apart.mean()), float(apart.std(ddof=1))
    out = float(t.ppf(1 - ALPHA / 2, n - 1))
    half, reach = out * spread / math.sqrt(n), out * spread * math.sqrt(1 + 1 / n)
    own = out * spread * math.sqrt(1 / n + out**2 / (2 * (n - 1)))
    low, high = mean - reach, mean + reach
    return (
        WithEnds(mean, mean - half, mean + half),
        WithEnds(low, low - own, low + own),
        WithEnds(high, high - own, high + own),
    )


def _share(many: int, of: int) -> OfMany:
    low, high = wilson(many, of)
    return OfMany(many, of, low, high)


def _at_limit(a: Flags, b: Flags) -> Disagreement:
    only_a, only_b = int((a & ~b).sum()), int((~a & b).sum())
    apart = only_a + only_b
    p = float(binomtest(only_a, apart, 0.5).pvalue) if apart else 1.0
    return Disagreement(only_a, only_b, _share(apart, len(a)), p)


def _signed(value: float) -> str:
    """With a minus as it is written in a sentence."""
    return honest(value, 2).replace("-", "−")


def _pair_says(found: AgainstEachOther, bias: WithEnds, limits: tuple[WithEnds, WithEnds], unit: str) -> str:
    of = f" {unit}" if unit else ""
    surely = bias.low > 0 or bias.high < 0
    way = "more" if bias.value > 0 else "less"
    first = (
        f"{found.a} reads {honest(abs(bias.value), 2)}{of} {way} than {found.b} on average"
        if surely
        else f"Between {found.a} and {found.b} no bias is shown ({_signed(bias.value)}{of} on average)"
    )
    between = " and ".join(_signed(one.value) for one in limits)
    rest = f"; {round(100 * (1 - ALPHA))} in 100 single differences lie between {between}{of}."
    more = " The gap changes with how much there is." if found.slope_p is not None and found.slope_p <= ALPHA else ""
    if found.limit is not None:
        more += f" At the limit they disagree on {found.limit.apart.many} of {found.n}."
    return first + rest + more


def _truth(
    method: str,
    read: Floats,
    heard: Flags,
    truth: Floats,
    other: Flags,
    rings: float,
    unit: str,
    kit: bool,
) -> AgainstTruth | None:
    """One method against what is there; a ``kit`` says no more than pass or fail, and has no bias."""
    known = ~np.isnan(read) & ~np.isnan(truth)
    if not known.any():
        return None
    blank, holds, wrong = known & (truth == 0) & ~other, known & (truth > 0), known & other
    off = (read - truth)[holds]
    bias = _limits(off)[0] if not kit and len(off) >= FEWEST else None

    def share(rows: Flags, hit: Flags) -> OfMany | None:
        return _share(int((rows & hit).sum()), int(rows.sum())) if rows.any() else None

    # Nothing found is a miss only where there was enough to be found.
    enough = holds & (truth >= rings)
    alarms, misses, wrongly = share(blank, heard), share(enough, ~heard), share(wrong, heard)
    told = []
    if alarms:
        told.append(f"finds something in {alarms.many} of {alarms.of} blanks")
    if misses:
        amount = f"{honest(rings, 3)}{f' {unit}' if unit else ''} or more" if rings >= 1e-12 else "some"
        told.append(f"misses {misses.many} of {misses.of} that hold {amount}")
    if bias:
        of = f" {unit}" if unit else ""
        told.append(f"is off by {_signed(bias.value)}{of} on average ({_signed(bias.low)} to {_signed(bias.high)})")
    if wrongly:
        told.append(
            f"reacts to the wrong substance in {wrongly.many} of {wrongly.of}"
            if wrongly.many
            else f"does not react to the wrong substance in {wrongly.of}"
        )
    says = f"{method} {', '.join(told)}." if told else f"{method} has read nothing whose truth is known well enough."
    return AgainstTruth(method, bias, int(holds.sum()), alarms, misses, wrongly, says)
