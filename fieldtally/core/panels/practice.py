"""Practice: one person tests themselves in repeated sets, to learn, and to know whether they tell at all.

It is their own record, and says nothing of a panel.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fieldtally.core.panels.discriminating import Bounds, discriminate
from fieldtally.core.panels.methods import MethodName
from fieldtally.core.panels.words import DID
from fieldtally.core.quantities.numbers import honest

MOST_PRACTISED = 60


@dataclass(frozen=True)
class Practised:
    """A run of sets: right ones of ``n``, how many would have been a pass, whether it was one, p, the share noticed, and a sentence."""

    n: int
    right: int
    needed: int
    passed: bool
    p: float
    pd: Bounds
    says: str


def practised(method: MethodName, answers: Sequence[bool], alpha: float = 0.05) -> Practised:
    """What a run of at least one set tells.

    >>> practised("triangle", [True] * 7 + [False] * 5).says
    'You found the odd one 7 times of 12. 8 would pass: guessing gives so many at most 5 times in 100 (p 0.066 for 7).'
    """
    found = discriminate(method, len(answers), sum(answers), alpha)
    passes = "That passes" if found.found else f"{found.needed} would pass"
    if found.needed > found.n:
        passes = f"With {found.n} sets not even all of them would pass"
    did = DID[method].replace("found", "You found").replace("told", "You told").replace("chose", "You chose")
    did = did.replace("sorted", "You sorted")
    often = f": guessing gives so many at most {round(100 * alpha)} times in 100" if found.needed <= found.n else ""
    reason = f"{often} (p {honest(found.p, 2)} for {found.correct})."
    says = f"{did} {found.correct} times of {found.n}. {passes}{reason}"
    return Practised(found.n, found.correct, found.needed, found.found, found.p, found.pd, says)
