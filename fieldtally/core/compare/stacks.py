"""Stacks: comparisons that are laid out alike, side by side, so that one set of shuffles serves them all.

The samples of a stack run block by block and inside a block treatment by treatment.  What a shuffle can do depends on nothing but how
many samples of each treatment a block holds, its *counts*; so columns that miss different samples still share a stack where their counts
are the same, and where only one block differs they share the shuffles of all others (:mod:`.reference`).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints

Counts = tuple[int, ...]
"""How many samples of each treatment a block holds."""
Layout = tuple[Counts, ...]
"""The counts of all blocks, in rising order."""


@dataclass(frozen=True)
class Seats:
    """Where samples stood before some were lost: the ``layout`` of all of them, and which of its rows (n,) those that are left had."""

    layout: Layout
    rows: Ints


@dataclass(frozen=True)
class Stack:
    """``values`` (n, e) without gaps, laid out as ``layout``; ``of`` says for each column (e,) which comparison it is.

    With ``seats`` it is drawn with the samples that it lacks: these change labels like all others and count for nothing, so that one set of
    draws serves all columns, whatever each misses."""

    layout: Layout
    values: Floats
    of: tuple[int, ...]
    seats: Seats | None = None

    @property
    def slices(self) -> list[slice]:
        """The rows of each block."""
        return slices_of(self.layout)


def slices_of(layout: Layout) -> list[slice]:
    """The rows of each block of ``layout``."""
    ends = np.cumsum([sum(counts) for counts in layout]).tolist()
    return [slice(end - sum(counts), end) for end, counts in zip(ends, layout, strict=True)]


def treatments_in(layout: Layout) -> Ints:
    """Which treatment (0, 1, …) each row (n,) of ``layout`` has."""
    return np.concatenate([np.repeat(np.arange(len(counts)), counts) for counts in layout])


def blocks_in(layout: Layout) -> Ints:
    """Which block each row (n,) of ``layout`` stands in."""
    return np.repeat(np.arange(len(layout)), [sum(counts) for counts in layout])


def laid_out(treatments: Ints, blocks: Ints, many: int) -> tuple[Layout, Ints]:
    """The layout of samples (n,) of ``many`` treatments, and the order (n,) of its rows.

    Every treatment from 0 to ``many`` − 1 has its place in the counts, also where a block has none of it.
    """
    names, at = np.unique(blocks, return_inverse=True)
    table = np.zeros((len(names), many), dtype=np.int64)
    np.add.at(table, (at, treatments), 1)
    rank = np.empty(len(names), dtype=np.int64)
    rank[np.lexsort(table.T[::-1])] = np.arange(len(names))
    order = np.lexsort((treatments, rank[at]))
    return tuple(sorted(tuple(row) for row in table.tolist())), order


Entry = tuple[Layout, Floats, Sequence[int], Seats | None]
"""A layout, values (n, e) in its order, which comparisons they are, and the seats of its samples where it is drawn with what it lacks."""


def stacked(entries: Iterable[Entry]) -> list[Stack]:
    """Stacks of ``entries``."""
    gathered: dict[tuple[Layout, bytes], tuple[list[Floats], list[int], Seats | None]] = {}
    for layout, values, of, seats in entries:
        key = (layout, b"" if seats is None else repr(seats.layout).encode() + seats.rows.tobytes())
        parts, members, _ = gathered.setdefault(key, ([], [], seats))
        parts.append(values)
        members += of
    return [
        Stack(layout, parts[0] if len(parts) == 1 else np.concatenate(parts, axis=1), tuple(members), seats)
        for (layout, _), (parts, members, seats) in gathered.items()
    ]


def centred(stack: Stack) -> Floats:
    """The values (n, e) without the level of their block."""
    out = np.empty(stack.values.shape)
    for rows in stack.slices:
        out[rows] = stack.values[rows] - stack.values[rows].mean(axis=0)
    return out
