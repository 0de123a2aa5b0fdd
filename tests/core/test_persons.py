"""The person is the unit, in every test: people who cannot tell, but stick to their answers, are not found."""

import itertools
from collections import Counter
from dataclasses import replace

import numpy as np
import pytest

from fieldtally.core.panels.finding import wholly_told
from fieldtally.core.panels.foreseeing import outlook
from fieldtally.core.panels.judged import Judged
from fieldtally.core.panels.persons import (
    between_groups_p,
    by_person,
    favoured_by_person,
    liked_by_person,
    named_by_person,
    one_sided_p,
    ranks_by_person,
    told_by_person,
)
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.ranking import ranked
from fieldtally.core.panels.result import panel_finding
from fieldtally.core.panels.serving import CYCLES, Before, cycle_of, is_right, serving_plan
from fieldtally.core.panels.several import right_by_person, told_apart_by_person
from fieldtally.core.panels.telling import told_apart
from fieldtally.core.panels.words import told
from fieldtally.core.randomness import Draw
from tests.depth import cells, plays

PLAN = PanelPlan("Leaf or none", things=("plain", "vine"))
MOST = 0.06


def rng(seed=3):
    return np.random.default_rng(seed)


# Right answers


@pytest.mark.parametrize("sets", cells([2, 3, 6], [3]))
@pytest.mark.parametrize(("method", "guess"), cells([("triangle", 1 / 3), ("2-afc", 1 / 2)], [("triangle", 1 / 3)]))
@pytest.mark.parametrize("how", ["stick", "guess", "each in their own way"])
def test_guessing_is_found_at_most_as_often_as_planned(method, guess, sets, how):
    draw = rng(sets)
    for people in (2, 3, 4, 6, 12, 30):
        found, many = 0, plays(400, 200)
        for _ in range(many):
            if how == "stick":
                right = (draw.random(people) < guess) * sets
            elif how == "guess":
                right = draw.binomial(sets, guess, people)
            else:
                right = draw.binomial(sets, draw.beta(3 * guess, 3 * (1 - guess), people))
            found += by_person(method, [(int(one), sets) for one in right]).p <= 0.05
        assert found / many <= MOST + 2 * np.sqrt(MOST * (1 - MOST) / many), people


def test_what_is_needed_is_what_is_found():
    for right in range(13):
        counts = [(3, 3)] * (right // 3) + [(right % 3, 3)] * bool(right % 3)
        counts += [(0, 3)] * (8 - len(counts))
        found = by_person("triangle", counts)
        assert (right >= found.needed) == (found.p <= 0.05)


def test_one_person_alone_is_told_as_that():
    found = by_person("triangle", [(6, 6)])
    assert found.p == found.plain_p
    judged = [
        Judged("Ada", "naive", 0, one.order, (next(p for p in range(3) if is_right("triangle", one.order, [p])),))
        for one in serving_plan("triangle", 1, Draw("a", "one"), sets=6)
    ]
    assert panel_finding(PLAN, judged, rng()).sentence.startswith(
        "One person alone, 6 sets; of people at large it tells nothing. 6 of 6 found the odd one"
    )


def triangles(people: dict[str, int], sets: int, **used) -> list[Judged]:
    """So many right answers of each person, of so many sets."""
    found = []
    dealt = serving_plan("triangle", len(people), Draw("t", "t"), sets=sets)
    for n, (name, right) in enumerate(people.items()):
        for i, one in enumerate(own for own in dealt if own.assessor == n):
            good = next(p for p in range(3) if is_right("triangle", one.order, [p]))
            found.append(Judged(name, used.get(name, "naive"), 0, one.order, (good if i < right else (good + 1) % 3,)))
    return found


def test_the_headline_counts_persons_and_says_what_the_plain_count_would():
    people = {f"P{i}": 3 if i < 6 else 0 for i in range(12)}
    found = panel_finding(PLAN, triangles(people, 3), rng())
    assert found.persons.plain_p <= 0.05 < found.persons.p == found.found.p
    assert found.persons.too_hopeful
    assert not found.found.found
    assert found.sentence.startswith("12 people, 3 sets each. 18 of 36 found the odd one;")
    assert "by person" in found.sentence
    assert any("Counted as answers of different people it would look found" in one for one in wholly_told(found))
    assert sum(found.chance) == pytest.approx(1.0)


def test_people_of_one_name_are_several_people():
    same = [replace(one, person=f"{i} J.") for i, one in enumerate(triangles({f"P{i}": 1 for i in range(9)}, 1))]
    assert panel_finding(PLAN, same, rng()).people_counted == 9


# Preferences, names, ranks, yes or no


def test_thirteen_people_against_seven_are_not_thirty_nine_answers():
    given = {f"P{i}": [1, 1, 1] if i < 13 else [-1, -1, -1] for i in range(20)}
    found = liked_by_person(given, "drop", rng(), 0.05)
    assert (found.first, found.second, found.none) == (13, 7, 0)
    assert found.p == pytest.approx(0.263, abs=0.01)
    plan = replace(PLAN, method="preference")
    judged = [
        Judged(name, "naive", 0, order, (order.index("A" if one > 0 else "B"),))
        for name, own in given.items()
        for one, order in zip(own, itertools.cycle(("AB", "BA")), strict=False)
    ]
    told_of = panel_finding(plan, judged, rng(), names=("Plain", "Vine"))
    assert told_of.sentence == (
        "20 people, 3 sets each. 13 like Plain better, 7 Vine, each counted once, which chance may give."
    )


@pytest.mark.parametrize("sets", cells([2, 3, 6], [3]))
def test_people_who_stick_to_what_they_like_or_call_or_rank_are_not_found(sets):
    draw, many = rng(sets), plays(120, 60)
    found: Counter[str] = Counter()
    for _ in range(many):
        people = 12
        ways = draw.choice((-1, 1), people)
        found["preference"] += (
            liked_by_person({str(i): [int(w)] * sets for i, w in enumerate(ways)}, "drop", draw, 0.05).p <= 0.05
        )
        stuck = draw.integers(0, 4, people)
        found["favourite"] += (
            favoured_by_person({str(i): [int(w)] * sets for i, w in enumerate(stuck)}, 4, draw, 0.05).p <= 0.05
        )
        names = {str(i): [tuple(int(n) for n in draw.permutation(3))] * sets for i in range(people)}
        found["naming"] += named_by_person(names, 3, draw, each_once=True).p <= 0.05
        rows = {str(i): [list(draw.permutation(4) + 1.0)] * sets for i in range(people)}
        found["ranking"] += ranked(ranks_by_person(rows), draw).p <= 0.05
        # Each is sure that one kind is A, and half of them of the wrong one.
        yes = {
            str(i): [(n % 2 == 0, (n % 2 == 0) == bool(w > 0)) for n in range(max(2, sets))]
            for i, w in enumerate(draw.choice((-1, 1), people))
        }
        plain = told_apart(6, 12, 6, 12)
        found["a-not-a"] += told_by_person(yes, plain, draw).p <= 0.05
    for name, times in found.items():
        assert times / many <= MOST + 2 * np.sqrt(MOST / many), name


def test_who_has_one_kind_alone_tells_nothing_of_yes_and_no():
    plain = told_apart(5, 6, 1, 6)
    alone = {f"P{i}": [(True, True)] for i in range(6)}
    assert told_by_person(alone, plain, rng()) == plain
    assert one_sided_p(np.zeros(3), rng()) == 1.0


# What the planner promises


@pytest.mark.parametrize(("people", "sets"), [(8, 3), (12, 3), (20, 2), (24, 4)])
def test_the_promised_power_is_what_is_found(people, sets):
    promised = right_by_person("triangle", people, sets, 0.4, 0.05, None)
    draw, many, found = rng(people), plays(600, 300), 0
    for _ in range(many):
        right = np.where(draw.random(people) < 0.4, sets, draw.binomial(sets, 1 / 3, people))
        found += by_person("triangle", [(int(one), sets) for one in right]).p <= 0.05
    assert abs(found / many - promised) <= 0.04 + 2 * np.sqrt(promised * (1 - promised) / many)
    assert outlook(replace(PLAN, assessors=people, sets=sets)).power == promised


@pytest.mark.parametrize(("people", "sets"), cells([(8, 3), (16, 2), (24, 3)], [(8, 3)]))
def test_the_promised_power_of_names_and_likings_is_what_is_found(people, sets):
    draw, many = rng(people), plays(200, 100)
    liked = named = 0
    for _ in range(many):
        truly = draw.random(people) < 0.4
        given = {str(i): [1] * sets if t else [int(w) for w in draw.choice((-1, 1), sets)] for i, t in enumerate(truly)}
        liked += liked_by_person(given, "drop", draw, 0.05).p <= 0.05
        names = {
            str(i): [tuple(range(3)) if t else tuple(int(n) for n in draw.permutation(3)) for _ in range(sets)]
            for i, t in enumerate(truly)
        }
        named += named_by_person(names, 3, draw, each_once=True).p <= 0.05
    for seen, method, things in ((liked, "preference", 2), (named, "naming", 3)):
        promised = told_apart_by_person(method, people, sets, 0.4, 0.05, things, each_once=True)
        assert abs(seen / many - promised) <= 0.04 + 2 * np.sqrt(promised * (1 - promised) / many), method


# Sentences


def test_a_difference_between_the_experienced_and_others_is_a_sentence():
    people = {f"E{i}": int(i < 1) for i in range(5)} | {f"N{i}": 1 for i in range(11)}
    judged = triangles(people, 1, **{f"E{i}": "trained" for i in range(5)})
    found = panel_finding(PLAN, judged, rng())
    assert found.differs == (
        "It differs by experience, more than chance gives between people (p 0.0035): naive 11 of 11, trained 1 of 5 right.",
    ) or found.differs[0].startswith("It differs by experience, more than chance gives between people (p 0.00")
    assert found.differs[0] in wholly_told(found)
    alike = panel_finding(
        PLAN, triangles({f"P{i}": i % 2 for i in range(16)}, 1, **{f"P{i}": "trained" for i in range(8)}), rng()
    )
    assert alike.differs == ()
    assert between_groups_p(np.array([0.0, 0.0, 1.0, 1.0]), np.array([0, 0, 1, 1]), rng()) == pytest.approx(
        1 / 3, abs=0.02
    )


def test_what_came_as_close_as_all_others_came_closest_to_nothing():
    people = {f"P{i}": int(i % 2 == 0 and i < 10) for i in range(20)}
    used = {f"P{i}": "regular" if i % 4 in (2, 3) else "naive" for i in range(20)}
    found = panel_finding(PLAN, triangles(people, 1, **used), rng())
    counts = {part.name: (part.right, part.n) for part in found.experience}
    if len(set(counts.values())) == 1:
        assert found.closest == ""


def test_a_pair_chosen_the_other_way_is_said():
    plan = replace(PLAN, method="2-afc", attribute="crunchy")
    judged = [
        Judged(f"P{i}", "naive", 0, one.order, (one.order.index("A" if i < 4 else "B"),))
        for i, one in enumerate(serving_plan("2-afc", 24, Draw("p", "p")))
    ]
    sentence = panel_finding(plan, judged, rng()).sentence
    assert "so few right answers are what comes about where nobody notices" in sentence
    assert "The other one was chosen 20 times of 24" in sentence
    assert "between 0 % and 0 %" not in sentence


def test_a_difference_that_is_found_is_not_told_as_perhaps_nobody():
    for n in range(6, 60):
        found = panel_finding(PLAN, triangles({f"P{i}": 0 for i in range(n)}, 1), rng()).found
        least = replace(found, correct=found.needed)
        if found.needed > n:
            continue
        from fieldtally.core.panels.discriminating import discriminate

        sentence = told(discriminate("triangle", n, least.needed))
        assert "between 0 %" not in sentence
        assert "at least 0 %" not in sentence


# Orders


@pytest.mark.parametrize("people", [1, 2, 3, 5, 7, 12, 13, 31, 60])
@pytest.mark.parametrize("sets", range(1, 7))
def test_orders_are_balanced_within_and_over_people(people, sets):
    for method, things in (*((one, 2) for one in CYCLES), ("ranking", 4), ("naming", 3)):
        plan = serving_plan(method, people, Draw("b", f"{method}{people}{sets}"), sets=sets, things=things)
        cycle = cycle_of(method, things)
        for rows in ([plan], [[one for one in plan if one.assessor == i] for i in range(people)]):
            for own in rows:
                counts = Counter(one.order for one in own)
                assert max(counts.values()) - min(counts[order] for order in cycle) <= 1, method


def test_a_panel_that_stops_early_is_balanced_too():
    plan = serving_plan("triangle", 10, Draw("b", "early"), sessions=4)
    for until in range(1, 5):
        counts = Counter(one.order for one in plan if one.session < until)
        assert max(counts.values()) - min(counts[order] for order in CYCLES["triangle"]) <= 1


def test_an_added_session_gives_each_person_what_they_had_least():
    first = serving_plan("triangle", 7, Draw("b", "first"), sets=4)
    own = [Counter(one.order for one in first if one.assessor == i) for i in range(7)]
    more = serving_plan(
        "triangle", 7, Draw("b", "more"), sets=2, before=Before(Counter(one.order for one in first), own)
    )
    for i in range(7):
        assert set(Counter(one.order for one in (*first, *more) if one.assessor == i).values()) == {1}


@pytest.mark.parametrize("people", [2, 4, 6, 12])
def test_not_everybody_gets_one_order_in_all_sets(people):
    same = sum(
        len({tuple(one.order for one in plan if one.assessor == i) for i in range(people)}) == 1
        for plan in (serving_plan("2-afc", people, Draw("s", str(n)), sets=2) for n in range(200))
    )
    # Two orders, both balanced: half get AB first and half BA.
    assert same == 0


def test_neither_a_neighbours_order_nor_ones_own_earlier_one_tells_the_next():
    own: dict[str, Counter[str]] = {}
    neighbour: dict[str, Counter[str]] = {}
    for n in range(1_200):
        plan = serving_plan("triangle", 4, Draw("f", str(n)), sets=2)
        by = [[one.order for one in plan if one.assessor == i] for i in range(4)]
        for first, second in by:
            own.setdefault(first, Counter())[second] += 1
        neighbour.setdefault(by[0][0], Counter())[by[1][0]] += 1
    for first, after in own.items():
        # Of the five orders that balance leaves for a person, each as often as any other.
        rest = [after[order] for order in CYCLES["triangle"] if order != first]
        assert after[first] == 0
        assert max(rest) - min(rest) < 0.2 * sum(rest) / 5 + 4 * np.sqrt(sum(rest) / 5)
    for first, beside in neighbour.items():
        rest = [beside[order] for order in CYCLES["triangle"] if order != first]
        assert max(rest) < 0.45 * sum(rest)
