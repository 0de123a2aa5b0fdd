"""The tests there are: what is presented, what is asked, and how often chance alone is right."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from fieldtally.core.problems import Refused

MethodName = Literal[
    "triangle",
    "duo-trio",
    "abx",
    "2-afc",
    "3-afc",
    "tetrad",
    "a-not-a",
    "same-different",
    "naming",
    "preference",
    "ranking",
    "grading",
]
Asks = Literal["difference", "direction", "liking", "identity", "order", "amount"]


@dataclass(frozen=True)
class Method:
    """A test: its name, how many ``cups`` one set holds (None: as many as there are things, at least ``least``), the chance of a right
    answer (None where there is no one right answer), what it asks, and its question in words.

    Source: ISO 4120, 10399, 5495, 8587; ASTM E2262, E3009.
    """

    key: MethodName
    name: str
    cups: int | None
    guess: float | None
    asks: Asks
    question: str

    @property
    def least(self) -> int:
        """How few things may be put before people."""
        return 3 if self.key in ("naming", "ranking") else 2

    @property
    def discriminates(self) -> bool:
        """Whether right answers are counted against a fixed chance, so that numbers needed and d′ can be told."""
        return self.guess is not None


METHODS: dict[MethodName, Method] = {
    method.key: method
    for method in (
        Method("triangle", "Triangle", 3, 1 / 3, "difference", "Two are the same. Which is the odd one?"),
        Method("duo-trio", "Duo-trio", 3, 1 / 2, "difference", "Which of the two is the same as the reference?"),
        Method("abx", "A, B and X", 3, 1 / 2, "difference", "Is X the same as the first, or as the second?"),
        Method("2-afc", "Paired, which is more", 2, 1 / 2, "direction", "Which is more …?"),
        Method("3-afc", "One of three is more", 3, 1 / 3, "direction", "One is more …. Which?"),
        Method("tetrad", "Tetrad", 4, 1 / 3, "difference", "Sort the four into two pairs of the same."),
        Method("a-not-a", "A or not A", 1, None, "difference", "Is this A, or not?"),
        Method("same-different", "Same or different", 2, None, "difference", "Are these two the same, or different?"),
        Method("naming", "Naming", None, None, "identity", "Which is which?"),
        Method("preference", "Preference", None, None, "liking", "Which do you like best?"),
        Method("ranking", "Ranking", None, None, "order", "Put them in order."),
        Method("grading", "Grading", None, None, "amount", "Grade each one."),
    )
}


def method_named(name: str) -> Method:
    """The method of that name, as it is typed.

    :raises Refused: there is none.
    """
    key = name.strip().casefold().replace(" ", "-").replace("_", "-")
    for method in METHODS.values():
        if method.key == key:
            return method
    raise Refused(f"There is no test called “{name}”: {', '.join(METHODS)}.", "method")
