"""Scales answer alike: what may stand on them, and what is meant by a text."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldtally.core.problems import Refused
from fieldtally.core.scales import (
    CountScale,
    CurveScale,
    EventScale,
    GradeScale,
    LadderScale,
    Level,
    MeasurementScale,
    NoteScale,
    PassFailScale,
    PercentScale,
    Shade,
    ShadeScale,
    honest,
    number_in,
    unit_of,
)
from fieldtally.core.scales.templates import TEMPLATES

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
    assert number_in(honest(value)) == pytest.approx(value, rel=0.005, abs=1e-12)


@pytest.mark.parametrize(
    ("anchors", "says"),
    [
        (("0–10 % brown", "5–30 % brown"), "7.5 would fit level 0 as well as this one; 10–30 would not overlap."),
        (("20 to 40 spots", "10 to 30 spots"), "25 would fit level 0 as well as this one; 10–20 would not overlap."),
        (("0–10 % brown", "10–30 % brown"), None),
        (("0–10 % brown", "5–30 spots"), None),
        (("a few spots", "many spots"), None),
    ],
)
def test_anchors_that_overlap_are_said_with_what_would_not(anchors, says):
    scale = GradeScale(tuple(Level(i, str(i), anchor) for i, anchor in enumerate(anchors)))
    assert [(p.at, p.says) for p in scale.problems()] == ([("levels.1.anchor", says)] if says else [])


CHART = ShadeScale((Shade("pale", "#ffeecc"), Shade("deep", "#553311")))


@pytest.mark.parametrize(
    ("scale", "where"),
    [
        (PercentScale("brown", 0), "resolution"),
        (ShadeScale((Shade("one"),)), "steps"),
        (ShadeScale((Shade("a"), Shade(" A "))), "steps.1.label"),
        (ShadeScale((Shade("a"), Shade(""))), "steps.1.label"),
        (ShadeScale((Shade("a", "brown"), Shade("b"))), "steps.0.swatch"),
        (ShadeScale((Shade("a", "#AABBCC"), Shade("b", "#aabbcc"))), "steps.1.swatch"),
        (EventScale(" "), "what"),
        (LadderScale("", (5.0, 10.0)), "unit"),
        (LadderScale("kg", (5.0,)), "steps"),
        (LadderScale("kg", (5.0, 5.0)), "steps"),
        (LadderScale("kg", (0.0, 5.0)), "steps"),
        (LadderScale("kg", (5.0, 10.0), 0), "repeats"),
        (CurveScale("", "kg", (1.0, 2.0)), "unit"),
        (CurveScale("mm", "", (1.0, 2.0)), "step_unit"),
        (CurveScale("mm", "kg", tuple(float(n) for n in range(90))), "steps"),
    ],
)
def test_each_flaw_of_a_scale_is_said_at_its_field(scale, where):
    assert where in {p.at for p in scale.problems()}


@pytest.mark.parametrize(
    ("scale", "text", "value"),
    [
        (PercentScale(), "35 %", 35),
        (PercentScale(), "120", None),
        (CHART, "Deep", 2),
        (CHART, "1.5", None),
        (ShadeScale(CHART.steps, between=True), "1,5", 1.5),
        (EventScale("wilt"), "not yet", 0),
        (EventScale("wilt"), "maybe", None),
        (LadderScale("kg", (5.0, 10.0)), "10 kg", 10),
        (LadderScale("kg", (5.0, 10.0)), "7", None),
        (CurveScale("mm", "kg", (1.0, 2.0)), "3.5", 3.5),
        (NoteScale(), "lovely", None),
    ],
)
def test_what_people_write_is_read_on_each_scale(scale, text, value):
    if value is None:
        with pytest.raises(Refused):
            scale.parse(text)
    else:
        assert scale.parse(text) == value
        assert scale.refusal(value) is None


def test_templates_are_sound_and_scales_tell_their_units():
    for template in TEMPLATES:
        for attribute in template.attributes:
            assert attribute.scale.problems() == [], template.key
    assert len({template.key for template in TEMPLATES}) == len(TEMPLATES)
    assert [
        unit_of(s) for s in (CHART, PercentScale(), NoteScale(), CurveScale("mm", "kg", (1.0, 2.0)), EventScale("x"))
    ] == [
        "steps",
        "%",
        "",
        "mm per kg",
        "share",
    ]


@given(st.lists(st.floats(-100, 100), min_size=3, max_size=8), st.floats(-50, 50), st.floats(-9, 9))
def test_the_slope_of_a_curve_is_that_of_the_straight_line_in_it(steps, start, slope):
    steps = tuple(sorted({round(step, 1) for step in steps}))
    if len(steps) < 2:
        return
    curve = CurveScale("mm", "kg", steps)
    line = tuple(start + slope * step for step in steps)
    assert curve.number_of(line) == pytest.approx(slope, abs=1e-6)
    assert CurveScale("mm", "kg", steps, "last").number_of(line) == line[-1]
    with pytest.raises(Refused):
        curve.number_of((*line, 1.0))
    with pytest.raises(Refused):
        curve.number_of(line[:1])
