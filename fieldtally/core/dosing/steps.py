"""A result with the steps that led to it, so that every computed amount can be asked *how?*."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Worked:
    """``value`` of ``unit``, and how it came about, a line each: formula, inputs, result."""

    value: float
    unit: str
    steps: tuple[str, ...]
