"""Who would lead if the trial were done again?  A bootstrap inside each treatment and block.

Source: Davison & Hinkley 1997, Bootstrap Methods and their Application, ch. 2.
"""

from __future__ import annotations

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.compare.blocks import centred

RESAMPLES = 2_000


def first_places(
    values: Floats, labels: Ints, blocks: Ints, treatments: int, rng: np.random.Generator, resamples: int = RESAMPLES
) -> Floats:
    """The share of ``resamples`` in which each treatment has the highest mean: (treatments, c), ties shared.

    ``values`` (n, c), without gaps, higher is better; samples are drawn with replacement inside each treatment and block.
    Where each block holds one sample of a treatment at most, whole blocks are drawn instead.
    """
    z = centred(values, blocks)
    if len(np.unique(blocks)) > 1 and np.unique(np.stack([labels, blocks]), axis=1).shape[1] == len(labels):
        return _by_blocks(z, labels, blocks, treatments, rng, resamples)
    means = np.full((treatments, resamples, values.shape[1]), -np.inf)
    for label in np.unique(labels):
        total = np.zeros((resamples, values.shape[1]))
        for block in np.unique(blocks[labels == label]):
            cell = np.flatnonzero((labels == label) & (blocks == block))
            weight = rng.multinomial(len(cell), np.full(len(cell), 1 / len(cell)), size=resamples)
            total += weight @ z[cell]
        means[label] = total / (labels == label).sum()
    best = means >= means.max(axis=0) - 1e-12
    return np.asarray((best / best.sum(axis=0)).mean(axis=1))


def _by_blocks(
    z: Floats, labels: Ints, blocks: Ints, treatments: int, rng: np.random.Generator, resamples: int
) -> Floats:
    names, block_of = np.unique(blocks, return_inverse=True)
    drawn = rng.multinomial(len(names), np.full(len(names), 1 / len(names)), size=resamples)
    means = np.full((treatments, resamples, z.shape[1]), -np.inf)
    for label in np.unique(labels):
        own = labels == label
        weight = drawn[:, block_of[own]]
        total = weight.sum(axis=1, keepdims=True)
        with np.errstate(divide="ignore", invalid="ignore"):
            mean = (weight @ z[own]) / total
        means[label] = np.where(total > 0, mean, -np.inf)
    best = means >= means.max(axis=0) - 1e-12
    return np.asarray((best / best.sum(axis=0)).mean(axis=1))
