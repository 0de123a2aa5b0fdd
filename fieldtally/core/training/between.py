"""Between scorers: which levels want a photo, a duel of eye and gauge, and five samples that all grade before a round."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import fmean, median

from scipy.stats import wilcoxon

from fieldtally.core.scales import Scale, honest
from fieldtally.core.training.learning import Given, confusions_in

MIXED_OFTEN, FEWEST_ANSWERS = 0.25, 6
SAMPLES_TOGETHER = 5


@dataclass(frozen=True)
class AnchorWanted:
    """Two neighbouring levels that people mix up: how often, of how many answers by how many people."""

    low: float
    high: float
    mixed: int
    of: int
    people: int


def anchors_wanted(scale: Scale, answers: Mapping[str, Sequence[Given]]) -> tuple[AnchorWanted, ...]:
    """Where a photo on the border would help most, from everybody's practice (by person): neighbours mixed up a quarter of the time."""
    every = [one for own in answers.values() for one in own]
    found = []
    for one in confusions_in(scale, every):
        if one.of >= FEWEST_ANSWERS and one.mixed / one.of >= MIXED_OFTEN:
            people = sum(any({a.truth, a.given} == {one.low, one.high} for a in own) for own in answers.values())
            found.append(AnchorWanted(one.low, one.high, one.mixed, one.of, people))
    return tuple(found)


@dataclass(frozen=True)
class Duel:
    """Eye against gauge on the same pictures: how far off each was on average, how often each was nearer, p, a sentence."""

    n: int
    eye: float
    gauge: float
    eye_nearer: int
    gauge_nearer: int
    p: float | None
    says: str


def duel(truths: Sequence[float], eye: Sequence[float], gauge: Sequence[float], unit: str) -> Duel:
    """Who comes nearer to the truth: equally many of each, at least one.

    p is Wilcoxon's signed-rank test of the two errors, two-sided; None with fewer than six pictures that differ.

    >>> duel([10, 20], [14, 20], [11, 19], "%").says
    'Over 2 pictures your eye was off by 2 % and the gauge by 1 %.'
    """
    ours = [abs(a - b) for a, b in zip(eye, truths, strict=True)]
    theirs = [abs(a - b) for a, b in zip(gauge, truths, strict=True)]
    apart = [a - b for a, b in zip(ours, theirs, strict=True)]
    told = sum(abs(d) > 1e-9 for d in apart)
    p = float(wilcoxon([d for d in apart if abs(d) > 1e-9]).pvalue) if told >= 6 else None
    off, gauged = fmean(ours), fmean(theirs)
    says = (
        f"Over {len(apart)} pictures your eye was off by {honest(off, 2)} {unit}".rstrip()
        + f" and the gauge by {honest(gauged, 2)} {unit}".rstrip()
    )
    if p is not None:
        nearer = "the gauge is nearer" if gauged < off else "your eye is nearer"
        says += f": {nearer}, by more than chance" if p < 0.05 else ": that may be chance"
    return Duel(len(apart), off, gauged, sum(d < -1e-9 for d in apart), sum(d > 1e-9 for d in apart), p, says + ".")


@dataclass(frozen=True)
class Together:
    """Scorers on the same samples before a round: for each sample how far apart they were, for each scorer how they lean from the others'
    middle, what all were apart on average, and a sentence."""

    apart: Mapping[str, float]
    leaning: Mapping[str, float]
    mean: float
    says: str


def together(grades: Mapping[str, Mapping[str, float]], unit: str) -> Together | None:
    """What is told once all have graded: ``grades`` by scorer and sample.  None with fewer than two scorers on a sample.

    >>> told = together({"Ann": {"312": 3, "487": 4}, "Bo": {"312": 3, "487": 2}}, "grades")
    >>> told.apart["487"], told.leaning["Bo"]
    (2, -1.0)
    """
    samples = sorted({sample for own in grades.values() for sample in own})
    apart: dict[str, float] = {}
    leaning: dict[str, list[float]] = {name: [] for name in grades}
    for sample in samples:
        given = {name: own[sample] for name, own in grades.items() if sample in own}
        if len(given) < 2:
            continue
        apart[sample] = max(given.values()) - min(given.values())
        for name, value in given.items():
            leaning[name].append(value - median([v for other, v in given.items() if other != name]))
    if not apart:
        return None
    leans = {name: fmean(values) for name, values in leaning.items() if values}
    mean = fmean(apart.values())
    widest = max(apart, key=lambda sample: apart[sample])
    if math.isclose(apart[widest], 0):
        says = "All of you gave every sample the same."
    else:
        says = (
            f"You were {honest(mean, 2)} {unit}".rstrip()
            + f" apart on average, most on {widest} ({honest(apart[widest], 2)} {unit}".rstrip()
            + ")."
        )
        most = max(leans, key=lambda name: abs(leans[name]))
        if len(leans) > 2 and abs(leans[most]) > mean / 2 and abs(leans[most]) > 1e-9:
            lean = f"{honest(abs(leans[most]), 2)} {unit}".rstrip()
            says += f" {most} gives {lean} {'more' if leans[most] > 0 else 'less'} than the others."
    return Together(apart, leans, mean, says)
