"""What squares and split plots have in common: how many arrangements a reference set has."""

from __future__ import annotations

CELLS_AT_ONCE = 4_000_000
"""Labels held in memory at once: a chunk of shuffles times the samples."""


class Counted:
    """How many arrangements a reference set has, and what a count of extreme ones is held against."""

    exact: bool
    count: int

    @property
    def total(self) -> int:
        """What a count of extreme arrangements is divided by: all of them, or the draws and the observed one."""
        return self.count if self.exact else self.count + 1

    @property
    def extra(self) -> int:
        """The observed arrangement, which draws do not contain."""
        return 0 if self.exact else 1
