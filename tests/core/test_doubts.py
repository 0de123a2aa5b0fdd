"""The gauge's doubt, on photos of a second camera with other spectra, sensors and lenses than the one it grew up with: right within two
deviations, or refused with a sentence and a way out."""

from dataclasses import replace

import numpy as np
import pytest

from benchmarks import doubts
from benchmarks.doubts import CONDITIONS, PAD, SAMPLE, SOUND, SPOILED, tries
from fieldtally.core.photos import quality
from fieldtally.core.photos.camera import Shot
from fieldtally.core.photos.colour import delta_e, lab_of_hex
from fieldtally.core.photos.gauge import Base, base_of, measure
from fieldtally.core.photos.lens import find_card
from fieldtally.core.photos.marks import Marks, Region
from fieldtally.core.photos.matching import BY_PLACE, found_again
from fieldtally.core.photos.reading_card import from_card
from fieldtally.core.photos.recipe import Recipe
from fieldtally.core.photos.scenes import CARD_AT, Shape, between, flower, leaf, stick, strip, truth_of
from fieldtally.core.photos.spectral import Blot, Setting, marked, photo_of
from fieldtally.core.photos.unlike import unlike_others
from tests.depth import cells

SHOT = Shot(width=1000, balanced=0.85, tilt=6, tilt_to=40, turn=3)
LIGHTNESS = Recipe("lightness", "stands_out")


@pytest.fixture
def rng() -> np.random.Generator:
    return np.random.default_rng(31)


def shown(scene, setting, rng, shot=SHOT):
    return photo_of(scene.with_card(), shot, setting, rng), Marks(marked(scene, shot, setting))


def keys(found) -> dict[str, bool]:
    return {flag.key: flag.refuses for flag in found.flags}


def within(found, true) -> bool:
    return abs(found.value - true) <= 2 * found.uncertainty


SETTINGS = [
    Setting(),
    Setting("bulb", fall=0.6, fall_to=20),
    Setting("led", sensor=1, fall=0.5, fall_to=200),
    Setting("bulb", second="daylight"),
    Setting("tube", sensor=1, contrast=1.2),
    Setting(veil=0.1),
    Setting(shadows=(Blot(*SAMPLE, 85, 0.4, 45),)),
    Setting(lens=-0.12, vignette=0.1),
]


@pytest.mark.parametrize("setting", cells(SETTINGS, [SETTINGS[1], SETTINGS[5]]))
def test_a_colour_is_right_within_what_is_said_of_it(setting, rng):
    scene = flower(between(doubts.CHART, 2.6), rng)
    truth = truth_of(scene).colour
    pixels, marks = shown(scene, setting, rng)
    found = measure(pixels, LIGHTNESS, marks)
    assert within(found, truth[0])
    other = (truth[0] + 8, truth[1] - 5, truth[2] + 4)
    apart = measure(pixels, replace(LIGHTNESS, measure="difference", since_look="c"), marks, Base(other))
    assert within(apart, float(delta_e(truth, other)))


def test_doubt_is_small_where_light_is_even_and_grows_where_it_is_not(rng):
    scene = flower(between(doubts.CHART, 2.6), rng)
    even = measure(*shown_first(scene, Setting(), rng))
    uneven = measure(*shown_first(scene, Setting(shadows=(Blot(*SAMPLE, 85, 0.4, 45),)), rng))
    assert even.uncertainty < 0.8
    assert uneven.uncertainty > 1.5 * even.uncertainty


def shown_first(scene, setting, rng):
    pixels, marks = shown(scene, setting, rng)
    return pixels, LIGHTNESS, marks


def test_scattered_light_is_taken_off_and_said(rng):
    pixels, _ = shown(leaf(10, rng), Setting(veil=0.1), rng)
    found = from_card(pixels, find_card(pixels))
    assert found.scattered == pytest.approx(0.1, abs=0.02)
    assert found.left < 1
    assert "veil" in {flag.key for flag in quality.reference(found, "card", "lightness")}


def test_a_camera_that_raises_contrast_is_told_from_scattered_light(rng):
    pixels, _ = shown(leaf(10, rng), Setting(contrast=1.2), rng)
    found = from_card(pixels, find_card(pixels))
    assert found.powers[1] == pytest.approx(1 / 1.2, abs=0.05)
    assert found.scattered < 0.02


def test_a_covered_field_is_left_out_and_said(rng):
    x, y = CARD_AT[0] + 17 + 14.3 * 2, CARD_AT[1] + 16
    scene = flower(between(doubts.CHART, 2.6), rng)
    truth = truth_of(scene).colour[0]
    thumb = Shape(((x, y), (x + 14, y), (x + 14, y + 21), (x, y + 21)), "#c79a7d")
    covered = scene.with_card()
    pixels = photo_of(replace(covered, shapes=(*covered.shapes, thumb)), SHOT, Setting(), rng)
    found = measure(pixels, LIGHTNESS, Marks(marked(scene, SHOT, Setting())))
    assert keys(found)["field"] is False
    assert within(found, truth)


@pytest.mark.parametrize(
    ("setting", "key"),
    [
        (Setting(shadows=(Blot(*SAMPLE, 85, 0.5, 3),)), "edge"),
        (Setting(shadows=(Blot(265, 95, 75, 0.5, 10),)), "uneven there"),
        (Setting(shadows=(Blot(CARD_AT[0] + 10, CARD_AT[1] + 40, 60, 0.5, 10),)), "patchy"),
        (Setting(glares=(Blot(CARD_AT[0] + 60, CARD_AT[1] + 30, 20, 0.3, 40),)), "patchy"),
    ],
)
@pytest.mark.parametrize("recipe", cells([LIGHTNESS, Recipe("cover", "stands_out")], [LIGHTNESS]))
def test_what_cannot_be_told_is_refused_with_a_way_out(setting, key, recipe, rng):
    pixels, marks = shown(leaf(10, rng), setting, rng)
    found = measure(pixels, recipe, marks)
    assert found.value is None
    assert any(flag.key == key and flag.refuses and "shade both" in flag.says for flag in found.flags)


@pytest.mark.parametrize("glare", [Blot(*SAMPLE, 30, 0.15, 40), Blot(*SAMPLE, 110, 0.15, 50)])
def test_glare_on_the_thing_is_said_and_widens_the_doubt_or_refuses(glare, rng):
    scene = flower(between(doubts.CHART, 2.6), rng)
    pixels, marks = shown(scene, Setting(glares=(glare,)), rng)
    found = measure(pixels, LIGHTNESS, marks)
    assert {"glare", "sheen", "shines"} & set(keys(found))
    assert found.value is None or within(found, truth_of(scene).colour[0])


def test_the_rim_of_a_thing_is_not_what_counts_on_it(rng):
    for soft in (0.7, 1.3):
        scene = leaf(0, rng)
        pixels, marks = shown(scene, Setting(), rng, replace(SHOT, soft=soft))
        found = measure(pixels, Recipe("cover", "stands_out"), marks)
        assert found.value <= 2 * found.uncertainty
        assert found.value < 0.6


def test_a_bending_lens_is_found_by_the_card_and_taken_out_of_sizes(rng):
    scene = leaf(10, rng)
    pixels, marks = shown(scene, Setting(lens=-0.15), rng)
    assert find_card(pixels).bend == pytest.approx(-0.15, abs=0.015)
    found = measure(pixels, Recipe("area"), marks)
    assert found.value == pytest.approx(truth_of(scene).area, rel=0.02)
    assert within(found, truth_of(scene).area)
    assert keys(found) == {"lens": False}
    plain, _ = shown(scene, Setting(), rng)
    assert abs(find_card(plain).bend) < 0.015


def test_edges_lie_where_light_is_half_and_half_however_soft_the_picture(rng):
    scene = leaf(10, rng)
    for soft in (0.6, 1.4, 2.2):
        pixels, marks = shown(scene, Setting(), rng, replace(SHOT, soft=soft))
        assert measure(pixels, Recipe("area"), marks).value == pytest.approx(truth_of(scene).area, rel=0.012)


def test_a_channel_that_is_burnt_out_refuses_colours_and_not_sizes(rng):
    scene = stick(90, colour="#f4c430")
    pixels, marks = shown(scene, Setting(), rng, replace(SHOT, stops=2.1))
    assert (pixels[..., 0] > 251).mean() > 0.01
    assert measure(pixels, LIGHTNESS, marks).value is None
    assert measure(pixels, Recipe("length"), marks).value == pytest.approx(np.hypot(90, 12), rel=0.01)


def test_a_pad_on_a_white_strip_is_read_in_light_that_falls_off(rng):
    chart = Recipe("shade", steps=tuple(lab_of_hex(code) for code in doubts.CHART))
    pad = strip(between(doubts.CHART, 3.3))
    for setting in (Setting(), Setting("led", fall=0.5, fall_to=10)):
        pixels, _ = shown(pad, setting, rng)
        found = measure(pixels, chart, Marks(marked(pad, SHOT, setting, PAD)))
        assert within(found, 3.3)
        assert found.uncertainty < 0.2


def test_a_mark_on_bare_ground_is_unlike_those_on_the_thing(rng):
    colours = []
    for number in range(6):
        pixels, marks = shown(leaf(5, rng), Setting(), rng)
        if number == 3:
            marks = Marks(Region("ellipse", ((0.06, 0.08), (0.28, 0.38))))
        recipe = Recipe("cover", "marked", (SPOILED,), (SOUND,))
        found = measure(pixels, recipe, marks)
        assert found.value is not None
        colours.append(found.colour)
    assert unlike_others(colours) == [False, False, False, True, False, False]


def test_the_thing_is_found_where_it_lies_in_the_photo_that_one_is_compared_with(rng):
    early, late = flower(between(doubts.CHART, 1.5), rng), flower(between(doubts.CHART, 3.5), rng)
    # At the earlier look it lay 45 mm farther from the card.
    moved = tuple(replace(shape, outline=tuple((x + 45, y - 14) for x, y in shape.outline)) for shape in early.shapes)
    before = photo_of(replace(early, shapes=moved).with_card(), SHOT, Setting("led"), rng)
    now, marks = shown(late, Setting(), rng)
    found, size = find_card(now), (now.shape[1], now.shape[0])
    there, says = found_again(marks, size, found, before, find_card(before), stands_out=True)
    assert says == ""
    base = base_of(measure(before, LIGHTNESS, there), "the earlier photo")
    assert float(delta_e(base.colour, truth_of(early).colour)) < 1.5
    apart = measure(now, replace(LIGHTNESS, measure="difference", since_look="c"), marks, base)
    assert within(apart, float(delta_e(truth_of(early).colour, truth_of(late).colour)))
    # Without a card on both it is looked for at the same place, and that is said.
    assert found_again(marks, size, None, before, None, stands_out=False)[1] == BY_PLACE


def test_what_is_said_of_the_earlier_photo_goes_with_the_difference(rng):
    scene = flower(between(doubts.CHART, 2.6), rng)
    pixels, marks = shown(scene, Setting(), rng)
    recipe = replace(LIGHTNESS, measure="difference", since_look="c")
    veiled, _ = shown(scene, Setting(veil=0.1), rng)
    found = measure(pixels, recipe, marks, base_of(measure(veiled, LIGHTNESS, marks), "the earlier photo"))
    assert "base veil" in keys(found)
    assert found.uncertainty > measure(pixels, LIGHTNESS, marks).uncertainty
    shaded, _ = shown(scene, Setting(shadows=(Blot(*SAMPLE, 85, 0.5, 3),)), rng)
    refused = measure(pixels, recipe, marks, base_of(measure(shaded, LIGHTNESS, marks), "the earlier photo"))
    assert refused.value is None
    assert any("In the earlier photo" in flag.says and "shadow" in flag.says for flag in refused.flags)
    missing = measure(pixels, recipe, marks, None)
    assert "no base" in keys(missing)


HARD = ("even light", "two lamps", "hard shadow on the sample", "glare on the sample")


@pytest.mark.parametrize("condition", cells(HARD, ["two lamps"]))
def test_each_measure_is_right_within_what_is_said_or_refused(condition, monkeypatch):
    assert condition in CONDITIONS
    monkeypatch.setattr(doubts, "WIDE", 1000)
    for one in tries(condition, 4_000):
        assert one.error is None or abs(one.error) <= 3 * max(one.uncertainty, 0.2), one
