"""The tests written a second time, slowly and plainly, as an oracle: no shared code with the core."""

from __future__ import annotations

import math
from itertools import permutations, product
from statistics import fmean, variance

import numpy as np
from scipy import stats


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


def ranks_in_blocks(values, blocks):
    """Mid-ranks among those of the same block."""
    found = list(values)
    for block in set(blocks):
        rows = [i for i, b in enumerate(blocks) if b == block]
        for i, rank in zip(rows, midranks([values[i] for i in rows]), strict=True):
            found[i] = rank
    return found


def told_p(values, labels, blocks, a, b, shift=0.0):
    """The p that is told: of full enumeration, or Welch's where it is larger and the wider side has no more samples and is plainly
    wider."""
    p = pair_p(values, labels, blocks, a, b, shift)
    values = [v - (shift if label == a else 0.0) for v, label in zip(values, labels, strict=True)]
    n_a, n_b = labels.count(a), labels.count(b)
    if min(n_a, n_b) < 2 or all(blocks.count(c) == 2 for c in set(blocks)):
        return p
    found, spread_a, spread_b = welch_by_matrices(values, labels, blocks, a)
    times = 2.0 if n_a == n_b else 1.25
    wider_a = n_a <= n_b and spread_a > times * spread_b
    wider_b = n_b <= n_a and spread_b > times * spread_a
    return max(p, found) if wider_a or wider_b else p


def welch_by_matrices(values, labels, blocks, a):
    """p of the treatment's coefficient in a linear model with blocks: each side's own spread, Satterthwaite's degrees of freedom, all n ×
    n matrices; and the two standard deviations."""
    y = np.array(values, dtype=float)
    first = np.array([label == a for label in labels])
    design = np.column_stack([first.astype(float), *[[float(b == one) for b in blocks] for one in sorted(set(blocks))]])
    hat = design @ np.linalg.pinv(design)
    rest = np.eye(len(y)) - hat
    residuals = rest @ y
    weights = np.linalg.pinv(design)[0]
    # What is left of one side holds some of the other's spread: both are solved for together.
    sides = (first, ~first)
    kept = np.array([[(rest[np.ix_(s, t)] ** 2).sum() for t in sides] for s in sides])
    seen = np.array([(residuals[s] ** 2).sum() for s in sides])
    spreads = np.maximum(np.linalg.pinv(kept) @ seen, 0.0)
    wanted = np.array([(weights[s] ** 2).sum() for s in sides])
    solved = np.linalg.pinv(kept).T @ wanted
    variance = max(float(solved @ seen), 0.5 * float(wanted @ spreads))
    sigma = np.diag(np.where(first, spreads[0], spreads[1]))
    middle = rest @ np.diag(np.where(first, solved[0], solved[1])) @ rest @ sigma
    freedom = max(1.0, np.trace(middle) ** 2 / np.trace(middle @ middle)) if variance > 0 else 1.0
    # No more than the noisier side has.
    freedom = min(freedom, float((first if spreads[0] >= spreads[1] else ~first).sum() - 1))
    t = float(weights @ y) / math.sqrt(variance) if variance > 0 else math.inf
    return float(2 * stats.t.sf(abs(t), freedom)), math.sqrt(spreads[0]), math.sqrt(spreads[1])
