"""What a panel can find whose people answer several times: by the tests by person, played.

A share ``noticing`` of the people tell truly, in all their sets; all others answer as chance does, anew in each set.  Where a difference
d′ is planned instead, everybody's answers are right as often as it gives.
"""

from __future__ import annotations

from bisect import bisect_left
from functools import lru_cache

import numpy as np
from scipy.stats import beta, binom, chi2, f, norm

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.panels.abilities import LADDER
from fieldtally.core.panels.methods import METHODS, MethodName
from fieldtally.core.panels.persons import STEP, SURE, chance_by_person
from fieldtally.core.panels.psychometric import share_right_of

PLAYS = 2_000
MOST_PEOPLE = 300
"""Larger panels whose people answer several times are not looked for."""
CLOSE = 1e-9


@lru_cache(maxsize=1024)
def needed_of(method: MethodName, people: int, sets: int, alpha: float, bound: float) -> int:
    """Right answers needed of all where one person's may hang together up to that ``bound``."""
    chance = np.array(chance_by_person(method, ((0, sets),) * people, bound))
    tail = np.cumsum(chance[::-1])[::-1]
    return int((tail > alpha).sum())


def usual_bound(people: int, sets: int) -> float:
    """How much one person's answers are taken to hang together where they look as if they did not at all."""
    if people < 2:
        return 0.0
    most = 1 / float(f.ppf(1 - SURE, people - 1, people * (sets - 1)))
    return float(np.ceil(max(0.0, (most - 1) / (most - 1 + sets)) / STEP - CLOSE) * STEP)


@lru_cache(maxsize=512)
def right_by_person(
    method: MethodName, people: int, sets: int, noticing: float, alpha: float, right: float | None
) -> float:
    """How often a difference is shown by right answers; ``right``: everybody is right as often as that, instead of a share who notice."""
    rng = np.random.default_rng(20)
    guess = METHODS[method].guess or 0.0
    each = np.full((PLAYS, people), guess if right is None else right)
    counts = rng.binomial(sets, each).astype(np.float64)
    if right is None:
        counts[rng.random((PLAYS, people)) < noticing] = sets
    bounds = _bounds(counts, sets)
    least = {bound: needed_of(method, people, sets, alpha, bound) for bound in set(bounds.tolist())}
    return float(np.mean(counts.sum(axis=1) >= np.array([least[bound] for bound in bounds.tolist()])))


def _bounds(counts: Floats, sets: int) -> Floats:
    """The bound of :func:`hanging_together` for each row of ``counts`` (plays, people) at once."""
    people = counts.shape[1]
    if people < 2 or sets < 2:
        return np.zeros(len(counts))
    ratio, stuck = _ratios(counts, sets)
    most = ratio / float(f.ppf(1 - SURE, people - 1, people * (sets - 1)))
    bound = np.where(most > 1, (most - 1) / (most - 1 + sets), 0.0)
    rounded = np.minimum(1.0, np.ceil(bound / STEP - CLOSE) * STEP)
    return np.asarray(np.where(stuck, 1.0, rounded))


def _ratios(counts: Floats, sets: int) -> tuple[Floats, Floats]:
    """Of each row of ``counts`` (plays, people) the variance between persons over that within, and whether nothing varies within."""
    share = counts / sets
    between = sets * share.var(axis=1, ddof=1)
    within = sets * (share * (1 - share)).sum(axis=1) / (counts.shape[1] * (sets - 1))
    return np.asarray(between / np.maximum(within, CLOSE)), np.asarray(within <= CLOSE)


@lru_cache(maxsize=512)
def alike_by_person(method: MethodName, people: int, sets: int, limit: float, alpha: float) -> float:
    """How often it is shown that fewer than ``limit`` notice, where nobody does: by as many independent answers as those of each play are
    worth."""
    rng = np.random.default_rng(22)
    counts = rng.binomial(sets, METHODS[method].guess or 0.0, (PLAYS, people)).astype(np.float64)
    n = people * sets
    ratio, stuck = _ratios(counts, sets) if people > 1 else (np.ones(PLAYS), np.zeros(PLAYS))
    correlation = np.where(stuck, 1.0, np.clip((ratio - 1) / (ratio - 1 + sets), 0.0, 1.0))
    worth = n / (1 + correlation * (sets - 1))
    right = counts.sum(axis=1) / n * worth
    upper = np.where(right >= worth, 1.0, beta.ppf(1 - alpha, right + 1, np.maximum(worth - right, CLOSE)))
    return float((upper < share_right_of(method, limit)).mean())


def enough_alike(method: MethodName, sets: int, limit: float, alpha: float, wanted: float) -> int | None:
    """People from whom on that is shown ``wanted`` (0–1) of the time; None: no panel is large enough."""
    sizes = [size for size in LADDER if size <= MOST_PEOPLE]
    at = bisect_left(sizes, True, key=lambda people: alike_by_person(method, people, sets, limit, alpha) >= wanted)
    return sizes[at] if at < len(sizes) else None


def enough_people(
    method: MethodName,
    sets: int,
    noticing: float,
    alpha: float,
    wanted: float,
    *,
    right: float | None,
    things: int,
    each_once: bool,
) -> int | None:
    """People from whom on something is shown ``wanted`` (0–1) of the time, to about one in twenty; None: no panel is large enough."""

    def does(people: int) -> bool:
        if METHODS[method].discriminates:
            return right_by_person(method, people, sets, noticing, alpha, right) >= wanted
        return told_apart_by_person(method, people, sets, noticing, alpha, things, each_once=each_once) >= wanted

    sizes = [size for size in LADDER if size <= MOST_PEOPLE]
    at = bisect_left(sizes, True, key=does)
    return sizes[at] if at < len(sizes) else None


@lru_cache(maxsize=512)
def told_apart_by_person(
    method: MethodName, people: int, sets: int, noticing: float, alpha: float, things: int, *, each_once: bool
) -> float:
    """The same for tests without one right answer."""
    rng = np.random.default_rng(21)
    truly = rng.random((PLAYS, people)) < noticing
    match method:
        case "naming":
            return _naming(rng, truly, sets, things, alpha, each_once=each_once)
        case "preference" if things == 2:
            scores = 2 * rng.binomial(sets, 0.5, truly.shape) - sets
            scores[truly] = sets
            return float((_turned(scores, two_sided=True) <= alpha).mean())
        case "preference":
            return _favoured(rng, truly, sets, things, alpha)
        case _:
            so, not_so = -(-sets // 2), sets // 2
            yes = rng.binomial(so, 0.5 + noticing / 2, truly.shape)
            scores = yes * not_so - rng.binomial(not_so, 0.5 - noticing / 2, truly.shape) * so
            return float((_turned(scores, two_sided=False) <= alpha).mean())


def _turned(scores: np.ndarray[tuple[int, ...], np.dtype[np.int_]], *, two_sided: bool) -> Floats:
    """p of each row of ``scores`` (plays, people; whole numbers) by turning the signs of whole people, in every way."""
    seen = scores.sum(axis=1)
    p = np.ones(len(scores))
    for play, row in enumerate(scores):
        moved = np.bincount(np.abs(row))
        moved[:1] = 0
        tail = _tail_of_turns(tuple(int(one) for one in moved))
        reach = abs(int(seen[play])) if two_sided else int(seen[play])
        centre = (len(tail) - 1) // 2
        p[play] = min(1.0, tail[max(0, centre + reach)] * (2 if two_sided and reach > 0 else 1))
    return p


@lru_cache(maxsize=8192)
def _tail_of_turns(moved: tuple[int, ...]) -> Floats:
    """How often the sum is at least −most … most, where so many people (``moved``) have a score of 0, 1, 2 … and either sign."""
    whole = np.ones(1)
    for score, people in enumerate(moved):
        if score and people:
            # Of a binomial count of plus signs the sum is score × (2 plus − people).
            signs = np.zeros(2 * score * people + 1)
            signs[:: 2 * score] = binom.pmf(np.arange(people + 1), people, 0.5)
            whole = np.convolve(whole, signs)
    return np.asarray(np.cumsum(whole[::-1])[::-1])


def _naming(
    rng: np.random.Generator,
    truly: np.ndarray[tuple[int, ...], np.dtype[np.bool_]],
    sets: int,
    k: int,
    alpha: float,
    *,
    each_once: bool,
) -> float:
    plays, people = truly.shape
    tables = np.zeros((plays, people, k, k))
    for _ in range(sets):
        names = (
            rng.permuted(np.broadcast_to(np.arange(k), (plays, people, k)).copy(), axis=2)
            if each_once
            else rng.integers(0, k, (plays, people, k))
        )
        tables += np.eye(k)[names] / sets
    tables[truly] = np.eye(k)
    right = np.trace(tables, axis1=2, axis2=3)
    centred = tables - tables.mean(axis=3, keepdims=True) - tables.mean(axis=2, keepdims=True) + 1 / k
    spread = (centred**2).sum(axis=(1, 2, 3)) / (k - 1)
    # Half a name short, since names are counted whole.
    reach = right.sum(axis=1) - people - 0.5 / sets
    return float((reach >= norm.ppf(1 - alpha) * np.sqrt(spread)).mean())


def _favoured(
    rng: np.random.Generator, truly: np.ndarray[tuple[int, ...], np.dtype[np.bool_]], sets: int, k: int, alpha: float
) -> float:
    shares = rng.multinomial(sets, [1 / k] * k, truly.shape) / sets
    shares[truly] = np.eye(k)[0]
    sums = shares.sum(axis=1)
    statistic = ((sums - truly.shape[1] / k) ** 2).sum(axis=1)
    scale = ((shares - 1 / k) ** 2).sum(axis=(1, 2)) / (k - 1)
    return float((statistic >= chi2.ppf(1 - alpha, k - 1) * scale).mean())
