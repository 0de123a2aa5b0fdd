"""Holm's step-down adjustment: Holm 1979 (Scand. J. Statist. 6:65)."""

from __future__ import annotations

from collections.abc import Sequence


def holm(p: Sequence[float]) -> list[float]:
    """The p-values adjusted for being looked at together, in the order given.

    >>> holm([0.01, 0.04, 0.03])
    [0.03, 0.06, 0.06]
    """
    adjusted = [0.0] * len(p)
    highest = 0.0
    for rank, i in enumerate(sorted(range(len(p)), key=lambda i: p[i])):
        highest = max(highest, min(1.0, (len(p) - rank) * p[i]))
        adjusted[i] = highest
    return adjusted
