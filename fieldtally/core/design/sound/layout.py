"""What may be wrong with a layout, with the nearest one that would work."""

from __future__ import annotations

from collections.abc import Iterator

from fieldtally.core.design.grid import LARGEST_SIDE, large_enough, spots_of
from fieldtally.core.design.plan import Grid, Plan
from fieldtally.core.design.sound.naming import key_problems, repeated
from fieldtally.core.problems import Problem

LONGEST_STAGGER = 60 * 24 * 366


def layout_problems(plan: Plan) -> Iterator[Problem]:
    """Every reason why the layout may not be sealed as it is."""
    layout = plan.layout
    if layout.in_blocks:
        yield from _blocks(plan)
    match layout.kind:
        case "latin":
            yield from _latin(plan)
        case "split":
            yield from _split(plan)
        case "pairs":
            yield from _pairs(plan)
        case _:
            if layout.grid is not None:
                rooms = [sum(max(0, treatment.samples) for treatment in plan.treatments)]
                rooms += [sum(plan.counts_in(block.key).values()) for block in plan.added_blocks]
                yield from _grid(layout.grid, max(rooms))
    if not 0 <= layout.stagger <= LONGEST_STAGGER:
        yield Problem("layout.stagger", "The time from one start to the next lies between none and a year.")


def _blocks(plan: Plan) -> Iterator[Problem]:
    blocks = plan.layout.blocks
    if len(blocks) < 2:
        yield Problem("layout.blocks", "Blocks need at least two places or days; with one, choose no blocks.")
    # What was drawn before anything was added has no key where there were no blocks.
    named = blocks[1:] if plan.added_blocks and not blocks[0].key else blocks
    yield from key_problems("layout.blocks", [block.key for block in named])
    yield from _added(plan)
    for i, block in enumerate(blocks):
        if not block.name.strip():
            yield Problem(f"layout.blocks.{i}.name", "This block has no name.")
        if not 0 <= block.starts <= LONGEST_STAGGER:
            yield Problem(f"layout.blocks.{i}.starts", "A block starts at most a year after the first one.")
    for i, name in repeated([block.name for block in blocks]):
        yield Problem(f"layout.blocks.{i}.name", f"Two blocks are called “{name}”.")
    if blocks and min(block.starts for block in blocks) > 0:
        yield Problem("layout.blocks.0.starts", "One block starts first, at 0; the others follow it.")


def _added(plan: Plan) -> Iterator[Problem]:
    known = {treatment.key for treatment in plan.treatments}
    for i, block in enumerate(plan.layout.blocks):
        if block.added is None:
            continue
        at = f"layout.blocks.{i}.added"
        if set(block.added.samples) - known:
            yield Problem(at, "Samples are added of a treatment that is not in the plan.")
        if any(many < 0 for many in block.added.samples.values()):
            yield Problem(at, "A number of samples cannot be below 0.")
        elif sum(block.added.samples.values()) < 1:
            yield Problem(at, "Say how many samples are added, of which treatments.")


def _latin(plan: Plan) -> Iterator[Problem]:
    side = len(plan.treatments)
    if side < 3:
        yield Problem("layout.kind", "A Latin square needs three treatments or more; two are best laid out in pairs.")
        return
    for i, treatment in enumerate(plan.treatments):
        if treatment.samples < 1:
            continue
        if treatment.samples % side or treatment.samples != plan.treatments[0].samples:
            lower = max(side, treatment.samples // side * side)
            yield Problem(
                f"treatments.{i}.samples",
                f"A Latin square of {side} treatments holds {side} samples of each: {lower} or {lower + side} of every "
                f"treatment would work, not {treatment.samples}.",
            )


def _split(plan: Plan) -> Iterator[Problem]:
    hard = plan.hard_factor
    if hard is None:
        yield Problem(
            "layout.kind", "A split plot needs a factor marked as hard to change: that one goes to the whole plots."
        )
        return
    if plan.layout.whole_plots < 1 or plan.layout.whole_plots > 1000:
        yield Problem("layout.whole_plots", "Each level goes to at least one whole plot, better to three or more.")
    elif plan.layout.whole_plots * plan.block_count < 2:
        yield Problem(
            "layout.whole_plots",
            "With one whole plot of each level nothing tells the level from its plot: two would do, three are better.",
        )
    sizes: dict[str, int] = {level.key: 0 for level in hard.levels}
    for i, treatment in enumerate(plan.treatments):
        level = treatment.levels.get(hard.key)
        if level not in sizes:
            yield Problem(
                f"treatments.{i}.levels", f"It has no level of {hard.name.strip() or 'the hard factor'}: pick one."
            )
        else:
            sizes[level] += max(0, treatment.samples)
    for level_of in hard.levels:
        if not sizes[level_of.key]:
            yield Problem(
                "layout.kind", f"No treatment has the level “{level_of.name.strip()}”, so its plots would be empty."
            )
    filled = {size for size in sizes.values() if size}
    if len(filled) > 1:
        yield Problem(
            "layout.kind",
            f"Whole plots hold between {min(filled)} and {max(filled)} samples; give each level the same number.",
        )


def _pairs(plan: Plan) -> Iterator[Problem]:
    count = len(plan.treatments)
    if count != 2:
        instead = f"; blocks with each of the {count} in them would do." if count > 2 else "."
        yield Problem("layout.kind", f"A pair has two halves, so it compares two treatments, not {count}{instead}")
        return
    first, second = plan.treatments
    if first.samples != second.samples:
        yield Problem(
            "treatments.1.samples",
            f"Each pair takes one of both: {min(first.samples, second.samples)} or {max(first.samples, second.samples)} of "
            "each would work.",
        )


def _grid(grid: Grid, samples: int) -> Iterator[Problem]:
    for side in ("rows", "columns"):
        if not 1 <= getattr(grid, side) <= LARGEST_SIDE:
            yield Problem(f"layout.grid.{side}", f"A grid has between 1 and {LARGEST_SIDE} {side}.")
            return
    room = len(spots_of(grid))
    if room < samples:
        wider = large_enough(grid, samples)
        instead = f" {wider.rows} × {wider.columns} would do." if wider else " Several blocks would do."
        yield Problem(
            "layout.grid.columns",
            f"{grid.rows} × {grid.columns} places have room for {room} samples beside their guards; {samples} are needed."
            + instead,
        )
