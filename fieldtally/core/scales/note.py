"""Note: words about a sample.  Kept and shown, never counted."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from fieldtally.core.problems import Problem, Refused


@dataclass(frozen=True)
class NoteScale:
    """Free words, after the ``prompt`` that asks for them."""

    prompt: str = ""
    kind: Literal["note"] = "note"

    def problems(self) -> list[Problem]:
        """A note is always sound."""
        return []

    def refusal(self, value: float) -> str | None:
        """No number stands on a note."""
        del value
        return "A note is written in words, not as a number."

    def parse(self, text: str) -> float:
        """Never: a note has no number.

        :raises Refused: always.
        """
        del text
        raise Refused("A note cannot be compared; it has no number.")

    @property
    def ends(self) -> None:
        """None."""
        return
