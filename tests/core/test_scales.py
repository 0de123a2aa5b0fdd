"""Scales answer alike: what may stand on them, and what is meant by a text."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldtally.core.problems import Refused
from fieldtally.core.scales import CountScale, GradeScale, Level, MeasurementScale, PassFailScale, honest, number_in

STARS = GradeScale(tuple(Level(i, str(i), f"anchor {i}") for i in range(6)))
LETTERS = GradeScale((Level(0, "F"), Level(1, "C"), Level(2, "B"), Level(3, "A+")))


@pytest.mark.parametrize(
    ("scale", "text", "value"),
    [
        (STARS, " 3 ", 3),
        (LETTERS, "a+", 3),
        (MeasurementScale("mL", low=0), "12,5 mL", 12.5),
        (MeasurementScale("°C"), "−4", -4),
        (CountScale(20), "20", 20),
        (PassFailScale("all on", "some fallen"), "Some fallen", 0),
        (PassFailScale(), "yes", 1),
    ],
)
def test_text_is_read_as_people_write_it(scale, text, value):
    assert scale.parse(text) == value
    assert scale.refusal(value) is None


@pytest.mark.parametrize(
    ("scale", "text", "word"),
    [
        (STARS, "6", "0, 1, 2, 3, 4, 5"),
        (STARS, "", "missing"),
        (MeasurementScale("mL", low=0, high=400), "-1", "below"),
        (MeasurementScale("mL", low=0, high=400), "401", "above"),
        (MeasurementScale("mL"), "1_000", "not a number"),
        (MeasurementScale("mL"), "nan", "not a number"),
        (MeasurementScale("mL"), "1e300", "too large"),
        (CountScale(), "1e300", "too large"),
        (CountScale(20), "21", "more than the 20"),
        (CountScale(), "2.5", "whole"),
        (CountScale(), "-1", "below 0"),
        (PassFailScale(), "maybe", "neither"),
    ],
)
def test_what_cannot_stand_is_refused_in_a_sentence(scale, text, word):
    with pytest.raises(Refused) as refused:
        scale.parse(text)
    assert word in refused.value.problems[0].says


@pytest.mark.parametrize(
    ("scale", "at"),
    [
        (GradeScale((Level(0, "0"),)), "levels"),
        (GradeScale((Level(0, "a"), Level(1, "A"))), "levels.1.label"),
        (GradeScale((Level(1, "a"), Level(1, "b"))), "levels.1.value"),
        (GradeScale((Level(0, "0", "limp"), Level(1, "1", "Limp "))), "levels.1.anchor"),
        (MeasurementScale(" "), "unit"),
        (MeasurementScale("mL", low=5, high=5), "high"),
        (CountScale(0), "of"),
        (PassFailScale("same", "Same"), "fail_word"),
    ],
)
def test_an_unsound_scale_says_where(scale, at):
    assert at in [problem.at for problem in scale.problems()]


@given(st.floats(-1e9, 1e9, allow_nan=False))
def test_honest_digits_stay_within_half_a_unit_of_the_third_digit(value):
    assert number_in(honest(value)) == pytest.approx(value, rel=0.005, abs=1e-300)
