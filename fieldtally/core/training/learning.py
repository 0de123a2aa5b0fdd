"""What a person's graded sets tell: how far off, leaning which way, how scattered, drifting, and where neighbouring levels are mixed up.

Who is ready follows :mod:`.readiness`.  Bias and its interval: the mean of given − true with Student's t.
  Spread: the standard deviation of those differences.  Drift: their slope
over the order within a set, by permutation.  Limits are in the scale's own unit.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import fmean, stdev

import numpy as np
from scipy.stats import t

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.scales import (
    CountScale,
    GradeScale,
    PassFailScale,
    PercentScale,
    Scale,
    ShadeScale,
    honest,
    unit_of,
)
from fieldtally.core.training.readiness import GUESSES, Evidence, evidence_of

FEW = 10
"""A count of at most so many is a small one."""
FEWEST, SETS_NEEDED, KEPT_DAYS = 8, 2, 90
"""Answers a set needs to count, sets that are needed at least, and for how long being ready holds."""
BAD = 1.25
"""A last set that is so many times as far off as allowed takes back what was shown before, until a better one."""
DRIFTS_AT = 0.05


@dataclass(frozen=True)
class Given:
    """One answer: the truth, what was given, in which set (numbered from 1) and at which place in it."""

    truth: float
    given: float
    set: int
    place: int


@dataclass(frozen=True)
class SetTold:
    """One set: how many answers, how far off they were on average, and how they leaned."""

    number: int
    n: int
    off: float
    bias: float
    exact: int


@dataclass(frozen=True)
class Confusion:
    """Two neighbouring levels (values): how often one was taken for the other, of how many answers on the two."""

    low: float
    high: float
    mixed: int
    of: int


@dataclass(frozen=True)
class Learned:
    """Everything so far.  ``bias`` with its 95 % interval, ``spread``, ``drift`` from the first to the last of a set with its p (None: too
    few), all in the scale's unit; ``limit`` is how far off a ready scorer may be on average."""

    n: int
    bias: float
    bias_low: float | None
    bias_high: float | None
    spread: float | None
    drift: float | None
    drift_p: float | None
    off: float
    limit: float
    unit: str
    sets: tuple[SetTold, ...]
    confusions: tuple[Confusion, ...]
    ready: bool
    says: str
    why: str

    @property
    def taken_back(self) -> bool:
        """Whether the last set was so bad that what was shown before does not count for now."""
        return bool(self.sets) and self.sets[-1].n >= FEWEST and self.sets[-1].off > BAD * self.limit


def limit_for(scale: Scale, truth: float = 0.0) -> float:
    """How far off, on average, a scorer may be who is ready, where ``truth`` is true; in the unit of ``scale``.

    >>> limit_for(PercentScale(resolution=5.0)), limit_for(PercentScale(resolution=20.0))
    (7.5, 12.0)
    >>> limit_for(CountScale(), 60.0), limit_for(CountScale(), 4.0), limit_for(CountScale(of=5), 4.0)
    (9.0, 1.5, 1.0)
    """
    match scale:
        case GradeScale(levels=levels):
            return 0.4 * min(b.value - a.value for a, b in pairwise(levels))
        case ShadeScale(steps=steps):
            return min(0.5, 0.25 * (len(steps) - 1))
        case PercentScale(resolution=resolution):
            step = resolution or 0.0
            return max(5.0, min(1.5 * step, 6.0 + 0.3 * step))
        case CountScale(of=of):
            return max(1.0 if of is not None and of < FEW else 1.5, 0.15 * truth)
        case PassFailScale():
            return 0.15
        case _:
            return math.inf


def learned(scale: Scale, answers: Sequence[Given], rng: np.random.Generator) -> Learned:
    """What at least one answer tells, in the order given."""
    unit = unit_of(scale)
    allowed = [limit_for(scale, one.truth) for one in answers]
    limit = fmean(allowed)
    differences = [one.given - one.truth for one in answers]
    bias, n = fmean(differences), len(differences)
    spread = stdev(differences) if n > 1 else None
    half = float(t.ppf(0.975, n - 1)) * spread / math.sqrt(n) if spread is not None and n > 2 else None
    sets = tuple(
        _set(number, [one for one in answers if one.set == number]) for number in sorted({a.set for a in answers})
    )
    counting = [one for one in sets if one.n >= FEWEST]
    shown = evidence_of([_as_rows(scale, answers, one.number) for one in counting], rng)
    drift, p = _drift(answers, rng)
    last = counting[-SETS_NEEDED:]
    leaning = abs(fmean([one.bias for one in last])) if last else math.inf
    bad = counting[-1] if counting and counting[-1].off > BAD * limit else None
    # Short sets count for nothing, and the last one has to be a whole one.
    whole = bool(counting) and counting[-1] is sets[-1]
    ready = len(last) == SETS_NEEDED and shown.enough and bad is None and whole and leaning <= limit / 2
    off = fmean([abs(d) for d in differences])
    return Learned(
        n,
        bias,
        None if half is None else bias - half,
        None if half is None else bias + half,
        spread,
        drift,
        p,
        off,
        limit,
        unit,
        sets,
        confusions_in(scale, answers),
        ready,
        _says(bias, half, off, spread, unit, p, drift),
        _why(Why(last, shown, bad, limit, leaning), _allowed_told(scale, limit, unit), unit, ready=ready),
    )


def _set(number: int, answers: Sequence[Given]) -> SetTold:
    apart = [one.given - one.truth for one in answers]
    exact = sum(abs(d) < 1e-9 for d in apart)
    return SetTold(number, len(apart), fmean([abs(d) for d in apart]), fmean(apart), exact)


def _drift(answers: Sequence[Given], rng: np.random.Generator, draws: int = 2_000) -> tuple[float | None, float | None]:
    """By how much the differences change from the first to the last of a set, and its p: places are shuffled within each set."""
    groups = [[one for one in answers if one.set == number] for number in sorted({a.set for a in answers})]
    groups = [sorted(group, key=lambda one: one.place) for group in groups if len(group) >= FEWEST]
    if not groups:
        return None, None
    apart = [np.array([one.given - one.truth for one in group]) for group in groups]
    along = [np.linspace(-0.5, 0.5, len(group)) for group in groups]
    over = sum(float((x**2).sum()) for x in along)
    slope = sum(float((x * y).sum()) for x, y in zip(along, apart, strict=True)) / over
    if all(np.ptp(y) == 0 for y in apart):
        return slope, None
    reached = sum(
        abs(sum(float((x * rng.permutation(y)).sum()) for x, y in zip(along, apart, strict=True)) / over)
        >= abs(slope) - 1e-12
        for _ in range(draws)
    )
    return slope, (reached + 1) / (draws + 1)


def confusions_in(scale: Scale, answers: Sequence[Given]) -> tuple[Confusion, ...]:
    """Neighbouring levels that are taken for each other, those most often first."""
    match scale:
        case GradeScale(levels=levels):
            values = [level.value for level in levels]
        case ShadeScale(steps=steps):
            values = [float(i + 1) for i in range(len(steps))]
        case PassFailScale():
            values = [0.0, 1.0]
        case _:
            return ()
    found = []
    for low, high in pairwise(values):
        own = [one for one in answers if one.truth in (low, high)]
        mixed = sum((one.truth, one.given) in ((low, high), (high, low)) for one in own)
        if mixed:
            found.append(Confusion(low, high, mixed, len(own)))
    return tuple(sorted(found, key=lambda one: (-one.mixed / one.of, one.low)))


def _told(value: float, unit: str) -> str:
    return f"{honest(value, 2)} {unit}".strip()


def _says(
    bias: float, half: float | None, off: float, spread: float | None, unit: str, p: float | None, drift: float | None
) -> str:
    parts = [f"You were off by {_told(off, unit)} on average"]
    if half is not None and abs(bias) > half:
        parts.append(f"and gave {_told(abs(bias), unit)} too {'much' if bias > 0 else 'little'}")
    elif spread is not None:
        parts.append("leaning neither way")
    said = " ".join(parts) if len(parts) == 2 and parts[1].startswith("and") else ", ".join(parts)
    if p is not None and p < DRIFTS_AT and drift is not None:
        said += f"; within a set you drifted {'up' if drift > 0 else 'down'} by {_told(abs(drift), unit)}"
    return said + "."


@dataclass(frozen=True)
class Why:
    """What decides whether somebody is ready: the last sets that count, the evidence, a last set that was bad, the limit and the lean."""

    last: Sequence[SetTold]
    shown: Evidence
    bad: SetTold | None
    limit: float
    leaning: float


def _allowed_told(scale: Scale, limit: float, unit: str) -> str:
    if isinstance(scale, CountScale):
        least = limit_for(scale)
        return f"15 % of the count (at least {_told(least, unit)})"
    return _told(limit, unit)


def _why(why: Why, allowed: str, unit: str, *, ready: bool) -> str:
    rule = (
        f"Ready means: it is shown over all sets, the bad ones too, that you are off by less than {allowed} on average and do better than "
        f"guessing; and the last {SETS_NEEDED} lean by at most {_told(why.limit / 2, unit)}."
    )
    last = why.last
    if ready:
        return f"{rule} You were off by {' and '.join(_told(one.off, unit) for one in last)}."
    if len(last) < SETS_NEEDED:
        missing = SETS_NEEDED - len(last)
        return f"{rule} {'One more set is' if missing == 1 else f'{missing} sets are'} missing."
    if why.bad is not None:
        return f"{rule} In set {why.bad.number} you were off by {_told(why.bad.off, unit)}."
    if why.leaning > why.limit / 2:
        return f"{rule} You lean by {_told(why.leaning, unit)}."
    if why.shown.guessing < 1 / GUESSES:
        return f"{rule} Your answers do not follow the true values closely enough yet: guessing, or always the same, could do as well."
    return f"{rule} You were off by {' and '.join(_told(one.off, unit) for one in last)}; another set may show it."


def _as_rows(scale: Scale, answers: Sequence[Given], number: int) -> tuple[Floats, Floats, Floats]:
    """The true values of a set, what was given, and how far off is allowed at each."""
    own = [one for one in answers if one.set == number]
    truths = np.array([one.truth for one in own])
    allowed = np.array([limit_for(scale, one.truth) for one in own])
    return truths, np.array([one.given for one in own]), allowed
