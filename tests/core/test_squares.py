"""Latin squares and split plots: tests against brute force, and chance finds no more often than the level says."""

import itertools
from math import sqrt

import numpy as np
import pytest
from scipy import stats

from fieldtally.core.compare.columns import Column, compare_columns
from fieldtally.core.compare.overall import overall_test
from fieldtally.core.compare.pairs import one_pair
from fieldtally.core.compare.plots import plot_shuffles
from fieldtally.core.compare.squares import double_centred, square_pair_tests, square_shuffles
from fieldtally.core.compare.structure import Structure, units_of


def rng(seed=3):
    return np.random.default_rng(seed)


def square(side, squares=1):
    places = np.arange(squares * side * side)
    number, cell = np.divmod(places, side * side)
    row, column = np.divmod(cell, side)
    structure = Structure("latin", number * side + row, columns=number * side + column, squares=number)
    return structure, (row + column) % side


def plots(seed=1):
    """Four whole plots of two levels; treatments 0, 1 under the first level, 2, 3 under the second."""
    plot = np.repeat(np.arange(4), 2)
    hard = np.array([0, 0, 1, 1, 0, 0, 1, 1])
    labels = np.array([0, 1, 2, 3, 1, 0, 3, 2])
    return Structure("split", np.zeros(8, int), plots=plot, hard=hard), labels, rng(seed).normal(0, 1, (8, 1))


def test_the_reference_set_of_a_square_is_every_latin_square_of_its_kind():
    structure, labels = square(3)
    rows = np.concatenate(list(square_shuffles(labels, structure, rng()).chunks()))
    every = {
        cells
        for orders in itertools.product(itertools.permutations(range(3)), repeat=3)
        for cells in [tuple(itertools.chain(*orders))]
        if all(len({orders[r][c] for r in range(3)}) == 3 for c in range(3))
    }
    assert {tuple(row) for row in rows.tolist()} == every
    assert len(rows) == len(every) == 12
    structure, labels = square(4)
    four = square_shuffles(labels, structure, rng())
    assert (four.exact, four.count) == (True, 432)


def test_drawn_squares_are_latin_and_all_kinds_come_up():
    structure, labels = square(5, 2)
    shuffles = square_shuffles(labels, structure, rng(), draws=300)
    rows = np.concatenate(list(shuffles.chunks()))
    assert (shuffles.exact, shuffles.total, rows.shape) == (False, 301, (300, 50))
    for row in rows[:50]:
        for lines in (structure.blocks, structure.columns):
            assert all(len(set(row[lines == line])) == 5 for line in np.unique(lines))
    assert len(np.unique(rows, axis=0)) == 300


def test_the_pair_test_of_a_square_agrees_with_brute_force():
    structure, labels = square(4)
    values = rng(8).normal(0, 1, 16) + structure.blocks + 2.0 * structure.columns + np.array([0, 1.5, 0, 4])[labels]
    found = square_pair_tests(values[:, None], labels, structure, 1, 0, rng())
    model = np.column_stack(
        [
            np.ones(16),
            *(structure.blocks == r for r in (1, 2, 3)),
            *(structure.columns == c for c in (1, 2, 3)),
        ]
    ).astype(float)

    def t_squared(y, cells):
        full = np.column_stack([model, *(cells == k for k in (1, 2, 3))]).astype(float)
        left = ((y - full @ np.linalg.lstsq(full, y, rcond=None)[0]) ** 2).sum()
        return (y[cells == 1].mean() - y[cells == 0].mean()) ** 2 / left

    reduced = np.column_stack([model, labels == 2, labels == 3]).astype(float)
    residual = values - reduced @ np.linalg.lstsq(reduced, values, rcond=None)[0]
    every = np.concatenate(list(square_shuffles(labels, structure, rng()).chunks()))
    seen = t_squared(residual, labels)
    shuffled = np.mean([t_squared(residual, cells) >= seen * (1 - 1e-9) for cells in every])
    # 16 cells less a mean, 3 rows, 3 columns and 3 treatments leave 6; t² has 4 and 4 cells under each mean.
    student = 2 * stats.t.sf(sqrt(seen * 6 / (2 / 4)), 6)
    # The pair's own residuals, of 8 cells with 6/16 degrees each, are spread more than all: their own spread counts.
    whole = np.column_stack([model, *(labels == k for k in (1, 2, 3))]).astype(float)
    left = values - whole @ np.linalg.lstsq(whole, values, rcond=None)[0]
    rest = (np.eye(16) - whole @ np.linalg.pinv(whole))[np.ix_(labels < 2, labels < 2)]
    kept, freedom = np.trace(rest @ rest), np.trace(rest @ rest) ** 2 / np.trace(rest @ rest @ rest @ rest)
    own, pooled = (left[labels < 2] ** 2).sum() / kept, (left**2).sum() / 6
    assert own > pooled
    gap = abs(values[labels == 1].mean() - values[labels == 0].mean())
    assert found.p[0] == pytest.approx(max(shuffled, 2 * stats.t.sf(gap / sqrt(own * 2 / 4), freedom)))
    assert shuffled == pytest.approx(student, rel=0.4)
    assert found.difference[0] == pytest.approx(values[labels == 1].mean() - values[labels == 0].mean())
    assert (found.low[0] > 0) == (found.p[0] <= 0.05)


def test_a_third_treatment_and_the_places_change_nothing():
    structure, labels = square(4)
    values = rng(4).normal(0, 1, 16)[:, None]
    plain = square_pair_tests(values, labels, structure, 0, 1, rng())
    moved = values + 50.0 * (labels == 3)[:, None] + 7.0 * structure.columns[:, None] - 3.0 * structure.blocks[:, None]
    shifted = square_pair_tests(moved, labels, structure, 0, 1, rng())
    assert shifted.p == pytest.approx(plain.p)
    assert shifted.low == pytest.approx(plain.low)


@pytest.mark.parametrize("side", [4, 5])
def test_a_square_finds_chance_no_more_often_than_its_level(side):
    structure, labels = square(side)
    trials = 1000
    values = rng(21).normal(0, 1, (side * side, trials)) + 3.0 * structure.columns[:, None]
    found = square_pair_tests(values, labels, structure, 0, 1, rng(), draws=500)
    assert (found.p <= 0.05).mean() <= 0.05 + 2 * sqrt(0.05 * 0.95 / trials)
    covered = ((found.low <= 0) & (found.high >= 0)).mean()
    assert covered >= 0.93


def test_without_spread_a_perfect_square_still_has_its_smallest_p():
    structure, labels = square(4)
    values = np.where(labels == 0, 1.0, np.where(labels == 1, -1.0, 0.0))[:, None]
    found = square_pair_tests(values, labels, structure, 0, 1, rng())
    assert 0 < found.p[0] <= 0.02
    assert found.low[0] == found.high[0] == 2.0
    alike = square_pair_tests(np.ones((16, 1)), labels, structure, 0, 1, rng())
    assert alike.p[0] == 1


def test_a_gap_in_a_square_falls_back_to_its_rows():
    structure, labels = square(4)
    values = rng(5).normal(0, 1, (16, 1))
    values[3, 0] = np.nan
    (found,) = compare_columns(
        values, [Column("measurement")], labels, list("abcd"), structure.blocks, rng(), structure=structure
    )
    kept = ~np.isnan(values[:, 0]) & np.isin(labels, (0, 1))
    by_rows = one_pair(values[kept], labels[kept] == 0, structure.blocks[kept], rng())
    assert found.pair("a", "b").p == pytest.approx(by_rows.p[0])


def test_whole_plots_are_compared_as_wholes_and_their_insides_inside():
    structure, labels, values = plots()
    inside = units_of(structure, values, labels, 0, 1)
    assert (len(inside.in_a), sorted(set(inside.blocks.tolist()))) == (4, [0, 2])
    between = units_of(structure, values, labels, 0, 2)
    assert len(between.in_a) == 4
    assert between.values[between.in_a].mean() == pytest.approx(values[labels == 0].mean())
    (found,) = compare_columns(
        values, [Column("measurement")], labels, list("abcd"), structure.blocks, rng(), structure=structure
    )
    assert found.pair("a", "b").arrangements == 4
    assert found.pair("a", "c").arrangements == 6


def test_shuffled_plots_stay_whole():
    structure, labels, _ = plots()
    rows = np.concatenate(list(plot_shuffles(labels, structure, rng(), draws=200).chunks()))
    for row in rows:
        held = [tuple(sorted(row[structure.plots == plot])) for plot in range(4)]
        assert sorted(held) == [(0, 1), (0, 1), (2, 3), (2, 3)]
    assert len({tuple(row) for row in rows.tolist()}) > 60


def test_a_difference_between_whole_plots_is_not_mistaken_for_one_between_levels():
    """Plots differ a lot, levels not at all: counting samples would find the levels different far too often."""
    trials, generator = 300, rng(6)
    plot = np.repeat(np.arange(8), 4)
    hard = np.repeat([0, 1, 0, 1, 1, 0, 1, 0], 4)
    labels = 4 * hard + np.tile(np.arange(4), 8)
    structure = Structure("split", np.zeros(32, int), plots=plot, hard=hard)
    values = generator.normal(0, 3, (8, trials))[plot] + generator.normal(0, 1, (32, trials))
    overall = overall_test(values, labels, structure, rng())
    assert np.mean([one.p <= 0.05 for one in overall]) <= 0.05 + 2 * sqrt(0.05 * 0.95 / trials)


def test_double_centring_takes_rows_and_columns_out():
    structure, labels = square(4, 2)
    values = (5.0 * structure.blocks - 2.0 * structure.columns + (labels == 0))[:, None].astype(float)
    z = double_centred(values, structure)
    assert z[labels == 0] == pytest.approx(0.75)
    assert z[labels != 0] == pytest.approx(-0.25)
