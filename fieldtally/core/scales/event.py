"""Event: something that happens once, seen or not yet at each look.

When it happened is known only to lie between two looks (interval-censored); a sample on which it was never seen is
right-censored at its last look.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.numbers import MISSING

SEEN_WORDS = frozenset({"1", "1.0", "seen", "yes", "y", "true"})
UNSEEN_WORDS = frozenset({"0", "0.0", "not yet", "no", "n", "false"})


@dataclass(frozen=True)
class EventScale:
    """``what`` happens (first petal dropped); a reading is 1 once it is seen and 0 as long as it is not."""

    what: str = ""
    kind: Literal["event"] = "event"

    def problems(self) -> list[Problem]:
        """What keeps this scale from being used; paths are relative to the scale."""
        if not self.what.strip():
            return [Problem("what", "Say what has to be seen for the event to count (“first petal on the table”).")]
        return []

    def refusal(self, value: float) -> str | None:
        """Why ``value`` may not stand on this scale, or None."""
        return None if value in (0.0, 1.0) else "An event is seen (1) or not yet (0), nothing between."

    def parse(self, text: str) -> float:
        """1 or 0.

        :raises Refused: neither is meant.
        """
        word = text.strip().casefold()
        if not word:
            raise Refused(MISSING)
        if word in SEEN_WORDS:
            return 1.0
        if word in UNSEEN_WORDS:
            return 0.0
        raise Refused(f"“{text.strip()}” is neither seen (1) nor not yet (0).")

    @property
    def ends(self) -> tuple[float, float]:
        """Not yet, and seen."""
        return 0.0, 1.0
