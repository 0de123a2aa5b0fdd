"""What a panel found, put together from its judgements."""

from dataclasses import replace

import numpy as np
import pytest

from fieldtally.core.panels.answering import answer_refusal, grades_refusal
from fieldtally.core.panels.discriminating import discriminate
from fieldtally.core.panels.grading import PanelAttribute
from fieldtally.core.panels.judged import Judged
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.result import panel_finding
from fieldtally.core.panels.serving import is_right, serving_plan
from fieldtally.core.randomness import Draw

PLAN = PanelPlan("Leaf or none", things=("plain", "vine"), preference=True, chips=("crisp", "soft"))


def rng():
    return np.random.default_rng(4)


def triangle(right: int, of: int, **more) -> list[Judged]:
    """So many judgements, the first of them right, each by somebody else."""
    found = []
    for one in serving_plan("triangle", of, Draw("a", "b")):
        i = one.assessor
        good = next(p for p in range(3) if is_right("triangle", one.order, [p]))
        answer = good if i < right else (good + 1) % 3
        liked = one.order.index("B") if i % 3 else -1
        found.append(Judged(f"P{i}", ("naive", "trained")[i % 2], 0, one.order, (answer,), liked, ("crisp",), **more))
    return found


def test_a_triangle_is_told_in_a_sentence_and_in_its_parts():
    judged = triangle(14, 24)
    found = panel_finding(PLAN, judged, rng())
    assert (
        found.sentence == "14 of 24 found the odd one; 13 were needed. About 38 % truly notice, between 5 % and 67 %."
    )
    assert found.found == discriminate("triangle", 24, 14)
    assert sum(found.chance) == pytest.approx(1)
    assert [(one.name, one.n, one.right) for one in found.experience] == [("naive", 12, 7), ("trained", 12, 7)]
    assert {one.name for one in found.places} == {"cup 1", "cup 2", "cup 3"}
    assert sum(one.right for one in found.places) == 14
    assert found.persons is None
    assert found.settle is None
    everybody, those = found.preference.everybody[0], found.preference.those_right[0]
    assert (everybody.first, everybody.second, everybody.none) == (0, 16, 8)
    assert those.second + those.none == 14
    assert found.words == {"": {"crisp": 8}, "B": {"crisp": 16}}


def test_who_does_not_count_is_told_both_ways():
    judged = triangle(14, 24)
    judged[0] = replace(judged[0], left_out="poured the cups")
    without = panel_finding(PLAN, judged, rng())
    with_all = panel_finding(PLAN, judged, rng(), everybody=True)
    assert (without.n, with_all.n) == (23, 24)
    assert without.left_out == ((judged[0].person, "poured the cups"),)


def test_a_near_miss_is_no_proof_of_sameness_and_says_how_many_would_settle_it():
    found = panel_finding(PLAN, triangle(11, 24), rng())
    assert "does not show that there is none" in found.sentence
    assert found.settle > 24
    alike = panel_finding(replace(PLAN, school="alike", limit=0.5), triangle(8, 24), rng())
    assert alike.alike is True
    assert "fewer than 50 % is shown" in alike.sentence
    unlike = panel_finding(replace(PLAN, school="alike", limit=0.3), triangle(11, 24), rng())
    assert "may not be called alike" in unlike.sentence


def test_several_judgements_of_one_person_are_told_by_person():
    judged = [replace(one, person=f"P{i % 6}", session=i // 6) for i, one in enumerate(triangle(14, 24))]
    found = panel_finding(PLAN, judged, rng())
    assert (found.persons.persons, found.persons.judgements) == (6, 24)
    assert [one.n for one in found.sessions] == [6, 6, 6, 6]


def test_names_are_counted_by_what_was_in_the_cup_not_by_its_place():
    plan = PanelPlan("Which is which", method="naming", things=("a", "b", "c"))
    judged = [Judged("P1", "naive", 0, "CAB", (2, 0, 1)), Judged("P2", "naive", 0, "BAC", (0, 1, 2))]
    found = panel_finding(plan, judged, rng())
    assert found.named.right == 4
    assert found.named.table == ((1, 1, 0), (1, 1, 0), (0, 0, 2))
    assert "4 of 6 were named right" in found.sentence


def test_ranks_are_counted_by_what_was_in_the_cup():
    plan = PanelPlan("In order", method="ranking", things=("a", "b", "c"))
    judged = [
        Judged(f"P{i}", "naive", 0, order, tuple(order.index(x) for x in "BAC"))
        for i, order in enumerate(("ABC", "CAB", "BCA", "ACB", "BAC"))
    ]
    found = panel_finding(plan, judged, rng())
    assert found.ranked.means == (2.0, 1.0, 3.0)
    assert found.sentence == "Of 5 rankings, B stands in front."


def test_yes_or_no_and_preference_have_sentences_of_their_own():
    yes = PanelPlan("Same", method="same-different", things=("a", "b"))
    judged = [
        Judged(f"P{i}", "naive", 0, order, (int(order in ("AB", "BA")),))
        for i, order in enumerate(("AA", "AB", "BB", "BA") * 4)
    ]
    found = panel_finding(yes, judged, rng())
    assert found.sentence == "Told apart: yes was said 8 of 8 times where it was so, and 0 of 8 where it was not."
    liking = PanelPlan("Liked", method="preference", things=("a", "b"))
    found = panel_finding(liking, [Judged(f"P{i}", "naive", 0, "BA", (1 if i < 6 else -1,)) for i in range(8)], rng())
    assert found.sentence == "6 like A better, 0 B, 2 neither."
    assert panel_finding(liking, [], rng()).sentence == "Nobody has judged yet."


@pytest.mark.parametrize(
    ("method", "cups", "sound", "unsound"),
    [
        ("triangle", 3, (2,), (3,)),
        ("abx", 3, [1], [2]),
        ("grading", 3, [], [1]),
        ("duo-trio", 3, (1,), (0,)),
        ("tetrad", 4, (0, 3), (1, 1)),
        ("a-not-a", 1, (1,), (2,)),
        ("naming", 3, (2, 0, 1), (0, 0, 1)),
        ("ranking", 3, (2, 0, 1), (0, 1)),
        ("preference", 2, (-1,), (2,)),
    ],
)
def test_an_answer_has_the_shape_of_its_test(method, cups, sound, unsound):
    assert answer_refusal(method, cups, sound) == ""
    assert answer_refusal(method, cups, unsound)


def test_a_panel_that_was_looked_at_is_told_by_its_looks():
    plan = replace(PLAN, looks=2, assessors=24)
    early = panel_finding(plan, triangle(8, 12), rng())
    assert early.sentence.startswith("At the look after 12 answers 8 of 12 found the odd one; 8 were needed then.")
    assert early.monitored.crossed == 0
    assert early.settle is None
    short = panel_finding(plan, triangle(4, 20), rng())
    assert short.sentence.startswith("Ended before its last look. 4 of 20")
    whole = panel_finding(plan, triangle(9, 24)[::-1], rng())
    assert "9 of 24 found the odd one; 13 were needed" in whole.sentence
    assert panel_finding(plan, triangle(5, 6), rng()).monitored is None


def test_everybody_is_told_one_by_one_and_words_of_their_own_count():
    judged = triangle(2, 4)
    judged[1] = replace(judged[1], words="Very sour, and the SOUR one was soft")
    found = panel_finding(PLAN, judged, rng())
    assert [(one.name, one.n, one.right) for one in found.people] == [
        ("P0", 1, 1),
        ("P1", 1, 1),
        ("P2", 1, 0),
        ("P3", 1, 0),
    ]
    assert found.words["B"] == {"crisp": 2, "sour": 1, "soft": 1}
    assert found.comments == (("B", "Very sour, and the SOUR one was soft"),)


def test_what_came_closest_is_told_as_a_lead_and_no_result():
    judged = [replace(one, experience="trained" if i < 6 else "naive") for i, one in enumerate(triangle(6, 24))]
    found = panel_finding(PLAN, judged, rng())
    assert found.closest.startswith("It came closest with trained: 6 of 6 right")
    assert "no result" in found.closest
    assert panel_finding(PLAN, triangle(20, 24), rng()).closest == ""


def test_alike_enough_marks_the_largest_count_that_would_do():
    plan = replace(PLAN, school="alike", limit=0.3)
    found = panel_finding(plan, triangle(14, 60), rng())
    assert found.alike == (found.most >= 14)
    assert not panel_finding(plan, triangle(found.most + 1, 60), rng()).alike
    assert panel_finding(plan, triangle(found.most, 60), rng()).alike


def test_a_grading_and_a_choice_of_several_have_sentences():
    things = ("plain", "vine", "oak")
    plan = PanelPlan("Grades", "grading", things, attributes=(PanelAttribute("Crunch"), PanelAttribute("Sour")))
    judged = [Judged(f"P{i}", "naive", 0, "ABC", (), grades=((2, 8, 3), (5, 5, 5))) for i in range(12)]
    found = panel_finding(plan, judged, rng())
    assert found.sentence == "Graded by 12: Crunch: most in B; Sour: no difference shown."
    assert found.graded[0].means == (2, 8, 3)
    flat = panel_finding(plan, [replace(one, grades=((5, 5, 6), (5, 5, 5))) for one in judged[:2]], rng())
    assert flat.closest.startswith("Closest to apart are")
    liking = PanelPlan("Likes", "preference", things)
    chosen = [Judged(f"P{i}", "naive", 0, "CAB", (1 if i else -1,), words="crisp") for i in range(12)]
    best = panel_finding(liking, chosen, rng())
    assert best.sentence == "Of 11 who chose, A is liked best: A 11, B 0, C 0."
    assert best.favoured.none == 1
    assert best.words == {"": {"crisp": 1}, "A": {"crisp": 11}}


def test_grades_have_the_shape_of_what_is_asked():
    asked = (PanelAttribute("Crunch", steps=5),)
    assert grades_refusal(asked, 2, [[0, 5]]) == ""
    assert grades_refusal(asked, 3, [[None, 4, 5]]) == ""
    for wrong in ([], [[1]], [[1, 6]], [[-1, 2]], [[None, None]], [[1, 2], [3, 4]]):
        assert grades_refusal(asked, 2, wrong)
