"""The person is the unit: several judgements of one person are not several people.

Where people differ in how well they tell, or stick to an answer, their own judgements hang together, and a test that counts judgements
is too hopeful.  Each person's judgements become one number here.

Right answers: a person's count is beta-binomial with the mean of guessing, and hangs together as much as the answers leave open: the
one-sided upper bound of the intraclass correlation (Fleiss 1981; the bound after Searle 1971 by F), so that neither luck nor few people
hide it.  Preferences, names, ranks and yes or no: what one person gave is exchanged as a whole, which is exact however they hang together.
Sources: Ennis & Bi 1998, J. Sens. Stud. 13:389; Liggett & Delwiche 2005, J. Sens. Stud. 20:48; Edgington & Onghena 2007.
"""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import TypeVar

import numpy as np
from scipy.stats import betabinom, f

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.compare.rates import wilson
from fieldtally.core.panels.chance import by_chance, total_of
from fieldtally.core.panels.discriminating import Bounds, Discrimination, exact_interval
from fieldtally.core.panels.methods import METHODS, MethodName
from fieldtally.core.panels.naming import FactorRead, Named, named
from fieldtally.core.panels.preferring import DRAWS, Favoured, NoPreference, Preferred
from fieldtally.core.panels.psychometric import d_prime, noticers
from fieldtally.core.panels.ranking import sign_flip_p
from fieldtally.core.panels.telling import Told

SURE = 0.7
"""How sure the bound of the correlation is: people who guess, alike or each in their own way, are found at most 5 times in 100."""
STEP = 0.05
"""The bound is rounded up to this, so that what is needed can be told beforehand from a short table."""
STUCK = 0.99
"""From here on each person gives one answer, over and over."""
CLOSE = 1e-9
K = TypeVar("K")


def of_each(rows: Iterable[tuple[str, K]]) -> dict[str, list[K]]:
    """What belongs to each person, in order."""
    found: dict[str, list[K]] = defaultdict(list)
    for person, one in rows:
        found[person].append(one)
    return dict(found)


# Right answers


@dataclass(frozen=True)
class ByPerson:
    """``correlation`` of one person's judgements (0: as good as different people) and the ``bound`` up to which it may lie; ``effective``
    number of independent judgements; right answers ``needed`` of all, and p, by person; the plain binomial's p; the share who notice with
    its interval by person; and whether the plain test is ``too_hopeful``: it finds at level ``alpha`` what the test by person does not.
    Of one person alone nothing can be told of people at large: both tests are then the plain one, about this person."""

    persons: int
    judgements: int
    correlation: float
    bound: float
    effective: float
    needed: int
    p: float
    plain_p: float
    pd: Bounds
    too_hopeful: bool


def by_person(method: MethodName, counts: Sequence[tuple[int, int]], alpha: float = 0.05) -> ByPerson:
    """What ``(right, judgements)`` of each person tell; at least one judgement in all.

    >>> found = by_person("triangle", [(4, 4), (4, 4), (1, 4), (0, 4), (1, 4), (1, 4)])
    >>> found.correlation > 0.3, found.p > found.plain_p
    (True, True)
    """
    guess = METHODS[method].guess or 0.0
    right = np.array([r for r, _ in counts], dtype=np.float64)
    judged = np.array([n for _, n in counts], dtype=np.float64)
    total, all_right = int(judged.sum()), int(right.sum())
    plain = _tail(tuple(int(n) for n in judged), guess, 0.0)
    correlation, bound = hanging_together(right, judged)
    tail = plain if bound == 0 else _tail(tuple(int(n) for n in judged), guess, bound)
    inflated = 1 + correlation * (float((judged**2).sum()) / total - 1)
    effective = total / inflated
    share = all_right / total
    low, high = exact_interval(share * effective, effective, alpha)
    p, plain_p = min(1.0, float(tail[all_right])), min(1.0, float(plain[all_right]))
    return ByPerson(
        persons=len(counts),
        judgements=total,
        correlation=correlation,
        bound=bound,
        effective=effective,
        needed=int((tail > alpha).sum()),
        p=p,
        plain_p=plain_p,
        pd=Bounds(*(noticers(method, one) for one in (share, low, high))),
        too_hopeful=plain_p <= alpha < p,
    )


@lru_cache(maxsize=512)
def _tail(judged: tuple[int, ...], guess: float, correlation: float) -> Floats:
    """How often chance gives at least 0, 1, … right answers of all, where each person's hang together that much."""
    own = {n: _one_person(n, guess, correlation) for n in set(judged)}
    whole = total_of([own[n] for n in judged])
    return np.asarray(np.cumsum(whole[::-1])[::-1])


def _one_person(n: int, guess: float, correlation: float) -> Floats:
    if correlation >= STUCK:
        stuck = np.zeros(n + 1)
        stuck[0], stuck[n] = stuck[0] + 1 - guess, stuck[n] + guess
        return stuck
    if correlation <= 0:
        return by_chance(n, guess)
    weight = (1 - correlation) / correlation
    return np.asarray(betabinom.pmf(np.arange(n + 1), n, guess * weight, (1 - guess) * weight))


def hanging_together(right: Floats, judged: Floats) -> tuple[float, float]:
    """The intraclass correlation of people's judgements by analysis of variance, and its one-sided upper bound, rounded up; both between 0
    and 1.  Where people differ and nobody contradicts themselves the bound is 1; so it is where all are alike, which tells nothing."""
    persons, total = len(judged), float(judged.sum())
    if persons < 2 or total <= persons:
        return 0.0, 0.0
    share = right / judged
    mean = float(right.sum()) / total
    between = float((judged * (share - mean) ** 2).sum()) / (persons - 1)
    within = float((judged * share * (1 - share)).sum()) / (total - persons)
    size = (total - float((judged**2).sum()) / total) / (persons - 1)
    if within <= CLOSE:
        return (0.98 if between > CLOSE else 0.0), 1.0
    seen = float(np.clip((between / within - 1) / (between / within - 1 + size), 0.0, 0.98))
    most = between / within / float(f.ppf(1 - SURE, persons - 1, total - persons))
    bound = (most - 1) / (most - 1 + size) if most > 1 else 0.0
    return seen, float(min(1.0, np.ceil(bound / STEP - CLOSE) * STEP))


def counted_by_person(plain: Discrimination, persons: ByPerson) -> Discrimination:
    """What right answers tell, by person instead of by answer: needed, p, shares and d′ with their intervals."""
    worth = persons.effective
    low, high = exact_interval(plain.right.value * worth, worth, plain.alpha)
    ends = (plain.right.value, low, high)
    return replace(
        plain,
        needed=persons.needed,
        p=persons.p,
        right=Bounds(*ends),
        pd=persons.pd,
        dprime=Bounds(*(d_prime(plain.method, one) for one in ends)),
        effective=worth,
    )


def chance_by_person(method: MethodName, counts: Sequence[tuple[int, int]], bound: float) -> tuple[float, ...]:
    """How often guessing gives 0, 1, … right answers of all, where one person's hang together up to that ``bound``."""
    tail = _tail(tuple(n for _, n in counts), METHODS[method].guess or 0.0, bound)
    return tuple(float(one) for one in -np.diff(np.append(tail, 0.0)))


def most_alike_by_person(found: Discrimination, limit: float) -> int | None:
    """The largest count with which fewer than ``limit`` would be shown to notice; None where not even none is."""
    below = [
        count for count in range(found.n) if replace(found, right=Bounds(count / found.n, 0.0, 1.0)).upper_pd() < limit
    ]
    return max(below, default=None)


# Preferences


def liked_by_person(
    given: dict[str, list[int]], rule: NoPreference, rng: np.random.Generator, alpha: float
) -> Preferred:
    """Which of two is liked better, where people chose several times: 1 the first, −1 the second, 0 neither.

    Each person is one number, the mean of what they chose; p comes from turning the signs of whole persons, and ``first`` and ``second``
    count persons by what they chose more often.  ``rule`` ``drop``: sets without a preference do not count; ``split`` and ``third``: they
    pull to the middle; under ``third`` shares are of all persons.
    """
    means = []
    for own in given.values():
        chose = [one for one in own if one] if rule == "drop" else own
        means.append(float(np.mean(chose)) if chose else 0.0)
    scores = np.array(means)
    first, second = int((scores > CLOSE).sum()), int((scores < -CLOSE).sum())
    none = len(scores) - first - second
    match rule:
        case "drop":
            decided = np.array([one for one, own in zip(scores, given.values(), strict=True) if any(own)])
            share, of = (float((decided.mean() + 1) / 2), len(decided)) if len(decided) else (0.5, 0)
        case "split":
            share, of = float((scores.mean() + 1) / 2), len(scores)
        case _:
            share, of = first / len(scores), len(scores)
    low, high = wilson(share * of, of, alpha) if of else (0.0, 1.0)
    return Preferred(first, second, none, rule, float(of), Bounds(share, low, high), sign_flip_p(scores, rng))


def favoured_by_person(given: dict[str, list[int]], things: int, rng: np.random.Generator, alpha: float) -> Favoured:
    """Which of several is liked best, where people chose several times (−1: none).

    Each person is one row of shares; p comes from exchanging the things within whole persons.
    """
    rows = []
    for own in given.values():
        chose = [one for one in own if one >= 0]
        if chose:
            rows.append(np.bincount(chose, minlength=things) / len(chose))
    none = len(given) - len(rows)
    if not rows:
        return Favoured((0,) * things, none, tuple(Bounds(1 / things, 0.0, 1.0) for _ in range(things)), 1.0)
    shares = np.array(rows)
    tops = [int(np.argmax(row)) for row in shares if (row == row.max()).sum() == 1]
    counts = tuple(int(one) for one in np.bincount(tops, minlength=things))
    seen = float(((shares.sum(axis=0) - len(shares) / things) ** 2).sum())
    drawn = np.zeros((DRAWS, things))
    for row in shares:
        drawn += rng.permuted(np.tile(row, (DRAWS, 1)), axis=1)
    beyond = int((((drawn - len(shares) / things) ** 2).sum(axis=1) >= seen - CLOSE).sum())
    bounds = [(float(mean), *wilson(float(mean) * len(shares), len(shares), alpha)) for mean in shares.mean(axis=0)]
    return Favoured(counts, none, tuple(Bounds(*one) for one in bounds), (beyond + 1) / (DRAWS + 1))


# Names


def named_by_person(
    given: dict[str, list[tuple[int, ...]]], k: int, rng: np.random.Generator, *, each_once: bool
) -> Named:
    """Which is which, where people named several times: ``given`` holds what each called jar 0, 1, … k − 1, set by set.

    Whoever cannot tell may yet stick to a name: p comes from exchanging the jars within whole persons, in all of their sets alike.
    """
    plain = named([one for own in given.values() for one in own], k, each_once=each_once)
    sums = np.zeros(DRAWS)
    seen = 0.0
    for own in given.values():
        # How often each jar was called each name, as a share of this person's sets.
        table = np.zeros((k, k))
        for answer in own:
            table[np.arange(k), list(answer)] += 1 / len(own)
        seen += float(np.trace(table))
        # Of each way to exchange the jars, how many names would be right.
        orders = rng.permuted(np.tile(np.arange(k), (DRAWS, 1)), axis=1)
        sums += table[orders, np.arange(k)].sum(axis=1)
    p = (int((sums >= seen - CLOSE).sum()) + 1) / (DRAWS + 1)
    return replace(plain, p=p)


def factor_read(
    name: str, levels: Sequence[str], given: dict[str, list[tuple[int, ...]]], rng: np.random.Generator
) -> FactorRead:
    """Whether the factor ``name`` was recognised, whose level in each jar ``levels`` gives: a name counts as right where its level is.

    p comes from exchanging the jars within whole persons, as of the names themselves.
    """
    k = len(levels)
    alike = np.array([[float(one == other) for other in levels] for one in levels])
    sums, seen, right, of = np.zeros(DRAWS), 0.0, 0, 0
    for own in given.values():
        table = np.zeros((k, k))
        for answer in own:
            table[np.arange(k), list(answer)] += 1 / len(own)
            right += sum(levels[jar] == levels[named_as] for jar, named_as in enumerate(answer))
            of += k
        # How many names would have the right level if what jar a was called had been said of jar b.
        would = table @ alike.T
        seen += float(np.trace(would))
        orders = rng.permuted(np.tile(np.arange(k), (DRAWS, 1)), axis=1)
        sums += would[orders, np.arange(k)].sum(axis=1)
    p = (int((sums >= seen - CLOSE).sum()) + 1) / (DRAWS + 1)
    return FactorRead(name, right, of, float(sums.mean()) * of / (k * len(given)), p)


# Yes or no


def told_by_person(given: dict[str, list[tuple[bool, bool]]], plain: Told, rng: np.random.Generator) -> Told:
    """A or not A, same or different, where people answered several times: (whether it was so, whether yes was said).

    Each person who had both kinds is one number: how much more often they said yes where it was so.  p, one-sided, comes from turning the
    signs of whole persons; those who had one kind alone tell nothing of it.  Where nobody had both, ``plain`` stands.
    """
    scores = []
    for own in given.values():
        so, not_so = [said for was, said in own if was], [said for was, said in own if not was]
        if so and not_so:
            scores.append(float(np.mean(so)) - float(np.mean(not_so)))
    return replace(plain, p=one_sided_p(np.array(scores), rng)) if scores else plain


def one_sided_p(scores: Floats, rng: np.random.Generator) -> float:
    """p that a sum of scores is as large, where each may have either sign."""
    moved = scores[np.abs(scores) > CLOSE]
    if not len(moved):
        return 1.0
    seen = float(moved.sum())
    if len(moved) <= 15:
        signs = np.array(list(itertools.product((1.0, -1.0), repeat=len(moved))))
        return float((signs @ moved >= seen - CLOSE).mean())
    signs = rng.choice((1.0, -1.0), size=(DRAWS, len(moved)))
    return float((int((signs @ moved >= seen - CLOSE).sum()) + 1) / (DRAWS + 1))


# Ranks


def ranks_by_person(given: dict[str, list[Sequence[float]]]) -> list[list[float]]:
    """For each person one row: the mean rank of each thing over their sets."""
    return [[float(one) for one in np.mean(np.array(own, dtype=np.float64), axis=0)] for own in given.values()]


# Between groups of people


def between_groups_p(
    shares: Floats, labels: np.ndarray[tuple[int], np.dtype[np.int_]], rng: np.random.Generator
) -> float:
    """p that groups of people (``labels`` 0, 1, …) differ in their shares as much, where who belongs to which is exchanged."""
    groups = int(labels.max()) + 1
    sizes = np.bincount(labels, minlength=groups)
    member = np.eye(groups)[labels]

    def spread(rows: Floats) -> Floats:
        sums = rows @ member
        return np.asarray((sums**2 / sizes).sum(axis=-1))

    seen = float(spread(shares[None, :])[0])
    drawn = spread(rng.permuted(np.tile(shares, (DRAWS, 1)), axis=1))
    return (int((drawn >= seen - CLOSE).sum()) + 1) / (DRAWS + 1)


def within_persons_p(rows: Sequence[Sequence[tuple[int, bool]]], kinds: int, rng: np.random.Generator) -> float:
    """p that answers over ``kinds`` of stimuli differ as much in how often they are right, where each person's answers (stimulus from 0,
    right) are exchanged among themselves."""
    sums, seen, sizes = np.zeros((DRAWS, kinds)), np.zeros(kinds), np.zeros(kinds)
    for own in rows:
        member = np.eye(kinds)[[stimulus for stimulus, _ in own]]
        right = np.array([float(ok) for _, ok in own])
        seen += right @ member
        sizes += member.sum(axis=0)
        sums += rng.permuted(np.tile(right, (DRAWS, 1)), axis=1) @ member
    return _spread_p(seen, sums, sizes)


def answers_apart_p(right: Sequence[bool], labels: Sequence[int], rng: np.random.Generator) -> float:
    """p that right answers differ as much between ``labels`` that were drawn (places of the right cup), where these are exchanged."""
    names = sorted(set(labels))
    member = np.eye(len(names))[[names.index(one) for one in labels]]
    row = np.array([float(ok) for ok in right])
    sums = rng.permuted(np.tile(row, (DRAWS, 1)), axis=1) @ member
    return _spread_p(row @ member, sums, member.sum(axis=0))


def _spread_p(seen: Floats, drawn: Floats, sizes: Floats) -> float:
    """How often the sums ``drawn`` (draws, groups) lie as far apart as those ``seen``, by groups of those ``sizes``."""
    used = sizes > 0
    far = (seen[used] ** 2 / sizes[used]).sum()
    beyond = ((drawn[:, used] ** 2 / sizes[used]).sum(axis=1) >= far - CLOSE).sum()
    return (int(beyond) + 1) / (DRAWS + 1)
