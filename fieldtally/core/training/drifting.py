"""Whether what somebody does in real rounds takes back what they showed in practice."""

from __future__ import annotations

from fieldtally.core.agreement.together import DRIFTS_AT, Alone

FEWEST_PAIRS = 6
"""Samples scored again unknown to the scorer, below which nothing is told."""
ROUNDS = 3
"""Over so many rounds a hand may move by no more than a ready scorer may be off."""


def drifted(alone: Alone, limit: float) -> bool:
    """Whether a scorer is not taken for ready any more: they moved against the others over the rounds (p of the slope as in
    agreement, and by more than ``limit`` over three rounds), or their own values of samples that came again under a second code lay
    apart by more than ``limit``, which is in the outcome's unit."""
    within, drift = alone.within, alone.drift
    if within is not None and within.blind and within.pairs >= FEWEST_PAIRS and within.deviation > limit:
        return True
    moved = drift is not None and drift.p is not None and drift.p <= DRIFTS_AT
    return moved and drift is not None and abs(drift.slope) * ROUNDS > limit
