"""The structure of a plan's own layout, for samples told apart by block, plot, row and column."""

from __future__ import annotations

from collections.abc import Hashable, Sequence

import numpy as np

from fieldtally.core.compare.arrays import Ints
from fieldtally.core.compare.structure import Structure
from fieldtally.core.design.plan import Plan


def numbered(names: Sequence[Hashable]) -> Ints:
    """Numbers (n,) from 0 that are alike where ``names`` are, in order of appearance."""
    index = {name: i for i, name in enumerate(dict.fromkeys(names))}
    return np.array([index[name] for name in names], dtype=np.int64)


def structure_of(
    plan: Plan,
    treatments: Sequence[str],
    blocks: Sequence[str | None],
    plots: Sequence[int | None],
    rows: Sequence[int | None],
    columns: Sequence[int | None],
) -> Structure:
    """What the layout of ``plan`` was for samples (n,) of these ``treatments`` (keys) in these places."""
    match plan.layout.kind:
        case "pairs":
            return Structure.plain(numbered(plots))
        case "latin":
            return Structure(
                "latin",
                numbered(list(zip(plots, rows, strict=True))),
                columns=numbered(list(zip(plots, columns, strict=True))),
                squares=numbered(plots),
            )
        case "split":
            hard = plan.hard_factor
            levels = {t.key: t.levels.get(hard.key, "") for t in plan.treatments} if hard else {}
            given = numbered([levels.get(key, "") for key in treatments])
            return Structure("split", numbered(blocks), plots=numbered(plots), hard=given)
        case _:
            return Structure.plain(numbered(blocks))
