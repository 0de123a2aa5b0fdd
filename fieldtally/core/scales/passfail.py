"""Pass or fail, kept as 1 or 0."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.numbers import MISSING

PASS_WORDS = frozenset({"1", "1.0", "pass", "passed", "yes", "y", "true", "ok"})
FAIL_WORDS = frozenset({"0", "0.0", "fail", "failed", "no", "n", "false"})


@dataclass(frozen=True)
class PassFailScale:
    """Two answers, in the person's own words; a reading is 1 (passed) or 0 (failed)."""

    pass_word: str = "passed"
    fail_word: str = "failed"
    kind: Literal["passfail"] = "passfail"

    def problems(self) -> list[Problem]:
        """What keeps this scale from being used; paths are relative to the scale."""
        if not self.pass_word.strip():
            return [Problem("pass_word", "Say in a word or two what passing looks like.")]
        if self.pass_word.strip().casefold() == self.fail_word.strip().casefold():
            return [Problem("fail_word", "Passing and failing need two different words.")]
        return []

    def refusal(self, value: float) -> str | None:
        """Why ``value`` may not stand on this scale, or None."""
        return (
            None if value in (0.0, 1.0) else f"This is {self.pass_word} (1) or {self.fail_word} (0), nothing between."
        )

    def parse(self, text: str) -> float:
        """1 or 0, from the trial's own words or the usual ones.

        :raises Refused: neither is meant.
        """
        word = text.strip().casefold()
        if not word:
            raise Refused(MISSING)
        if word == self.pass_word.strip().casefold() or word in PASS_WORDS:
            return 1.0
        if word == self.fail_word.strip().casefold() or word in FAIL_WORDS:
            return 0.0
        raise Refused(f"“{text.strip()}” is neither {self.pass_word} (1) nor {self.fail_word} (0).")

    @property
    def ends(self) -> tuple[float, float]:
        """Failed and passed."""
        return 0.0, 1.0
