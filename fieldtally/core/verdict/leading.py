"""Who leads: what orders the treatments must point the same way in every rival's own test.

The order is that of block-adjusted means, shares, mean ranks, or log-rank scores over all treatments; the test of a pair knows only that
pair.  Where blocks are incomplete, where A is ahead of B, B of C and C of A, or where the curves of an event cross, these say different
things; then nobody leads, and it is said how they contradict each other.  Those that are exactly level share their place.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from fieldtally.core.compare.columns import Comparison, Estimate, Pair

LEVEL = 1e-9
"""Treatments whose worth differs by less than this share of all differences are level."""


@dataclass(frozen=True)
class Leading:
    """Treatments that have an estimate, best first (``order``); who shares the first place (``first``, empty where nobody leads because
    directions contradict each other, as ``contradiction`` says)."""

    order: tuple[Estimate, ...]
    first: tuple[Estimate, ...]
    contradiction: str | None = None

    @property
    def leader(self) -> Estimate | None:
        """The one that leads alone."""
        return self.first[0] if len(self.first) == 1 else None

    def rivals(self, comparison: Comparison) -> list[Pair]:
        """The leader's pairs with each other treatment, nearest first; none where nobody leads alone."""
        if self.leader is None:
            return []
        others = [one for one in self.order if one is not self.leader]
        found = [comparison.pair(self.leader.treatment, one.treatment) for one in others]
        return [pair for pair in found if pair is not None]


def leading(comparison: Comparison, among: Collection[str] | None = None) -> Leading:
    """Who leads ``comparison``, among all treatments or those named in ``among``."""
    known = [
        one
        for one in comparison.treatments
        if one.estimate is not None and one.worth is not None and (among is None or one.treatment in among)
    ]
    order = tuple(sorted(known, key=lambda one: -(one.worth or 0.0)))
    if not order:
        return Leading((), ())
    best, spread = order[0].worth or 0.0, (order[0].worth or 0.0) - (order[-1].worth or 0.0)
    top = [one for one in order if best - (one.worth or 0.0) <= LEVEL * max(spread, abs(best))]
    first = [one for one in top if not _ahead_of(comparison, one, order)]
    if not first:
        return Leading(order, (), _against(comparison, top[0], order))
    level = [one for one in order if one not in first and any(_level(comparison, one, other) for other in first)]
    if len(first) == 1 and not level:
        crossing = _crossing(comparison, first[0], order)
        if crossing:
            return Leading(order, (), crossing)
    return Leading(order, (*first, *(one for one in level if not _ahead_of(comparison, one, order))))


def _ahead_of(comparison: Comparison, one: Estimate, order: Collection[Estimate]) -> list[Estimate]:
    """Who is ahead of ``one`` in their own test."""
    return [
        other
        for other in order
        if other is not one
        and (pair := comparison.pair(other.treatment, one.treatment)) is not None
        and pair.favours == other.treatment
    ]


def _level(comparison: Comparison, one: Estimate, other: Estimate) -> bool:
    pair = comparison.pair(one.treatment, other.treatment)
    return pair is not None and pair.n_a > 0 and pair.favours is None


def _against(comparison: Comparison, best: Estimate, order: Collection[Estimate]) -> str:
    """How the order and the pairs' own tests contradict each other."""
    ahead = _ahead_of(comparison, best, order)[0]
    beyond = next((one for one in _ahead_of(comparison, ahead, order) if one is not best), None)
    if beyond is not None and best in _ahead_of(comparison, beyond, order):
        names = (best.treatment, beyond.treatment, ahead.treatment)
        return f"{names[0]} is ahead of {names[1]}, {names[1]} of {names[2]}, and {names[2]} of {names[0]}"
    return (
        f"over all, {best.treatment} comes first, but where the two can be held against each other {ahead.treatment} "
        f"is ahead of {best.treatment}"
    )


def _crossing(comparison: Comparison, leader: Estimate, order: Collection[Estimate]) -> str | None:
    """Where the leader's event curve crosses a rival's so that their restricted means say the opposite."""
    if not comparison.column.timed:
        return None
    turn = 1 if comparison.column.better == "more" else -1
    for other in order:
        pair = comparison.pair(leader.treatment, other.treatment) if other is not leader else None
        if pair is None or leader.estimate is None or other.estimate is None:
            continue
        if turn * pair.difference < 0 and turn * (leader.estimate - other.estimate) < 0:
            return (
                f"the curves of {leader.treatment} and {other.treatment} cross: the log-rank test speaks for "
                f"{leader.treatment}, the mean over the time both were followed for {other.treatment}"
            )
    return None
