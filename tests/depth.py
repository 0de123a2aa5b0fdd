"""How deep the tests go.  ``./test`` runs one member of each family, ``./test --all`` all of them.

What is left to ``--all`` is told by this module alone: cells of a family by :func:`cells`, plays of chance by :func:`plays`, whole tests
by their ids.  Of each family at least one member stays in ``./test``; docs/testing.md says what guards what.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from typing import TypeVar

EVERYTHING = bool(os.environ.get("FT_TEST_ALL"))
DEEP: tuple[str, ...] = (
    "tests/browser/test_tasting.py::test_demo_trial_3_is_run_by_24_people_and_told_as_the_core_tells_it",
)
"""Ids of tests, or how they begin."""

T = TypeVar("T")


def cells(every: Sequence[T], few: Sequence[T]) -> Sequence[T]:
    """The cells of a family that are tried: ``few`` of ``every``, or all with ``--all``."""
    return every if EVERYTHING else few


def plays(many: int, few: int) -> int:
    """How often chance is played: a test's bound follows from it, and is one that a true fault breaks with ``few`` as well."""
    return many if EVERYTHING else few


def is_deep(name: str) -> bool:
    """Whether the test of that id is left to ``--all``."""
    return any(name.startswith(one) for one in DEEP)
