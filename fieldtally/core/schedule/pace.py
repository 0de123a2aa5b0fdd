"""How long a round takes, learned from the ones before it."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence
from datetime import datetime
from statistics import median

LONGEST_PAUSE = 300.0
"""s: a longer gap between two readings is a pause and not work."""
FEWEST = 5
UNLEARNED = 12.0
"""s for a reading, while nothing has been learned."""


def pace_of(rounds: Iterable[Sequence[datetime]]) -> float | None:
    """Seconds for one reading: the median gap between readings that follow each other in ``rounds`` (the moments of each, in any order);
    pauses of more than five minutes are left out.  None with fewer than five gaps.

    >>> from datetime import timedelta
    >>> start = datetime(2027, 3, 1)
    >>> pace_of([[start + timedelta(seconds=8 * i) for i in range(7)]])
    8.0
    """
    gaps = [gap for moments in rounds for gap in _gaps(sorted(moments)) if 0 < gap <= LONGEST_PAUSE]
    return float(median(gaps)) if len(gaps) >= FEWEST else None


def _gaps(moments: Sequence[datetime]) -> list[float]:
    return [(after - before).total_seconds() for before, after in itertools.pairwise(moments)]


def minutes_for(readings: int, pace: float | None) -> int:
    """Whole minutes for so many readings at that pace, at least one where there are any.

    >>> minutes_for(24, 8.0), minutes_for(1, None), minutes_for(0, 8.0)
    (4, 1, 0)
    """
    return 0 if readings <= 0 else max(1, -int(-readings * (pace or UNLEARNED) // 60))
