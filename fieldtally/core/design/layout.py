"""Layouts: the order of treatments over the places, drawn from the seed of the plan.

The same plan and seed give the same layout on every machine (see :mod:`fieldtally.core.randomness`).
"""

from __future__ import annotations

from dataclasses import dataclass

from fieldtally.core.design.plan import Plan
from fieldtally.core.randomness import Draw


@dataclass(frozen=True)
class Slot:
    """One place for a sample: its block (key, or None), its place in the block from 1, its treatment's key."""

    block: str | None
    place: int
    treatment: str


def lay_out(plan: Plan, seed: str) -> tuple[Slot, ...]:
    """The places of ``plan``, block by block, with the treatments shuffled over the places inside each block."""
    blocks = [block.key for block in plan.layout.blocks] if plan.layout.kind == "blocks" else [None]
    return tuple(
        Slot(block, place, treatment)
        for block in blocks
        for place, treatment in enumerate(
            Draw(seed, f"layout/{block or ''}").shuffled(
                treatment.key for treatment in plan.treatments for _ in range(treatment.samples)
            ),
            start=1,
        )
    )
