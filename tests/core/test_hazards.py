"""Hazards are found where they are written, pairs that must not meet where they meet; batches and shelf life."""

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldtally.core.dosing.batch import batch, shelf_life_problem
from fieldtally.core.hazards.catalogue import DEFERS, FORBIDDEN, HAZARDS
from fieldtally.core.hazards.finding import Use, cautions_for, clashes_in
from fieldtally.core.problems import Refused


def keys(*words):
    return {caution.key for caution in cautions_for([Use(f"treatments.{i}", text) for i, text in enumerate(words)])}


@pytest.mark.parametrize(
    ("words", "expected"),
    [
        ("Household bleach, thick", {"bleach"}),
        ("White vinegar 5 %", {"acid"}),
        ("Acid-free paper", set()),
        ("unbleached cotton", set()),
        ("bottled gherkins with mustard and celery", {"preserve", "allergen"}),
        ("Garden twine, breaking load", {"load"}),
        ("plain water", set()),
        ("LYE flakes", {"caustic"}),
    ],
)
def test_hazards_are_known_by_their_words(words, expected):
    assert keys(words) == expected


def test_every_caution_defers_and_none_calls_anything_safe():
    every = cautions_for([Use("x", hazard.words[0]) for hazard in HAZARDS])
    assert {caution.key for caution in every} >= {hazard.key for hazard in HAZARDS}
    for caution in every:
        assert caution.defers == DEFERS
        assert caution.usual
        assert "safe" not in " ".join((*caution.usual, caution.name)).casefold().replace("safety", "").split()


@pytest.mark.parametrize("pair", FORBIDDEN, ids=lambda pair: f"{pair.first}-{pair.second}")
def test_each_forbidden_pair_is_found_in_one_vessel_either_way_round(pair):
    word = {hazard.key: hazard.words[0] for hazard in HAZARDS}
    for first, second in ((pair.first, pair.second), (pair.second, pair.first)):
        uses = [Use("a", word[first], "tub"), Use("b", word[second], "Tub")]
        assert any(pair.because in clash.says for clash in clashes_in(uses))
        apart = [Use("a", word[first], "tub"), Use("b", word[second], "jar")]
        assert not any(pair.because in clash.says for clash in clashes_in(apart))


def test_a_cleaning_step_meets_every_vessel_and_one_mix_can_clash_with_itself():
    uses = [
        Use("treatments.0", "bleach 1:10", "tray A"),
        Use("treatments.1", "water", "tray B"),
        Use("clean", "vinegar rinse"),
    ]
    (clash,) = clashes_in(uses)
    assert (clash.first, clash.second) == ("treatments.0", "clean")
    assert clash.says.endswith(DEFERS)
    assert "in tray A" in clash.says
    (own,) = clashes_in([Use("mix", "bleach with a little ammonia", "tub")])
    assert (own.first, own.second) == ("mix", "mix")
    assert clashes_in([Use("a", "bleach", "tub"), Use("b", "bleach", "tub")]) == ()


@given(st.floats(0.001, 1e4), st.integers(1, 500), st.floats(0, 2), st.floats(0.01, 1e4), st.floats(0, 100))
def test_packs_cover_what_is_needed_and_one_fewer_would_not(dose, samples, overage, pack, price):
    found = batch(dose, samples, overage=overage, pack=pack, price=price)
    assert found.needed == pytest.approx(dose * samples * (1 + overage))
    assert found.packs * pack >= found.needed * (1 - 1e-6)
    assert (found.packs - 1) * pack < found.needed * (1 + 1e-6)
    assert found.left == pytest.approx(found.packs * pack - found.needed)
    assert found.cost == pytest.approx(found.packs * price)


def test_a_batch_without_a_pack_has_no_cost_and_nonsense_is_refused():
    assert batch(2.0, 10).packs is None
    for wrong in (
        lambda: batch(1, 0),
        lambda: batch(-1, 3),
        lambda: batch(1, 3, pack=0),
        lambda: batch(1, 3, pack=1, price=-1),
    ):
        with pytest.raises(Refused):
            wrong()


def test_a_product_that_does_not_last_is_told():
    last = date(2026, 6, 30)
    assert "past its date" in shelf_life_problem(last, date(2026, 6, 1), None, None)
    assert "keeps until 2026-06-11" in shelf_life_problem(last, None, date(2026, 6, 1), 10)
    assert shelf_life_problem(last, date(2026, 7, 1), date(2026, 6, 1), 40) is None


def test_kitchen_sugar_alone_asks_for_no_caution_but_still_must_not_meet_an_oxidiser():
    assert cautions_for([Use("a", "White sugar")]) == ()
    assert [one.key for one in cautions_for([Use("a", "sawdust and sugar")])] == ["fuel"]
    assert clashes_in([Use("a", "White sugar", "pan"), Use("b", "saltpetre", "pan")])
