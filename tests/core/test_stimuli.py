"""The same question over several songs, dishes or fields; what is read of factors, of one person alone; and the seal of a panel."""

from collections import Counter
from dataclasses import replace

import numpy as np
import pytest

from fieldtally.core.panels.finding import wholly_told
from fieldtally.core.panels.judged import Judged
from fieldtally.core.panels.persons import answers_apart_p, factor_read, within_persons_p
from fieldtally.core.panels.plan import PanelPlan, problems_in
from fieldtally.core.panels.result import own_result, panel_finding
from fieldtally.core.panels.sealing import first_dealt, panel_seal, recorded_of
from fieldtally.core.panels.serving import KINDS, cycle_of, is_right, serving_plan
from fieldtally.core.panels.several import alike_by_person, enough_alike
from fieldtally.core.randomness import Draw
from tests.depth import plays

SONGS = ("The reel", "The air", "The march")
PLAN = PanelPlan("By ear", things=("a", "b"), assessors=12, stimuli=SONGS)
NAMES = ("Brass", "Gut")


def judged(plan, right, people=12, seed="s"):
    """Answers in which each is right as ``right(person, stimulus)`` says, and chooses a wrong cup by turns else."""
    found = []
    dealt = serving_plan(plan.method, people, Draw(seed, "t"), sets=plan.sets, stimuli=max(1, len(plan.stimuli)))
    for i, one in enumerate(dealt):
        good = next(p for p in range(3) if is_right("triangle", one.order, [p]))
        place = good if right(one.assessor, one.stimulus) else (good + 1 + i % 2) % 3
        person, used = f"P{one.assessor}", ("naive", "trained")[one.assessor % 2]
        found.append(Judged(person, used, one.session, one.order, (place,), stimulus=one.stimulus))
    return found


@pytest.mark.parametrize("people", [1, 2, 3, 7, 12, 24])
@pytest.mark.parametrize("method", ["triangle", "2-afc", "same-different", "a-not-a", "ranking"])
@pytest.mark.parametrize("stimuli", [2, 3, 5])
def test_everybody_gets_each_stimulus_and_the_orders_stay_balanced_both_ways(method, people, stimuli):
    things = 4 if method == "ranking" else 2
    dealt = serving_plan(method, people, Draw("b", f"{method}{people}"), sets=2, things=things, stimuli=stimuli)
    cycle = cycle_of(method, things)

    def even(rows):
        many = Counter(one.order for one in rows)
        return max(many[order] for order in cycle) - min(many[order] for order in cycle) <= 1

    assert even(dealt)
    for person in range(people):
        own = [one for one in dealt if one.assessor == person]
        assert even(own)
        # Each of them in each round, before any comes again.
        assert all(
            sorted(one.stimulus for one in own[start : start + stimuli]) == list(range(stimuli))
            for start in range(0, len(own), stimuli)
        )
        if method in KINDS:
            kinds = Counter(KINDS[method][cycle.index(one.order)] for one in own)
            assert abs(kinds[0] - kinds[1]) <= 1


def test_which_stimulus_comes_first_is_drawn_and_balanced_over_people():
    firsts, patterns = Counter(), Counter()
    for seed in range(40):
        dealt = serving_plan("triangle", 12, Draw(str(seed), "t"), stimuli=3)
        own = Counter(one.stimulus for i, one in enumerate(dealt) if i % 3 == 0)
        assert max(own.values()) - min(own[s] for s in range(3)) <= 1
        firsts += own
        patterns[tuple(one.stimulus for one in dealt[:3])] += 1
    assert len(patterns) >= 5
    assert firsts[0] == firsts[1] == firsts[2] == 160


def test_it_is_told_apart_and_together_with_persons_as_the_unit():
    found = panel_finding(PLAN, judged(PLAN, lambda _, song: song == 0), np.random.default_rng(1), names=NAMES)
    assert (found.n, found.people_counted, found.found.correct) == (36, 12, 12)
    assert found.sentence.startswith("12 people, 3 sets each. 12 of 36 found the odd one")
    assert [(one.name, one.n) for one in found.stimuli] == [(song, 12) for song in SONGS]
    assert found.stimuli[0].sentence.startswith("12 of 12 found the odd one; 8 were needed.")
    assert any(one.startswith("It differs by what it was asked over") for one in found.differs)
    said = wholly_told(found)
    assert said[0] == found.sentence
    assert f"The reel: {found.stimuli[0].sentence}" in said


def test_stimuli_that_do_not_differ_are_said_to_differ_no_more_often_than_the_level():
    rng = np.random.default_rng(2)
    said = 0
    for _ in range(150):
        rows = [[(song, bool(rng.random() < 1 / 3 + 0.5 * (person < 4))) for song in range(3)] for person in range(12)]
        said += within_persons_p(rows, 3, rng) <= 0.05
    assert said <= 15
    p = answers_apart_p([True] * 6 + [False] * 6, [0] * 6 + [1] * 6, rng)
    assert p < 0.01


def test_a_factor_is_recognised_where_the_names_are_not():
    """Nothing, S, M and both: everybody hears whether S is there, nobody hears M."""
    rng = np.random.default_rng(3)
    given = {}
    for person in range(16):
        without, with_s = rng.permutation([0, 2]), rng.permutation([1, 3])
        given[f"P{person}"] = [(int(without[0]), int(with_s[0]), int(without[1]), int(with_s[1]))]
    s = factor_read("S", ("no", "yes", "no", "yes"), given, rng)
    m = factor_read("M", ("no", "no", "yes", "yes"), given, rng)
    assert (s.right, s.of) == (64, 64)
    assert s.by_chance == pytest.approx(64 / 2, abs=0.5)
    assert s.p < 0.001
    assert m.p > 0.05


def test_what_was_liked_is_said_among_all_and_among_the_right_ones():
    plan = replace(PLAN, stimuli=(), preference=True)
    rows = [replace(one, preference=one.order.index("B")) for one in judged(plan, lambda person, _: person < 9)]
    found = panel_finding(plan, rows, np.random.default_rng(1), names=NAMES)
    assert found.liking == (
        "Of all who judged: 0 like Brass better, 12 Gut.",
        "Of the right answers: 0 like Brass better, 9 Gut.",
    )
    assert found.words_right == {}


def test_words_of_those_who_were_right_stand_apart():
    plan = replace(PLAN, stimuli=(), chips=("dull", "bright"))
    rows = [
        replace(one, chips=("bright" if int(one.person[1:]) < 9 else "dull",))
        for one in judged(plan, lambda person, _: person < 9)
    ]
    found = panel_finding(plan, rows, np.random.default_rng(1), names=NAMES)
    assert found.words == {"": {"bright": 9, "dull": 3}}
    assert found.words_right == {"": {"bright": 9}}


def test_one_person_reads_how_they_did():
    rows = judged(PLAN, lambda _, song: song > 0, people=1)
    assert list(own_result(PLAN, rows, NAMES)) == ["You found it in 2 of 3; guessing finds 1 on average."]
    assert list(own_result(PLAN, [], NAMES)) == ["You gave no answer."]
    naming = replace(PLAN, method="naming", things=("a", "b", "c"), stimuli=())
    mine = [Judged("P", "naive", 0, "CAB", (2, 1, 0))]
    assert list(own_result(naming, mine, ("x", "y", "z"))) == [
        "You named 1 of 3 right; guessing gets 1 right on average."
    ]


def test_alike_by_person_is_promised_as_it_is_found():
    rng = np.random.default_rng(4)
    plan = replace(PLAN, stimuli=(), sets=3, assessors=24, school="alike", limit=0.3)
    hits = 0
    many = plays(120, 60)
    for play in range(many):
        rows = judged(plan, lambda _person, _song: bool(rng.random() < 1 / 3), people=24, seed=str(play % 5))
        hits += bool(panel_finding(plan, rows, rng).alike)
    assert hits / many == pytest.approx(alike_by_person("triangle", 24, 3, 0.3, 0.05), abs=0.08 * np.sqrt(120 / many))
    enough = enough_alike("triangle", 3, 0.3, 0.05, 0.8)
    assert alike_by_person("triangle", enough, 3, 0.3, 0.05) >= 0.8


@pytest.mark.parametrize(
    ("more", "at"),
    [
        ({"stimuli": ("One",)}, "stimuli"),
        ({"stimuli": ("One", " one ")}, "stimuli.1"),
        ({"stimuli": ("One", "")}, "stimuli.1"),
        ({"stimuli": tuple(f"S{i}" for i in range(13))}, "stimuli"),
        ({"on": "next Tuesday"}, "on"),
        ({"window": -1}, "window"),
        ({"window": 10**6}, "window"),
    ],
)
def test_what_cannot_be_asked_is_said(more, at):
    plan = replace(PLAN, **more)
    assert at in [one.at for one in problems_in(plan, frozenset("ab"))]


ROW = {"session": 0, "place": 0, "stimulus": 0, "codes": ["1", "2", "3"], "spilt": ""}
ANSWER = dict.fromkeys(("answer", "confidence", "preference", "grades", "chips", "words", "given_at", "stored_at"))


def test_a_panels_seal_is_over_what_was_dealt_first_and_finds_a_swap():
    document = {"title": "By ear", "sets": 1, "sessions": 1}
    served = [{**ROW, **ANSWER, "assessor": n, "order": "ABB"} for n in (1, 2)]
    # Who came late, what was added and what replaces a spilt set were not there when it was sealed.
    later = [{**served[0], "assessor": 3}, {**served[0], "session": 1}, {**served[0], "place": 1}]
    seal = panel_seal(document, "5e", first_dealt(document, 2, served))
    assert seal == panel_seal(document, "5e", first_dealt(document, 2, [*later, *served]))
    panel = {
        "plan": document,
        "seed": "5e",
        "seal": seal,
        "began_with": 2,
        "begun_at": "2027-03-01T19:00:00Z",
        "opened_at": None,
    }
    assert [one for one in recorded_of(panel, [], [*served, *later]) if isinstance(one, str)] == []
    swapped = [{**served[0], "order": "BAA"}, served[1]]
    assert [one for one in recorded_of(panel, [], swapped) if isinstance(one, str)] == [
        "The cups of the panel “By ear” are not those that were sealed."
    ]
    assert list(recorded_of({**panel, "seal": None}, [], swapped)) == []
