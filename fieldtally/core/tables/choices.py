"""What is asked about somebody else's table, and answered."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal


@dataclass(frozen=True)
class Choices:
    """What was asked and answered: whether ``dates`` with strokes begin with the day, what becomes of rows that are there twice and
    of ``words`` where a value should be, and which column (name) holds what is ``compared``, where more than one could.  It began
    on the day ``start`` (ISO 8601; empty: not known).  By outcome (name): which side is ``better``, and the smallest difference that
    matters (``margins``, in its unit; above 0)."""

    dates: Literal["ask", "day first", "month first"] = "ask"
    doubled: Literal["ask", "leave out", "keep"] = "ask"
    words: Literal["ask", "leave out"] = "ask"
    compared: str = ""
    start: str = ""
    better: dict[str, Literal["more", "less", "none"]] = field(default_factory=dict)
    margins: dict[str, float] = field(default_factory=dict)
