"""The order in which a round meets its samples.

Block after block, so that nobody runs to and fro, blocks and samples inside them at random; blind repeats are brought somewhere among them.
It comes from the seed of the round alone: it tells nothing of what a sample was given, and is the same however often it is asked for.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar

from fieldtally.core.randomness import Draw

T = TypeVar("T")


def round_order(seed: str, samples: Sequence[tuple[T, str]], brought: Sequence[T] = ()) -> list[T]:
    """``samples`` with their blocks, and those ``brought`` under a second code, in the order of the round with that ``seed``.

    >>> round_order("7", [("a", "east"), ("b", "west"), ("c", "east"), ("d", "west")], ["a again"])
    ['b', 'a again', 'd', 'c', 'a']
    """
    drawn = Draw(seed, "order").shuffled(samples)
    way = Draw(seed, "blocks").shuffled(sorted({block for _, block in drawn}))
    order = [sample for sample, _ in sorted(drawn, key=lambda one: way.index(one[1]))]
    draw = Draw(seed, "brought")
    for one in brought:
        order.insert(draw.below(len(order) + 1), one)
    return order
