"""A trial told in somebody's own words: what is understood, what stands at which words, what is asked, and what is put right."""

import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from benchmarks.descriptions import SETS, measured, told
from fieldtally.core.describing.description import LONGEST, Righted, describe
from fieldtally.core.describing.patterns import PATTERNS
from fieldtally.core.describing.words import NUMBER
from fieldtally.core.problems import Refused

TEXTS = [one for name in SETS for one in told(name)]


@pytest.mark.parametrize(("name", "least"), [(name, 0.98 if name == "written" else 0.95) for name in SETS])
def test_most_of_what_people_tell_is_understood_at_once(name, least):
    score = measured(name)
    print(f"{name}: {score.share:.1%} of {sum(score.there.values())} parts, {score.whole} of {score.texts} whole")
    assert score.share >= least, score.amiss
    assert all(score.right[part] >= 0.85 * score.there[part] for part in score.there)


def test_there_are_more_than_three_hundred_of_all_kinds():
    assert len({one.text for one in TEXTS}) >= 340
    kinds = {said.split(":")[1] for one in TEXTS for said in one.says.get("O", [])}
    assert kinds >= {"measurement", "count", "grade", "percent", "passfail", "event", "shade"}


@pytest.mark.parametrize("one", TEXTS, ids=lambda one: one.text[:30])
def test_nothing_is_understood_without_a_mark(one):
    found = describe(one.text)
    by_part = {part: [m for m in found.marks if m.part == part] for part in {m.part for m in found.marks}}
    named = " ".join(m.says.casefold() for m in found.marks if m.part in ("treatment", "control", "place"))
    for treatment in found.treatments:
        name = treatment.name.casefold()
        assert (name.rsplit(" ", 1)[0] if treatment.unnamed else name) in named or name.split()[-1] in named, treatment
    assert bool(found.outcomes) == ("outcome" in by_part)
    assert bool(found.looks.looks or found.looks.unsaid) == ("look" in by_part)
    if found.places:
        assert "place" in by_part
    if found.each is not None:
        assert any(
            m.part == "number" or re.search(rf"\d|{NUMBER}|half", one.text[m.begin : m.end], re.I) for m in found.marks
        )


def sound(text, found):
    assert all(0 <= m.begin < m.end <= len(text) for m in found.marks)
    assert all(a.end <= b.begin for a, b in zip(found.marks, found.marks[1:], strict=False))
    assert all(m.says for m in found.marks)
    assert all(one.name.strip() for one in (*found.treatments, *found.outcomes, *found.looks.looks))
    assert all(name.strip() for name in found.places)


TOLD = "four twines five each on the sunny fence and in shade load till they break after 20 weeks every 2 days for a month half"
SIGNS = (
    "0-5 ( ) , ; . : / % kg mm n=4 vs or not no yes with without control untreated 1 3 7 compare which count per 🌱 é"
)
WORDS = [*TOLD.split(), *SIGNS.split(), "\n"]


@settings(max_examples=300, deadline=None)
@given(st.lists(st.sampled_from(WORDS), max_size=40).map(" ".join))
def test_any_words_in_any_order_are_read_and_marked_once(text):
    sound(text, describe(text))


@settings(max_examples=200, deadline=None)
@given(st.text(max_size=200))
def test_any_characters_are_read(text):
    sound(text, describe(text))


@pytest.mark.parametrize(
    "text", ["a" * LONGEST, "a-" * (LONGEST // 2), " " * LONGEST, "day 1, " * 500, "(" * LONGEST, "a vs " * 800]
)
def test_texts_made_to_be_slow_are_read(text):
    sound(text, describe(text))


def test_a_text_that_is_too_long_is_refused_at_its_place():
    with pytest.raises(Refused) as refused:
        describe("a" * (LONGEST + 1))
    assert refused.value.problems[0].at == "text"


def test_what_is_open_is_asked_in_order_of_what_it_decides():
    asked = [one.says for one in describe("Does nettle tea help?").asked]
    assert asked[0] == "“Nettle tea” against what? Name each on a line, or with “or” between them."
    assert "What will you look at" in asked[1]
    assert "When do you look" in asked[-1]
    said = " ".join(
        one.says for one in describe("four twines, five each, in the sun and in the shade; load after 3 weeks").asked
    )
    assert "names of the 4" in said
    assert "Which of them is the control" in said
    assert "5 of each in every place, as taken here, or in all?" in said
    assert "In what unit is “Load” measured?" in said
    assert (
        "at the end of the season"
        in describe("jute or hemp, 5 each, load in kg at the end of the season").asked[-1].says
    )


@pytest.mark.parametrize(
    ("text", "about"),
    [
        ("Kombucha: does a second fermentation with ginger taste different? 24 tasters, triangle.", "tasting"),
        ("For the harvest supper: two ciders. Can 24 people tell them apart?", "tasting"),
        ("Do my two scales agree? 25 parcels, weighed on both, kg", "instruments"),
        ("3 thermometers, are they reading the same? Dip each in the same jars.", "instruments"),
    ],
)
def test_what_is_planned_in_another_way_is_asked(text, about):
    assert [one.about for one in describe(text).asked if one.about in ("tasting", "instruments")] == [about]


@pytest.mark.parametrize(
    "text",
    ["Jute or hemp, 5 each; load in kg after 4 weeks.", "Do the scorers agree? 4 paints; gloss 0-5 weekly, 4 weeks."],
)
def test_nothing_else_is_asked_of_what_is_no_tasting(text):
    assert not [one for one in describe(text).asked if one.about in ("tasting", "instruments")]


@pytest.mark.parametrize(
    ("text", "never"),
    [
        ("three blends, twelve people, each tries each, without knowing", "people"),
        ("Put nails in 8 pots and leave 8 pots as they are.", "pot 1"),
        ("treatment,samples\nvinegar,6\nwater,6\nnothing,6\nweeds alive % after 1 and 3 days", "samples"),
        ("Nematodes or beer traps against slugs, and some left alone. Six hostas of each kind.", "slugs"),
    ],
)
def test_who_tastes_what_holds_and_what_it_is_against_is_not_compared(text, never):
    assert not [one.name for one in describe(text).treatments if never in one.name.casefold()]


def test_a_number_in_all_is_parted_and_what_is_over_is_told():
    found = describe("30 pots in all; peat, coir, bark or sand. Height in cm.")
    assert found.each == 7
    assert any("2 would be left over" in one.says for one in found.asked)


def righted(text, piece, part):
    begin = text.index(piece)
    return Righted(begin, begin + len(piece), piece, part)


def test_a_mark_is_set_right_in_place():
    text = "Ladder stain: teak oil, deck stain, 3 boards each. Sheen now and then."
    wrong = describe(text)
    assert [one.name for one in wrong.treatments] == ["Teak oil", "Deck stain"]
    right = describe(text, [righted(text, "Sheen", "outcome"), righted(text, "deck stain", "control")])
    assert [(one.name, one.kind) for one in right.treatments] == [
        ("Teak oil", "treatment"),
        ("Deck stain", "untreated"),
    ]
    assert [one.name for one in right.outcomes] == ["Sheen"]
    assert any("On what scale is “Sheen”" in one.says for one in right.asked)
    sound(text, right)
    without = describe(text, [righted(text, "teak oil", "nothing")])
    assert "Teak oil" not in [one.name for one in without.treatments]
    looked = describe("jute or hemp, on the Monday", [righted("jute or hemp, on the Monday", "on the Monday", "look")])
    assert any("How many days after the start is “on the Monday”" in one.says for one in looked.asked)
    many = describe("jute or hemp, plenty 12 of", [righted("jute or hemp, plenty 12 of", "plenty 12 of", "number")])
    assert many.each == 12


def test_what_was_put_right_in_a_text_that_has_changed_since_counts_no_longer():
    old = Righted(0, 4, "jute", "nothing")
    assert [one.name for one in describe("hemp or sisal, 4 each", [old]).treatments] == ["Hemp", "Sisal"]


@pytest.mark.parametrize("pattern", PATTERNS, ids=lambda one: one.name)
def test_a_pattern_leaves_nothing_open(pattern):
    found = describe(pattern.text)
    assert found.asked == ()
    assert len(found.treatments) >= 2
    assert found.each
    assert found.each >= 6
    assert not any(" or" in one.name for one in found.treatments)
    assert sum(one.kind != "treatment" for one in found.treatments) == 1
    assert found.outcomes
    assert found.looks.looks
    assert found.question


def test_places_of_marks_hold_with_blanks_on_end_and_letters_of_two_parts():
    text = "🌱🌱   jute      or   hemp,    5 each"
    found = describe(text)
    assert {text[m.begin : m.end] for m in found.marks if m.part == "treatment"} == {"jute", "hemp"}
    assert found.each == 5


@pytest.mark.parametrize(
    ("text", "places"),
    [
        (
            "Beet, soot or curry? On three cloths: cotton, linen and wool. Stain graded 0 to 5 after 2 days.",
            ["Cotton", "Linen", "Wool"],
        ),
        ("Lime, vinegar and soap against mildew on 2 walls (kitchen, bath) after 3 weeks", ["Kitchen", "Bath"]),
        ("lettuce, cut in three ways: whole, halved, shredded; colour after 2 days", []),
        ("height in three months: march, april and may", []),
    ],
)
def test_a_list_of_as_many_as_were_said_names_the_places(text, places):
    assert list(describe(text).places) == places
