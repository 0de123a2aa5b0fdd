"""Who gets which cups in which order: balanced two ways at once, and drawn.

Over all people every order comes as often as every other, give or take one, after each set that all have had; and so it does for each
person by themselves.  Which comes when is drawn: of all ways to deal a set that keep both balances, the one that is cheapest under costs
drawn for each person and order.  Neither a neighbour's order nor one's own earlier ones tell more of the next than the balance does.

Where the orders cannot all come equally often, those that come once more are neighbours in a cycle in which the odd cup's kind and place
alternate, so that kinds and places are even too.  Rankings and namings follow Williams squares (Williams 1949, Aust. J. Sci. Res. A
2:149), in which each thing also follows each other one equally often.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from scipy.optimize import linear_sum_assignment

from fieldtally.core.blinding.codes import draw_codes, plain_codes
from fieldtally.core.panels.methods import MethodName
from fieldtally.core.problems import Refused
from fieldtally.core.randomness import Draw

CYCLES: dict[MethodName, tuple[str, ...]] = {
    # The odd one's place goes 1, 2, 3, 1, 2, 3 and its kind A, B, A, B, A, B.
    "triangle": ("ABB", "ABA", "BBA", "BAA", "BAB", "AAB"),
    # The reference, then the two: reference and place of the right one both alternate.
    "duo-trio": ("AAB", "BAB", "ABA", "BBA"),
    # The first, the second, then X: which stands first and which X is both alternate.
    "abx": ("ABA", "BAA", "ABB", "BAB"),
    "2-afc": ("AB", "BA"),
    "3-afc": ("ABB", "BAB", "BBA"),
    "tetrad": ("AABB", "BABA", "ABBA", "BBAA", "ABAB", "BAAB"),
    "same-different": ("AA", "AB", "BB", "BA"),
    "a-not-a": ("A", "B"),
}
KINDS: dict[MethodName, tuple[int, ...]] = {"same-different": (0, 1, 0, 1), "a-not-a": (0, 1)}
"""Of yes or no, which orders are of one kind: everybody gets both as evenly as their sets allow."""
LETTERS = "ABCDEFGHIJKLMNOP"
COSTS = 1 << 40
"""Costs of a deal are drawn below this: whole numbers whose sums stay exact, and never tie in practice."""
TOO_DEAR = float(1 << 50)
TRIES = 200


@dataclass(frozen=True)
class Serving:
    """One set for one assessor in one session (from 0), over one ``stimulus`` (from 0): the letters of the cups in their order, and a code
    for each.  In a duo-trio the first cup is the reference, which has no code of its own ("R")."""

    assessor: int
    session: int
    order: str
    codes: tuple[str, ...]
    stimulus: int = 0


@dataclass(frozen=True)
class Before:
    """How often each order was ``dealt`` before, over all, and how often to each (``own``) of those who get more."""

    dealt: Mapping[str, int] = field(default_factory=dict)
    own: Sequence[Mapping[str, int]] = ()


def williams(k: int) -> tuple[str, ...]:
    """A Williams square for ``k`` things: k orders where k is even, 2k where it is odd.

    >>> williams(4)
    ('ABDC', 'BCAD', 'CDBA', 'DACB')
    """
    if not 2 <= k <= len(LETTERS):
        raise Refused(f"From 2 to {len(LETTERS)} things can be served in turn.", "things")
    first = [0]
    for i in range(1, k):
        first.append((i + 1) // 2 if i % 2 else k - i // 2)
    rows = ["".join(LETTERS[(one + shift) % k] for one in first) for shift in range(k)]
    return tuple(rows if k % 2 == 0 else [*rows, *(row[::-1] for row in rows)])


def cycle_of(method: MethodName, things: int = 2) -> tuple[str, ...]:
    """The orders of a method, in a sequence of which any run of neighbours is even."""
    return CYCLES[method] if method in CYCLES else williams(things)


def serving_plan(
    method: MethodName,
    assessors: int,
    draw: Draw,
    *,
    sessions: int = 1,
    things: int = 2,
    sets: int = 1,
    stimuli: int = 1,
    before: Before | None = None,
) -> tuple[Serving, ...]:
    """``sets`` for each assessor in each session and with each of ``stimuli``, one after the other.  Which stimulus comes when is balanced
    and drawn as the orders of cups are.

    Those who come late, and sessions that are added, get first what is missing of what was dealt ``before``.  Codes are fresh for each
    assessor and session, and none comes twice in a session while they last.

    :raises Refused: there is nobody, or no session.
    """
    if assessors < 1 or sessions < 1 or sets < 1:
        raise Refused("A panel has at least one assessor and one session.", "assessors")
    cycle = cycle_of(method, things)
    before = before or Before()
    over_all = np.array([before.dealt.get(order, 0) for order in cycle])
    each: Sequence[Mapping[str, int]] = before.own or [{}] * assessors
    had = np.array([[one.get(order, 0) for order in cycle] for one in each]).reshape(assessors, len(cycle))
    dealing = iter(_dealt(over_all, had, sessions * sets * stimuli, draw, KINDS.get(method)))
    turns = _turns(assessors, sessions * sets, stimuli, draw)
    found = []
    for session in range(sessions):
        deals = [next(dealing) for _ in range(sets * stimuli)]
        places = [(one, cycle[deal[one]]) for deal in deals for one in range(assessors)]
        codes = _codes(sum(_coded(method, order) for _, order in places), draw)
        for at, (assessor, order) in enumerate(places):
            fresh = tuple(codes.pop() for _ in range(_coded(method, order)))
            fresh = ("R", *fresh) if method == "duo-trio" else fresh
            turn = session * sets * stimuli + at // assessors
            found.append(Serving(assessor, session, order, fresh, turns[assessor][turn]))
    return tuple(sorted(found, key=lambda one: (one.session, one.assessor)))


def _turns(assessors: int, rounds: int, stimuli: int, draw: Draw) -> list[list[int]]:
    """Which stimulus each assessor gets at each turn: all of them in each of ``rounds``, in orders that are balanced and drawn."""
    if stimuli == 1:
        return [[0] * rounds for _ in range(assessors)]
    cycle = williams(stimuli)
    none = np.zeros(len(cycle), dtype=np.int_)
    deals = _dealt(none, np.zeros((assessors, len(cycle)), dtype=np.int_), rounds, draw)
    return [
        [LETTERS.index(letter) for deal in deals for letter in cycle[deal[assessor]]] for assessor in range(assessors)
    ]


Counts = np.ndarray[tuple[int, ...], np.dtype[np.int_]]


def _dealt(
    over_all: Counts, had: Counts, sets: int, draw: Draw, groups: tuple[int, ...] | None = None
) -> list[list[int]]:
    """The number of the order that each assessor (of the rows of ``had``) gets in each of ``sets`` sets; each gets all ``groups`` of orders
    (the number of each order's) equally often, give or take one.

    A set that cannot be dealt without breaking a balance means that those before it were dealt unluckily: they are dealt again.
    """
    for _ in range(TRIES):
        total, each, deals = over_all.copy(), had.copy(), []
        for _ in range(sets):
            deal = _one_set(total, each, draw, groups)
            if deal is None:
                break
            deals.append(deal)
            for assessor, order in enumerate(deal):
                total[order] += 1
                each[assessor, order] += 1
        if len(deals) == sets:
            return deals
    # People who were dealt to unevenly before may leave no way that is even both ways: each person's own balance goes first.
    total, each, deals = over_all.copy(), had.copy(), []
    for _ in range(sets):
        deal = _one_set(total, each, draw, groups, strict=False) or []
        deals.append(deal)
        for assessor, order in enumerate(deal):
            total[order] += 1
            each[assessor, order] += 1
    return deals


def _one_set(
    total: Counts, each: Counts, draw: Draw, groups: tuple[int, ...] | None, *, strict: bool = True
) -> list[int] | None:
    """One order for each assessor; None where the balances leave no way (if ``strict``)."""
    people, kinds = each.shape
    slots = np.repeat(np.arange(kinds), _quota(total, people, draw))
    costs = np.array([[float(draw.below(COSTS)) for _ in range(kinds)] for _ in range(people)])
    costs[each > each.min(axis=1, keepdims=True)] = TOO_DEAR
    if groups is not None:
        of_kind = each @ np.eye(max(groups) + 1, dtype=np.int_)[list(groups)]
        costs[(of_kind > of_kind.min(axis=1, keepdims=True))[:, groups]] = TOO_DEAR
    if not strict:
        # As many slots of each order as there are people: only what a person had, then what all had, counts.
        slots = np.repeat(np.arange(kinds), people)
        costs = costs + (total - total.min()) * float(COSTS)
    rows, columns = linear_sum_assignment(costs[:, slots])
    if strict and (costs[rows, slots[columns]] >= TOO_DEAR).any():
        return None
    return [int(slots[column]) for column in columns]


def _quota(total: Counts, people: int, draw: Draw) -> Counts:
    """How often each order is dealt next, so that all have come as evenly often as they can."""
    kinds = len(total)
    quota = np.zeros(kinds, dtype=np.int_)
    level = int(total.min())
    # Fill up to the highest level that all orders can reach.
    while int(np.maximum(level + 1 - total, 0).sum()) <= people:
        level += 1
    quota += np.maximum(level - total, 0)
    left = people - int(quota.sum())
    low = [i for i in range(kinds) if total[i] + quota[i] == level]
    if left and low:
        if len(low) == kinds:
            begin = draw.below(kinds)
            chosen = [(begin + i) % kinds for i in range(left)]
        else:
            # What comes once more stays one run of the cycle: it grows at one of its ends.
            first = next(i for i in low if (i - 1) % kinds not in low)
            run = sorted(low, key=lambda i: (i - first) % kinds)
            chosen = run[:left] if draw.below(2) else run[len(run) - left :]
        quota[chosen] += 1
    return quota


def _coded(method: MethodName, order: str) -> int:
    return len(order) - (method == "duo-trio")


def _codes(count: int, draw: Draw) -> list[str]:
    """Three digits as long as they last; then they begin anew, since no two people see each other's."""
    found: list[str] = []
    while len(found) < count:
        found += draw_codes(min(count - len(found), len(plain_codes(3))), draw)
    return found


def is_right(method: MethodName, order: str, answer: Sequence[int]) -> bool | None:
    """Whether an ``answer`` (places of cups from 0) is the right one for that ``order``; None where the method knows no right one.

    Of a tetrad the answer is the two that go together, of all others one cup.  In 2- and 3-AFC the stronger one is A.

    >>> is_right("triangle", "ABB", [0]), is_right("tetrad", "ABAB", [1, 3]), is_right("duo-trio", "AAB", [2])
    (True, True, False)
    """
    if any(not 0 <= place < len(order) for place in answer):
        raise Refused("There is no such cup.", "answer")
    match method:
        case "triangle":
            return len(answer) == 1 and order.count(order[answer[0]]) == 1
        case "duo-trio":
            return len(answer) == 1 and answer[0] > 0 and order[answer[0]] == order[0]
        case "abx":
            return len(answer) == 1 and answer[0] < 2 and order[answer[0]] == order[2]
        case "2-afc" | "3-afc":
            return len(answer) == 1 and order[answer[0]] == "A"
        case "tetrad":
            return len(set(answer)) == 2 and order[answer[0]] == order[answer[1]]
        case _:
            return None
