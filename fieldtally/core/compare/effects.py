"""Factors: does each of them matter, and does what one does depend on the others?

A main effect is tested by shuffling the factor's levels among samples that are alike in block and in all other factors, which is exact.
Where that leaves nothing to shuffle, and for interactions, residuals of the model without the term are shuffled inside blocks and F of the
term computed anew (Freedman & Lane 1983, J. Bus. Econ. Stat. 1:292; Anderson & ter Braak 2003, J. Stat. Comput. Simul. 73:85), which is
nearly so.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.compare.overall import overall_test
from fieldtally.core.compare.reference import DRAWS, FEWEST_DRAWS, arrangements, draws_of
from fieldtally.core.compare.stacks import laid_out
from fieldtally.core.compare.structure import Structure

TIE = 1e-9
CELLS_AT_ONCE = 2_000_000
RESIDUALS = 10_000_000
"""Residuals that are shuffled for one test at most; only layouts of more than 500 samples are drawn fewer than 20,000 times."""
HIGHEST = 3
"""Interactions of more factors than that are not told: nobody can read them."""


@dataclass(frozen=True)
class Effect:
    """One term: the factors (names) it is made of, its p (None: the layout cannot tell), how it was tested (``exact`` or ``draws`` of
    labels inside blocks and the other factors, ``residuals``), and how many arrangements were looked at."""

    factors: tuple[str, ...]
    p: float | None
    method: str
    arrangements: int

    @property
    def term(self) -> str:
        """``light × feed``."""
        return " × ".join(self.factors)


def effects(
    values: Floats, levels: Ints, names: Sequence[str], structure: Structure | Ints, rng: np.random.Generator
) -> list[Effect]:
    """The main effect of each factor, then all interactions up to three factors.

    ``values`` (n,), NaN where missing; ``levels`` (n, k) integers, one column for each of ``names``; ``structure`` or blocks (n,).
    """
    kept = ~np.isnan(values)
    laid_out = structure if isinstance(structure, Structure) else Structure.plain(structure)
    if kept.sum() < 4:
        return [Effect((name,), None, "none", 0) for name in names]
    values, levels, laid_out = values[kept], levels[kept], laid_out.kept(kept)
    found = [_main(values, levels, f, names[f], laid_out, rng) for f in range(len(names))]
    for size in range(2, min(HIGHEST, len(names)) + 1):
        for chosen in combinations(range(len(names)), size):
            told = tuple(names[f] for f in chosen)
            found.append(_by_residuals(values, levels, chosen, told, laid_out, rng))
    return found


def interaction(values: Floats, first: Ints, second: Ints, rng: np.random.Generator) -> float | None:
    """p that what ``first`` does depends on ``second`` (n,) by more than chance, residuals being shuffled inside each of ``second``; None
    where that cannot be told.  ``values`` (n,), NaN where missing."""
    kept = ~np.isnan(values)
    if kept.sum() < 4:
        return None
    levels = np.column_stack([first[kept], second[kept]])
    return _by_residuals(values[kept], levels, (0, 1), ("", ""), Structure.plain(second[kept]), rng).p


def _main(values: Floats, levels: Ints, f: int, name: str, structure: Structure, rng: np.random.Generator) -> Effect:
    own, others = levels[:, f], np.delete(levels, f, axis=1)
    if structure.kind == "split" and structure.plots is not None and structure.hard is not None:
        plots = structure.plots
        if all(len(np.unique(own[plots == plot])) == 1 for plot in np.unique(plots)):
            # Given to whole plots: each of them counts once.
            numbers, first = np.unique(plots, return_index=True)
            means = np.array([values[plots == number].mean() for number in numbers])
            (told,) = overall_test(means[:, None], own[first], structure.blocks[first], rng)
            return Effect((name,), told.p, told.method, told.arrangements)
        strata = _joined(plots, others)
    else:
        strata = _joined(structure.blocks, others)
    kinds, at = np.unique(own, return_inverse=True)
    if arrangements(laid_out(at, strata, len(kinds))[0]) > 1:
        (told,) = overall_test(values[:, None], own, strata, rng)
        return Effect((name,), told.p, told.method, told.arrangements)
    return _by_residuals(values, levels, (f,), (name,), structure, rng)


def _joined(blocks: Ints, others: Ints) -> Ints:
    """One number for each combination of block and other levels."""
    return np.unique(np.column_stack([blocks, others]), axis=0, return_inverse=True)[1].reshape(-1)


def _by_residuals(
    values: Floats,
    levels: Ints,
    chosen: tuple[int, ...],
    told: tuple[str, ...],
    structure: Structure,
    rng: np.random.Generator,
) -> Effect:
    strata = structure.plots if structure.kind == "split" and structure.plots is not None else structure.blocks
    terms = [c for size in range(1, levels.shape[1] + 1) for c in combinations(range(levels.shape[1]), size)]
    lower = [one for one in terms if not set(chosen) <= set(one)]
    reduced = _basis(strata, [levels[:, list(one)] for one in lower])
    full = _basis(strata, [levels[:, list(one)] for one in [*lower, chosen]])
    more, left = full.shape[1] - reduced.shape[1], len(values) - full.shape[1]
    if more < 1 or left < 1:
        return Effect(told, None, "none", 0)
    fitted = reduced @ (reduced.T @ values)
    p, many = residual_test(fitted, values - fitted, reduced, full, strata, rng)
    return Effect(told, p, "residuals", many)


def _basis(strata: Ints, parts: list[Ints]) -> Floats:
    """An orthonormal basis (n, r) of the model with a level for each stratum and each combination in ``parts``."""
    columns = [(strata[:, None] == np.unique(strata)).astype(np.float64)]
    for part in parts:
        rows, place = np.unique(part, axis=0, return_inverse=True)
        columns.append((place.reshape(-1)[:, None] == np.arange(len(rows))).astype(np.float64))
    u, s, _ = np.linalg.svd(np.column_stack(columns), full_matrices=False)
    return np.asarray(u[:, s > 1e-8 * s[0]])


def residual_test(
    fitted: Floats, residuals: Floats, reduced: Floats, full: Floats, strata: Ints, rng: np.random.Generator
) -> tuple[float, int]:
    """Freedman and Lane's p of what ``full`` has over ``reduced`` (orthonormal bases), and the number of draws."""
    observed = _gain((fitted + residuals)[:, None], reduced, full)[0]
    # Stratum by stratum, so that each is shuffled where it lies.
    order = np.argsort(strata, kind="stable")
    fitted, residuals, reduced, full = fitted[order], residuals[order], reduced[order], full[order]
    ends = np.cumsum(np.unique(strata, return_counts=True)[1]).tolist()
    members = [slice(begin, end) for begin, end in zip([0, *ends[:-1]], ends, strict=True)]
    step = max(1, CELLS_AT_ONCE // max(1, len(residuals)))
    draws = min(draws_of(len(residuals), DRAWS), max(FEWEST_DRAWS, RESIDUALS // len(residuals)))
    extreme = 0
    for start in range(0, draws, step):
        size = min(step, draws - start)
        drawn = np.empty((size, len(residuals)))
        for member in members:
            part = np.broadcast_to(residuals[member], (size, member.stop - member.start))
            rng.permuted(part, axis=1, out=drawn[:, member])
        drawn += fitted
        extreme += int((_gain(drawn.T, reduced, full) >= observed * (1 - TIE)).sum())
    return (extreme + 1) / (draws + 1), draws


def _gain(y: Floats, reduced: Floats, full: Floats) -> Floats:
    """What the full model explains more, over what it leaves: F up to a constant, for each column of ``y`` (n, b)."""
    size = (y**2).sum(axis=0)
    small, large = ((reduced.T @ y) ** 2).sum(axis=0), ((full.T @ y) ** 2).sum(axis=0)
    left = np.maximum(size - large, 1e-12 * np.maximum(size, 1e-300))
    return np.asarray(np.maximum(large - small, 0.0) / left)
