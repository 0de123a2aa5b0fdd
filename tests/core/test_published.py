"""Known data sets, judged by the core and by scipy, and how often intervals hold the truth."""

import numpy as np
import pytest
from scipy import stats

from fieldtally.core.compare.columns import Column, compare_columns
from fieldtally.core.compare.pairs import one_pair
from fieldtally.core.verdict.strength import judge

# Dried weight of plants under a control and two treatments: Dobson 1983, An Introduction to Statistical Modelling, table 5.1.
PLANTS = {
    "control": [4.17, 5.58, 5.18, 6.11, 4.50, 4.61, 5.17, 4.53, 5.33, 5.14],
    "first": [4.81, 4.17, 4.41, 3.59, 5.87, 3.83, 6.03, 4.89, 4.32, 4.69],
    "second": [6.31, 5.12, 5.54, 5.50, 5.37, 5.29, 4.92, 6.15, 5.80, 5.26],
}
# Extra hours of sleep of ten patients under two drugs: Student 1908, Biometrika 6:1.
SLEEP = ([0.7, -1.6, -0.2, -1.2, -0.1, 3.4, 3.7, 0.8, 0.0, 2.0], [1.9, 0.8, 1.1, 0.1, -0.1, 4.4, 5.5, 1.6, 4.6, 3.4])
# Insects left after six sprays (the first three here): Beall 1942, Biometrika 32:243.
SPRAYS = {
    "A": [10, 7, 20, 14, 14, 12, 10, 23, 17, 20, 14, 13],
    "B": [11, 17, 21, 11, 16, 14, 17, 17, 19, 21, 7, 13],
    "C": [0, 1, 7, 2, 3, 1, 2, 1, 3, 0, 1, 4],
}


def compared(groups, kind="measurement", better="more"):
    values = np.concatenate([np.asarray(own, float) for own in groups.values()])
    labels = np.repeat(np.arange(len(groups)), [len(own) for own in groups.values()])
    where = np.zeros(len(values), int)
    return compare_columns(
        values[:, None], [Column(kind, better)], labels, list(groups), where, np.random.default_rng(1)
    )[0]


def test_plant_growth():
    found = compared(PLANTS)
    assert found.overall.p == pytest.approx(stats.f_oneway(*PLANTS.values()).pvalue, abs=0.005)
    for pair in found.pairs:
        theirs = stats.ttest_ind(PLANTS[pair.a], PLANTS[pair.b], equal_var=False)
        assert pair.p == pytest.approx(theirs.pvalue, abs=0.01)
        interval = theirs.confidence_interval()
        assert (pair.low, pair.high) == pytest.approx((interval.low, interval.high), abs=0.08)
    # Against the control the second one's p is just below 0.05: clear at that level, and no longer at 0.01.
    assert (judge(found).level, judge(found).winner) == ("clear", "second")
    assert judge(found, alpha=0.01).level == "leaning"


def test_students_sleep():
    values = np.column_stack(SLEEP[::-1]).ravel()
    found = one_pair(values[:, None], np.tile([True, False], 10), np.repeat(np.arange(10), 2), np.random.default_rng(1))
    theirs = stats.ttest_rel(SLEEP[1], SLEEP[0])
    assert found.exact
    assert found.p[0] == pytest.approx(stats.permutation_test(
        (np.array(SLEEP[1]) - np.array(SLEEP[0]),), lambda d, axis: np.abs(np.mean(d, axis=axis)),
        permutation_type="samples", alternative="greater",
    ).pvalue)  # fmt: skip
    assert found.difference[0] == pytest.approx(1.58)
    assert found.low[0] == pytest.approx(theirs.confidence_interval().low, abs=0.25)
    assert found.high[0] == pytest.approx(theirs.confidence_interval().high, abs=0.25)


def test_insect_sprays():
    found = compared(SPRAYS, "count", "less")
    verdict = judge(found, margin=5)
    assert (verdict.level, verdict.winner) == ("clear", "C")
    assert found.pair("A", "B").p > 0.5
    assert found.pair("A", "C").difference == pytest.approx(14.5 - 25 / 12)


@pytest.mark.parametrize(
    ("name", "n_a", "n_b", "spread_b", "blocks"),
    [
        ("equal", 8, 8, 1.0, 1),
        ("uneven", 6, 12, 1.0, 1),
        ("uneven, and the smaller group spreads more", 7, 14, 0.4, 1),
        ("in blocks", 4, 4, 1.0, 3),
    ],
)
def test_intervals_hold_the_truth_as_often_as_they_say(name, n_a, n_b, spread_b, blocks):
    trials, truth = 300, 1.3
    drawn = np.random.default_rng(len(name))
    in_a = np.tile(np.arange(n_a + n_b) < n_a, blocks)
    where = np.repeat(np.arange(blocks), n_a + n_b)
    noise = drawn.normal(size=(len(in_a), trials)) * np.where(in_a, 1.0, spread_b)[:, None]
    values = noise + truth * in_a[:, None] + 2.0 * where[:, None]
    found = one_pair(values, in_a, where, drawn, draws=2000, most=2000)
    held = ((found.low <= truth) & (truth <= found.high)).mean()
    assert 0.925 <= held <= 0.99, (name, held)
    assert found.difference.mean() == pytest.approx(truth, abs=0.1)


def test_the_means_interval_holds_the_truth_too():
    trials = 1000
    drawn = np.random.default_rng(5)
    labels = np.tile(np.repeat(np.arange(3), 2), 4)
    blocks = np.repeat(np.arange(4), 6)
    values = drawn.normal(size=(24, trials)) + 1.0 * labels[:, None]
    found = compare_columns(
        values, [Column("measurement")] * trials, labels, ["a", "b", "c"], blocks, np.random.default_rng(2)
    )
    held = np.mean([t.low <= truth <= t.high for one in found for truth, t in enumerate(one.treatments)])
    assert 0.93 <= held <= 0.97


def test_a_drifting_bench_is_taken_out_by_blocks():
    """A strong difference between blocks hides nothing when labels are shuffled inside them."""
    drawn = np.random.default_rng(3)
    blocks = np.repeat(np.arange(4), 4)
    in_a = np.tile([True, True, False, False], 4)
    values = drawn.normal(size=16) * 0.4 + 1.0 * in_a + 5.0 * blocks
    within = one_pair(values[:, None], in_a, blocks, drawn).p[0]
    across = one_pair(values[:, None], in_a, np.zeros(16, int), drawn).p[0]
    assert within < 0.01 < 0.3 < across
