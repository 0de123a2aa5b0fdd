"""Blocks: what is left of values when each block's own level is taken out."""

from __future__ import annotations

import numpy as np

from fieldtally.core.compare.arrays import Flags, Floats, Ints


def centred(values: Floats, blocks: Ints) -> Floats:
    """``values`` (n, c) minus the mean of their block (n,), column by column."""
    out = np.empty_like(values)
    for block in np.unique(blocks):
        member = blocks == block
        out[member] = values[member] - values[member].mean(axis=0)
    return out


def both_present(in_a: Flags, blocks: Ints) -> Flags:
    """The samples (n,) in blocks that hold both of two treatments; the others cannot compare them."""
    shared = np.intersect1d(blocks[in_a], blocks[~in_a])
    return np.isin(blocks, shared)
