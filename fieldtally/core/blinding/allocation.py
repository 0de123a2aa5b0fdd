"""Allocation: the layout's places under blind codes.  Who holds it holds the key."""

from __future__ import annotations

from dataclasses import dataclass

from fieldtally.core.blinding.codes import draw_codes
from fieldtally.core.design.layout import lay_out, starts_in
from fieldtally.core.design.plan import Plan
from fieldtally.core.randomness import Draw


@dataclass(frozen=True)
class Allotted:
    """One sample: its blind code, its block (key, or None), its place in the block from 1, its treatment's key; its plot,
    row and column as in :class:`~fieldtally.core.design.layout.Slot`, and when it starts, in minutes after the first."""

    code: str
    block: str | None
    place: int
    treatment: str
    plot: int | None = None
    row: int | None = None
    column: int | None = None
    starts: int = 0


def allocate(plan: Plan, seed: str) -> tuple[Allotted, ...]:
    """The samples of ``plan``, block by block and place by place; codes are drawn apart from the layout."""
    slots = lay_out(plan, seed)
    codes = draw_codes(len(slots), Draw(seed, "codes"))
    return tuple(
        Allotted(code, slot.block, slot.place, slot.treatment, slot.plot, slot.row, slot.column, starts)
        for code, slot, starts in zip(codes, slots, starts_in(plan, slots), strict=True)
    )
