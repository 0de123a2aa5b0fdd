"""Everything that scorers' values of one outcome tell about their agreement, and what to do about it."""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean
from typing import Literal

import numpy as np

from fieldtally.core.agreement.concordance import kendalls_w
from fieldtally.core.agreement.drift import Drift, drift_of
from fieldtally.core.agreement.icc import icc_2_1
from fieldtally.core.agreement.kappa import weighted_kappa, words_for
from fieldtally.core.agreement.repeats import WithinScorer, within_scorer

FEWEST_SHARED = 5
LEANS_BEYOND = 0.5
"""Of the margin: a scorer who differs from the others by more than that leans."""
DRIFTS_AT = 0.05


@dataclass(frozen=True)
class Scored:
    """One value: by a scorer, at a look (its place in time), of a sample; ``take`` counts how often this was read, ``blind`` marks one
    read under a second code."""

    scorer: str
    look: int
    sample: str
    value: float
    take: int = 1
    blind: bool = False


@dataclass(frozen=True)
class PairOfScorers:
    """Two scorers on the ``shared`` samples they both scored: weighted kappa of grades or ICC(2,1) of numbers as ``agreement``, which of
    them, its word; and how much more ``first`` gives than ``second`` on average."""

    first: str
    second: str
    shared: int
    measure: Literal["kappa", "icc"]
    agreement: float | None
    word: str
    difference: float


@dataclass(frozen=True)
class Alone:
    """One scorer by themselves: how they repeat where they read again, and how they stand against the others over the rounds."""

    scorer: str
    within: WithinScorer | None
    drift: Drift | None


@dataclass(frozen=True)
class Agreement:
    """All of it for one outcome, ``w`` over three scorers and more (None with fewer), and what to do, in sentences."""

    pairs: tuple[PairOfScorers, ...]
    alone: tuple[Alone, ...]
    w: float | None
    advice: tuple[str, ...]


def agreement_of(
    scored: Sequence[Scored],
    measure: Literal["kappa", "icc"],
    margin: float | None,
    unit: str,
    rng: np.random.Generator,
) -> Agreement:
    """How scorers agree on one outcome; ``margin`` is the smallest difference that matters, in ``unit``."""
    first = [one for one in scored if one.take == 1 and not one.blind]
    by_scorer: dict[str, dict[tuple[int, str], float]] = defaultdict(dict)
    for one in first:
        by_scorer[one.scorer][one.look, one.sample] = one.value
    names = sorted(by_scorer)
    pairs = tuple(
        found
        for a, b in itertools.combinations(names, 2)
        if (found := _pair(a, b, by_scorer[a], by_scorer[b], measure)) is not None
    )
    alone = tuple(Alone(name, _within(name, scored), _drift(name, by_scorer, rng)) for name in names)
    return Agreement(pairs, alone, _w(by_scorer), tuple(_advice(pairs, alone, margin, unit)))


def _pair(
    a: str,
    b: str,
    first: dict[tuple[int, str], float],
    second: dict[tuple[int, str], float],
    measure: Literal["kappa", "icc"],
) -> PairOfScorers | None:
    shared = sorted(first.keys() & second.keys())
    if len(shared) < FEWEST_SHARED:
        return None
    ones, twos = [first[at] for at in shared], [second[at] for at in shared]
    found = weighted_kappa(ones, twos) if measure == "kappa" else icc_2_1(np.array([ones, twos]).T)
    difference = fmean(x - y for x, y in zip(ones, twos, strict=True))
    return PairOfScorers(a, b, len(shared), measure, found, "" if found is None else words_for(found), difference)


def _within(name: str, scored: Sequence[Scored]) -> WithinScorer | None:
    """From blind repeats where there are any; else from what was read again knowingly, which is the kinder measure."""
    own = [one for one in scored if one.scorer == name]
    plain = {(one.look, one.sample): one.value for one in own if one.take == 1 and not one.blind}
    for again in ([one for one in own if one.blind and one.take == 1], [one for one in own if one.take == 2]):
        pairs = [(plain[one.look, one.sample], one.value) for one in again if (one.look, one.sample) in plain]
        if pairs:
            return within_scorer(pairs, blind=again[0].blind)
    return None


def _drift(name: str, by_scorer: dict[str, dict[tuple[int, str], float]], rng: np.random.Generator) -> Drift | None:
    differences: dict[int, list[float]] = defaultdict(list)
    for (look, sample), value in by_scorer[name].items():
        others = [own[look, sample] for other, own in by_scorer.items() if other != name and (look, sample) in own]
        if others:
            differences[look].append(value - fmean(others))
    return drift_of([fmean(differences[look]) for look in sorted(differences)], rng)


def _w(by_scorer: dict[str, dict[tuple[int, str], float]]) -> float | None:
    if len(by_scorer) < 3:
        return None
    shared = sorted(set.intersection(*(set(own) for own in by_scorer.values())))
    if len(shared) < FEWEST_SHARED:
        return None
    return kendalls_w(np.array([[own[at] for own in by_scorer.values()] for at in shared]))


def _advice(pairs: Sequence[PairOfScorers], alone: Sequence[Alone], margin: float | None, unit: str) -> list[str]:
    found = []
    for pair in pairs:
        if pair.agreement is not None and pair.agreement < 0.41:
            found.append(
                f"{pair.first} and {pair.second} see {pair.word}: score ten samples side by side, talk over the ones that differ, and "
                "add a sentence or a photo to the levels that you read differently."
            )
    drifting = {one.scorer for one in alone if one.drift and one.drift.p is not None and one.drift.p <= DRIFTS_AT}
    found += [
        f"{name}’s hand moves over the rounds: read the anchors before each one, and begin with the same two samples."
        for name in sorted(drifting)
    ]
    for one in alone:
        if one.drift and margin and abs(one.drift.leaning) > LEANS_BEYOND * margin and one.scorer not in drifting:
            way = "more" if one.drift.leaning > 0 else "less"
            found.append(
                f"{one.scorer} gives {way} than the others, by {abs(one.drift.leaning):.2g} {unit}".rstrip()
                + ": let each scorer score whole blocks, or average two on every sample, so that it falls out."
            )
    if not pairs and alone:
        found.append(
            "Only one has scored what there is: let somebody else score one whole round too, and you will know."
        )
    elif not found and pairs:
        found.append("Nothing to mend: any of them may score.")
    return found
