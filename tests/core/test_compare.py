"""The re-randomisation engine against full enumeration, scipy and published figures."""

import json
import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.compare.columns import Column, compare_columns, turned
from fieldtally.core.compare.holm import holm
from fieldtally.core.compare.means import treatment_means
from fieldtally.core.compare.overall import overall_test
from fieldtally.core.compare.pairs import one_pair
from fieldtally.core.compare.rates import newcombe, wilson
from fieldtally.core.compare.reference import Reference, arrangements, distinct
from fieldtally.core.compare.stacks import laid_out
from fieldtally.core.outlook.rare import samples_to_see_one, still_possible
from fieldtally.core.outlook.smallest import smallest_p
from tests.core.reference import overall_p, ranks_in_blocks, told_p, welch_by_matrices

CASES = json.loads((Path(__file__).parent / "cases/design.json").read_text())
DESIGNS = [
    # labels, blocks
    ("aaabbb", "xxxxxx"),
    ("aabbbcc", "xxxxxxx"),
    ("aabbccaabbcc", "xxxxxxyyyyyy"),
    ("aabbabb", "xxxxyyy"),
    ("abababab", "11223344"),
    ("aabbbccc", "xxxxxxyy"),
]


def rng():
    return np.random.default_rng(3)


def numbers(text):
    return np.array([sorted(set(text)).index(letter) for letter in text])


def one(values, labels, blocks, kind="measurement", **kw):
    names = sorted(set(labels))
    column = Column(kind)
    return compare_columns(
        np.array(values, float)[:, None], [column], numbers(labels), names, numbers(blocks), rng(), **kw
    )[0]


@pytest.mark.parametrize(("labels", "blocks"), DESIGNS)
@pytest.mark.parametrize("kind", ["measurement", "grade", "passfail", "count"])
@pytest.mark.parametrize("seed", range(4))
def test_exact_p_is_that_of_full_enumeration(labels, blocks, kind, seed):
    drawn = np.random.default_rng(seed)
    n = len(labels)
    values = (
        {
            "measurement": drawn.normal(size=n),
            "grade": drawn.integers(0, 4, n),
            "passfail": drawn.integers(0, 2, n),
            "count": drawn.poisson(3, n),
        }[kind]
        .astype(float)
        .tolist()
    )
    found = one(values, labels, blocks, kind)
    tested = ranks_in_blocks(values, blocks) if kind == "grade" else values
    assert found.overall.method == "exact"
    assert found.overall.p == pytest.approx(overall_p(tested, labels, blocks))
    for pair in found.pairs:
        own = [i for i, label in enumerate(labels) if label in (pair.a, pair.b)]
        shared = {b for b in blocks if {labels[i] for i in own if blocks[i] == b} == {pair.a, pair.b}}
        kept = [i for i in own if blocks[i] in shared]
        mine = [values[i] for i in kept]
        own_labels, own_blocks = [labels[i] for i in kept], [blocks[i] for i in kept]
        mine = ranks_in_blocks(mine, own_blocks) if kind == "grade" else mine
        if not kept:
            assert (pair.p, pair.favours) == (1, None)
            continue
        expected = told_p(mine, own_labels, own_blocks, pair.a, pair.b)
        assert pair.p == pytest.approx(expected), (pair.a, pair.b)


@pytest.mark.parametrize("groups", [(5, 5), (4, 7)])
def test_p_agrees_with_scipy(groups):
    drawn = np.random.default_rng(8)
    a, b = drawn.normal(0.9, 1, groups[0]), drawn.normal(0, 2, groups[1])

    def t(x, y, axis):
        return np.abs(stats.ttest_ind(x, y, axis=axis, equal_var=False).statistic)

    theirs = stats.permutation_test((a, b), t, n_resamples=np.inf, alternative="greater", vectorized=True).pvalue
    told = stats.ttest_ind(a, b, equal_var=False)
    noisier = a if a.std(ddof=1) >= b.std(ddof=1) else b
    welch = 2 * stats.t.sf(abs(told.statistic), min(told.df, len(noisier) - 1))
    ours = one([*a, *b], "a" * groups[0] + "b" * groups[1], "x" * sum(groups)).pairs[0]
    wider = max(a.std(ddof=1), b.std(ddof=1)) / min(a.std(ddof=1), b.std(ddof=1)) > 2 and len(a) == len(b)
    assert ours.p == pytest.approx(max(theirs, welch) if wider else theirs)
    labels, blocks = "a" * len(a) + "b" * len(b), "x" * (len(a) + len(b))
    assert welch_by_matrices([*a, *b], labels, blocks, "a")[0] == pytest.approx(welch)


def test_paired_p_agrees_with_scipy_sign_flips():
    drawn = np.random.default_rng(4)
    x = drawn.normal(0.6, 1, 9)
    y = drawn.normal(0, 1, 9)
    theirs = stats.permutation_test(
        (x, y), lambda a, b, axis: np.abs(np.mean(a - b, axis=axis)), permutation_type="samples", alternative="greater"
    ).pvalue
    values = np.column_stack([x, y]).ravel()
    found = one_pair(values[:, None], np.tile([True, False], 9), np.repeat(np.arange(9), 2), rng())
    assert found.exact[0]
    assert found.arrangements[0] == 2**9
    assert found.p[0] == pytest.approx(theirs)


def test_draws_come_close_to_the_exact_p():
    values = np.random.default_rng(5).normal(size=(16, 3))
    values[:8] += [0.5, 1.0, 0.0]
    in_a = np.arange(16) < 8
    exact = one_pair(values, in_a, np.zeros(16, int), rng())
    drawn = one_pair(values, in_a, np.zeros(16, int), rng(), most=10)
    assert exact.exact.all()
    assert not drawn.exact.any()
    assert (drawn.arrangements == 20_000).all()
    assert drawn.p == pytest.approx(exact.p, abs=4 * math.sqrt(0.25 / 20_000))
    assert drawn.low == pytest.approx(exact.low, abs=0.08)
    whole = overall_test(values, in_a.astype(int), np.zeros(16, int), rng())
    assert [w.p for w in whole] == pytest.approx(exact.p, abs=1e-12)


@pytest.mark.parametrize(
    ("labels", "blocks"), [("aaaaabbbbb", "x" * 10), ("aaabbbbbb", "x" * 9), ("aabbbaabbb", "xxxxxyyyyy")]
)
def test_the_interval_holds_just_the_shifts_that_are_not_rejected(labels, blocks):
    values = np.random.default_rng(len(labels)).normal(size=len(labels)) + 2.0 * (np.array(list(labels)) == "a")
    pair = one(values, labels, blocks, alpha=0.1).pairs[0]
    width = pair.high - pair.low
    for end, outward in ((pair.low, -1), (pair.high, 1)):
        assert told_p(values, labels, blocks, "a", "b", end - outward * 0.01 * width) > 0.1
        assert told_p(values, labels, blocks, "a", "b", end + outward * 0.01 * width) <= 0.1
    assert pair.low <= pair.difference <= pair.high


@settings(max_examples=60, deadline=None)
@given(st.lists(st.integers(-9, 9), min_size=6, max_size=9), st.integers(2, 4), st.sampled_from([0.05, 0.1, 0.2]))
def test_interval_and_p_never_contradict_each_other(values, n_a, alpha):
    labels = "a" * n_a + "b" * (len(values) - n_a)
    pair = one(values, labels, "x" * len(values), alpha=alpha).pairs[0]
    low, high = pair.low if pair.low is not None else -math.inf, pair.high if pair.high is not None else math.inf
    if pair.p > alpha:
        assert low <= 1e-9
        assert high >= -1e-9
    else:
        assert low >= -1e-9 or high <= 1e-9


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(-50, 50), min_size=6, max_size=8), st.floats(-100, 100), st.floats(0.1, 20))
def test_p_does_not_care_for_units(values, shift, scale):
    labels = "aaa" + "b" * (len(values) - 3)
    plain = one(np.round(values, 3), labels, "x" * len(values)).pairs[0]
    moved = one(np.round(values, 3) * scale + shift, labels, "x" * len(values)).pairs[0]
    assert moved.p == pytest.approx(plain.p)
    assert (turned(turned(plain)).low, turned(turned(plain)).a) == (plain.low, plain.a)


def test_a_third_treatment_changes_nothing_between_two():
    values = [1, 2, 3, 4, 6, 5, 90, 10, 50]
    alone = one(values[:6], "aaabbb", "xxxxxx").pairs[0]
    among = one(values, "aaabbbccc", "x" * 9).pair("a", "b")
    assert (alone.p, alone.difference, alone.low) == (among.p, among.difference, among.low)


def test_no_spread_within_treatments_is_the_most_extreme_there_is():
    assert one([5, 5, 5, 3, 3, 3], "aaabbb", "xxxxxx").pairs[0].p == pytest.approx(0.1)
    assert one([5, 5, 5, 3, 3], "aaabb", "xxxxx").pairs[0].p == pytest.approx(0.1)
    assert one([4, 4, 4, 4], "aabb", "xxxx").pairs[0].p == 1


def test_missing_values_drop_out_and_one_without_partner_cannot_be_compared():
    values = np.array([[1.0, 1.0], [2.0, np.nan], [3.0, 3.0], [7.0, 7.0], [8.0, 8.0], [9.0, 9.0]])
    labels = numbers("aaabbb")
    both = compare_columns(values, [Column("measurement")] * 2, labels, ["a", "b"], np.zeros(6, int), rng())
    assert both[0].pairs[0].arrangements == 20
    assert both[1].pairs[0].arrangements == 10
    assert both[1].treatments[0].n == 2
    apart = one([1, 2, 8, 9], "aabb", "xxyy").pairs[0]
    assert (apart.p, apart.low) == (1, None)


@pytest.mark.parametrize("case", CASES["smallest_p_two_sided"])
def test_smallest_p_of_two_groups(case):
    n_a, n_b = case["groups"]
    expected = case.get("p", case.get("p_one_sided"))
    assert smallest_p([(n_a, n_b)]) == pytest.approx(expected, abs=1e-6)
    best = one([*range(n_a), *range(100, 100 + n_b)], "a" * n_a + "b" * n_b, "x" * (n_a + n_b)).pairs[0].p
    assert best >= smallest_p([(n_a, n_b)]) - 1e-12


@pytest.mark.parametrize("case", CASES["blocked_pairs_smallest_p"])
def test_smallest_p_of_pairs(case):
    n = case["pairs"]
    assert smallest_p([(1, 1)] * n) == pytest.approx(case["p"])
    values = [v for i in range(n) for v in (10.0 + i, 1.0)]
    labels, blocks = "ab" * n, "".join(str(i) * 2 for i in range(n))
    assert one(values, labels, blocks).pairs[0].p == pytest.approx(case["p"])


def test_rare_events():
    for case in CASES["see_at_least_one"]:
        assert samples_to_see_one(case["rate"], case["confidence"]) == case["samples"]
    for case in CASES["none_in_n_upper95"]:
        assert still_possible(case["n"]) == pytest.approx(case["upper"], abs=1e-5)
        assert still_possible(case["n"]) == pytest.approx(stats.beta.ppf(0.95, 1, case["n"]))


def test_wilson_agrees_with_scipy_and_newcombe_with_his_own_table():
    for passed, n in ((0, 5), (8, 10), (81, 263), (20, 20)):
        theirs = stats.binomtest(passed, n).proportion_ci(method="wilson")
        assert wilson(passed, n) == pytest.approx((theirs.low, theirs.high))
    # Newcombe 1998, table II, method 10.
    assert newcombe(56, 70, 48, 80) == pytest.approx((0.0524, 0.3339), abs=1e-4)
    assert newcombe(9, 10, 3, 10) == pytest.approx((0.1705, 0.8090), abs=1e-4)
    assert newcombe(10, 10, 0, 20) == pytest.approx((0.6791, 1.0), abs=1e-4)
    assert newcombe(5, 56, 0, 29) == pytest.approx((-0.0381, 0.1926), abs=1e-4)


def test_holm_agrees_with_its_definition():
    p = [0.01, 0.04, 0.03, 0.005]
    assert holm(p) == pytest.approx([0.03, 0.06, 0.06, 0.02])
    assert holm([0.9, 0.8]) == [1.0, 1.0]


def test_means_are_what_a_person_would_compute_where_the_layout_is_balanced():
    values: Floats = np.random.default_rng(1).normal(size=(12, 2))
    labels, blocks = np.tile([0, 1, 2], 4), np.repeat([0, 1], 6)
    found = treatment_means(values, labels, blocks, 3)
    for t in range(3):
        assert found.estimate[t] == pytest.approx(values[labels == t].mean(axis=0))
    plain = treatment_means(values[:4], np.zeros(4, int), np.zeros(4, int), 1)
    theirs = stats.ttest_1samp(values[:4], 0).confidence_interval()
    assert plain.low[0] == pytest.approx(theirs.low)
    assert plain.high[0] == pytest.approx(theirs.high)


def test_a_lost_sample_does_not_bend_a_mean_through_its_block():
    """Block y is 10 higher; treatment a loses a sample there and must not look worse for it."""
    values = np.array([[1.0], [1.0], [11.0], [1.0], [1.0], [11.0], [11.0]])
    found = treatment_means(values, np.array([0, 0, 0, 1, 1, 1, 1]), np.array([0, 0, 1, 0, 0, 1, 1]), 2)
    assert found.estimate[0, 0] == pytest.approx(found.estimate[1, 0])


def test_arrangements_are_counted_and_all_different():
    layout, order = laid_out(numbers("aabbcabc"), numbers("xxxxxyyy"), 3)
    assert layout == ((1, 1, 1), (2, 2, 1))
    assert "".join("aabbcabc"[i] for i in order) == "abcaabbc"
    assert arrangements(layout) == 30 * 6
    reference = Reference(3)
    assert reference.exact(layout)
    assert reference.count(layout) == 180
    rows = distinct((2, 2, 1))
    assert len(np.unique(rows, axis=0)) == len(rows) == 30


@pytest.mark.parametrize(("counts", "other"), [((3, 3), (2, 3)), ((3, 3), (3, 2)), ((2, 2, 2), (2, 1, 2))])
def test_what_has_lost_a_sample_is_drawn_as_likely_as_any(counts, other):
    """Draws made from those of a fuller block come as often as each other: χ² over all orders."""
    reference = Reference(11)
    reference.draws(0, counts, 20_000)
    rows = reference.draws(0, other, 20_000)
    _, found = np.unique(rows, axis=0, return_counts=True)
    assert len(found) == len(distinct(other))
    assert stats.chisquare(found).pvalue > 1e-4


def test_many_samples_are_drawn_with_just_so_many_of_each():
    rows = Reference(2).draws(0, (900, 1_500), 200)
    assert ((rows == 0).sum(axis=1) == 900).all()
    share = (rows == 0).mean(axis=0)
    assert abs(share - 900 / 2_400).max() < 5 * math.sqrt(0.24 / 200)
