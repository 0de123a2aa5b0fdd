"""Each treatment's mean with the interval in which the true mean lies.

Without blocks: the mean and Student's interval from the treatment's own spread.  With blocks: the mean as it would be
with every treatment equally often in every block (additive model), with the spread pooled over treatments.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.stats import t as student

from fieldtally.core.compare.arrays import Floats, Ints


@dataclass(frozen=True)
class Means:
    """Arrays (treatments, c): estimate, low and high; the ends are NaN where one sample cannot give an interval."""

    estimate: Floats
    low: Floats
    high: Floats


def treatment_means(values: Floats, labels: Ints, blocks: Ints, treatments: int, alpha: float = 0.05) -> Means:
    """Means of ``values`` (n, c), without gaps, for ``labels`` (n,) from 0 to ``treatments`` − 1; NaN where absent."""
    columns = values.shape[1]
    estimate = np.full((treatments, columns), np.nan)
    half = np.full((treatments, columns), np.nan)
    if len(labels) == 0:
        return Means(estimate, half, half)
    present, counts = np.unique(labels, return_counts=True)
    block_names, block_of = np.unique(blocks, return_inverse=True)
    if len(block_names) == 1:
        for label, count in zip(present.tolist(), counts.tolist(), strict=True):
            own = values[labels == label]
            estimate[label] = own.mean(axis=0)
            if count > 1:
                half[label] = student.ppf(1 - alpha / 2, count - 1) * own.std(axis=0, ddof=1) / np.sqrt(count)
        return Means(estimate, estimate - half, estimate + half)
    treatment_columns = (labels[:, None] == present[None, :]).astype(np.float64)
    block_columns = (block_of[:, None] == np.arange(1, len(block_names))[None, :]).astype(np.float64)
    model = np.hstack([treatment_columns, block_columns])
    fit, _, rank, _ = np.linalg.lstsq(model, values, rcond=None)
    block_effect = np.vstack([np.zeros((1, columns)), fit[len(present) :]])
    # The average block effect over all samples keeps balanced means where a person would compute them.
    level = block_effect[block_of].mean(axis=0)
    estimate[present] = fit[: len(present)] + level
    freedom = len(values) - int(rank)
    if freedom > 0:
        spread = np.sqrt(((values - model @ fit) ** 2).sum(axis=0) / freedom)
        half[present] = student.ppf(1 - alpha / 2, freedom) * spread[None, :] / np.sqrt(counts)[:, None]
    return Means(estimate, estimate - half, estimate + half)
