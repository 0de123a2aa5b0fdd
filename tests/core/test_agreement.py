"""Agreement between and within scorers, drift, whether the blinding held, and odd values."""

import itertools
from math import comb
from statistics import fmean

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import friedmanchisquare

from fieldtally.core.agreement.concordance import kendalls_w
from fieldtally.core.agreement.drift import drift_of
from fieldtally.core.agreement.icc import icc_2_1
from fieldtally.core.agreement.kappa import weighted_kappa, words_for
from fieldtally.core.agreement.repeats import within_scorer
from fieldtally.core.agreement.together import Scored, agreement_of, cloud_of, grid_of
from fieldtally.core.blinding.guesses import blinding_index
from fieldtally.core.compare.odd import distance_from, odd_value

SHROUT_FLEISS = np.array([[9.0, 2, 5, 8], [6, 1, 3, 2], [8, 4, 6, 8], [7, 1, 2, 6], [10, 5, 6, 9], [6, 2, 4, 7]])
grades = st.lists(st.tuples(st.integers(0, 5), st.integers(0, 5)), min_size=2, max_size=40)


@given(grades)
def test_kappa_is_one_minus_observed_over_expected_squares(pairs):
    first, second = zip(*pairs, strict=True)
    seen = fmean((a - b) ** 2 for a, b in pairs)
    chance = fmean((a - b) ** 2 for a, b in itertools.product(first, second))
    found = weighted_kappa(first, second)
    assert found == (None if chance == 0 else pytest.approx(1 - seen / chance))
    assert found == weighted_kappa(second, first)


def test_kappa_at_its_ends():
    assert weighted_kappa([0, 1, 2], [0, 1, 2]) == 1
    assert weighted_kappa([0, 5], [5, 0]) == -1
    assert weighted_kappa([3, 3, 3], [3, 3, 3]) is None
    assert weighted_kappa([1], [1]) is None
    with pytest.raises(ValueError, match="same things"):
        weighted_kappa([1, 2], [1])
    assert [words_for(k) for k in (0.95, 0.7, 0.5, 0.3, 0.0, -0.4)] == [
        "almost the same",
        "much alike",
        "moderately alike",
        "only fairly alike",
        "hardly alike",
        "hardly alike",
    ]


def test_icc_is_that_of_its_paper():
    """Shrout & Fleiss 1979, table 4: ICC(2,1) = .29."""
    assert icc_2_1(SHROUT_FLEISS) == pytest.approx(0.2898, abs=5e-5)
    assert icc_2_1(np.array([[1.0, 1], [2, 2], [3, 3]])) == 1
    # A scorer who gives two more throughout agrees less, though the order is the same.
    assert icc_2_1(np.array([[1.0, 3], [2, 4], [3, 5]])) == pytest.approx(1 / 3)
    assert icc_2_1(np.ones((4, 2))) is None
    assert icc_2_1(SHROUT_FLEISS[:1]) is None


@given(st.integers(3, 7), st.integers(2, 6), st.integers(0, 10_000))
def test_w_is_friedmans_statistic_on_a_scale_from_none_to_all(n, k, seed):
    table = np.random.default_rng(seed).integers(0, 6, (n, k)).astype(float)
    found = kendalls_w(table)
    if found is None:
        return
    assert 0 <= found <= 1 + 1e-12
    statistic = friedmanchisquare(*table).statistic if k >= 3 else None
    if statistic is not None and np.isfinite(statistic):
        assert found == pytest.approx(statistic / (k * (n - 1)))


def test_blind_repeats_give_back_the_deviation_they_were_made_with():
    rng = np.random.default_rng(5)
    true = rng.normal(50, 10, 4_000)
    pairs = list(zip(true + rng.normal(0, 2, 4_000), true + rng.normal(0, 2, 4_000), strict=True))
    found = within_scorer(pairs)
    assert found.deviation == pytest.approx(2, rel=0.05)
    inside = fmean(abs(a - b) < found.within for a, b in pairs)
    assert inside == pytest.approx(0.95, abs=0.015)
    assert within_scorer([]) is None


def test_a_drift_is_found_and_chance_is_called_drift_as_often_as_it_should():
    rng = np.random.default_rng(11)
    assert drift_of([0.05 * i for i in range(12)], rng).p < 0.001
    assert drift_of([1.0, 1.0, 1.0], rng).p is None
    assert drift_of([], rng) is None
    steady = drift_of([0.4, 0.6, 0.5, 0.5], rng)
    assert (steady.leaning, steady.p > 0.05) == (0.5, True)
    false = fmean(drift_of(list(rng.normal(0, 1, 5)), rng).p <= 0.05 for _ in range(600))
    assert false == pytest.approx(0.05, abs=0.03)


@given(st.integers(0, 60), st.integers(0, 60), st.integers(0, 60))
def test_bangs_index_lies_between_all_wrong_and_all_right(right, wrong, unknown):
    found = blinding_index(right, wrong, unknown)
    if right + wrong + unknown == 0:
        assert found is None
        return
    assert -1 <= found.low <= found.index <= found.high <= 1
    mirrored = blinding_index(wrong, right, unknown)
    assert mirrored.index == pytest.approx(-found.index)
    if wrong == 0 and unknown == 0:
        # Six coins that all fall right: once in 64.  Five are too few to say.
        assert (found.index, found.held) == (1, False if right >= 6 else None)
        assert found.low < 1


@pytest.mark.parametrize("n", [1, 3, 5, 6, 9, 20])
def test_who_flips_a_coin_is_said_to_know_no_more_often_than_the_level(n):
    """All ways in which n coins may fall, weighed by how likely they are."""
    knows = sum(comb(n, k) / 2**n for k in range(n + 1) if blinding_index(k, n - k, 0).held is False)
    assert knows <= 0.025
    assert (knows == 0) == (n < 6)


def test_bangs_interval_holds_the_truth_as_often_as_it_says():
    rng = np.random.default_rng(3)
    held = 0
    for _ in range(1_000):
        right, wrong, unknown = rng.multinomial(60, [0.4, 0.3, 0.3])
        found = blinding_index(int(right), int(wrong), int(unknown))
        held += found.low <= 0.1 <= found.high
    assert 0.94 <= held / 1_000 <= 0.99


def test_half_the_block_being_low_is_no_odd_reading():
    """Three of seven tiles had the other treatment and are low together; one that is alone is odd."""
    now = {f"s{i}": v for i, v in enumerate([30.0, 31.0, 30.5, 9.0, 9.4, 9.2, 30.2])}
    assert all(odd_value(name, value, now, {}, 0.1) is None for name, value in now.items())
    alone = {f"s{i}": v for i, v in enumerate([30.0, 31.0, 30.5, 30.4, 29.8, 30.2, 9.0])}
    assert odd_value("s6", 9.0, alone, {}, 0.1) is not None


def test_few_peers_are_no_excuse_a_jump_from_its_own_series_is_seen():
    now = {"a": 1.76, "b": 1.02, "c": 1.04, "d": 0.99}
    before = {"a": 1.03, "b": 1.01, "c": 1.02, "d": 0.98}
    found = odd_value("a", 1.76, now, before, 0.005, [1.0, 1.01, 1.02, 1.03])
    assert found is not None and found.against == "series" and found.high
    assert odd_value("b", 1.02, now, before, 0.005, [0.98, 1.0, 1.0, 1.01]) is None


def test_what_a_treatment_does_to_half_of_them_is_not_odd():
    before = {key: 1.0 + 0.01 * i for i, key in enumerate("abcdef")}
    now = {**before, "a": 5.0, "b": 5.3, "c": 4.8}
    for key in "abc":
        assert odd_value(key, now[key], now, before, 0.005, [1.0, 1.02, 0.99, before[key]]) is None
    # Nor among many, half of which took a step.
    many = {f"s{i}": 1.0 + 0.01 * i for i in range(16)}
    later = {key: value + (4.0 if i % 2 else 0.0) for i, (key, value) in enumerate(many.items())}
    assert all(
        odd_value(key, value, later, many, 0.005, [1.0, 1.01, many[key]]) is None for key, value in later.items()
    )
    # One that takes another step than either is: it stands alone.
    alone = {**later, "s3": 20.0}
    assert odd_value("s3", 20.0, alone, many, 0.005, [1.0, 1.01, many["s3"]]) is not None


def test_an_odd_value_is_judged_by_its_step_where_it_has_a_past():
    before = {f"s{i}": 100.0 + i for i in range(10)}
    now = {f"s{i}": 90.0 + i for i in range(10)}
    assert odd_value("s0", 90.0, now, before, 0.5) is None
    found = odd_value("s0", 40.0, {**now, "s0": 40.0}, before, 0.5)
    assert (found.against, found.high) == ("past", False)
    # Always low, and low again: not odd.
    assert odd_value("s0", 30.0, {**now, "s0": 30.0}, {**before, "s0": 40.0}, 0.5) is None
    # No past: its level is judged.
    assert odd_value("x", 30.0, {**now, "x": 30.0}, {}, 0.5).against == "peers"
    assert odd_value("x", 30.0, {"a": 1.0, "b": 2.0}, {}, 0.5) is None


def test_with_few_peers_a_value_is_held_against_its_own_series():
    few = {"a": 51.0, "b": 49.0}
    assert odd_value("x", 5000.0, few, {}, 0.5, [50.0, 52.0]) is None
    found = odd_value("x", 5000.0, few, {}, 0.5, [50.0, 52.0, 51.0])
    assert (found.against, found.high) == ("series", True)
    assert odd_value("x", 5.1, few, {}, 0.5, [50.0, 52.0, 51.0]).high is False
    # Steady growth, and a value within what the scale tells apart, are not odd.
    assert odd_value("x", 8.0, few, {}, 0.5, [1.0, 2.0, 4.0]) is None
    assert odd_value("x", 52.0, few, {}, 0.5, [51.0, 51.0, 51.0]) is None
    # Where six others took the same step, it is none of this sample's.
    now = {f"s{n}": 500.0 + n for n in range(7)}
    assert odd_value("x", 505.0, now, {**dict.fromkeys(now, 50.0), "x": 51.0}, 2.0, [50.0, 52.0, 51.0]) is None


def test_peers_that_are_all_alike_do_not_make_the_next_best_value_odd():
    alike = dict.fromkeys("abcdefgh", 5.0)
    assert odd_value("x", 4.0, alike, {}, 0.5) is None
    assert odd_value("x", 1.0, alike, {}, 0.5) is not None
    assert distance_from(5.0, [5.0] * 8, 0.0) is None


@given(st.floats(-50, 50), st.floats(0.1, 9), st.integers(0, 1_000))
def test_oddness_does_not_depend_on_the_unit(shift, scale, seed):
    rng = np.random.default_rng(seed)
    now = {str(i): float(v) for i, v in enumerate(rng.normal(20, 2, 12))}
    moved = {key: scale * value + shift for key, value in now.items()}
    value = float(rng.normal(20, 8))
    one, two = odd_value("x", value, now, {}, 0.01), odd_value("x", scale * value + shift, moved, {}, 0.01 * scale)
    assert (one is None) == (two is None)


def scored_by(hands, looks=6, samples=12, seed=1):
    """Grades by several hands: each a function of the true grade, the look and a generator."""
    rng = np.random.default_rng(seed)
    true = {(look, s): rng.integers(1, 5) for look in range(looks) for s in range(samples)}
    return [
        Scored(name, look, str(s), float(hand(grade, look, rng)))
        for name, hand in hands.items()
        for (look, s), grade in true.items()
    ]


def test_what_to_do_follows_from_what_is_wrong():
    def steady(grade, look, rng):
        return grade + rng.choice([0, 0, 0, 1, -1])

    def leaning(grade, look, rng):
        return grade + 1

    def drifting(grade, look, rng):
        return grade + look / 3

    def blind(grade, look, rng):
        return rng.integers(0, 6)

    def advice(**hands):
        return agreement_of(grid_of(scored_by(hands)), "kappa", 1.0, "grades", np.random.default_rng(0)).advice

    assert advice(Ada=steady, Ben=steady) == ("Nothing to mend: any of them may score.",)
    assert "Only one has scored" in advice(Ada=steady)[0]
    assert any(one.startswith("Ben gives more than the others, by 1") for one in advice(Ada=steady, Ben=leaning))
    assert any("Ben’s hand moves over the rounds" in one for one in advice(Ada=lambda g, k, r: g, Ben=drifting))
    said = advice(Ada=steady, Ben=blind)
    assert "score ten samples side by side" in said[0]
    found = agreement_of(
        grid_of(scored_by({"Ada": steady, "Ben": steady, "Cy": leaning})), "kappa", 1.0, "", np.random.default_rng(0)
    )
    assert len(found.pairs) == 3
    assert found.w > 0.8


def test_two_takes_of_one_hand_tell_how_it_repeats():
    once = [Scored("Ada", 0, str(i), float(i)) for i in range(6)]
    again = [Scored("Ada", 0, str(i), float(i) + (i == 2), 2) for i in range(4)]
    (alone,) = agreement_of(grid_of([*once, *again]), "icc", None, "mm", np.random.default_rng(0)).alone
    assert (alone.within.pairs, alone.within.same) == (4, 0.75)


def test_many_values_of_a_pair_are_gathered_and_none_is_lost():
    rng = np.random.default_rng(3)
    true = rng.normal(20, 5, 4_000)
    both = [
        Scored(name, i % 7, str(i), float(round(value + rng.normal(0, 1), 2)))
        for i, value in enumerate(true)
        for name in ("Ada", "Ben")
    ]
    cloud = cloud_of("Ada", "Ben", grid_of(both))
    assert cloud.square is not None
    assert len(cloud.dots) <= 400
    assert sum(one.times for one in cloud.dots) == cloud.shared == 4_000
    values = {(one.sample, one.scorer): one.value for one in both}
    near = {(one.first, one.second) for one in cloud.dots}
    for i in range(0, 4_000, 97):
        at = (values[str(i), "Ada"], values[str(i), "Ben"])
        assert min(max(abs(at[0] - x), abs(at[1] - y)) for x, y in near) <= cloud.square / 2 + 1e-9


def test_few_different_values_stay_where_they_are():
    grades = [
        Scored(name, 0, str(i), float((i + (name == "Ben" and i % 5 == 0)) % 6))
        for i in range(300)
        for name in ("Ada", "Ben")
    ]
    cloud = cloud_of("Ada", "Ben", grid_of(grades))
    assert (cloud.square, cloud.shared, cloud.same) == (None, 300, 240)
    assert all(one.first == int(one.first) for one in cloud.dots)
