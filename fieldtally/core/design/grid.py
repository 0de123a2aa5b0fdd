"""The grid: which places of a bench or bed hold samples, which stand guard between them, and which lie on the edge."""

from __future__ import annotations

from dataclasses import dataclass, replace

from fieldtally.core.design.plan import Grid

LARGEST_SIDE = 200


@dataclass(frozen=True)
class Spot:
    """A place for a sample: row and column from 1, and whether it lies on the edge of all such places."""

    row: int
    column: int
    edge: bool


def spots_of(grid: Grid) -> tuple[Spot, ...]:
    """The places for samples, row by row; all others stand guard.

    >>> [(s.row, s.column) for s in spots_of(Grid(3, 5, guard_columns=True, edge="guarded"))]
    [(2, 2), (2, 4)]
    """
    rim = 1 if grid.edge == "guarded" else 0
    rows = range(1 + rim, grid.rows + 1 - rim, 2 if grid.guard_rows else 1)
    columns = range(1 + rim, grid.columns + 1 - rim, 2 if grid.guard_columns else 1)
    if not rows or not columns:
        return ()
    return tuple(
        Spot(row, column, row in (rows[0], rows[-1]) or column in (columns[0], columns[-1]))
        for row in rows
        for column in columns
    )


def large_enough(grid: Grid, samples: int) -> Grid | None:
    """``grid`` with as few more columns, then rows, as ``samples`` need; None where that is beyond any bench."""
    rows = max(1, min(grid.rows, LARGEST_SIDE))
    while rows <= LARGEST_SIDE:
        for columns in range(max(1, grid.columns), LARGEST_SIDE + 1):
            wider = replace(grid, rows=rows, columns=columns)
            if len(spots_of(wider)) >= samples:
                return wider
        rows += 1
    return None
