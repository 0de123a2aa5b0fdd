"""The practice of the demo's scorers: which sets they drew, and what the photo gauge reads from their pictures.

The gauge takes about a second a picture, and reads the same from the same picture each time.  So what it reads from these is shipped
beside this file, by the seed each picture is made from; a test lets it read one anew.  ``python ops/gauged.py`` lets it read
all of them again, after a change of the pictures or of the gauge.
"""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path

import numpy as np

from fieldtally.core.design.plan import Outcome
from fieldtally.core.training.gauged import gauged_value
from fieldtally.core.training.sets import Item, drawn_set, picture_of
from fieldtally.server.demo.plans import MARIGOLDS
from fieldtally.server.training.practising import SHOWN_WIDTH

SEED = 1729
OUTCOME = "eye"
SETS_EACH = 3
APART = {"scorer": 0.2, "lead": 0.3}
"""How far, in steps of the chart, somebody's grades lie about the truth."""
SHIPPED = Path(__file__).with_name("gauged.json")


def seed_of(number: int, apart: float) -> int:
    """What the pictures of somebody's set of that number are drawn from."""
    return SEED + number + int(100 * apart)


def outcome() -> Outcome:
    """What is practised."""
    return next(one for one in MARIGOLDS.outcomes if one.key == OUTCOME)


def items() -> list[Item]:
    """Every picture of every set."""
    return [
        item
        for apart in APART.values()
        for number in range(SETS_EACH)
        for item in drawn_set(outcome().scale, np.random.default_rng(seed_of(number, apart)), {})
    ]


def read_by_gauge(item: Item) -> float | None:
    """What the gauge reads from one picture; None where it refuses."""
    return gauged_value(outcome().scale, item, picture_of(outcome().scale, item, SHOWN_WIDTH))


def name_of(truth: float, seed: int) -> str:
    """How a picture is called among what is shipped."""
    return f"{truth:.6f}/{seed}"


@cache
def shipped() -> dict[str, float | None]:
    """What the gauge read, by the name of the picture."""
    found: dict[str, float | None] = json.loads(SHIPPED.read_text())
    return found
