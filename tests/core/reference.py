"""The tests written a second time, slowly and plainly, as an oracle: no shared code with the core."""

from __future__ import annotations

import math
from itertools import permutations, product
from statistics import fmean, variance


def inside(labels, blocks):
    """Every distinct arrangement of labels inside blocks."""
    names = sorted(set(blocks))
    places = [[i for i, b in enumerate(blocks) if b == name] for name in names]
    ways = [sorted(set(permutations([labels[i] for i in place]))) for place in places]
    for chosen in product(*ways):
        arranged = list(labels)
        for place, own in zip(places, chosen, strict=True):
            for i, label in zip(place, own, strict=True):
                arranged[i] = label
        yield arranged


def block_centred(values, blocks):
    means = {b: fmean(v for v, c in zip(values, blocks, strict=True) if c == b) for b in set(blocks)}
    return [v - means[b] for v, b in zip(values, blocks, strict=True)]


def welch(z, labels, a):
    ours = [v for v, label in zip(z, labels, strict=True) if label == a]
    theirs = [v for v, label in zip(z, labels, strict=True) if label != a]
    difference = fmean(ours) - fmean(theirs)
    spread = sum((variance(g) if len(g) > 1 else 0.0) / len(g) for g in (ours, theirs))
    if spread < 1e-12:
        return math.copysign(1e6 + abs(difference), difference) if abs(difference) > 1e-12 else 0.0
    return difference / math.sqrt(spread)


def pair_p(values, labels, blocks, a, b, shift=0.0):
    """p of a against b by full enumeration over their own samples, after `shift` is taken off a."""
    kept = [i for i, label in enumerate(labels) if label in (a, b)]
    both = {c for c in (blocks[i] for i in kept) if {labels[i] for i in kept if blocks[i] == c} == {a, b}}
    kept = [i for i in kept if blocks[i] in both]
    own = [values[i] - (shift if labels[i] == a else 0.0) for i in kept]
    own_labels, own_blocks = [labels[i] for i in kept], [blocks[i] for i in kept]
    z = block_centred(own, own_blocks)
    seen = abs(welch(z, own_labels, a))
    found = [abs(welch(z, arranged, a)) >= seen - 1e-9 * max(1.0, seen) for arranged in inside(own_labels, own_blocks)]
    return sum(found) / len(found)


def overall_p(values, labels, blocks):
    z = block_centred(values, blocks)

    def between(arranged):
        return sum(
            sum(v for v, label in zip(z, arranged, strict=True) if label == name) ** 2 / arranged.count(name)
            for name in set(labels)
        )

    seen = between(list(labels))
    found = [between(arranged) >= seen - 1e-9 for arranged in inside(labels, blocks)]
    return sum(found) / len(found)


def midranks(values):
    return [sum(w < v for w in values) + (sum(w == v for w in values) + 1) / 2 for v in values]
