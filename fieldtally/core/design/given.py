"""A layout that stands already: read as it is drawn on a sheet of paper, told back in the same way, and put under codes.

A line is a row, its cells letters or names of treatments; the name of a block stands above its lines::

    Sunny fence:              cells by spaces where all are letters, else by commas or tabs
    A B C B                   “-” or “.” is a place with nothing in it
    C A (pot 7) B -           a sample's own name in brackets

Of Latin squares each has its lines, with an empty line between; of a split plot a line is a whole plot, of pairs a pair.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from datetime import datetime
from itertools import groupby

from fieldtally.core.design.layout import Slot
from fieldtally.core.design.letters import letter_of
from fieldtally.core.design.plan import Begun, Given, Plan
from fieldtally.core.design.starts import start_of
from fieldtally.core.problems import Problem, Refused

EMPTY = {"-", "–", "—", ".", "_", ""}
OWN_NAME = re.compile(r"\s*\(([^()]*)\)\s*$")
LONGEST_NAME = 40
MOST_TOLD = 8


def given_in(text: str, plan: Plan) -> tuple[Given, ...]:
    """The samples that ``text`` draws, block by block and place by place.

    :raises Refused: a line names what the plan does not have; each problem names its ``line``.
    """
    known = _known(plan)
    blocks = {_folded(block.name): block.key for block in plan.layout.blocks} if plan.layout.in_blocks else {}
    found: list[Given] = []
    problems: list[Problem] = []
    block, row, plot, gap = "", 0, 0, True
    for number, line in enumerate(text.splitlines(), start=1):
        if not line.strip():
            gap = True
            continue
        heading = _folded(line.strip().rstrip(":"))
        if heading in blocks and heading not in known:
            block, row, gap = blocks[heading], 0, True
            continue
        if blocks and not block:
            problems.append(Problem(f"line {number}", _no_block(plan, line)))
            break
        if gap and plan.layout.kind == "latin":
            plot, row = plot + 1, 0
        elif plan.layout.kind in ("split", "pairs"):
            plot += 1
        gap, row = False, row + 1
        for column, cell in enumerate(_cells(line, known), start=1):
            own = OWN_NAME.search(cell)
            name = _folded(cell[: own.start()] if own else cell)
            if name in EMPTY:
                continue
            if name not in known:
                problems.append(Problem(f"line {number}", _unknown(cell, plan)))
                continue
            called = own[1].strip()[:LONGEST_NAME] if own else ""
            found.append(Given(known[name], block, plot or None, row, column, called))
    if problems:
        raise Refused(problems[:MOST_TOLD])
    if not found:
        raise Refused("Draw what stands where: a line for each row, a letter or name for each sample.")
    return tuple(_loose(plan, found))


def _known(plan: Plan) -> dict[str, str]:
    """Treatments (keys) by letter and name."""
    letters = {_folded(letter_of(i)): one.key for i, one in enumerate(plan.treatments)}
    return letters | {_folded(one.name): one.key for one in plan.treatments if one.name.strip()}


def _folded(text: str) -> str:
    return " ".join(text.split()).casefold()


def _cells(line: str, known: dict[str, str]) -> list[str]:
    if _folded(OWN_NAME.sub("", line)) in known:
        return [line.strip()]
    for mark in ("\t", ";", ","):
        if mark in line:
            return [cell.strip() for cell in line.rstrip(f"\r\n{mark}" if mark != "\t" else "\r\n").split(mark)]
    return re.findall(r"[^\s()]+(?:\s*\([^()]*\))?", line)


def _no_block(plan: Plan, line: str) -> str:
    names = " or ".join(f"“{block.name.strip()}:”" for block in plan.layout.blocks[:3] if block.name.strip())
    return f"In which place does “{line.strip()[:40]}” stand? Write {names or 'its name'} on the line above."


def _unknown(cell: str, plan: Plan) -> str:
    letters = f"A to {letter_of(len(plan.treatments) - 1)}" if plan.treatments else "none yet"
    return f"“{cell.strip()[:40]}” is no treatment of this plan: write its letter ({letters}) or its name."


def _loose(plan: Plan, found: Sequence[Given]) -> Iterator[Given]:
    """One line for all (or one place in each line) says no more than an order: no rows and columns then."""
    if plan.layout.kind not in ("random", "blocks") or plan.layout.grid is not None:
        yield from found
        return
    rows: dict[str, set[int | None]] = defaultdict(set)
    columns: dict[str, set[int | None]] = defaultdict(set)
    for one in found:
        rows[one.block].add(one.row)
        columns[one.block].add(one.column)
    flat = all(len(rows[block]) == 1 or len(columns[block]) == 1 for block in rows)
    for one in found:
        yield Given(one.treatment, one.block, one.plot, None, None, one.name) if flat else one


def drawn(plan: Plan, begun: Begun) -> str:
    """The layout of ``begun`` as :func:`given_in` reads it, treatments by their letters."""
    letters = {one.key: letter_of(i) for i, one in enumerate(plan.treatments)}
    names = {block.key: block.name.strip() for block in plan.layout.blocks}
    lines: list[str] = []
    for block, inside in groupby(_in_order(plan, begun), key=lambda one: one.block):
        if plan.layout.in_blocks:
            lines.append(f"{names.get(block, block)}:")
        square = None
        for (plot, _), row in groupby(inside, key=lambda one: (one.plot, one.row)):
            if plan.layout.kind == "latin" and square not in (None, plot):
                lines.append("")
            square = plot
            lines.append(_line(list(row), letters))
    return "\n".join(lines)


def _line(row: Sequence[Given], letters: Mapping[str, str]) -> str:
    cells: list[str] = []
    for one in row:
        cells += ["-"] * ((one.column or 0) - len(cells) - 1)
        cells.append(letters.get(one.treatment, "?") + (f" ({one.name})" if one.name else ""))
    return (", " if any(one.name for one in row) else " ").join(cells)


def _in_order(plan: Plan, begun: Begun) -> list[Given]:
    """The samples block by block, in each as they are written down."""
    order = {block.key: i for i, block in enumerate(plan.layout.blocks)} if plan.layout.in_blocks else {}
    return sorted(begun.samples, key=lambda one: order.get(one.block, 0))


def given_slots(plan: Plan, begun: Begun) -> tuple[Slot, ...]:
    """The places of a trial that has begun, block by block, places counted from 1 in each."""
    place: dict[str, int] = defaultdict(int)
    found = []
    for one in _in_order(plan, begun):
        place[one.block] += 1
        found.append(Slot(one.block or None, place[one.block], one.treatment, one.plot, one.row, one.column))
    return tuple(found)


def given_names(plan: Plan, begun: Begun) -> tuple[str, ...]:
    """What each sample is called in the notebook, in the order of :func:`given_slots`: its own name, else its treatment and the how
    manieth of these it is (``Jute 2``)."""
    called = {one.key: one.name.strip() for one in plan.treatments}
    many: dict[str, int] = defaultdict(int)
    found = []
    for one in _in_order(plan, begun):
        many[one.treatment] += 1
        found.append(one.name or f"{called.get(one.treatment, one.treatment)} {many[one.treatment]}")
    return tuple(found)


def given_starts(plan: Plan, begun: Begun) -> tuple[datetime, ...]:
    """When each sample came under its treatment (UTC), in the order of :func:`given_slots`.

    :raises Refused: a day and hour cannot be read.
    """
    return tuple(start_of(plan, begun, one) for one in _in_order(plan, begun))
