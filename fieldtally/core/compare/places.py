"""Who wins where, and who leads when: the winner in each block, place or level, and whether the change of winner is more than chance.

The change is tested as the interaction of treatment and place, by shuffling residuals inside places (:mod:`.effects`), and the change over
time as the treatments' difference in how each sample changed from the first look to the last.  In each place the treatments' own pair tests
are made; a winner there beats, by its own test, the one that wins elsewhere.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.compare.columns import Comparison
from fieldtally.core.compare.effects import interaction
from fieldtally.core.compare.overall import overall_test
from fieldtally.core.compare.structure import Structure

LEVEL = 1e-9


@dataclass(frozen=True)
class PlaceWinner:
    """A place: the treatment (name) that came first there, None where none or several did, and each one's mean there (None: no sample);
    ``won`` names it if it beats, by its own test, one that wins so elsewhere."""

    place: str
    winner: str | None
    means: tuple[float | None, ...]
    won: str | None = None


@dataclass(frozen=True)
class Where:
    """Who wins where.  ``by``: what the places are (block, a factor); ``treatments``: whose means each place has, in order (names; at the
    levels of a factor the levels of the others); ``p`` that the treatments' distances change from place to place by
    more
    than chance, None where one sample of each in a place cannot tell; ``changes``: not everywhere the same one comes first; ``reverses``:
    one wins by its own test in one place and another in another."""

    by: str
    treatments: tuple[str, ...]
    places: tuple[PlaceWinner, ...]
    changes: bool
    p: float | None
    reverses: bool = False


def who_wins_where(  # noqa: PLR0913 - options, each by its name
    values: Floats,
    labels: Ints,
    treatments: Sequence[str],
    groups: Ints,
    places: Sequence[str],
    by: str,
    rng: np.random.Generator,
    *,
    alpha: float = 0.05,
    told: Floats | None = None,
    within: Callable[[Ints], Comparison] | None = None,
) -> Where | None:
    """Winners by place; ``values`` (n,), NaN where missing, higher is better; ``groups`` (n,) number ``places``.  None with one place.

    ``told`` (n,) are the values that means are told of, where ``values`` are ranks or scores.

    ``within`` compares the samples (rows) of one place; without it nobody wins by a test.
    """
    kept = ~np.isnan(values)
    found = []
    for group, place in enumerate(places):
        rows = [kept & (labels == t) & (groups == group) for t in range(len(treatments))]
        means = tuple(float(values[own].mean()) if own.any() else None for own in rows)
        shown = means if told is None else tuple(float(told[own].mean()) if own.any() else None for own in rows)
        known = [mean for mean in means if mean is not None]
        top = max(known, default=0.0)
        near = LEVEL * max(1e-300, *(abs(mean) for mean in known)) if known else 0.0
        first = [treatments[t] for t, mean in enumerate(means) if mean is not None and top - mean <= near]
        found.append(PlaceWinner(place, first[0] if len(first) == 1 and len(known) > 1 else None, shown))
    if len(found) < 2:
        return None
    winners = {one.winner for one in found if one.winner is not None}
    p = interaction(values, labels, groups, rng)
    won: dict[int, str] = {}
    if within is not None and p is not None and p <= alpha and len(winners) > 1:
        won = _won([within(np.flatnonzero(kept & (groups == group))) for group in range(len(places))], found, alpha)
    each = tuple(PlaceWinner(one.place, one.winner, one.means, won.get(i)) for i, one in enumerate(found))
    return Where(by, tuple(treatments), each, len(winners) > 1, p, len(set(won.values())) > 1)


def _won(compared: Sequence[Comparison], places: Sequence[PlaceWinner], alpha: float) -> dict[int, str]:
    """The places (numbers) whose first beats, by its own test there, one that in turn beats it by its own elsewhere."""

    def beats(at: int, one: str, other: str) -> bool:
        pair = compared[at].pair(one, other)
        return pair is not None and pair.favours == one and pair.p <= alpha

    found: dict[int, str] = {}
    for i, here in enumerate(places):
        for j, there in enumerate(places):
            a, b = here.winner, there.winner
            if a is not None and b is not None and a != b and beats(i, a, b) and beats(j, b, a):
                found[i] = a
    return found


def who_wins_early_and_late(
    compared: Sequence[Comparison],
    looks: Sequence[str],
    series: Floats,
    labels: Ints,
    structure: Structure,
    rng: np.random.Generator,
    *,
    alpha: float = 0.05,
) -> Where | None:
    """Winners by look (names), of an outcome that is judged over all of them: ``compared`` at each, ``series`` (n, l) the values, NaN where
    missing.  ``p`` that the treatments changed differently between the first look and the last.  None with one look."""
    if len(looks) < 2:
        return None
    moved = series[:, -1] - series[:, 0]
    kept = ~np.isnan(moved)
    p = None
    if len(np.unique(labels[kept])) > 1 and kept.sum() > len(np.unique(labels[kept])):
        (told,) = overall_test(moved[kept][:, None], labels[kept], structure.kept(kept), rng)
        p = told.p
    found = []
    for look, one in zip(looks, compared, strict=True):
        best = sorted((t for t in one.treatments if t.worth is not None), key=lambda t: -(t.worth or 0.0))
        alone = len(best) > 1 and (best[0].worth or 0.0) > (best[1].worth or 0.0)
        found.append(PlaceWinner(look, best[0].treatment if alone else None, tuple(t.estimate for t in one.treatments)))
    winners = {one.winner for one in found if one.winner is not None}
    won = _won(compared, found, alpha) if p is not None and p <= alpha and len(winners) > 1 else {}
    each = tuple(PlaceWinner(one.place, one.winner, one.means, won.get(i)) for i, one in enumerate(found))
    names = tuple(t.treatment for t in compared[0].treatments)
    return Where("time", names, each, len(winners) > 1, p, len(set(won.values())) > 1)


@dataclass(frozen=True)
class When:
    """Who leads when: the leader (name; None: shared) at each look (key), the look from which on the treatments are apart for good (None:
    never), and p that they changed differently between the first look and the last."""

    leaders: tuple[tuple[str, str | None], ...]
    parts: str | None
    changes: bool
    p: float | None


def who_leads_when(
    series: Floats,
    looks: Sequence[str],
    overall: Sequence[float | None],
    labels: Ints,
    treatments: Sequence[str],
    structure: Structure,
    rng: np.random.Generator,
    alpha: float = 0.05,
) -> When | None:
    """Leaders over the looks; ``series`` (n, l), NaN where missing, higher is better; ``overall`` p of each look.  None with one look."""
    if series.shape[1] < 2:
        return None
    leaders: list[tuple[str, str | None]] = []
    for j, look in enumerate(looks):
        column = series[:, j]
        kept = ~np.isnan(column)
        means = [
            float(column[kept & (labels == t)].mean()) if (kept & (labels == t)).any() else -np.inf
            for t in range(len(treatments))
        ]
        top = max(means)
        first = [t for t, mean in enumerate(means) if mean == top]
        leaders.append((look, treatments[first[0]] if len(first) == 1 and np.isfinite(top) else None))
    apart = [p is not None and p <= alpha for p in overall]
    parts = next((looks[j] for j in range(len(looks)) if all(apart[j:])), None)
    moved = series[:, -1] - series[:, 0]
    kept = ~np.isnan(moved)
    p = None
    if len(np.unique(labels[kept])) > 1 and kept.sum() > len(np.unique(labels[kept])):
        (told,) = overall_test(moved[kept][:, None], labels[kept], structure.kept(kept), rng)
        p = told.p
    names = {name for _, name in leaders if name is not None}
    return When(tuple(leaders), parts, len(names) > 1, p)
