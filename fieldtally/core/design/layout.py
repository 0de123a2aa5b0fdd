"""Layouts: the order of treatments over the places, drawn from the seed of the plan.

The same plan and seed give the same layout on every machine (see :mod:`fieldtally.core.randomness`).

* *random*, *blocks*: the treatments shuffled over all places, or over the places inside each block.
* *latin*: a cyclic square whose rows, columns and treatments are shuffled, so that each treatment stands once in each row
  and each column (Fisher & Yates 1938, Statistical Tables, introduction to table XV).
* *split*: the levels of the hard factor shuffled over the whole plots of each block, then the treatments of that level
  over the places inside each whole plot.
* *pairs*: for each pair, which half gets which treatment.

On a grid whose edge is ``shared`` each treatment gets its share of the edge: as many of the outermost places as any other,
give or take one.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from fieldtally.core.design.grid import Spot, spots_of
from fieldtally.core.design.plan import Plan
from fieldtally.core.design.starts import last_given
from fieldtally.core.randomness import Draw


@dataclass(frozen=True)
class Slot:
    """One place for a sample: its block (key, or None), its place in the block from 1, its treatment's key.

    ``plot`` is the number of its square, whole plot or pair, from 1 over the whole trial; ``row`` and ``column`` from 1
    where places are laid out in rows and columns.
    """

    block: str | None
    place: int
    treatment: str
    plot: int | None = None
    row: int | None = None
    column: int | None = None


def lay_out(plan: Plan, seed: str) -> tuple[Slot, ...]:
    """The places of a sound ``plan``, block by block, with a treatment drawn for each."""
    match plan.layout.kind:
        case "latin":
            return tuple(_latin(plan, seed))
        case "split":
            return tuple(_split(plan, seed))
        case "pairs":
            return tuple(_pairs(plan, seed))
        case _:
            return tuple(slot for block in _blocks(plan) for slot in _mixed(plan, seed, block))


def drawn_in(plan: Plan, seed: str, block: str | None) -> tuple[Slot, ...]:
    """The places of one ``block`` (key) of a plan that mixes treatments over places, with a treatment drawn for each."""
    return tuple(_mixed(plan, seed, block))


def _blocks(plan: Plan) -> list[str | None]:
    return [block.key for block in plan.layout.blocks] if plan.layout.in_blocks else [None]


def _mixed(plan: Plan, seed: str, block: str | None) -> Iterator[Slot]:
    draw = Draw(seed, f"layout/{block or ''}")
    counts = plan.counts_in(block)
    labels = [key for key, samples in counts.items() for _ in range(samples)]
    spots = spots_of(plan.layout.grid)[: len(labels)] if plan.layout.grid else ()
    edged = plan.layout.grid is not None and plan.layout.grid.edge == "shared"
    order = _shared(draw, counts, spots) if edged else draw.shuffled(labels)
    for place, treatment in enumerate(order, start=1):
        spot = spots[place - 1] if spots else None
        yield Slot(block, place, treatment, None, spot.row if spot else None, spot.column if spot else None)


def _shared(draw: Draw, counts: dict[str, int], spots: Sequence[Spot]) -> list[str]:
    """Labels for ``spots`` such that the edge is shared out evenly."""
    edge = sum(spot.edge for spot in spots)
    total = sum(counts.values())
    share = {key: edge * samples // total for key, samples in counts.items()}
    over = [key for key, samples in counts.items() if samples > share[key]]
    for key in draw.shuffled(over)[: edge - sum(share.values())]:
        share[key] += 1
    outer = draw.shuffled(key for key in counts for _ in range(share[key]))
    inner = draw.shuffled(key for key in counts for _ in range(counts[key] - share[key]))
    return [outer.pop() if spot.edge else inner.pop() for spot in spots]


def _latin(plan: Plan, seed: str) -> Iterator[Slot]:
    side = len(plan.treatments)
    for square in range(1, plan.treatments[0].samples // side + 1):
        draw = Draw(seed, f"layout/square {square}")
        rows, columns = draw.shuffled(range(side)), draw.shuffled(range(side))
        keys = draw.shuffled(treatment.key for treatment in plan.treatments)
        for place in range(side * side):
            row, column = divmod(place, side)
            key = keys[(rows[row] + columns[column]) % side]
            yield Slot(None, (square - 1) * side * side + place + 1, key, square, row + 1, column + 1)


def _split(plan: Plan, seed: str) -> Iterator[Slot]:
    hard = plan.hard_factor
    assert hard is not None
    plot = 0
    for block in _blocks(plan):
        draw = Draw(seed, f"layout/{block or ''}")
        place = 0
        levels = draw.shuffled(level.key for level in hard.levels for _ in range(plan.layout.whole_plots))
        for row, level in enumerate(levels, start=1):
            plot += 1
            inside = [t.key for t in plan.treatments if t.levels.get(hard.key) == level for _ in range(t.samples)]
            for column, key in enumerate(draw.shuffled(inside), start=1):
                place += 1
                yield Slot(block, place, key, plot, row, column)


def _pairs(plan: Plan, seed: str) -> Iterator[Slot]:
    draw = Draw(seed, "layout/pairs")
    for pair in range(1, plan.treatments[0].samples + 1):
        for half, key in enumerate(draw.shuffled(treatment.key for treatment in plan.treatments), start=1):
            yield Slot(None, 2 * pair - 2 + half, key, pair, pair, half)


def starts_in(plan: Plan, slots: Sequence[Slot]) -> tuple[int, ...]:
    """When each sample's exposure is planned to start, in minutes after the first one's: block by block, and one sample
    after another by the layout's stagger."""
    later = {block.key: block.starts for block in plan.layout.blocks if plan.layout.in_blocks}
    run: dict[str | None, int] = {}
    found = []
    for slot in slots:
        turn = run.get(slot.block, 0)
        run[slot.block] = turn + 1
        found.append(later.get(slot.block or "", 0) + turn * plan.layout.stagger)
    return tuple(found)


def last_start(plan: Plan) -> int:
    """When the last sample is planned to start, in minutes after the first one; of a trial that has begun, when it did."""
    given = last_given(plan)
    if given is not None:
        return given
    layout, blocks = plan.layout, plan.layout.blocks if plan.layout.in_blocks else ()
    inside = max(0, plan.sample_count // max(1, plan.block_count) - 1) * layout.stagger
    return inside + max((block.starts for block in blocks), default=0)
