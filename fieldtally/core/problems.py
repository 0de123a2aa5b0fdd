"""A problem is a sentence about one piece of what a person gave us.

``at`` is a dotted path to that piece (``treatments.1.name``, ``line 4``), so that a screen can show the sentence on the
right field and a table reader can name the line.  A problem is a value, not an exception; :class:`Refused` carries
problems out of a function that cannot go on.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True)
class Problem:
    """What is wrong (``says``, one sentence), and where (``at``, a dotted path); ``asks``: it may be done all the same once
    that is said."""

    at: str
    says: str
    asks: bool = False


class Refused(ValueError):
    """What was given cannot be used; ``problems`` says what to mend, and nothing was done."""

    def __init__(self, problems: Iterable[Problem] | str, at: str = "") -> None:
        self.problems: tuple[Problem, ...] = (Problem(at, problems),) if isinstance(problems, str) else tuple(problems)
        super().__init__("; ".join(problem.says for problem in self.problems))
