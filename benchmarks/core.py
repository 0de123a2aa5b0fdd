"""Speed of the core, as ratios in one run where there is something to compare with.  Run by ./bench."""

from __future__ import annotations

import resource
import sys
import time
from collections.abc import Callable
from itertools import combinations

import numpy as np
from scipy import stats

from fieldtally.core.compare.columns import Column, compare_columns
from fieldtally.core.compare.reference import DRAWS
from fieldtally.core.design.plan import Block, Factor, FactorLevel, Layout, Outcome, Plan, Treatment
from fieldtally.core.outlook.outlook import outlook
from fieldtally.core.scales import MeasurementScale
from fieldtally.core.verdict.strength import judge

SAMPLES, TREATMENTS, BLOCKS, COLUMNS = 240, 4, 3, 12 * 6
SCIPY_COMPARISONS = 6


def best_of(times: int, act: Callable[[], object]) -> float:
    """The shortest of so many runs, in seconds."""
    taken = []
    for _ in range(times):
        begun = time.perf_counter()
        act()
        taken.append(time.perf_counter() - begun)
    return min(taken)


def trial() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Values (240, 72), labels and blocks."""
    rng = np.random.default_rng(1)
    labels = np.tile(np.arange(TREATMENTS), SAMPLES // TREATMENTS)
    blocks = np.repeat(np.arange(BLOCKS), SAMPLES // BLOCKS)
    return rng.normal(size=(SAMPLES, COLUMNS)) + 0.3 * labels[:, None], labels, blocks


def whole_verdict() -> None:
    """Every outcome at every checkpoint: overall test, all pairs with intervals, bootstraps, strength."""
    values, labels, blocks = trial()
    names = [str(t) for t in range(TREATMENTS)]
    for one in compare_columns(
        values, [Column("measurement")] * COLUMNS, labels, names, blocks, np.random.default_rng(2)
    ):
        judge(one)


def with_gaps() -> None:
    """The same with 2 in 100 values missing, at random."""
    values, labels, blocks = trial()
    values[np.random.default_rng(5).random(values.shape) < 0.02] = np.nan
    names = [str(t) for t in range(TREATMENTS)]
    for one in compare_columns(
        values, [Column("measurement")] * COLUMNS, labels, names, blocks, np.random.default_rng(2)
    ):
        judge(one)


def many(samples: int, treatments: int) -> float:
    """Seconds for one column of so many samples, treatments being drawn for each."""
    rng = np.random.default_rng(6)
    labels = rng.permutation(np.arange(samples) % treatments)
    values = rng.normal(size=(samples, 1)) + 0.01 * labels[:, None]
    names = [str(t) for t in range(treatments)]

    def act() -> None:
        judge(compare_columns(values, [Column("measurement")], labels, names, labels * 0, np.random.default_rng(2))[0])

    return best_of(1, act)


def scipy_comparisons() -> None:
    """Some of the same pair tests, one call of scipy each, unblocked and without intervals (the lighter job)."""
    values, labels, _ = trial()

    def t(x: np.ndarray, y: np.ndarray, axis: int) -> np.ndarray:
        return np.abs(stats.ttest_ind(x, y, axis=axis, equal_var=False).statistic)

    for a, b in list(combinations(range(TREATMENTS), 2))[:SCIPY_COMPARISONS]:
        stats.permutation_test(
            (values[labels == a, 0], values[labels == b, 0]),
            t,
            n_resamples=DRAWS,
            vectorized=True,
            batch=2_000,
            alternative="greater",
            rng=np.random.default_rng(3),
        )


def plans() -> dict[str, Plan]:
    """Plans of about 200 samples in each layout, and small ones for which there is advice to be found."""
    outcomes = (Outcome("o", "o", MeasurementScale("mL"), margin=1.0),)
    bed = Factor("bed", "Bed", (FactorLevel("x", "X"), FactorLevel("y", "Y")), hard=True)

    def made(treatments: int, samples: int, layout: Layout | None = None) -> Plan:
        made_of = tuple(
            Treatment(str(t), f"T{t}", samples=samples, levels={"bed": "xy"[t % 2]}) for t in range(treatments)
        )
        return Plan("x", factors=(bed,), treatments=made_of, layout=layout or Layout(), outcomes=outcomes)

    blocks = tuple(Block(str(b), f"B{b}") for b in range(5))
    return {
        "random, 4 × 50": made(4, 50),
        "random, 20 × 10": made(20, 10),
        "blocks, 4 × 10 × 5": made(4, 10, Layout("blocks", blocks)),
        "Latin squares, 7 × 28": made(7, 28, Layout("latin")),
        "split plot, 6 × 2 × 16": made(6, 2, Layout("split", whole_plots=16)),
        "pairs, 100": made(2, 100, Layout("pairs")),
        "random, 5 × 3, with advice": made(5, 3),
        "Latin square of 4, with advice": made(4, 4, Layout("latin")),
    }


def peak() -> float:
    """Highest memory of this process so far, in MB."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def main() -> None:
    """Print the figures."""
    if sys.argv[1:] == ["--memory"]:
        before = peak()
        whole_verdict()
        print(
            f"peak memory of the whole verdict: {peak():.0f} MB, of which {before:.0f} MB are the libraries (aim: 500)"
        )
        return
    ours = best_of(3, whole_verdict)
    pairs = TREATMENTS * (TREATMENTS - 1) // 2 * COLUMNS
    theirs = best_of(1, scipy_comparisons) / SCIPY_COMPARISONS * pairs
    print(f"whole verdict, {SAMPLES} samples × {COLUMNS} columns, {DRAWS:,} shuffles: {ours:.2f} s (aim: 1.5)")
    print(
        f"scipy.stats.permutation_test for each of its {pairs} pairs: {theirs:.0f} s, "
        f"scaled up from {SCIPY_COMPARISONS} measured; ratio {theirs / ours:.0f} (aim: 20)"
    )
    gaps = best_of(3, with_gaps)
    print(f"the same with 2 % of the values missing: {gaps:.2f} s, {gaps / ours:.1f} times that without (aim: 1.5)")
    print(
        f"100,000 samples × 5 treatments: {many(100_000, 5):.1f} s; 200 treatments × 4: {many(800, 200):.1f} s (aim: 10)"
    )
    for name, plan in plans().items():
        taken = best_of(3, lambda plan=plan: outlook(plan, np.random.default_rng(4)))
        print(f"planner's answer, {name}: {1000 * taken:.0f} ms (aim: 300)")


if __name__ == "__main__":
    main()
