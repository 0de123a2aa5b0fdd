"""The overall test: are the treatments different at all?

Statistic: the between-treatment sum of squares of the block-centred values, Σ (sum over a treatment)² / its samples; in
Latin squares values are centred by rows and columns.  One set of shuffles of all labels serves all columns, those with gaps too.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fieldtally.core.compare.arrays import Floats, Ints, Labels
from fieldtally.core.compare.blocks import centred as block_centred
from fieldtally.core.compare.plots import PlotShuffles, plot_shuffles
from fieldtally.core.compare.reference import Reference, distinct
from fieldtally.core.compare.squares import SquareShuffles, double_centred, square_shuffles
from fieldtally.core.compare.stacks import Layout, Stack, centred, laid_out, slices_of
from fieldtally.core.compare.structure import Structure

TIE = 1e-9
"""Statistics closer than this share of themselves are equal: sums of the same numbers in another order."""
CELLS_AT_ONCE = 4_000_000
MANY_TREATMENTS = 12
"""From so many treatments on, sums of few columns are gathered by label rather than treatment by treatment."""


@dataclass(frozen=True)
class Overall:
    """``p`` of the overall test; ``method`` is ``exact`` or ``draws``; ``arrangements`` is how many were looked at."""

    p: float
    method: str
    arrangements: int


def overall_tests(values: Floats, labels: Ints, blocks: Ints, reference: Reference) -> list[Overall | None]:
    """One :class:`Overall` for each column of ``values`` (n, c), NaN where missing, for ``labels`` (n,) inside ``blocks`` (n,).

    None where a column has one treatment only, or no more values than treatments.
    """
    kinds, at = np.unique(labels, return_inverse=True)
    full, order = laid_out(at, blocks, len(kinds))
    values, at, blocks = values[order], at[order], blocks[order]
    present = ~np.isnan(values)
    found: list[Overall | None] = [None] * values.shape[1]
    whole: list[int] = []
    gathered: dict[Layout, list[tuple[int, Ints]]] = {}
    for j in range(values.shape[1]):
        rows = np.flatnonzero(present[:, j])
        treatments = len(np.unique(at[rows]))
        if treatments < 2 or len(rows) <= treatments:
            continue
        layout, own = (
            (full, np.arange(len(rows))) if len(rows) == len(at) else laid_out(at[rows], blocks[rows], len(kinds))
        )
        if len(rows) == len(at) or reference.exact(layout) or not reference.draws_alike(layout, full):
            gathered.setdefault(layout, []).append((j, rows[own]))
        else:
            whole.append(j)
    for layout, members in gathered.items():
        stack = Stack(layout, np.stack([values[rows, j] for j, rows in members], axis=1), tuple(j for j, _ in members))
        for of, told in _of_stack(stack, reference).items():
            found[of] = told
    for of, told in _with_gaps(full, values, at, whole, reference).items():
        found[of] = told
    return found


def _of_stack(stack: Stack, reference: Reference) -> dict[int, Overall]:
    z = centred(stack)
    numbers = np.array(stack.layout).sum(axis=0)
    seen = _of_sums(
        np.stack([z[_rows(stack.layout, t)].sum(axis=0) for t in range(len(numbers))])[:, None, :], numbers
    )[0]
    limit = _limit(seen, z)
    extreme = np.zeros(len(stack.of), dtype=np.int64)
    for (sums,) in _sums(stack.layout, (z,), reference):
        extreme += (_of_sums(sums, numbers) >= limit).sum(axis=0)
    method, many = "exact" if reference.exact(stack.layout) else "draws", reference.count(stack.layout)
    p = reference.p(extreme, stack.layout).tolist()
    return {of: Overall(one, method, many) for of, one in zip(stack.of, p, strict=True)}


def _with_gaps(
    full: Layout, values: Floats, at: Ints, columns: Sequence[int], reference: Reference
) -> dict[int, Overall]:
    """The tests of ``columns`` that miss some of ``values`` (n, c), on the draws of the full layout: the samples that have no value change
    labels like all others, and a treatment's sum counts those that have one."""
    if not columns:
        return {}
    present = ~np.isnan(values[:, list(columns)])
    z = np.zeros(present.shape)
    for rows in slices_of(full):
        own = np.where(present[rows], values[rows][:, list(columns)], 0.0)
        z[rows] = np.where(present[rows], own - own.sum(axis=0) / np.maximum(present[rows].sum(axis=0), 1), 0.0)
    wide, treatments = len(columns), len(full[0])
    numbers = np.array(full).sum(axis=0)

    def between(sums: Floats, missing: Floats) -> Floats:
        total = np.zeros(sums.shape[1:])
        for own, lost, n in zip(sums, missing, numbers.tolist(), strict=True):
            total += own**2 / np.maximum(n - lost, 1.0)
        return total

    seen, lost = (
        np.stack([some[at == t].sum(axis=0) for t in range(treatments)])[:, None, :] for some in (z, ~present)
    )
    limit = _limit(between(seen, lost)[0], z)
    extreme = np.zeros(wide, dtype=np.int64)
    # What is counted is exact in half the room.
    for sums, missing in _sums(full, (z, (~present).astype(np.float32)), reference):
        extreme += (between(sums, missing) >= limit).sum(axis=0)
    many = reference.count(full)
    return {j: Overall((b + 1) / (many + 1), "draws", many) for j, b in zip(columns, extreme.tolist(), strict=True)}


def _rows(layout: Layout, t: int) -> Ints:
    """The rows of treatment ``t``."""
    starts = [rows.start + sum(counts[:t]) for rows, counts in zip(slices_of(layout), layout, strict=True)]
    return np.concatenate([np.arange(at, at + counts[t]) for at, counts in zip(starts, layout, strict=True)])


def _limit(seen: Floats, z: Floats) -> Floats:
    """What a statistic must reach to be at least as far out as the one seen."""
    return np.asarray(np.minimum(seen - TIE * np.maximum(seen, 1e-300), seen - 1e-3 * TIE * (z**2).sum(axis=0)))


def _of_sums(sums: Floats, numbers: Ints) -> Floats:
    """Between-treatment sums of squares (k, e) from sums (t, k, e)."""
    total = np.zeros(sums.shape[1:])
    for own, n in zip(sums, numbers.tolist(), strict=True):
        if n:
            total += own**2 / n
    return total


def _sums(layout: Layout, parts: Sequence[NDArray[np.floating]], reference: Reference) -> Iterator[list[Floats]]:
    """The sums (t, k, e) over each treatment of each of ``parts`` (n, e), some arrangements at a time."""
    many, exact = reference.count(layout), reference.exact(layout)
    treatments = len(layout[0])
    ways = [distinct(counts) if exact else reference.draws(slot, counts, many) for slot, counts in enumerate(layout)]
    widest = max(parts[0].shape[1] * treatments, *(sum(counts) for counts in layout))
    step = max(1, CELLS_AT_ONCE // widest)
    sizes = [len(way) for way in ways]
    for begin in range(0, many, step):
        at = np.arange(begin, min(many, begin + step))
        picks = np.unravel_index(at, sizes) if exact else [at] * len(layout)
        sums = [np.zeros((treatments, len(at), part.shape[1]), dtype=part.dtype) for part in parts]
        for rows, way, pick in zip(slices_of(layout), ways, picks, strict=True):
            labels = way[pick]
            if treatments >= MANY_TREATMENTS and parts[0].shape[1] < treatments:
                _gather_by_label(labels, [part[rows] for part in parts], sums)
            else:
                _gather(labels, [part[rows] for part in parts], sums)
        yield sums


def _gather(labels: Labels, parts: Sequence[NDArray[np.floating]], sums: Sequence[Floats]) -> None:
    """Add what ``labels`` (k, m) put into each treatment of each of ``parts`` (m, e) to its ``sums`` (t, k, e)."""
    for part, total in zip(parts, sums, strict=True):
        total[-1] += part.sum(axis=0)
    for t in range(len(sums[0]) - 1):
        own = labels == t
        for part, total in zip(parts, sums, strict=True):
            summed = own.astype(part.dtype) @ part
            total[t] += summed
            total[-1] -= summed


def _gather_by_label(labels: Labels, parts: Sequence[NDArray[np.floating]], sums: Sequence[Floats]) -> None:
    """The same, column by column, for many treatments and few columns."""
    treatments, many = sums[0].shape[:2]
    place = (labels + np.arange(many)[:, None] * treatments).ravel()
    for part, total in zip(parts, sums, strict=True):
        for j, column in enumerate(part.T):
            own = np.bincount(place, weights=np.broadcast_to(column, labels.shape).ravel(), minlength=many * treatments)
            total[:, :, j] += own.reshape(many, treatments).T


def overall_test(values: Floats, labels: Ints, structure: Structure | Ints, rng: np.random.Generator) -> list[Overall]:
    """One :class:`Overall` for each column of ``values`` (n, c), without gaps, for ``labels`` (n,) laid out in
    ``structure`` (or simply inside blocks (n,))."""
    if not isinstance(structure, Structure):
        structure = Structure.plain(structure)
    if structure.complete_squares(labels):
        return _by_chunks(square_shuffles(labels, structure, rng), double_centred(values, structure), labels)
    if structure.kind == "split":
        return _by_chunks(plot_shuffles(labels, structure, rng), block_centred(values, structure.blocks), labels)
    found = overall_tests(values, labels, structure.blocks, Reference(int(rng.integers(2**63))))
    return [one or Overall(1.0, "exact", 1) for one in found]


def _by_chunks(shuffles: SquareShuffles | PlotShuffles, z: Floats, labels: Ints) -> list[Overall]:
    kinds, numbers = np.unique(labels, return_counts=True)

    def between(chunk: Labels) -> Floats:
        return _of_sums(np.stack([(chunk == kind).astype(np.float64) @ z for kind in kinds]), numbers)

    seen = between(labels[None, :].astype(np.int16))[0]
    limit = _limit(seen, z)
    extreme = np.zeros(z.shape[1], dtype=np.int64)
    for chunk in shuffles.chunks():
        extreme += (between(chunk) >= limit).sum(axis=0)
    method = "exact" if shuffles.exact else "draws"
    return [Overall((int(b) + shuffles.extra) / shuffles.total, method, shuffles.count) for b in extreme]
