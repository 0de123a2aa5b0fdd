"""What may be wrong with what is said of a trial that has begun."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator
from datetime import timedelta

from fieldtally.core.design.letters import letter_of
from fieldtally.core.design.plan import Begun, Given, Plan
from fieldtally.core.design.starts import start_of
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.moments import moment_in

LONGEST_AGO = timedelta(days=366 * 20)
AT = "begun.samples"


def begun_problems(plan: Plan) -> Iterator[Problem]:
    """Every reason why what was done before may not be sealed as it is told."""
    begun = plan.begun
    if begun is None:
        return
    try:
        first = moment_in(begun.on, plan.zone)
    except Refused as refused:
        yield Problem("begun.on", "On which day did it begin?" if not begun.on.strip() else refused.problems[0].says)
        return
    if not begun.how.strip():
        yield Problem(
            "begun.how",
            "Say how it was drawn (cards from a hat, dice, a list of random numbers)."
            if begun.placed == "drawn"
            else "Say how places were chosen (in turn, by what was at hand, the weaker ones first).",
        )
    looks = {checkpoint.key for checkpoint in plan.checkpoints}
    if not set(begun.taken) <= looks:
        yield Problem("begun.taken", "A look that was taken already is no more in the plan.")
    if plan.start_values.balance:
        yield Problem("start_values.balance", "The layout stands already, so nothing is balanced any more.")
    if not begun.samples:
        yield Problem(AT, "Draw what stands where: nothing is drawn by lot any more.")
        return
    for i, one in enumerate(begun.samples):
        try:
            at = start_of(plan, begun, one)
        except Refused as refused:
            yield Problem(f"{AT}.{i}.started", refused.problems[0].says)
            return
        if at < first - LONGEST_AGO:
            yield Problem(f"{AT}.{i}.started", "That is more than twenty years before the others.")
    yield from _names(begun)
    yield from _standing(plan, begun)


def _names(begun: Begun) -> Iterator[Problem]:
    seen: set[str] = set()
    for one in begun.samples:
        name = one.name.strip().casefold()
        if name and name in seen:
            yield Problem(AT, f"Two samples are called “{one.name.strip()}”.")
            return
        seen.add(name)


def _standing(plan: Plan, begun: Begun) -> Iterator[Problem]:
    """What stands where is what the layout says."""
    known = {treatment.key for treatment in plan.treatments}
    blocks = {block.key for block in plan.layout.blocks} if plan.layout.in_blocks else {""}
    if any(one.treatment not in known for one in begun.samples):
        yield Problem(AT, "A treatment that stands there is no more in the plan: draw it again.")
        return
    if any(one.block not in blocks for one in begun.samples):
        yield Problem(AT, "The places have changed since it was drawn: draw what stands where again.")
        return
    spots = Counter((one.block, one.plot, one.row, one.column) for one in begun.samples if one.row and one.column)
    if spots and max(spots.values()) > 1:
        yield Problem(AT, "Two samples stand in one place.")
    many = Counter(one.treatment for one in begun.samples)
    for i, treatment in enumerate(plan.treatments):
        if not many[treatment.key]:
            yield Problem(AT, f"{letter_of(i)}, {treatment.name.strip() or 'a treatment'}, stands nowhere.")
    for block in plan.layout.blocks if plan.layout.in_blocks else ():
        if not any(one.block == block.key for one in begun.samples):
            yield Problem(AT, f"Nothing stands in {block.name.strip()}.")
    match plan.layout.kind:
        case "latin":
            yield from _square(plan, begun)
        case "split":
            yield from _whole_plots(plan, begun)
        case "pairs":
            yield from _halves(plan, begun)
        case _:
            grid = plan.layout.grid
            if grid and any((one.row or 1) > grid.rows or (one.column or 1) > grid.columns for one in begun.samples):
                yield Problem(AT, f"More is drawn than {grid.rows} rows of {grid.columns} places hold.")


def _by_plot(begun: Begun) -> dict[int | None, list[Given]]:
    found: dict[int | None, list[Given]] = defaultdict(list)
    for one in begun.samples:
        found[one.plot].append(one)
    return found


def _square(plan: Plan, begun: Begun) -> Iterator[Problem]:
    side = len(plan.treatments)
    for plot, inside in _by_plot(begun).items():
        rows = Counter((one.row, one.treatment) for one in inside)
        columns = Counter((one.column, one.treatment) for one in inside)
        if len(inside) != side * side or max([*rows.values(), *columns.values()]) > 1:
            yield Problem(
                AT, f"Square {plot or 1} is no Latin square: each of {side} once in each row and each column."
            )
    expected = len(begun.samples) // side
    if any(treatment.samples != expected for treatment in plan.treatments):
        yield Problem(AT, f"{expected} of each stand there; the plan says otherwise.")


def _whole_plots(plan: Plan, begun: Begun) -> Iterator[Problem]:
    hard = plan.hard_factor
    if hard is None:
        return
    levels = {treatment.key: treatment.levels.get(hard.key) for treatment in plan.treatments}
    wanted = {
        level.key: Counter({t.key: t.samples for t in plan.treatments if levels[t.key] == level.key})
        for level in hard.levels
    }
    plots: Counter[tuple[str, str]] = Counter()
    for plot, inside in _by_plot(begun).items():
        there = {levels[one.treatment] for one in inside}
        level = next(iter(there))
        if len(there) > 1 or level is None:
            yield Problem(
                AT, f"Whole plot {plot} holds several levels of {hard.name.strip()}: a line is one whole plot."
            )
            return
        if Counter(one.treatment for one in inside) != wanted[level]:
            yield Problem(AT, f"Whole plot {plot} does not hold what the plan puts into one of its level.")
            return
        plots[inside[0].block, level] += 1
    blocks = [block.key for block in plan.layout.blocks] if plan.layout.in_blocks else [""]
    if any(plots[block, level.key] != plan.layout.whole_plots for block in blocks for level in hard.levels):
        yield Problem(
            AT, f"The plan says {plan.layout.whole_plots} whole plots of each level; other numbers stand there."
        )


def _halves(plan: Plan, begun: Begun) -> Iterator[Problem]:
    both = {treatment.key for treatment in plan.treatments}
    for plot, inside in _by_plot(begun).items():
        if len(inside) != len(both) or {one.treatment for one in inside} != both:
            yield Problem(AT, f"Pair {plot} does not hold one of each: a line is one pair.")
            return
    if plan.treatments and plan.treatments[0].samples != len(begun.samples) // max(1, len(both)):
        yield Problem(AT, f"{len(begun.samples) // max(1, len(both))} pairs stand there; the plan says otherwise.")
