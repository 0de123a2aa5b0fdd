"""The photo gauge: colours against published pairs, and measures against rendered photos whose truth is known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fieldtally.core.photos import card
from fieldtally.core.photos.camera import Shot, marked, photo_of, view_of
from fieldtally.core.photos.colour import delta_e, hex_of, lab_of_hex
from fieldtally.core.photos.finding import seen_through
from fieldtally.core.photos.fitting import in_unit_of, measures_for
from fieldtally.core.photos.gauge import Base, measure
from fieldtally.core.photos.lens import find_card
from fieldtally.core.photos.lit import lit_of
from fieldtally.core.photos.marks import KnownLength, Marks, Region, carried_marks
from fieldtally.core.photos.quality import other_light
from fieldtally.core.photos.reading_card import from_card
from fieldtally.core.photos.recipe import Recipe
from fieldtally.core.photos.scenes import CARD_AT, Scene, between, flower, leaf, speckled, stick, strip, truth_of
from fieldtally.core.photos.shades import on_chart
from fieldtally.core.problems import Refused
from fieldtally.core.scales import CountScale, GradeScale, Level, MeasurementScale, PercentScale, Shade, ShadeScale
from tests.depth import cells

# Sharma, Wu & Dalal 2005, table 1: the supplementary test data for CIEDE2000.
PAIRS = """
50.0000 2.6772 -79.7751 50.0000 0.0000 -82.7485 2.0425
50.0000 3.1571 -77.2803 50.0000 0.0000 -82.7485 2.8615
50.0000 2.8361 -74.0200 50.0000 0.0000 -82.7485 3.4412
50.0000 -1.3802 -84.2814 50.0000 0.0000 -82.7485 1.0000
50.0000 -1.1848 -84.8006 50.0000 0.0000 -82.7485 1.0000
50.0000 -0.9009 -85.5211 50.0000 0.0000 -82.7485 1.0000
50.0000 0.0000 0.0000 50.0000 -1.0000 2.0000 2.3669
50.0000 -1.0000 2.0000 50.0000 0.0000 0.0000 2.3669
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0009 7.1792
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0010 7.1792
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0011 7.2195
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0012 7.2195
50.0000 -0.0010 2.4900 50.0000 0.0009 -2.4900 4.8045
50.0000 -0.0010 2.4900 50.0000 0.0010 -2.4900 4.8045
50.0000 -0.0010 2.4900 50.0000 0.0011 -2.4900 4.7461
50.0000 2.5000 0.0000 50.0000 0.0000 -2.5000 4.3065
50.0000 2.5000 0.0000 73.0000 25.0000 -18.0000 27.1492
50.0000 2.5000 0.0000 61.0000 -5.0000 29.0000 22.8977
50.0000 2.5000 0.0000 56.0000 -27.0000 -3.0000 31.9030
50.0000 2.5000 0.0000 58.0000 24.0000 15.0000 19.4535
50.0000 2.5000 0.0000 50.0000 3.1736 0.5854 1.0000
50.0000 2.5000 0.0000 50.0000 3.2972 0.0000 1.0000
50.0000 2.5000 0.0000 50.0000 1.8634 0.5757 1.0000
50.0000 2.5000 0.0000 50.0000 3.2592 0.3350 1.0000
60.2574 -34.0099 36.2677 60.4626 -34.1751 39.4387 1.2644
63.0109 -31.0961 -5.8663 62.8187 -29.7946 -4.0864 1.2630
61.2901 3.7196 -5.3901 61.4292 2.2480 -4.9620 1.8731
35.0831 -44.1164 3.7933 35.0232 -40.0716 1.5901 1.8645
22.7233 20.0904 -46.6940 23.0331 14.9730 -42.5619 2.0373
36.4612 47.8580 18.3852 36.2715 50.5065 21.2231 1.4146
90.8027 -2.0831 1.4410 91.1528 -1.6435 0.0447 1.4441
90.9257 -0.5406 -0.9208 88.6381 -0.8985 -0.7239 1.5381
6.7747 -0.2908 -2.4247 5.8714 -0.0985 -2.2286 0.6377
2.0776 0.0795 -1.1350 0.9033 -0.0636 -0.5514 0.9082
"""
CHART = ("#d9b23c", "#c98f3a", "#b06f36", "#8d5433", "#6a4030")
STEPS = tuple(lab_of_hex(code) for code in CHART)
SPOILED, SOUND = lab_of_hex("#7a4f2a"), lab_of_hex("#5f8f3a")
BY_PICKING = Recipe("cover", "stands_out", (SPOILED,), (SOUND,))
SHOTS = (
    Shot(width=1100, kelvin=3000, stops=-1.5, tilt=15, tilt_to=60, turn=4),
    Shot(width=1100, kelvin=5200, stops=0.3),
    Shot(width=1100, kelvin=8000, stops=1.5, tilt=15, tilt_to=200, turn=-4),
)
PAD = ((230.0, 82.0), (252.0, 82.0), (252.0, 92.0), (230.0, 92.0))


@pytest.fixture
def rng() -> np.random.Generator:
    return np.random.default_rng(27)


def taken(scene: Scene, shot: Shot, rng: np.random.Generator, *, card_in: bool = True) -> tuple[np.ndarray, Marks]:
    shown = scene.with_card() if card_in else scene
    return photo_of(shown, shot, rng), Marks(marked(shown, shot))


@pytest.mark.parametrize("line", PAIRS.strip().splitlines())
def test_colour_differences_are_the_published_ones(line):
    numbers = [float(x) for x in line.split()]
    assert float(delta_e(numbers[:3], numbers[3:6])) == pytest.approx(numbers[6], abs=1e-4)


@given(st.integers(0, 0xFFFFFF))
@settings(max_examples=60)
def test_a_colour_comes_back_from_cielab(number):
    code = f"#{number:06x}"
    assert hex_of(lab_of_hex(code)) == code


@pytest.mark.parametrize("code", ["", "#12345", "#12345g", "red"])
def test_what_is_no_colour_is_said(code):
    with pytest.raises(Refused, match="no colour"):
        lab_of_hex(code)


@pytest.mark.parametrize("shot", [*SHOTS, Shot(width=1100, turn=178), Shot(width=900, kelvin=4000, uneven=0.3)])
def test_the_card_is_found_whichever_way_it_lies(shot, rng):
    pixels, _ = taken(leaf(20, rng), shot, rng)
    found = find_card(pixels)
    true = seen_through(view_of(shot), np.array(card.MARKS) + np.array(CARD_AT))
    assert found is not None
    assert np.abs(found.marks - true).max() < 2.0
    assert np.allclose(found.back(found.at(np.array([[30.0, 20.0]]))), [[30.0, 20.0]])


def test_no_card_is_found_where_there_is_none_or_only_half_of_one(rng):
    pixels, _ = taken(speckled(30, rng), SHOTS[1], rng, card_in=False)
    assert find_card(pixels) is None
    half = leaf(20, rng).with_card((-60.0, 148.0))
    assert find_card(photo_of(half, SHOTS[1], rng)) is None


@pytest.mark.parametrize("shot", SHOTS)
def test_the_light_is_taken_out_by_the_card(shot, rng):
    pixels, _ = taken(leaf(20, rng), shot, rng)
    found = find_card(pixels)
    assert found is not None
    assert (from_card(pixels, found).left or 9) < 0.8


def test_a_contrasty_camera_is_brought_home_too(rng):
    """The powers of the channels are there for this: a picture whose contrast was raised."""
    scene = flower(between(CHART, 2.4), rng)
    pixels, marks = taken(scene, SHOTS[1], rng)
    contrasty = np.round(255 * (pixels / 255) ** 1.25).astype(np.uint8)
    found = measure(contrasty, Recipe("difference", "stands_out"), marks, Base(truth_of(scene).colour))
    plain = measure(contrasty, Recipe("difference", "stands_out"), replace(marks, reference="none"), Base((0, 0, 0)))
    assert found.value is not None
    assert found.value < 1.5
    assert float(delta_e(plain.colour, truth_of(scene).colour)) > 5


@pytest.mark.parametrize("shot", cells(SHOTS, SHOTS[1:2]))
@pytest.mark.parametrize("share", [5, 30, 62])
def test_cover_is_measured_to_two_points(shot, share, rng):
    scene = leaf(share, rng)
    pixels, marks = taken(scene, shot, rng)
    found = measure(pixels, BY_PICKING, marks)
    assert found.value == pytest.approx(truth_of(scene).cover, abs=2)
    assert found.uncertainty is not None
    assert found.looked.counted is not None
    assert 100 * found.looked.counted.sum() / found.looked.thing.sum() == pytest.approx(found.value, abs=3)


def test_cover_by_difference_finds_what_is_rarer_and_says_when_that_is_a_guess(rng):
    few, many = leaf(12, rng), leaf(60, rng)
    pixels, marks = taken(few, SHOTS[1], rng)
    assert measure(pixels, Recipe("cover", "stands_out"), marks).value == pytest.approx(truth_of(few).cover, abs=2)
    pixels, marks = taken(many, SHOTS[1], rng)
    assert "guessed" in {flag.key for flag in measure(pixels, Recipe("cover", "stands_out"), marks).flags}


@pytest.mark.parametrize("shot", cells(SHOTS, SHOTS[1:2]))
def test_colour_and_strip_are_measured_in_any_light(shot, rng):
    scene = flower(between(CHART, 3.3), rng)
    pixels, marks = taken(scene, shot, rng)
    found = measure(pixels, Recipe("difference", "stands_out"), marks, Base(truth_of(scene).colour))
    assert found.value is not None
    assert found.value < 1.0
    pad = strip(between(CHART, 3.3))
    pixels, marks = taken(pad, shot, rng)
    read = measure(pixels, Recipe("shade", steps=STEPS), replace(marks, thing=marked(pad, shot, PAD)))
    assert read.value == pytest.approx(3.3, abs=0.2)
    assert read.on_chart is not None
    assert read.on_chart.nearest == 3


@pytest.mark.parametrize("spots", [0, 7, 38])
def test_separate_spots_are_counted(spots, rng):
    scene = speckled(spots, rng)
    pixels, marks = taken(scene, SHOTS[1], rng)
    assert measure(pixels, Recipe("spots", "stands_out"), marks).value == scene.spots == spots


@pytest.mark.parametrize("shot", cells(SHOTS, SHOTS[1:2]))
def test_sizes_follow_the_card_or_a_known_length(shot, rng):
    scene = stick(104)
    pixels, marks = taken(scene, shot, rng)
    true = float(np.hypot(104, 12))
    assert measure(pixels, Recipe("length"), marks).value == pytest.approx(true, rel=0.02)
    assert measure(pixels, Recipe("area"), marks).value == pytest.approx(12.48, rel=0.05)
    upright = Shot(width=1100)
    pixels, marks = taken(scene, upright, rng, card_in=False)
    ends = seen_through(view_of(upright), np.array([[160.0, 200.0], [260.0, 200.0]])) / (1100, 825)
    known = KnownLength((float(ends[0][0]), float(ends[0][1])), (float(ends[1][0]), float(ends[1][1])), 100.0)
    scaled = replace(marks, reference="none", length=known)
    assert measure(pixels, Recipe("length"), scaled).value == pytest.approx(true, rel=0.02)


def test_greenness_falls_as_a_leaf_browns(rng):
    values = []
    for share in (5, 40, 80):
        pixels, marks = taken(leaf(share, rng), SHOTS[0], rng)
        values.append(measure(pixels, Recipe("greenness", "stands_out"), marks).value)
    assert values == sorted(values, reverse=True)


def keys(found) -> dict[str, bool]:
    return {flag.key: flag.refuses for flag in found.flags}


def test_what_cannot_be_trusted_is_said_or_refused(rng):
    scene, dark = leaf(30, rng), Recipe("lightness", "stands_out")
    pixels, marks = taken(scene, SHOTS[1], rng, card_in=False)
    assert keys(measure(pixels, dark, marks)) == {"reference": True}
    assert keys(measure(pixels, BY_PICKING, marks))["reference"] is True
    assert keys(measure(pixels, BY_PICKING, replace(marks, reference="none")))["reference"] is False
    assert measure(pixels, Recipe("length"), marks).value is None
    glaring, marks = taken(scene, replace(SHOTS[1], stops=3.4), rng)
    found = measure(glaring, dark, marks)
    assert found.refused
    assert found.value is None
    assert {"burnt", "reference burnt"} & set(keys(found))
    soft, marks = taken(scene, replace(SHOTS[1], soft=6), rng)
    assert "blurred" in keys(measure(soft, BY_PICKING, marks))
    smeared, marks = taken(scene, replace(SHOTS[1], soft=0), rng)
    lit = (smeared * np.linspace(1, 0.55, smeared.shape[1])[None, :, None]).astype(np.uint8)
    assert "uneven" in keys(measure(lit, BY_PICKING, marks))


def test_a_mark_over_the_card_or_on_nothing_is_refused(rng):
    pixels, _ = taken(leaf(30, rng), SHOTS[1], rng)
    over = Marks(Region("polygon", ((0.05, 0.62), (0.4, 0.62), (0.4, 0.95), (0.05, 0.95))))
    assert keys(measure(pixels, BY_PICKING, over))["on card"] is True
    bare = Marks(Region("ellipse", ((0.05, 0.1), (0.3, 0.4))))
    assert keys(measure(pixels, BY_PICKING, bare))["small"] is True


def test_a_colour_that_is_not_on_the_chart_is_refused(rng):
    scene = strip(lab_of_hex("#3c68a8"))
    pixels, marks = taken(scene, SHOTS[1], rng)
    found = measure(pixels, Recipe("shade", steps=STEPS), replace(marks, thing=marked(scene, SHOTS[1], PAD)))
    assert keys(found)["off the chart"] is True


def test_a_grey_or_white_area_serves_where_there_is_no_card(rng):
    scene = flower(between(CHART, 2.0), rng)
    shot = Shot(width=1100, kelvin=4300, stops=-0.5)
    pixels, marks = taken(scene, shot, rng)
    at = np.array(CARD_AT) + np.array([card.PATCHES[3].x + 1.5, card.PATCHES[3].y + 2])
    box = np.array([[0, 0], [10, 0], [10, 16], [0, 16]]) + at
    area = marked(scene, shot, [(float(x), float(y)) for x, y in box])
    grey = replace(marks, reference="grey", area=area)
    found = measure(pixels, Recipe("difference", "stands_out"), grey, Base(truth_of(scene).colour))
    bare = measure(pixels, Recipe("difference", "stands_out"), replace(marks, reference="none"))
    # The patch is a little lighter than a grey card, so that lightness is off a little and hue is not.
    assert np.hypot(*(np.array(found.colour) - truth_of(scene).colour)[1:]) < 4
    assert np.hypot(*(np.array(bare.colour) - truth_of(scene).colour)[1:]) > 6
    burnt = replace(grey, area=Region("ellipse", ((0.9, 0.9), (0.9, 0.9))))
    assert lit_of(pixels, burnt, None).correction.kind == "none"


def test_light_that_was_plainly_other_is_said(rng):
    scene = leaf(30, rng)
    corrections = []
    for shot in (Shot(width=1000, kelvin=3000, balanced=0.4), Shot(width=1000, kelvin=8000, balanced=0.4)):
        pixels, _ = taken(scene, shot, rng)
        found = find_card(pixels)
        assert found is not None
        corrections.append(from_card(pixels, found))
    assert "colour" in other_light(*corrections)[0].says
    assert not other_light(corrections[0], corrections[0])


def test_marks_are_carried_by_the_card_to_another_photo(rng):
    scene = leaf(30, rng).with_card()
    one, other = Shot(width=1000), Shot(width=1200, turn=6, tilt=8, tilt_to=70)
    first, second = photo_of(scene, one, rng), photo_of(scene, other, rng)
    marks = Marks(marked(scene, one))
    moved = carried_marks(marks, (1000, 750), find_card(first), (1200, 900), find_card(second))
    assert np.abs(np.array(moved.thing.points) - np.array(marked(scene, other).points)).max() < 0.02
    assert carried_marks(marks, (1000, 750), None, (1200, 900), None) == marks


@pytest.mark.parametrize(
    ("marks", "at"),
    [
        (Marks(Region("polygon", ((0, 0), (1, 1)))), "thing"),
        (Marks(Region("ellipse", ((0, 0), (9, 1)))), "thing"),
        (Marks(Region("ellipse", ((0, 0), (1, 1))), "grey"), "area"),
        (Marks(Region("ellipse", ((0, 0), (1, 1))), "card", None, KnownLength((0.1, 0.1), (0.1, 0.1), 50)), "length"),
    ],
)
def test_marks_that_cannot_be_are_said_at_their_place(marks, at):
    assert [problem.at for problem in marks.problems()] == [at]


@given(st.floats(1, 5))
@settings(max_examples=40)
def test_a_colour_between_two_steps_is_read_where_it_is(value):
    found = on_chart(between(CHART, value), STEPS)
    assert found.value == pytest.approx(value, abs=0.01)
    assert found.off < 0.2


def test_each_scale_has_its_measures_in_its_own_unit():
    shades = ShadeScale((Shade("pale"), Shade("dark")))
    assert measures_for(PercentScale()) == ("cover",)
    assert measures_for(shades) == ("shade",)
    assert measures_for(CountScale()) == ("spots",)
    assert measures_for(MeasurementScale("cm")) == ("length",)
    assert measures_for(MeasurementScale("mm2")) == ("area",)
    assert measures_for(MeasurementScale("ΔE")) == ("difference",)
    assert measures_for(MeasurementScale("L*")) == ("lightness",)
    # What a registry of units takes for a length or an area is not what people mean by it.
    for unit in ("points", "dB", "b", "pt", "pH", "N", "%", "", "league", "acre"):
        assert measures_for(MeasurementScale(unit)) == (), unit
    for unit in ("in", "ft", "µm", "millimetres"):
        assert measures_for(MeasurementScale(unit)) == ("length",), unit
    for unit in ("cm²", "cm2", "in2", "m2"):
        assert measures_for(MeasurementScale(unit)) == ("area",), unit
    assert measures_for(MeasurementScale("g")) == ()
    assert measures_for(GradeScale((Level(0, "a"), Level(1, "b")))) == ()
    assert in_unit_of(MeasurementScale("cm"), "length", 123.44) == 12.34
    assert in_unit_of(shades, "shade", 2.3449) == 2.34
