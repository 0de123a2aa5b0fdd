"""Allocation: the layout's places under blind codes.  Who holds it holds the key."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import timedelta

from fieldtally.core.blinding.codes import draw_codes
from fieldtally.core.design.given import given_slots, given_starts
from fieldtally.core.design.layout import Slot, drawn_in, lay_out, starts_in
from fieldtally.core.design.plan import Plan
from fieldtally.core.design.starting import imbalance
from fieldtally.core.randomness import Draw

BALANCED_OF = 20


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
    """The samples of ``plan``, block by block and place by place; codes are drawn apart from the layout.  Of a trial that has begun the
    layout is the one that stands, and starts are those that were."""
    if plan.begun is not None and plan.begun.samples:
        slots = given_slots(plan, plan.begun)
        began = given_starts(plan, plan.begun)
        starts = tuple(round((at - min(began)) / timedelta(minutes=1)) for at in began)
    else:
        slots = slots_of(plan, seed)
        starts = starts_in(plan, slots)
    codes = draw_codes(len(slots), Draw(seed, "codes"))
    return tuple(
        Allotted(code, slot.block, slot.place, slot.treatment, slot.plot, slot.row, slot.column, later)
        for code, slot, later in zip(codes, slots, starts, strict=True)
    )


def allocate_added(plan: Plan, block: str, seed: str, taken: Collection[str]) -> tuple[Allotted, ...]:
    """The samples that an amendment added as ``block`` (key) of ``plan``, place by place, under codes that are not ``taken``."""
    slots = drawn_in(plan, seed, block)
    codes = draw_codes(len(slots), Draw(seed, "codes"), taken)
    return tuple(
        Allotted(code, slot.block, slot.place, slot.treatment, slot.plot, slot.row, slot.column)
        for code, slot in zip(codes, slots, strict=True)
    )


def slots_of(plan: Plan, seed: str) -> tuple[Slot, ...]:
    """The layout drawn from ``seed``; where it is to be balanced on what samples measured at the start, the best balanced of
    twenty such draws (Morgan & Rubin 2012).  Shuffling over all arrangements then judges a little too carefully, never too
    boldly."""
    start = plan.start_values
    if not start.balance or all(value is None for value in start.values):
        return lay_out(plan, seed)
    drawn = [lay_out(plan, f"{seed}/balanced {i}") for i in range(BALANCED_OF)]
    return min(drawn, key=lambda slots: imbalance(start.values, [s.block for s in slots], [s.treatment for s in slots]))
