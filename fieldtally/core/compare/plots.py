"""Split plots: whole plots change places with all they hold, and inside each its samples change places."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from fieldtally.core.compare.arrays import Ints, Labels
from fieldtally.core.compare.reference import DRAWS
from fieldtally.core.compare.shuffles import CELLS_AT_ONCE, Counted
from fieldtally.core.compare.structure import Structure


@dataclass(frozen=True)
class PlotShuffles(Counted):
    """``count`` drawn arrangements, handed out in chunks (k, n) of labels.  Plots that have lost samples change places
    with plots of the same size only."""

    labels: Labels
    blocks: Ints
    plots: Ints
    count: int
    rng: np.random.Generator
    exact: bool = False

    def chunks(self) -> Iterator[Labels]:
        """The arrangements, (k, n) at a time."""
        step = max(1, CELLS_AT_ONCE // max(1, len(self.labels)))
        for start in range(0, self.count, step):
            k = min(step, self.count - start)
            chunk = np.empty((k, len(self.labels)), dtype=np.int16)
            for members in self._alike():
                held = self.labels[members]
                which = self.rng.permuted(np.broadcast_to(np.arange(len(members)), (k, len(members))), axis=1)
                for place, member in enumerate(members):
                    chunk[:, member] = self.rng.permuted(held[which[:, place]], axis=1)
            yield chunk

    def _alike(self) -> list[Ints]:
        """For each block and size of plot, the samples (plots, size) of its plots."""
        groups: dict[tuple[int, int], list[Ints]] = {}
        for plot in np.unique(self.plots):
            member = np.flatnonzero(self.plots == plot)
            groups.setdefault((int(self.blocks[member[0]]), len(member)), []).append(member)
        return [np.stack(members) for members in groups.values()]


def plot_shuffles(labels: Ints, structure: Structure, rng: np.random.Generator, draws: int = DRAWS) -> PlotShuffles:
    """The reference set for ``labels`` (n,) of a split plot."""
    assert structure.plots is not None
    return PlotShuffles(labels.astype(np.int16), structure.blocks, structure.plots, draws, rng)
