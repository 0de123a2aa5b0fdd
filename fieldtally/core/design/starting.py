"""What samples measured before anything was given: which are odd, and how far an allocation is from balance on it.

Samples are compared with the others of their block.  An odd one lies more than 3.5 scaled median absolute deviations from
the median of its peers (Iglewicz & Hoaglin 1993, with the factor 0.6745 for the normal distribution).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass
from statistics import fmean, median
from typing import TypeVar

from fieldtally.core.quantities.numbers import honest

ODD_BEYOND = 3.5
FEWEST_PEERS = 4
Name = TypeVar("Name", bound=Hashable)


@dataclass(frozen=True)
class OddStart:
    """A sample that differs from its peers before anything was given: its index, and the sentence about it."""

    index: int
    says: str


def odd_starts(
    values: Sequence[float | None], blocks: Sequence[str | None], names: Sequence[str], unit: str
) -> tuple[OddStart, ...]:
    """The samples whose start value differs too much from those of their block; ``names`` are how they are called.

    With fewer than four values in a block nothing can be called odd.  Where more than half are exactly alike, any other is.

    >>> [one.index for one in odd_starts([10, 11, 10.5, 30, 10.2], ["a"] * 5, list("12345"), "g")]
    [3]
    """
    peers: dict[str | None, list[float]] = defaultdict(list)
    for value, block in zip(values, blocks, strict=True):
        if value is not None:
            peers[block].append(value)
    found = []
    for i, (value, block) in enumerate(zip(values, blocks, strict=True)):
        if value is None or len(peers[block]) < FEWEST_PEERS:
            continue
        middle = median(peers[block])
        spread = median(abs(other - middle) for other in peers[block])
        far = abs(value - middle)
        if (spread > 0 and 0.6745 * far / spread > ODD_BEYOND) or (spread == 0 and far > 0):
            found.append(
                OddStart(
                    i,
                    f"{names[i]} measures {honest(value, 4)} {unit}".rstrip()
                    + f", its peers {honest(middle, 4)} {unit}".rstrip()
                    + ": measure it again, or take another before treatments are drawn.",
                )
            )
    return tuple(found)


def imbalance(values: Sequence[float | None], blocks: Sequence[str | None], treatments: Sequence[Name]) -> float:
    """How unlike treatments begin: the between-treatment sum of squares of block-centred values, as a share of the whole (0 to
    1); samples without a value are left out, and 0 where all are alike."""
    inside: dict[str | None, list[float]] = defaultdict(list)
    for value, block in zip(values, blocks, strict=True):
        if value is not None:
            inside[block].append(value)
    means = {block: fmean(found) for block, found in inside.items()}
    centred: Mapping[Name, list[float]] = defaultdict(list)
    for value, block, treatment in zip(values, blocks, treatments, strict=True):
        if value is not None:
            centred[treatment].append(value - means[block])
    whole = sum(one * one for found in centred.values() for one in found)
    between = sum(len(found) * fmean(found) ** 2 for found in centred.values())
    return between / whole if whole > 0 else 0.0
