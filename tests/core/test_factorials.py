"""Published experiments with blocks, factors, whole plots, squares and censoring, held against statsmodels, lifelines and scipy."""

import itertools

import numpy as np
import pandas as pd
import pytest
import statsmodels.formula.api as smf
from lifelines import KaplanMeierFitter
from lifelines.statistics import logrank_test
from lifelines.utils import restricted_mean_survival_time
from scipy.stats import f as f_distribution
from statsmodels.stats.anova import anova_lm

from fieldtally.core.compare.columns import Column, compare_columns
from fieldtally.core.compare.effects import effects
from fieldtally.core.compare.events import Spans, common_end, event_course, log_rank_scores, spans_of, staying
from fieldtally.core.compare.levelling import fitted, levelled_off, levelling
from fieldtally.core.compare.overall import overall_test
from fieldtally.core.compare.places import who_leads_when, who_wins_where
from fieldtally.core.compare.structure import Structure

# Peas with nitrogen, phosphate and potash in six blocks of four; Yates 1937, The Design and Analysis of Factorial Experiments.
NPK = """0 1 1 49.5  1 1 0 62.8  0 0 0 46.8  1 0 1 57.0
1 0 0 59.8  1 1 1 58.5  0 0 1 55.5  0 1 0 56.0
0 1 0 62.8  1 1 1 55.8  1 0 0 69.5  0 0 1 55.0
1 0 0 62.0  1 1 1 48.8  0 0 1 45.5  0 1 0 44.2
1 1 0 52.0  0 0 0 51.5  1 0 1 49.8  0 1 1 48.8
1 0 1 57.2  1 1 0 59.0  0 1 1 53.2  0 0 0 56.0"""
# Oats of three varieties (Victory, Golden Rain, Marvellous) on whole plots with four doses of nitrogen inside; Yates 1935,
# J. R. Stat. Soc. Suppl. 2:181.
OATS = """111 130 157 174 117 114 161 141 105 140 118 156
61 91 97 100 70 108 126 149 96 124 121 144
68 64 112 86 60 102 89 96 89 129 132 124
74 89 81 122 64 103 132 133 70 89 104 117
62 90 100 116 80 82 94 126 63 70 109 99
53 74 118 113 89 82 86 104 97 99 119 121"""
# Honeybees kept off by eight lime sulphurs, in a square; Finney 1947, Probit Analysis, p. 190.  Column by column.
SQUARE = """57D 95E 8B 69H 92G 90F 15C 2A  84C 6B 127H 36D 51E 2A 69F 71G  87F 72H 5A 39E 22D 16C 72G 4B  130H 4A 114E 9C 20F 24G 10B 51D
43E 28D 60G 5A 17C 7B 81H 71F  12A 29C 44F 77G 4B 27D 47E 76H  8B 72G 13C 57F 4A 81H 20D 61E  80G 114F 39D 14B 86H 55E 3A 19C"""
# Weeks of remission with 6-MP and with placebo; Freireich and others 1963, Blood 21:699.  Minus: still in remission then.
DRUG = [6, 6, 6, -6, 7, -9, 10, -10, -11, 13, 16, -17, -19, -20, 22, 23, -25, -32, -32, -34, -35]
PLACEBO = [1, 1, 2, 2, 3, 4, 4, 5, 5, 8, 8, 8, 8, 11, 11, 12, 12, 15, 17, 22, 23]
TINY = 1e-6


def rng(seed=1):
    return np.random.default_rng(seed)


def peas():
    rows = [[float(x) for x in line.split()] for line in NPK.split("\n")]
    cells = [(block, *row[i : i + 4]) for block, row in enumerate(rows) for i in range(0, 16, 4)]
    return pd.DataFrame(cells, columns=["block", "n", "p", "k", "y"])


def test_a_blocked_factorial():
    data = peas()
    levels = data[["n", "p", "k"]].to_numpy(dtype=np.int64)
    table = anova_lm(smf.ols("y ~ C(block) + (n + p + k)**2", data).fit())
    assert table.loc["n", "sum_sq"] == pytest.approx(189.28, abs=0.01)
    assert table.loc["Residual", "sum_sq"] == pytest.approx(185.29, abs=0.01)
    found = {one.term: one for one in effects(data.y.to_numpy(), levels, ["n", "p", "k"], data.block.to_numpy(), rng())}
    for term in ("n", "p", "k"):
        # In half a replicate no two samples of a block share all other factors, so residuals it must be.
        assert found[term].method == "residuals"
        assert found[term].p == pytest.approx(table.loc[term, "PR(>F)"], abs=0.025)
    for term in ("n × p", "n × k", "p × k"):
        assert found[term].p == pytest.approx(table.loc[term.replace(" × ", ":"), "PR(>F)"], abs=0.04)
    assert found["n"].p < 0.02 < found["p × k"].p
    # The three together are the blocks themselves: nobody can tell them apart.
    assert found["n × p × k"].p is None


def test_shuffles_inside_the_other_factors_are_all_of_them():
    values = np.array([3.0, 5.0, 4.0, 9.0, 1.0, 2.0, 8.0, 7.0])
    levels = np.array([[0, 0], [0, 0], [1, 0], [1, 0], [0, 1], [0, 1], [1, 1], [1, 1]])
    first = effects(values, levels, ["feed", "light"], np.zeros(8, dtype=np.int64), rng())[0]
    assert (first.method, first.arrangements) == ("exact", 36)

    def between(high):
        z = values - np.where(levels[:, 1] == 0, values[:4].mean(), values[4:].mean())
        return z[list(high)].sum() ** 2

    seen = between([2, 3, 6, 7])
    ways = [(*a, *b) for a in itertools.combinations(range(4), 2) for b in itertools.combinations(range(4, 8), 2)]
    assert first.p == pytest.approx(np.mean([between(way) >= seen - 1e-9 for way in ways]))


def oats():
    lines = [[float(x) for x in line.split()] for line in OATS.split("\n")]
    cells = [
        (block, variety, n, line[4 * variety + n])
        for block, line in enumerate(lines)
        for variety in range(3)
        for n in range(4)
    ]
    return pd.DataFrame(cells, columns=["block", "variety", "n", "y"])


def test_a_split_plot():
    data = oats()
    table = anova_lm(smf.ols("y ~ C(block)*C(variety) + C(n) + C(n):C(variety)", data).fit())
    assert table.loc["C(n)", "sum_sq"] == pytest.approx(20020.5, abs=0.1)
    plots = (data.block * 3 + data.variety).to_numpy()
    structure = Structure("split", data.block.to_numpy(), plots=plots, hard=data.variety.to_numpy())
    levels = data[["variety", "n"]].to_numpy(dtype=np.int64)
    found = {one.term: one for one in effects(data.y.to_numpy(), levels, ["variety", "n"], structure, rng())}
    # Varieties lie on whole plots, so that their F is held against the plots': 1786.4 / 2 over 6013.3 / 10.
    between = table.loc["C(variety)", "sum_sq"] / 2 / (table.loc["C(block):C(variety)", "sum_sq"] / 10)
    assert between == pytest.approx(1.485, abs=0.01)
    assert found["variety"].p == pytest.approx(f_distribution.sf(between, 2, 10), abs=0.04)
    assert found["variety"].p > 0.2
    assert found["n"].p < 0.001
    assert found["variety × n"].p == pytest.approx(table.loc["C(n):C(variety)", "PR(>F)"], abs=0.04)
    # Counted as if each sample were a plot of its own, varieties would look different far too easily.
    wrong = effects(data.y.to_numpy(), levels, ["variety", "n"], data.block.to_numpy(), rng())[0]
    assert wrong.p < found["variety"].p / 2


def test_a_latin_square():
    cells = SQUARE.split()
    values = np.array([float(one[:-1]) for one in cells])
    labels = np.array(["ABCDEFGH".index(one[-1]) for one in cells])
    columns, rows = np.divmod(np.arange(64), 8)
    means = [values[labels == t].mean() for t in range(8)]
    assert means == pytest.approx([4.625, 7.625, 25.25, 35.0, 63.125, 69.0, 68.5, 90.25])
    structure = Structure("latin", rows, columns=columns, squares=np.zeros(64, dtype=np.int64))
    assert structure.complete_squares(labels)
    (found,) = overall_test(values[:, None], labels, structure, rng())
    assert found.p < 0.001
    # Three neighbours in strength: there the square's p and F's are close.
    data = pd.DataFrame({"y": values, "row": rows, "column": columns, "t": labels})
    close = data.t.isin([4, 5, 6])
    noise = rng(5).permuted(values[close])
    data.loc[close, "y"] = noise
    flat = values - np.array(means)[labels]
    (nothing,) = overall_test(flat[:, None], labels, structure, rng())
    fit = anova_lm(smf.ols("y ~ C(row) + C(column) + C(t)", data.assign(y=flat)).fit())
    assert nothing.p == pytest.approx(fit.loc["C(t)", "PR(>F)"], abs=0.05)


def remissions():
    times = np.array([*DRUG, *PLACEBO], dtype=float)
    end = np.abs(times)
    spans = Spans(np.where(times > 0, end - TINY, end), np.where(times > 0, end, np.inf))
    return spans, np.array([0] * 21 + [1] * 21)


def test_survival_with_censoring():
    spans, labels = remissions()
    scores = log_rank_scores(spans)
    times, seen = np.where(spans.seen, spans.right, spans.left), spans.seen
    told = logrank_test(times[:21], times[21:], seen[:21], seen[21:])
    assert told.test_statistic == pytest.approx(16.79, abs=0.01)
    # The sum of the scores is observed less expected: 9 remissions ended with 6-MP where 19.25 were to be expected.
    assert scores[:21].sum() == pytest.approx(9 - 19.2507, abs=0.01)
    assert scores.sum() == pytest.approx(0, abs=1e-6)
    for group, median in ((0, 23), (1, 8)):
        own = spans.kept(labels == group)
        fitter = KaplanMeierFitter().fit(times[labels == group], seen[labels == group])
        course = staying(own)
        assert course.median() == median == fitter.median_survival_time_
        assert course.share == pytest.approx(fitter.survival_function_at_times(course.times).to_numpy(), abs=1e-6)
    end = common_end(spans, labels)
    drug, plain = (event_course(name, spans.kept(labels == g), end) for g, name in enumerate(("6-MP", "placebo")))
    assert (drug.n, drug.seen, drug.median, drug.end) == (21, 9, 23, 35)
    # Of 21 that all relapsed the median's exact interval goes by the binomial: the 6th and the 16th of them.
    assert (plain.low, plain.high, plain.left) == (4, 12, 0)
    assert drug.low == 13
    assert drug.high is None
    assert drug.left_low < drug.left < drug.left_high
    (found,) = overall_test(scores[:, None], labels, np.zeros(42, dtype=np.int64), rng())
    assert found.p < 0.001


def test_p_of_scores_is_the_log_rank_tests_where_little_is_sure():
    """Random trials of two groups: re-randomised scores against lifelines' chi-square."""
    for seed in range(6):
        draw = rng(seed)
        times = np.ceil(draw.exponential(10, 60) * np.where(np.arange(60) < 30, 1.0, 1.3))
        ends = draw.integers(5, 25, 60)
        seen, at = times <= ends, np.minimum(times, ends).astype(float)
        spans = Spans(np.where(seen, at - TINY, at), np.where(seen, at, np.inf))
        labels = (np.arange(60) >= 30).astype(np.int64)
        (found,) = overall_test(log_rank_scores(spans)[:, None], labels, np.zeros(60, dtype=np.int64), draw)
        told = logrank_test(at[:30], at[30:], seen[:30], seen[30:])
        assert found.p == pytest.approx(told.p_value, abs=0.03)


def test_spans_between_looks_agree_with_lifelines():
    draw = rng(8)
    true = draw.gamma(3, 3, 80)
    looks = np.sort(draw.uniform(0, 20, (80, 4)), axis=1)
    left = np.array([max([0.0, *row[row < t]]) for row, t in zip(looks, true, strict=True)])
    right = np.array([min([np.inf, *row[row >= t]]) for row, t in zip(looks, true, strict=True)])
    found = staying(Spans(left, right))
    fitter = KaplanMeierFitter().fit_interval_censoring(left, right)
    for at in (4.0, 8.0, 12.0):
        inside = found.share[found.times <= at]
        ours = inside[-1] if len(inside) else 1.0
        theirs = fitter.survival_function_.iloc[fitter.survival_function_.index.searchsorted(at, side="right") - 1]
        assert theirs.min() - 0.06 <= ours <= theirs.max() + 0.06
    assert np.all(np.diff(found.share) <= 1e-12)


def test_spans_come_from_looks_that_may_be_missed():
    nan = np.nan
    series = np.array([[0, 0, 1], [0, nan, 1], [0, 0, nan], [1, 1, 1], [nan, nan, nan]])
    spans = spans_of(series, np.array([1.0, 2.0, 4.0]))
    assert spans.left[:4].tolist() == [2, 1, 2, 0]
    assert spans.right[:4].tolist() == [4, 4, np.inf, 1]
    assert np.isnan(spans.left[4])
    assert spans.kept(np.arange(4)).without.tolist() == [3, 2.5, 2, 0.5]


def test_what_was_there_from_the_first_moment_and_what_was_never_looked_at_break_nothing():
    spans = spans_of(np.array([[1.0, 1.0], [0.0, 1.0], [0.0, 0.0]]), np.array([0.0, 3.0]))
    assert (spans.left < spans.right).all()
    scores = log_rank_scores(spans)
    assert scores[0] > scores[1] > scores[2]
    before = spans_of(np.array([[1.0, 1.0], [0.0, 0.0]]), np.array([-2.0, 3.0]))
    assert np.isfinite(log_rank_scores(before)).all()
    assert log_rank_scores(spans.kept(np.zeros(3, dtype=bool))).shape == (0,)


# Where, when, levelled off


def test_a_winner_that_changes_with_the_place_is_told_from_one_that_chance_changes():
    place = np.repeat([0, 1], 12)
    labels = np.tile(np.repeat([0, 1], 6), 2)
    noise = rng(2).normal(0, 1, 24)
    swapped = np.where(place == 0, labels, 1 - labels) * 3.0 + noise
    found = who_wins_where(swapped, labels, ["hemp", "jute"], place, ["sun", "shade"], "place", rng())
    assert [one.winner for one in found.places] == ["jute", "hemp"]
    assert found.changes
    assert found.p < 0.01
    same = who_wins_where(labels * 3.0 + noise, labels, ["hemp", "jute"], place, ["sun", "shade"], "place", rng())
    assert not same.changes
    assert same.p > 0.05
    assert (
        who_wins_where(swapped, labels, ["hemp", "jute"], np.zeros(24, dtype=np.int64), ["all"], "place", rng()) is None
    )
    single = who_wins_where(
        np.arange(4.0), np.array([0, 1, 0, 1]), ["a", "b"], np.array([0, 0, 1, 1]), ["x", "y"], "place", rng()
    )
    assert single.p is None


def test_chance_changes_winners_as_seldom_as_it_may():
    draw, alarms = rng(4), 0
    place, labels = np.repeat([0, 1, 2], 8), np.tile(np.repeat([0, 1], 4), 3)
    for _ in range(150):
        values = draw.normal(0, 1, 24) + place
        alarms += who_wins_where(values, labels, ["a", "b"], place, ["x", "y", "z"], "place", draw).p <= 0.05
    assert alarms / 150 <= 0.05 + 3 * np.sqrt(0.05 * 0.95 / 150)


def test_quick_against_thorough():
    labels = np.repeat([0, 1], 6)
    quick = np.array([[5.0, 6.0, 6.2]]) + rng(1).normal(0, 0.2, (6, 3))
    thorough = np.array([[2.0, 5.0, 9.0]]) + rng(2).normal(0, 0.2, (6, 3))
    series = np.vstack([quick, thorough])
    plain = Structure.plain(np.zeros(12, dtype=np.int64))
    found = who_leads_when(
        series, ["d4", "d7", "d14"], [0.002, 0.004, 0.002], labels, ["quick", "thorough"], plain, rng()
    )
    assert [name for _, name in found.leaders] == ["quick", "quick", "thorough"]
    assert found.changes
    assert found.p < 0.01
    assert found.parts == "d4"
    late = who_leads_when(series, ["d4", "d7", "d14"], [0.3, None, 0.01], labels, ["quick", "thorough"], plain, rng())
    assert late.parts == "d14"
    assert who_leads_when(series[:, :1], ["d4"], [0.1], labels, ["a", "b"], plain, rng()) is None


def test_levelling_finds_the_plateau_and_trusts_no_curve_that_is_still_rising():
    times = np.array([2.0, 4.0, 7.0, 10.0, 14.0])
    means = 18 * (1 - np.exp(-0.4 * times))
    plateau, to_95 = fitted(times, means)
    assert plateau == pytest.approx(18, abs=0.01)
    assert to_95 == pytest.approx(-np.log(0.05) / 0.4, rel=0.01)
    assert fitted(times, 1.2 * times) is None
    assert fitted(times[:3], means[:3]) is None
    assert levelled_off(times.tolist(), means.tolist(), 1.1) == 7.0
    (told,) = levelling(times.tolist(), [[None, *means[1:].tolist()]], ["tea"], None)
    assert told.off_at is None
    assert told.plateau == pytest.approx(18, abs=0.2)


def test_events_are_compared_by_their_scores():
    spans, labels = remissions()
    (found,) = compare_columns(
        spans.without[:, None],
        [Column("event")],
        labels,
        ["6-MP", "placebo"],
        np.zeros(42, dtype=np.int64),
        rng(),
        spans={0: spans},
    )
    assert found.overall.p < 0.001
    assert found.pairs[0].p < 0.001
    assert (found.pairs[0].favours, found.pair("placebo", "6-MP").favours) == ("6-MP", "6-MP")
    times, seen = np.where(spans.seen, spans.right, spans.left), spans.seen
    means = [
        restricted_mean_survival_time(KaplanMeierFitter().fit(times[labels == g], seen[labels == g]), t=35)
        for g in (0, 1)
    ]
    # Pseudo-values average to the restricted mean, nearly where some are censored and just where none is.
    assert found.treatments[1].estimate == pytest.approx(means[1], abs=1e-6)
    assert found.treatments[0].estimate == pytest.approx(means[0], abs=0.3)
    assert found.pairs[0].difference == pytest.approx(means[0] - means[1], abs=0.3)
