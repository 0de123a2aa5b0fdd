"""Allocation: the layout's places under blind codes.  Who holds it holds the key."""

from __future__ import annotations

from dataclasses import dataclass

from fieldtally.core.blinding.codes import draw_codes
from fieldtally.core.design.layout import lay_out
from fieldtally.core.design.plan import Plan
from fieldtally.core.randomness import Draw


@dataclass(frozen=True)
class Allotted:
    """One sample: its blind code, its block (key, or None), its place in the block from 1, its treatment's key."""

    code: str
    block: str | None
    place: int
    treatment: str


def allocate(plan: Plan, seed: str) -> tuple[Allotted, ...]:
    """The samples of ``plan``, block by block and place by place; codes are drawn apart from the layout."""
    slots = lay_out(plan, seed)
    codes = draw_codes(len(slots), Draw(seed, "codes"))
    return tuple(
        Allotted(code, slot.block, slot.place, slot.treatment) for code, slot in zip(codes, slots, strict=True)
    )
