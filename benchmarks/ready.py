"""How often people are called ready within ten practice sets who are not, and who are: played with so many made-up people of each kind."""

from __future__ import annotations

import sys
from collections.abc import Callable, Mapping
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.scales import CountScale, GradeScale, Level, PassFailScale, PercentScale, Scale
from fieldtally.core.training.learning import SETS_NEEDED, limit_for
from fieldtally.core.training.readiness import evidence_of
from fieldtally.core.training.sets import SET_OF

GRADE = GradeScale(tuple(Level(float(i), str(i), f"level {i}") for i in range(5)))
COARSE = PercentScale(resolution=20.0)
SETS = 10
Answers = Callable[[Floats, np.random.Generator], Floats]


def truths_of(scale: Scale, rng: np.random.Generator) -> Floats:
    """The true values of a set on a scale."""
    match scale:
        case GradeScale():
            return rng.permutation(np.resize(np.arange(5.0), SET_OF))
        case PercentScale():
            return rng.permutation(np.round(100 * ((np.arange(SET_OF) + rng.random(SET_OF)) / SET_OF * 0.94 + 0.02)))
        case PassFailScale():
            return rng.permutation(np.resize([0.0, 1.0], SET_OF))
        case CountScale(of=of):
            return rng.permutation(np.round((of or 60) * (np.arange(SET_OF) + rng.random(SET_OF)) / SET_OF))
    raise ValueError(scale)


def ever_ready(scale: Scale, answer: Answers, plays: int) -> float:
    """The share of ``plays`` people who are called ready at any time within ten sets."""
    many = 0
    for play in range(plays):
        rng = np.random.default_rng([7, play])
        sets = []
        for number in range(SETS):
            truths = truths_of(scale, rng)
            allowed = np.array([limit_for(scale, float(truth)) for truth in truths])
            sets.append((truths, np.asarray(answer(truths, rng), dtype=np.float64), allowed))
            if number + 1 >= SETS_NEEDED and evidence_of(sets, rng).enough:
                many += 1
                break
    return many / plays


def _grades(spread: float) -> Answers:
    return lambda truths, rng: np.clip(np.round(truths + rng.normal(0, spread, len(truths))), 0, 4)


def _chance(low: int, high: int) -> Answers:
    return lambda truths, rng: rng.integers(low, high, len(truths)).astype(np.float64)


def _always(value: float) -> Answers:
    return lambda truths, rng: np.full(len(truths), value)


IDLE: Mapping[str, tuple[Scale, Answers]] = {
    "grades by chance": (GRADE, _chance(0, 5)),
    "always the middle grade": (GRADE, _always(2.0)),
    "a step too high": (GRADE, lambda truths, rng: np.clip(truths + 1, 0, 4)),
    "percent in 20s, always 40 or 60": (COARSE, lambda truths, rng: rng.choice([40.0, 60.0], len(truths))),
    "count of 5, always 2": (CountScale(of=5), _always(2.0)),
    "a count by chance": (CountScale(), _chance(0, 61)),
    "pass or fail by chance": (PassFailScale(), _chance(0, 2)),
}
NEARLY: Mapping[str, tuple[Scale, Answers]] = {
    "grades, a spread of 0.7 step": (GRADE, _grades(0.7)),
    "a count that leans by a quarter": (
        CountScale(),
        lambda t, rng: np.round(t * (1.25 + rng.normal(0, 0.05, len(t)))),
    ),
    "percent in 5s, leaning by 10": (PercentScale(resolution=5.0), lambda t, rng: np.round((t + 10) / 5) * 5),
}
GOOD: Mapping[str, tuple[Scale, Answers]] = {
    "grades, a spread of 0.3 step": (GRADE, _grades(0.3)),
    "percent in 5s, a spread of 4": (
        PercentScale(resolution=5.0),
        lambda t, rng: np.round((t + rng.normal(0, 4, len(t))) / 5) * 5,
    ),
    "percent in 20s, a spread of 6": (
        COARSE,
        lambda t, rng: np.round((t + rng.normal(0, 6, len(t))) / 20) * 20,
    ),
    "a count off by a tenth": (CountScale(), lambda t, rng: np.round(t * (1 + rng.normal(0, 0.1, len(t))))),
    "pass or fail, right 95 times in 100": (
        PassFailScale(),
        lambda t, rng: np.where(rng.random(len(t)) < 0.95, t, 1 - t),
    ),
}
KINDS = {"guesses": (IDLE, "≤ 2"), "too far off": (NEARLY, "≤ 5"), "good": (GOOD, "≥ 90")}


def _of(asked: tuple[str, str, int]) -> float:
    kind, who, plays = asked
    return ever_ready(*KINDS[kind][0][who], plays)


def main(plays: int) -> None:
    """Print the table."""
    asked = [(kind, who, plays) for kind, (people, _) in KINDS.items() for who in people]
    print(f"| {plays:,} people each, ten sets | | ever ready | aim |\n| --- | --- | --- | --- |")
    with ProcessPoolExecutor(2) as pool:
        for (kind, who, _), share in zip(asked, pool.map(_of, asked), strict=True):
            print(f"| {kind} | {who} | {100 * share:.1f} % | {KINDS[kind][1]} % |")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 1_000)
