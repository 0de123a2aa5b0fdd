"""Who gets which cups in which order: every order as often as every other, give or take one, wherever the panel stops.

Orders are dealt from a cycle in which any run of neighbours is balanced: the odd cup's kind and place alternate.  A later session goes
on in the cycle where the one before ended.  Rankings and namings follow Williams squares (Williams 1949, Aust. J. Sci. Res. A 2:149), in
which each thing also follows each other one equally often.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

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
LETTERS = "ABCDEFGHIJKLMNOP"


@dataclass(frozen=True)
class Serving:
    """One set for one assessor in one session (from 0): the letters of the cups in their order, and a code for each.  In a duo-trio the
    first cup is the reference, which has no code of its own ("R")."""

    assessor: int
    session: int
    order: str
    codes: tuple[str, ...]


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
    """The orders of a method, in the sequence in which they are dealt."""
    return CYCLES[method] if method in CYCLES else williams(things)


def serving_plan(
    method: MethodName,
    assessors: int,
    draw: Draw,
    *,
    sessions: int = 1,
    things: int = 2,
    sets: int = 1,
    dealt: Mapping[str, int] | None = None,
) -> tuple[Serving, ...]:
    """A set for each assessor in each session, ``sets`` of them one after the other; where the cycle begins and who comes first is drawn.

    ``dealt`` says how often each order was dealt before: those who come late, and sessions that are added, get what is missing first.
    Codes are fresh for each assessor and session, and none comes twice in a session while they last.

    :raises Refused: there is nobody, or no session.
    """
    if assessors < 1 or sessions < 1 or sets < 1:
        raise Refused("A panel has at least one assessor and one session.", "assessors")
    cycle = cycle_of(method, things)
    begin = draw.below(len(cycle))
    turn = [*cycle[begin:], *cycle[:begin]]
    many = Counter(dict(dealt or {}))
    found = []
    for session in range(sessions):
        who = draw.shuffled(range(assessors))
        places = [(one, n) for n in range(sets) for one in who]
        orders = []
        for _ in places:
            orders.append(min(turn, key=lambda order: many[order]))
            many[orders[-1]] += 1
        codes = _codes(sum(_coded(method, order) for order in orders), draw)
        for (assessor, _), order in zip(places, orders, strict=True):
            own = tuple(codes.pop() for _ in range(_coded(method, order)))
            found.append(Serving(assessor, session, order, ("R", *own) if method == "duo-trio" else own))
    return tuple(sorted(found, key=lambda one: (one.session, one.assessor)))


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
