"""Whether what is marked on a photo looks like what is marked on the others of its look: a mark on bare ground is no reading of the
thing."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fieldtally.core.photos.colour import delta_e
from fieldtally.core.photos.quality import Flag

FEWEST = 5
"""Photos below which nothing is said."""
LEAST, TIMES = 14.0, 5.0
"""ΔE2000 from the middle of all, and how many times what is usual, from which on one is unlike the others."""
UNLIKE = Flag(
    "unlike",
    "What is marked here looks unlike what is marked on the other photos: does the mark lie on the thing?",
)


def unlike_others(colours: Sequence[Sequence[float]]) -> list[bool]:
    """For each mean colour (CIELAB) whether it is unlike the others: far from their middle, and much farther than most of them.

    >>> unlike_others([(50, -20, 30), (52, -19, 31), (49, -22, 28), (51, -20, 29), (75, 1, 6)])
    [False, False, False, False, True]
    >>> unlike_others([(50, 0, 0), (90, 0, 0)])
    [False, False]
    """
    if len(colours) < FEWEST:
        return [False] * len(colours)
    labs = np.array(colours, dtype=float)
    away = delta_e(labs, np.broadcast_to(np.median(labs, axis=0), labs.shape))
    return [bool(one > max(LEAST, TIMES * float(np.median(away)))) for one in away]
