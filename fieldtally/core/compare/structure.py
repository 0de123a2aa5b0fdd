"""Structure: what the layout was, so that only arrangements which it could have produced are held against the data.

* ``plain``: labels change places inside blocks; without blocks all samples are one block, and pairs are blocks of two.
* ``latin``: blocks are the rows of the squares; ``columns`` and ``squares`` say the rest.  While a square is complete, its
  rows, columns and treatments are shuffled; with gaps in it only labels inside rows are.
* ``split``: blocks hold whole ``plots``.  Treatments that share the level of the hard factor (``hard``) are compared
  inside whole plots; those that do not, between whole plots, each of which then counts as one.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from fieldtally.core.compare.arrays import Flags, Floats, Ints


@dataclass(frozen=True)
class Structure:
    """Arrays (n,), one entry a sample; those that the layout does not have are None."""

    kind: Literal["plain", "latin", "split"]
    blocks: Ints
    columns: Ints | None = None
    squares: Ints | None = None
    plots: Ints | None = None
    hard: Ints | None = None

    @classmethod
    def plain(cls, blocks: Ints) -> Structure:
        """Labels change places inside ``blocks`` (n,)."""
        return cls("plain", blocks)

    def kept(self, rows: Flags | Ints) -> Structure:
        """The structure of the samples ``rows`` (n,)."""

        def some(part: Ints | None) -> Ints | None:
            return None if part is None else part[rows]

        return Structure(
            self.kind, self.blocks[rows], some(self.columns), some(self.squares), some(self.plots), some(self.hard)
        )

    @property
    def ranked_in(self) -> Ints:
        """Inside what (n,) ranks and log-rank scores are taken: blocks, or whole squares, whose rows and columns are taken out
        afterwards."""
        return self.squares if self.kind == "latin" and self.squares is not None else self.blocks

    def between_plots(self, labels: Ints, a: int, b: int) -> bool:
        """Whether treatments ``a`` and ``b`` of ``labels`` (n,) lie on different whole plots, whose samples do not count one by one."""
        if self.kind != "split" or self.hard is None:
            return False
        return len(np.unique(self.hard[(labels == a) | (labels == b)])) > 1

    def complete_squares(self, labels: Ints) -> bool:
        """Whether this is a Latin square, or several, without a gap: each of ``labels`` once in each row and column."""
        if self.kind != "latin" or self.columns is None or self.squares is None:
            return False
        side = len(np.unique(labels))
        for square in np.unique(self.squares):
            inside = self.squares == square
            for lines in (self.blocks[inside], self.columns[inside]):
                if (
                    len(np.unique(lines)) != side
                    or len(np.unique(np.stack([lines, labels[inside]]), axis=1).T) != side**2
                ):
                    return False
            if inside.sum() != side**2:
                return False
        return True


@dataclass(frozen=True)
class Units:
    """What two treatments are compared on: values (u, c), which belong to the first (u,), and blocks (u,)."""

    values: Floats
    in_a: Flags
    blocks: Ints


def units_of(structure: Structure, values: Floats, labels: Ints, a: int, b: int) -> Units:
    """The units on which treatments ``a`` and ``b`` of ``labels`` (n,) are compared, with ``values`` (n, c), NaN where missing."""
    rows = (labels == a) | (labels == b)
    in_a = labels[rows] == a
    if structure.kind != "split" or structure.plots is None or structure.hard is None:
        return Units(values[rows], in_a, structure.blocks[rows])
    plots, hard = structure.plots[rows], structure.hard[rows]
    if len(np.unique(hard)) == 1:
        return Units(values[rows], in_a, plots)
    numbers, first = np.unique(plots, return_index=True)
    means = np.stack([_mean(values[rows][plots == number]) for number in numbers])
    return Units(means, in_a[first], structure.blocks[rows][first])


def _mean(own: Floats) -> Floats:
    """Column means (c,) of what is there."""
    known = ~np.isnan(own)
    many = known.sum(axis=0)
    return np.where(many > 0, np.where(known, own, 0.0).sum(axis=0) / np.maximum(many, 1), np.nan)
