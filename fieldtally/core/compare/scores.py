"""Scores: what is tested where values themselves are not.

Grades are tested by their mid-ranks inside each block, so that the sum of a treatment's ranks says in how many of all comparisons inside
blocks one of it beats one of the other (van Elteren 1960, Bull. Int. Stat. Inst. 37:351, with equal weight for each comparison); events and
ladders by log-rank scores inside each block (:mod:`.events`), whose sum is observed less expected.
"""

from __future__ import annotations

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.compare.events import Spans, log_rank_scores
from fieldtally.core.compare.ranks import midranks
from fieldtally.core.compare.stacks import Layout, slices_of


def block_ranks(values: Floats, layout: Layout) -> Floats:
    """Mid-ranks (n, e) of ``values`` inside each block of ``layout``.

    >>> block_ranks(np.array([[3.0], [1.0], [5.0], [5.0]]), ((1, 1), (1, 1)))[:, 0].tolist()
    [2.0, 1.0, 1.5, 1.5]
    """
    return np.concatenate([midranks(values[rows]) for rows in slices_of(layout)])


def block_log_rank(spans: Spans, blocks: Ints) -> Floats:
    """Log-rank scores (n,) inside each of ``blocks`` (n,), turned so that a late event is high."""
    found = np.zeros(len(blocks))
    for block in np.unique(blocks):
        rows = blocks == block
        found[rows] = -log_rank_scores(spans.kept(rows))
    return found
