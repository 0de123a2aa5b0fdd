"""Speed of the core, as ratios in one run where there is something to compare with.  Run by ./bench."""

from __future__ import annotations

import resource
import sys
import time
from collections.abc import Callable
from functools import partial
from itertools import combinations

import numpy as np
from scipy import stats

from fieldtally.core.compare.columns import Column, compare_columns
from fieldtally.core.compare.reference import DRAWS
from fieldtally.core.design.plan import Block, Checkpoint, Factor, FactorLevel, Layout, Outcome, Plan, Treatment
from fieldtally.core.outlook.outlook import outlook
from fieldtally.core.scales import GradeScale, Level, MeasurementScale
from fieldtally.core.verdict.strength import judge
from fieldtally.core.verdict.study import Decisions, Placed, StudyData

SAMPLES, TREATMENTS, BLOCKS, COLUMNS = 240, 4, 3, 12 * 6
GAPS = (0.01, 0.02)


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


def with_gaps(share: float) -> None:
    """The same with that share of the values missing, at random."""
    values, labels, blocks = trial()
    values[np.random.default_rng(5).random(values.shape) < share] = np.nan
    names = [str(t) for t in range(TREATMENTS)]
    for one in compare_columns(
        values, [Column("measurement")] * COLUMNS, labels, names, blocks, np.random.default_rng(2)
    ):
        judge(one)


def bare_product() -> None:
    """No more than the product of the shuffles with the values, by treatment and in single precision: no verdict can do without."""
    values, labels, _ = trial()
    drawn = np.random.default_rng(2).permuted(np.tile(labels.astype(np.int8), (DRAWS, 1)), axis=1)
    narrow = values.astype(np.float32)
    begun = time.perf_counter()
    for t in range(TREATMENTS):
        (drawn == t).astype(np.float32) @ narrow
    PRODUCT.append(time.perf_counter() - begun)


PRODUCT: list[float] = []


def hand_written() -> None:
    """The same tests as somebody would write them for this one trial: labels drawn inside blocks, sums by treatment, the overall statistic
    and all pairs with an interval from what was drawn; without ties, gaps, strength or words."""
    values, labels, blocks = trial()
    rng = np.random.default_rng(2)
    drawn = np.empty((DRAWS, SAMPLES), dtype=np.int8)
    for block in range(BLOCKS):
        at = np.flatnonzero(blocks == block)
        drawn[:, at] = rng.permuted(np.tile(labels[at].astype(np.int8), (DRAWS, 1)), axis=1)
    centred = values - np.stack([values[blocks == b].mean(axis=0) for b in range(BLOCKS)])[blocks]
    each = SAMPLES // TREATMENTS
    means = np.stack([(drawn == t).astype(np.float64) @ centred / each for t in range(TREATMENTS)])
    seen = np.stack([centred[labels == t].mean(axis=0) for t in range(TREATMENTS)])
    overall = (means**2).sum(axis=0)
    (1 + (overall >= (seen**2).sum(axis=0) * (1 - 1e-12)).sum(axis=0)) / (DRAWS + 1)
    for a, b in combinations(range(TREATMENTS), 2):
        apart = np.abs(means[a] - means[b])
        (1 + (apart >= abs(seen[a] - seen[b]) * (1 - 1e-12)).sum(axis=0)) / (DRAWS + 1)
        np.quantile(apart, 0.95, axis=0)


def grid(treatments: int, blocks: int, each: int, outcomes: int, looks: int) -> float:
    """Seconds for the findings of a trial of so many treatments in blocks, so many samples of each in each, outcomes and looks."""
    beds = tuple(Block(f"b{i}", f"Bed {i}") for i in range(blocks))
    levels = GradeScale(tuple(Level(float(k), str(k)) for k in range(6)))
    plan = Plan(
        "x",
        treatments=tuple(Treatment(f"t{i}", f"T{i}", samples=each) for i in range(treatments)),
        layout=Layout("blocks", beds) if blocks > 1 else Layout(),
        outcomes=tuple(
            Outcome(f"o{i}", f"O{i}", levels if i == 1 else MeasurementScale("cm", 0.1), primary=i == 0)
            for i in range(outcomes)
        ),
        checkpoints=tuple(Checkpoint(f"d{i}", f"Day {i}", i * 1440) for i in range(1, looks + 1)),
    )
    rng = np.random.default_rng(1)
    placed = tuple(
        Placed(f"{t}-{b}-{k}", f"t{t}", f"b{b}" if blocks > 1 else None, None, None, None)
        for t in range(treatments)
        for b in range(blocks)
        for k in range(each)
    )
    values = {}
    for outcome in plan.outcomes:
        for look in plan.checkpoints:
            drawn = rng.normal(0, 1, len(placed))
            told = np.clip(np.round(2.5 + drawn), 0, 5) if outcome.key == "o1" else np.round(10 + drawn, 1)
            values[outcome.key, look.key] = dict(zip((one.code for one in placed), told.tolist(), strict=True))
    study = StudyData(plan, 5, placed, Decisions(), values, values, {}, frozenset(), {})
    return best_of(1, study.findings)


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
    """The same pair tests by scipy, all columns of a pair in one call, unblocked and without intervals (the lighter job)."""
    values, labels, _ = trial()

    def apart(x: np.ndarray, y: np.ndarray, axis: int) -> np.ndarray:
        return np.asarray(np.abs(x.mean(axis=axis) - y.mean(axis=axis)))

    for a, b in combinations(range(TREATMENTS), 2):
        stats.permutation_test(
            (values[labels == a], values[labels == b]),
            apart,
            n_resamples=DRAWS,
            vectorized=True,
            batch=500,
            axis=0,
            alternative="greater",
            rng=np.random.default_rng(3),
        )


def outlooked(plan: Plan, *, whole: bool = True) -> None:
    """What the planner says of a plan."""
    outlook(plan, np.random.default_rng(4), whole=whole)


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
        "random, 4 × 250": made(4, 250),
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
    print(f"whole verdict, {SAMPLES} samples × {COLUMNS} columns, {DRAWS:,} shuffles: {ours:.2f} s (aim: 1.5)")
    best_of(3, bare_product)
    product, by_hand = min(PRODUCT), best_of(3, hand_written)
    print(f"beside the bare product of shuffles and values, {product:.2f} s: {ours / product:.1f} times (aim: 4)")
    print(f"beside hand-written numpy for this one trial, {by_hand:.2f} s: {ours / by_hand:.1f} times (aim: 1.5)")
    theirs = best_of(1, scipy_comparisons)
    print(
        f"scipy.stats.permutation_test, all columns of a pair in one call, without blocks and intervals: {theirs:.1f} s"
    )
    for share in GAPS:
        gaps = best_of(3, partial(with_gaps, share))
        print(f"with {100 * share:g} % of the values missing: {gaps:.2f} s, {gaps / ours:.1f} times (aim: 1.5)")
    print(
        f"grids, findings alone: 30 treatments × 3 blocks × 3 outcomes × 2 looks {grid(30, 3, 1, 3, 2):.1f} s (aim: 1); "
        f"60 × 4 samples {grid(60, 1, 4, 1, 1):.1f} s (aim: 2)"
    )
    print(
        f"100,000 samples × 5 treatments: {many(100_000, 5):.1f} s; 200 treatments × 4: {many(800, 200):.1f} s (aim: 10)"
    )
    for name, plan in plans().items():
        first = best_of(3, partial(outlooked, plan, whole=False))
        taken = best_of(3, partial(outlooked, plan))
        print(
            f"planner, {name}: headline {1000 * first:.0f} ms (aim: 150), with advice {1000 * taken:.0f} ms (aim: 600)"
        )


if __name__ == "__main__":
    main()
