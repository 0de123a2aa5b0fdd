"""Panels: published tables, simulations written separately, exhaustive enumeration and independent libraries."""

import io
import itertools
import json
import math
from collections import Counter
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from scipy.stats import chisquare, friedmanchisquare

from fieldtally.core.panels.abilities import ability, enough
from fieldtally.core.panels.chance import by_chance, total_of
from fieldtally.core.panels.discriminating import (
    assessors_alike,
    assessors_for,
    discriminate,
    exact_interval,
    most_alike,
    needed,
    power,
)
from fieldtally.core.panels.foreseeing import outlook
from fieldtally.core.panels.grading import PanelAttribute, graded
from fieldtally.core.panels.methods import METHODS, method_named
from fieldtally.core.panels.monitoring import PlannedLook, chance_to_find, looked, planned_looks
from fieldtally.core.panels.naming import matches, named
from fieldtally.core.panels.persons import by_person
from fieldtally.core.panels.pictures import copy_of as copy_of_picture
from fieldtally.core.panels.pictures import framed, shipped_picture
from fieldtally.core.panels.plan import PanelPlan, problems_in
from fieldtally.core.panels.practice import practised
from fieldtally.core.panels.preferring import favoured, preferred
from fieldtally.core.panels.psychometric import FUNCTIONS, d_prime, noticers, share_right, share_right_of
from fieldtally.core.panels.ranking import ranked
from fieldtally.core.panels.serving import CYCLES, Before, is_right, serving_plan, williams
from fieldtally.core.panels.sounds import Sound, copy_of, loudness, made_ready, matched, shipped_sound
from fieldtally.core.panels.telling import told_apart
from fieldtally.core.problems import Refused
from fieldtally.core.randomness import Draw
from tests.depth import cells, plays

CASES = json.loads((Path(__file__).parent / "cases/panels.json").read_text())


@pytest.mark.parametrize("case", CASES["needed"], ids=lambda c: f"{c['method']}-{c['n']}")
def test_the_numbers_needed_are_those_of_the_standards(case):
    assert needed(case["method"], case["n"], case["alpha"]) == case["needed"]


@pytest.mark.parametrize("case", CASES["p"], ids=lambda c: f"{c['method']}-{c['n']}-{c['correct']}")
def test_p_is_exact(case):
    assert discriminate(case["method"], case["n"], case["correct"]).p == pytest.approx(case["p"], abs=5e-7)


@pytest.mark.parametrize("case", CASES["psychometric"], ids=lambda c: f"{c['method']}-{c['d']}")
def test_shares_of_right_answers_are_those_of_the_tables(case):
    assert share_right(case["method"], case["d"]) == pytest.approx(case["pc"], abs=6e-5)
    assert d_prime(case["method"], share_right(case["method"], case["d"])) == pytest.approx(case["d"], abs=1e-6)


def simulated(method: str, d: float, n: int, rng) -> float:
    """The share of right answers of people who perceive each cup as a normal number and decide as the test's rule says."""
    a = rng.normal(d, 1, (n, 2))
    b = rng.normal(0, 1, (n, 2))
    match method:
        case "2-afc":
            return float((a[:, 0] > b[:, 0]).mean())
        case "3-afc":
            return float((a[:, 0] > b.max(axis=1)).mean())
        case "triangle":
            same = np.abs(b[:, 0] - b[:, 1])
            return float(((same < np.abs(a[:, 0] - b[:, 0])) & (same < np.abs(a[:, 0] - b[:, 1]))).mean())
        case "duo-trio":
            reference = rng.normal(d, 1, n)
            return float((np.abs(reference - a[:, 0]) < np.abs(reference - b[:, 0])).mean())
        case "abx":
            # X is one of the two kinds, as often; whoever listens says the nearer one.
            is_a = rng.random(n) < 0.5
            x = rng.normal(np.where(is_a, d, 0.0), 1)
            return float(((np.abs(x - a[:, 0]) < np.abs(x - b[:, 0])) == is_a).mean())
        case _:
            # The two largest go together, and so do the two smallest.
            low_a, high_a = a.min(axis=1), a.max(axis=1)
            low_b, high_b = b.min(axis=1), b.max(axis=1)
            return float(((low_a > high_b) | (low_b > high_a)).mean())


@pytest.mark.parametrize("method", FUNCTIONS)
@pytest.mark.parametrize("d", [0.0, 0.8, 2.2])
def test_psychometric_functions_agree_with_people_who_perceive_and_decide(method, d):
    n = 400_000
    found = simulated(method, d, n, np.random.default_rng([7, int(10 * d)]))
    share = share_right(method, d)
    assert abs(found - share) < 4.5 * math.sqrt(share * (1 - share) / n)
    if d == 0:
        assert share == pytest.approx(METHODS[method].guess, abs=1e-9)


@given(st.sampled_from(sorted(FUNCTIONS)), st.floats(0, 8), st.floats(0.01, 3))
@settings(max_examples=60, deadline=None)
def test_a_larger_difference_is_noticed_more_often(method, d, more):
    assert share_right(method, d + more) >= share_right(method, d)


NOTICING = [("triangle", 0.38), ("duo-trio", 0.2), ("tetrad", 0.0), ("2-afc", 0.6)]


@pytest.mark.parametrize(("method", "noticing"), cells(NOTICING, NOTICING[2:3]))
def test_intervals_cover_the_truth_as_often_as_they_say(method, noticing):
    rng = np.random.default_rng(11)
    right = share_right_of(method, noticing)
    truth = d_prime(method, right)
    runs, n, inside, inside_d, above = 1500, 30, 0, 0, 0
    for correct in rng.binomial(n, right, runs):
        found = discriminate(method, n, int(correct))
        inside += found.pd.low <= noticing + 1e-12 and noticing <= found.pd.high
        inside_d += found.dprime.low <= truth + 1e-9 and truth <= found.dprime.high
        above += noticing <= found.upper_pd()
    slack = 3 * math.sqrt(0.05 * 0.95 / runs)
    assert inside / runs >= 0.95 - slack
    assert inside_d / runs >= 0.95 - slack
    assert above / runs >= 0.95 - slack


def test_a_sentence_worth_of_figures():
    found = discriminate("triangle", 24, 14)
    assert (found.needed, found.found) == (13, True)
    assert [round(100 * one) for one in (found.pd.value, found.pd.low, found.pd.high)] == [38, 5, 67]
    assert not found.alike(0.5)
    # Without a difference found, alike is still another matter.
    few = discriminate("triangle", 12, 5)
    assert (few.found, few.alike(0.4)) == (False, False)
    assert discriminate("triangle", 60, 20).alike(0.3)


def test_the_number_that_is_alike_enough_is_the_largest_that_is():
    most = most_alike("triangle", 60, 0.3)
    assert discriminate("triangle", 60, most).alike(0.3)
    assert not discriminate("triangle", 60, most + 1).alike(0.3)
    assert most_alike("triangle", 3, 0.1) is None


def test_required_assessors_reach_the_power_and_one_fewer_may_not():
    right = share_right_of("triangle", 0.5)
    n = assessors_for("triangle", right, 0.05, 0.9)
    assert all(power("triangle", m, right) >= 0.9 for m in range(n, n + 12))
    assert power("triangle", n - 1, right) < 0.9
    # ISO 4120, table for alpha 0.05 and beta 0.10: 23 assessors where half of them notice.
    assert n == pytest.approx(23, abs=2)
    assert assessors_for("2-afc", 0.5) is None
    assert assessors_alike("triangle", 0.3, 0.3) is None
    assert assessors_alike("triangle", 0.3) > assessors_alike("triangle", 0.5)


def test_power_agrees_with_panels_played_out():
    rng = np.random.default_rng(3)
    right = share_right("tetrad", 1.2)
    n = 20
    played = (rng.random((20_000, n)) < right).sum(axis=1) >= needed("tetrad", n)
    assert power("tetrad", n, right) == pytest.approx(played.mean(), abs=0.012)


@pytest.mark.parametrize(("n", "correct", "alpha"), [(0, 0, 0.05), (10, 11, 0.05), (10, -1, 0.05), (10, 5, 0.0)])
def test_counts_that_cannot_be_are_refused(n, correct, alpha):
    with pytest.raises(Refused):
        discriminate("triangle", n, correct, alpha)


def test_a_method_without_a_right_answer_is_not_counted():
    with pytest.raises(Refused, match="no one right answer"):
        needed("preference", 10)
    assert method_named("A not A".replace(" ", "-")).key == "a-not-a"
    with pytest.raises(Refused, match="no test called"):
        method_named("quadrangle")


@given(st.integers(0, 40), st.integers(1, 40))
@settings(max_examples=40, deadline=None)
def test_an_interval_holds_the_share_itself(correct, n):
    low, high = exact_interval(min(correct, n), n, 0.05)
    assert low <= min(correct, n) / n <= high


# Persons


def test_judgements_of_the_same_person_count_as_fewer():
    alike = by_person("triangle", [(2, 4)] * 12)
    assert alike.correlation == 0
    assert alike.p == pytest.approx(alike.plain_p)
    assert alike.effective == 48
    apart = by_person("triangle", [(4, 4)] * 4 + [(1, 4)] * 6 + [(0, 4)] * 2)
    assert apart.correlation > 0.4
    assert apart.effective < 30
    assert apart.pd.high - apart.pd.low > by_person("triangle", [(2, 4)] * 11).pd.high - alike.pd.low - 0.05
    assert apart.plain_p <= 0.05 < apart.p
    assert apart.too_hopeful


def test_one_judgement_each_is_the_plain_binomial():
    found = by_person("2-afc", [(1, 1)] * 15 + [(0, 1)] * 5)
    assert found.p == pytest.approx(discriminate("2-afc", 20, 15).p)
    assert not found.too_hopeful


def test_p_by_person_keeps_its_level_where_people_guess_alike_but_unlike_each_other():
    """Persons whose chance of being right scatters around guessing: the plain test is too bold, that by person hardly."""
    rng = np.random.default_rng(5)
    plain = person = 0
    runs = 600
    for _ in range(runs):
        own = rng.beta(1.0, 2.0, 12)
        found = by_person("triangle", [(int(rng.binomial(6, p)), 6) for p in own])
        plain += found.plain_p <= 0.05
        person += found.p <= 0.05
    assert plain / runs > 0.09
    assert person / runs < 0.09
    assert person < plain


# Yes and no


def test_fisher_and_d_prime_of_yes_and_no():
    found = told_apart(3, 4, 1, 4)
    # Fisher's lady tasting tea: 17 of 70 arrangements are as good.
    assert found.p == pytest.approx(17 / 70)
    assert told_apart(20, 20, 0, 20).dprime.value < 5
    assert told_apart(5, 10, 5, 10).dprime.value == pytest.approx(0)
    assert told_apart(5, 10, 5, 10, with_d=False).dprime is None
    for bad in ((5, 4, 1, 4), (1, 0, 1, 4), (-1, 4, 0, 4)):
        with pytest.raises(Refused):
            told_apart(*bad)


# Naming


@pytest.mark.parametrize("k", [2, 3, 4, 5, 6])
def test_matching_is_that_of_all_permutations(k):
    counts = Counter(sum(a == b for a, b in enumerate(order)) for order in itertools.permutations(range(k)))
    assert matches(k) == pytest.approx([counts[r] / math.factorial(k) for r in range(k + 1)])


def test_naming_uses_the_null_that_fits():
    answers = [(0, 1, 2, 3), (0, 1, 3, 2), (1, 0, 2, 3), (0, 2, 1, 3)]
    once = named(answers, 4, each_once=True)
    free = named(answers, 4, each_once=False)
    assert (once.right, once.of, once.by_chance) == (10, 16, 4.0)
    assert once.p != free.p
    assert free.p == pytest.approx(float(by_chance(16, 0.25)[10:].sum()))
    perms = [sum(a == b for a, b in enumerate(order)) for order in itertools.permutations(range(4))]
    sums = Counter(a + b + c + d for a, b, c, d in itertools.product(perms, repeat=4))
    assert once.p == pytest.approx(sum(m for s, m in sums.items() if s >= 10) / 24**4)
    assert once.table[1] == (1, 2, 1, 0)
    assert once.mistaken_for == (1, 0, 1, 2)
    assert once.shares == (0.75, 0.5, 0.5, 0.75)
    for bad in ([(0, 1)], [(0, 0, 1, 2)], [(0, 1, 2, 4)], []):
        with pytest.raises(Refused):
            named(bad, 4, each_once=True)


# Preference and ranking


def test_no_preference_is_dropped_split_or_kept():
    drop, split, third = (preferred(16, 6, 4, rule) for rule in ("drop", "split", "third"))
    assert (drop.of, split.of, third.of) == (22, 26, 26)
    assert drop.p == pytest.approx(2 * float(by_chance(22, 0.5)[16:].sum()))
    assert split.share.value == pytest.approx(18 / 26)
    assert third.share.value == pytest.approx(16 / 26)
    assert third.p == drop.p
    assert preferred(0, 0, 5, "drop").p == 1.0
    with pytest.raises(Refused):
        preferred(0, 0, 0, "drop")


def test_friedman_agrees_with_scipy_and_with_enumeration():
    rows = [(1, 2, 3), (1, 3, 2), (1, 2, 3), (2, 1, 3), (1, 2, 3)]
    found = ranked(rows, np.random.default_rng(1))
    assert found.statistic == pytest.approx(friedmanchisquare(*zip(*rows, strict=True)).statistic)
    assert found.exact
    # Friedman's published table: for 5 people and 3 things, 6.4 is reached or passed with probability 0.039.
    table = ranked([(1, 2, 3), (1, 2, 3), (1, 2, 3), (1, 2, 3), (2, 3, 1)], np.random.default_rng(1))
    sums = Counter()
    for orders in itertools.product(itertools.permutations((1, 2, 3)), repeat=5):
        sums[tuple(sum(column) for column in zip(*orders, strict=True))] += 1

    def statistic(total):
        return 12 * sum((s - 10) ** 2 for s in total) / (5 * 3 * 4)

    beyond = sum(m for total, m in sums.items() if statistic(total) >= table.statistic - 1e-9)
    assert table.p == pytest.approx(beyond / 6**5)


def test_ties_and_large_rankings_agree_with_scipy():
    rng = np.random.default_rng(2)
    rows = rng.integers(0, 4, (14, 4)) + np.array([0, 0, 1, 1])
    found = ranked(rows.tolist(), np.random.default_rng(3))
    library = friedmanchisquare(*rows.T)
    assert found.statistic == pytest.approx(library.statistic)
    assert not found.exact
    assert found.p == pytest.approx(library.pvalue, abs=0.02)
    assert 0 <= found.agreement <= 1
    assert all(pair.p_adjusted >= pair.p for pair in found.pairs)
    with pytest.raises(Refused):
        ranked([(1, 2), (1, 2, 3)], rng)


def test_rankings_of_chance_find_as_much_as_they_may():
    rng = np.random.default_rng(8)
    small = [ranked([rng.permutation(3).tolist() for _ in range(6)], rng).p <= 0.05 for _ in range(plays(400, 120))]
    assert sum(small) / len(small) <= 0.05 + 3 * math.sqrt(0.05 * 0.95 / len(small))


# Serving


def places_of_odd(order):
    return next(i for i, one in enumerate(order) if order.count(one) == 1)


@pytest.mark.parametrize("assessors", range(1, 61))
def test_orders_are_balanced_for_every_number_of_assessors(assessors):
    for method, cycle in CYCLES.items():
        plan = serving_plan(method, assessors, Draw("ab", f"{method}{assessors}"))
        counts = Counter(one.order for one in plan)
        assert max(counts.values()) - min(counts[order] for order in cycle) <= 1, method
    orders = [one.order for one in serving_plan("triangle", assessors, Draw("cd", str(assessors)))]
    odd = Counter(order[places_of_odd(order)] for order in orders)
    places = Counter(places_of_odd(order) for order in orders)
    assert abs(odd["A"] - odd["B"]) <= 1
    assert max(places.values()) - min(places[i] for i in range(3)) <= 1
    duo = [one.order for one in serving_plan("duo-trio", assessors, Draw("ef", str(assessors)))]
    assert abs(sum(order[0] == "A" for order in duo) * 2 - assessors) <= 1
    for k in (3, 4, 5):
        rows = Counter(one.order for one in serving_plan("ranking", assessors, Draw("gh", str(k)), things=k))
        assert max(rows.values()) - min(rows[order] for order in williams(k)) <= 1


@pytest.mark.parametrize("k", range(2, 9))
def test_in_a_williams_square_each_follows_each_equally_often(k):
    square = williams(k)
    follows = Counter(pair for row in square for pair in itertools.pairwise(row))
    places = Counter((one, i) for row in square for i, one in enumerate(row))
    assert len(set(follows.values())) == 1
    assert len(follows) == k * (k - 1)
    assert len(set(places.values())) == 1


def test_later_sessions_go_on_where_the_balance_was_left():
    plan = serving_plan("triangle", 8, Draw("ij", "s"), sessions=4)
    counts = Counter(one.order for one in plan)
    assert max(counts.values()) - min(counts.values()) <= 1
    for session in range(4):
        own = [one for one in plan if one.session == session]
        assert sorted(one.assessor for one in own) == list(range(8))
        codes = [code for one in own for code in one.codes]
        assert len(set(codes)) == len(codes) == 24
    first = [one.codes for one in plan if one.assessor == 0]
    assert len(set(first)) == 4
    assert plan == serving_plan("triangle", 8, Draw("ij", "s"), sessions=4)


def test_codes_say_nothing_of_what_is_in_a_cup():
    plan = serving_plan("triangle", 60, Draw("kl", "codes"))
    by_thing = {"A": [], "B": []}
    for one in plan:
        for thing, code in zip(one.order, one.codes, strict=True):
            by_thing[thing].append(int(code))
    a, b = (np.array(by_thing[thing]) for thing in "AB")
    assert abs(a.mean() - b.mean()) < 3.5 * math.sqrt(a.var() / len(a) + b.var() / len(b))


@pytest.mark.parametrize(
    ("method", "order", "right", "wrong"),
    [
        ("triangle", "BAB", [1], [0]),
        ("duo-trio", "ABA", [2], [1]),
        ("2-afc", "BA", [1], [0]),
        ("3-afc", "BBA", [2], [0]),
        ("tetrad", "BABA", [0, 2], [0, 1]),
    ],
)
def test_right_answers_are_told_from_wrong_ones(method, order, right, wrong):
    assert is_right(method, order, right) is True
    assert is_right(method, order, wrong) is False
    assert is_right("preference", "AB", [0]) is None
    with pytest.raises(Refused):
        is_right(method, order, [9])


def test_chance_adds_up():
    assert total_of([by_chance(5, 0.3), by_chance(7, 0.3)]) == pytest.approx(by_chance(12, 0.3))
    assert noticers("triangle", 0.2) == 0.0
    with pytest.raises(Refused):
        serving_plan("triangle", 0, Draw("m", "n"))


# Looking while it runs


@pytest.mark.parametrize("looks", [1, 2, 3, 4, 6])
@pytest.mark.parametrize(("method", "n"), [("triangle", 24), ("2-afc", 40), ("tetrad", 13)])
def test_looks_together_give_no_more_false_alarms_than_planned(method, n, looks):
    """By panels played out, written separately from the recursion."""
    planned = planned_looks(method, n, looks)
    assert planned[-1].n == n
    rng = np.random.default_rng([9, n, looks])
    answers = rng.random((40_000, n)) < METHODS[method].guess
    counts = answers.cumsum(axis=1)
    stopped = np.zeros(len(answers), dtype=bool)
    for look in planned:
        stopped |= counts[:, look.n - 1] >= look.needed
    exact, spent = chance_to_find(method, n, looks, METHODS[method].guess)
    assert exact <= 0.05
    assert stopped.mean() == pytest.approx(exact, abs=0.006)
    assert spent <= n
    if looks == 1:
        assert planned == (PlannedLook(n, needed(method, n)),)


def test_p_over_looks_counts_all_that_would_have_stopped_before():
    first = looked("triangle", 24, 2, [True] * 8 + [False] * 4)
    assert (first.crossed, first.right) == (0, (8,))
    assert first.p == pytest.approx(discriminate("triangle", 12, 8).p)
    late = looked("triangle", 24, 2, [True, False] * 6 + [True] * 8 + [False] * 4)
    assert (late.crossed, late.right) == (1, (6, 14))
    assert late.p > discriminate("triangle", 24, 14).p
    by_hand = sum(
        by_chance(12, 1 / 3)[k] * (1 if k >= 8 else by_chance(12, 1 / 3)[max(0, 14 - k) :].sum()) for k in range(13)
    )
    assert late.p == pytest.approx(by_hand)
    assert looked("triangle", 24, 2, [True] * 11) is None
    lost = looked("triangle", 24, 2, [False] * 13)
    assert (lost.crossed, lost.can) == (None, False)


# Grades and choices of several


def test_grades_are_those_of_what_was_in_the_cup_and_of_people_not_of_sets():
    crunch = PanelAttribute("Crunch")
    given = [("Ada", "AB", (8, 3)), ("Ada", "BA", (5, 8)), ("Ben", "BA", (2, 7)), ("Cyd", "AB", (9, None))]
    found = graded(crunch, given, 2, np.random.default_rng(1))
    assert found.people == 2
    assert found.means == (pytest.approx((8 + 7 + 9) / 3), pytest.approx((4 + 2) / 2))
    assert found.pairs[0].difference.value == pytest.approx(((8 - 4) + (7 - 2)) / 2)
    assert found.pairs[0].p == pytest.approx(0.5)
    assert graded(crunch, given[:1], 2, np.random.default_rng(1)).pairs == ()


def test_grades_of_chance_are_called_different_as_seldom_as_they_may():
    rng = np.random.default_rng(11)
    alarms = []
    for _ in range(plays(300, 150)):
        rows = rng.integers(0, 11, (10, 3))
        given = [(str(i), "ABC", tuple(int(one) for one in row)) for i, row in enumerate(rows)]
        found = graded(PanelAttribute("Sour"), given, 3, rng)
        alarms.append((found.p <= 0.05, min(pair.p_adjusted for pair in found.pairs) <= 0.05))
    assert np.mean(alarms, axis=0).max() < 0.05 + 3 * math.sqrt(0.05 * 0.95 / len(alarms))


def test_a_choice_of_several_agrees_with_the_multinomial_listed():
    found = favoured([6, 1, 1], 2, np.random.default_rng(3))
    listed = [
        (
            math.factorial(8) / (math.factorial(a) * math.factorial(b) * math.factorial(8 - a - b)) / 3**8,
            (a, b, 8 - a - b),
        )
        for a in range(9)
        for b in range(9 - a)
    ]
    far = lambda counts: sum((one - 8 / 3) ** 2 for one in counts)  # noqa: E731
    exact = sum(p for p, counts in listed if far(counts) >= far((6, 1, 1)) - 1e-9)
    assert found.p == pytest.approx(exact, abs=0.008)
    assert (found.none, found.shares[0].value) == (2, 0.75)
    with pytest.raises(Refused):
        favoured([0, 0, 0], 0, np.random.default_rng(3))


# What tests without a right answer can find


@pytest.mark.parametrize(
    ("method", "n", "noticing", "things"),
    [
        ("preference", 30, 0.5, 2),
        ("preference", 30, 0.4, 3),
        ("naming", 10, 0.3, 4),
        ("ranking", 16, 0.5, 4),
        ("a-not-a", 30, 0.5, 2),
    ],
)
def test_what_can_be_found_agrees_with_panels_played_out(method, n, noticing, things):
    rng = np.random.default_rng([5, n, things])
    found = []
    for _ in range(300):
        knows = rng.random(n) < noticing
        match method:
            case "preference":
                choice = np.where(knows, 0, rng.integers(0, things, n))
                counts = np.bincount(choice, minlength=things)
                p = preferred(*counts, 0, "drop").p if things == 2 else chisquare(counts).pvalue
            case "naming":
                rows = [range(things) if one else rng.permutation(things) for one in knows]
                p = named([list(row) for row in rows], things, each_once=True).p
            case "ranking":
                rows = [[0, *rng.permutation(range(1, things))] if one else rng.permutation(things) for one in knows]
                p = friedmanchisquare(*np.array(rows).T).pvalue
            case _:
                said = rng.random(n) < np.where(np.arange(n) % 2 == 0, 0.5 + noticing / 2, 0.5 - noticing / 2)
                hits, alarms = int(said[::2].sum()), int(said[1::2].sum())
                p = told_apart(hits, n // 2, alarms, n // 2).p
        found.append(p <= 0.05)
    told = ability(method, n, noticing, 0.05, things=things, each_once=True)
    assert np.mean(found) == pytest.approx(told, abs=0.09)


def test_sizes_that_are_enough_reach_what_is_wanted():
    for method, things in (("preference", 2), ("naming", 3), ("ranking", 4), ("same-different", 2)):
        size = enough(method, 0.4, 0.05, 0.8, things=things, each_once=True)
        assert ability(method, size, 0.4, 0.05, things=things, each_once=True) >= 0.8
        assert ability(method, size // 2, 0.4, 0.05, things=things, each_once=True) < 0.8
    assert enough("preference", 0.001, 0.05, 0.8, things=2, each_once=True) is None
    assert enough("preference", 0.0, 0.05, 0.8, things=2, each_once=True) is None


def test_late_comers_and_added_sessions_get_the_orders_that_are_missing():
    before = serving_plan("triangle", 7, Draw("q", "first"))
    later = serving_plan("triangle", 5, Draw("q", "late"), before=Before(Counter(one.order for one in before)))
    assert set(Counter(one.order for one in (*before, *later)).values()) == {2}


# Planning


PANEL = PanelPlan("Leaf or none", things=("plain", "vine"))
THINGS = frozenset({"plain", "vine", "oak"})


def test_what_a_panel_costs_and_can_find_is_told():
    found = outlook(PANEL)
    assert (found.cups, found.amounts, found.needed) == (72, (720.0, 720.0), 13)
    assert found.power == pytest.approx(power("triangle", 24, share_right_of("triangle", 0.4)))
    assert found.says[0] == "13 of 24 right answers are needed."
    assert "40 % truly notice" in found.says[1]
    few = outlook(replace(PANEL, assessors=8))
    assert few.judgements > 8
    assert any("judgements on" in one for one in few.says)
    assert "not even all" in outlook(replace(PANEL, assessors=2)).says[0]
    alike = outlook(replace(PANEL, school="alike", assessors=60))
    assert (alike.needed, alike.most) == (None, most_alike("triangle", 60, 0.3))
    by_d = outlook(replace(PANEL, d=1.5))
    assert by_d.power == pytest.approx(power("triangle", 24, share_right("triangle", 1.5)))


def test_the_tests_for_one_question_are_weighed_for_the_same_difference():
    others = {one.method: one for one in outlook(PANEL).others}
    assert set(others) == {"triangle", "duo-trio", "abx", "tetrad", "a-not-a", "same-different"}
    d = d_prime("triangle", PANEL.right)
    assert others["tetrad"].people == assessors_for("tetrad", share_right("tetrad", d)) < others["triangle"].people
    assert others["tetrad"].cups == 4 * others["tetrad"].people
    assert others["tetrad"].amount == 20 * others["tetrad"].cups
    alike = {one.method for one in outlook(replace(PANEL, school="alike")).others}
    assert alike == {"triangle", "duo-trio", "abx", "tetrad"}
    assert outlook(replace(PANEL, method="preference")).others == ()


def test_looks_and_tests_without_a_right_answer_are_foreseen_too():
    seen = outlook(replace(PANEL, looks=2))
    assert [(one.n, one.needed) for one in seen.looks] == [(12, 8), (24, 13)]
    assert seen.says[0] == "Looked at while it runs, 8 of 12, 13 of 24 right answers end it."
    names = outlook(replace(PANEL, method="naming", things=("plain", "vine", "oak")))
    assert names.says[0] == f"{names.needed} of 72 names must be right; guessing gives 24."
    for method in ("preference", "ranking", "grading", "a-not-a", "same-different"):
        assert "times in 100" in outlook(replace(PANEL, method=method, things=("plain", "vine", "oak"))).says[0]


def test_the_amount_poured_is_that_of_the_plan_drawn():
    """Over all servings as many cups of each thing are poured as are told, give or take an unfinished cycle."""
    plan = replace(PANEL, assessors=12, sessions=2)
    cups = Counter("".join(one.order for one in serving_plan("triangle", 12, Draw("z", "z"), sessions=2)))
    assert [cups["A"] * plan.amount, cups["B"] * plan.amount] == list(outlook(plan).amounts)


@pytest.mark.parametrize(
    ("change", "at"),
    [
        ({"title": " "}, "title"),
        ({"things": ("plain", "gone")}, "things"),
        ({"things": ("plain", "plain")}, "things"),
        ({"things": ("plain", "vine", "oak")}, "things"),
        ({"method": "naming"}, "things"),
        ({"method": "2-afc"}, "attribute"),
        ({"assessors": 0}, "assessors"),
        ({"sessions": 99}, "sessions"),
        ({"alpha": 0.5}, "alpha"),
        ({"limit": 1.0}, "limit"),
        ({"d": -1.0}, "d"),
        ({"school": "alike", "method": "preference"}, "school"),
        ({"pause": -1}, "pause"),
        ({"amount": 0}, "amount"),
        ({"method": "grading"}, "attributes"),
        ({"attributes": (PanelAttribute(" "),)}, "attributes.0.name"),
        ({"attributes": (PanelAttribute("Crunch", steps=0),)}, "attributes.0.steps"),
        ({"attributes": (PanelAttribute("Crunch"), PanelAttribute("Crunch"))}, "attributes"),
        ({"looks": 99}, "looks"),
        ({"looks": 2, "school": "alike"}, "looks"),
        ({"looks": 2, "method": "preference"}, "looks"),
    ],
)
def test_each_fault_of_a_panel_is_told_at_its_field(change, at):
    assert [one.at for one in problems_in(replace(PANEL, **change), THINGS)] == [at]


def test_a_sound_panel_has_no_fault():
    assert list(problems_in(PANEL, THINGS)) == []


# Sounds, pictures, practice


def tone(loud: float, seconds: float = 2.0, rate: int = 44_100, channels: int = 2) -> Sound:
    at = np.arange(round(seconds * rate)) / rate
    return Sound(np.tile((loud * np.sin(2 * np.pi * 500 * at))[:, None], (1, channels)), rate)


def test_sounds_are_made_alike_in_all_but_themselves():
    one, two = matched([made_ready(tone(0.9, 3)), made_ready(tone(0.05, 2, 32_000, 1))])
    assert one.samples.shape == two.samples.shape == (2 * 48_000, 1)
    assert loudness(one) == pytest.approx(loudness(two), abs=0.1)
    assert np.abs(one.samples).max() <= 1
    assert abs(one.samples[0, 0]) == abs(two.samples[-1, 0]) == 0
    rng = np.random.default_rng(1)
    first, again, other = copy_of(one, rng), copy_of(one, rng), copy_of(two, rng)
    assert len(first) == len(again) == len(other)
    assert first != again


@pytest.mark.parametrize("sound", [tone(0.5, 0.2), tone(0.0)])
def test_a_sound_that_cannot_be_heard_is_refused(sound):
    with pytest.raises(Refused):
        made_ready(sound)


def test_pictures_are_framed_alike_and_no_copy_tells():
    wide, tall = framed(Image.new("RGB", (2000, 500), "red")), framed(Image.new("L", (30, 400), 10))
    assert wide.size == tall.size == (960, 720)
    rng = np.random.default_rng(2)
    copies = [copy_of_picture(one, rng) for one in (wide, wide, tall)]
    assert len({len(one) for one in copies}) == 1
    assert len(set(copies)) == 3
    shown = np.asarray(Image.open(io.BytesIO(copies[0])), dtype=int)
    assert np.abs(shown - np.asarray(wide, dtype=int)).max() <= 1


@pytest.mark.parametrize("step", range(1, 6))
def test_what_is_shipped_differs_more_with_each_step(step):
    plain, other = shipped_sound(other=False, step=step), shipped_sound(other=True, step=step)
    assert loudness(plain) == pytest.approx(loudness(other), abs=0.5)
    one, two = (np.asarray(shipped_picture(other=other, step=step), dtype=int) for other in (False, True))
    apart = np.abs(one - two).mean()
    assert apart > 0
    if step > 1:
        before = np.asarray(shipped_picture(other=True, step=step - 1), dtype=int)
        assert apart > np.abs(one - before).mean()


def test_practice_says_what_would_pass():
    assert practised("triangle", [True] * 8 + [False] * 4).passed
    assert "not even all" in practised("duo-trio", [True, True]).says
    assert practised("tetrad", [True, False, False]).needed == needed("tetrad", 3)
