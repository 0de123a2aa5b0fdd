"""The grading trainer: sets that cover a scale, and what answers tell."""

from __future__ import annotations

import numpy as np
import pytest

from fieldtally.core.problems import Refused
from fieldtally.core.scales import (
    CountScale,
    GradeScale,
    Level,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    Shade,
    ShadeScale,
)
from fieldtally.core.training.between import anchors_wanted, duel, together
from fieldtally.core.training.learning import Given, confusions_in, learned
from fieldtally.core.training.sets import drawn_set, kind_for, picture_of, scene_of

WORDS = GradeScale((Level(0, "dead"), Level(1, "tired"), Level(2, "fresh")))
SHARES = GradeScale(
    (
        Level(1, "clean", "0–5 % brown"),
        Level(2, "some", "5–25 % brown"),
        Level(3, "half", "25–60 % brown"),
        Level(4, "most", "60–95 % brown"),
    )
)
CHART = ShadeScale((Shade("pale", "#d9b23c"), Shade("mid", "#b06f36"), Shade("dark", "#6a4030")), between=True)


@pytest.fixture
def rng() -> np.random.Generator:
    return np.random.default_rng(5)


def test_what_can_be_practised_follows_from_the_scale():
    assert kind_for(PercentScale()) == "cover"
    assert kind_for(SHARES) == "cover"
    assert kind_for(CHART) == "shade"
    assert kind_for(CountScale()) == "spots"
    assert kind_for(WORDS) is None
    assert kind_for(WORDS, [0, 1] * 4) == "photos"
    assert kind_for(WORDS, [0, 1] * 3) is None
    assert kind_for(PassFailScale(), [0] * 9) is None
    assert kind_for(ShadeScale((Shade("a"), Shade("b")))) is None
    assert kind_for(MeasurementScale("g")) is None


@pytest.mark.parametrize("scale", [PercentScale(), SHARES, CHART, CountScale(of=40)])
def test_a_set_reaches_over_the_whole_scale_and_its_pictures_show_the_truth(scale, rng):
    items = drawn_set(scale, rng)
    truths = [item.truth for item in items]
    assert len(items) == 12
    assert truths != sorted(truths)
    low, high = scale.ends
    assert min(truths) <= low + 0.25 * (high - low) if low is not None else True
    assert max(truths) >= low + 0.75 * ((high or 40) - low)
    assert all(scale.refusal(truth) is None for truth in truths)
    for item in items[:3]:
        drawn = scene_of(scale, item)[1]
        if scale is SHARES:
            assert {1: (0, 5), 2: (5, 25), 3: (25, 60), 4: (60, 95)}[int(item.truth)][0] - 1 <= drawn
            assert drawn <= {1: (0, 5), 2: (5, 25), 3: (25, 60), 4: (60, 95)}[int(item.truth)][1] + 1
        else:
            assert drawn == pytest.approx(item.truth, abs=1.5)
    assert np.array_equal(picture_of(scale, items[0], 300), picture_of(scale, items[0], 300))


def test_photos_of_the_trial_are_practised_where_words_alone_say_what_a_level_means(rng):
    photos = {f"p{i:02}": float(i % 3) for i in range(30)}
    items = drawn_set(WORDS, rng, photos)
    # Each once, as many of each level, in an order of chance.
    assert len({item.photo for item in items}) == len(items) == 12
    assert [sum(item.truth == level for item in items) for level in range(3)] == [4, 4, 4]
    assert all(photos[item.photo] == item.truth for item in items)
    assert len(drawn_set(WORDS, rng, dict(list(photos.items())[:9]))) == 9
    with pytest.raises(Refused, match="8 photos"):
        drawn_set(WORDS, rng, {"a": 0.0, "b": 1.0})


def answers(number: int, apart) -> list[Given]:
    truths = np.linspace(4, 96, len(apart))
    return [Given(float(truths[i]), float(truths[i] + d), number, i) for i, d in enumerate(apart)]


def test_bias_and_spread_are_told(rng):
    found = learned(PercentScale(), answers(1, [10, 12, 8, 11, 9, 10, 12, 8, 10, 10]), rng)
    assert found.bias == pytest.approx(10)
    assert found.bias_low == pytest.approx(10 - 2.2622 * found.spread / np.sqrt(10), abs=1e-3)
    assert not found.ready
    assert found.says == "You were off by 10 % on average and gave 10 % too much."
    assert "One more set is missing" in found.why


def test_two_good_sets_make_ready_and_leaning_or_one_bad_set_does_not(rng):
    good = [3, -4, 2, -1, 0, 4, -3, 1, -2, 0]
    ready = learned(PercentScale(), [*answers(1, good), *answers(2, good)], rng)
    assert ready.ready
    assert [one.number for one in ready.sets] == [1, 2]
    assert "off by 2 % and 2 %" in ready.why
    leaning = learned(PercentScale(), [*answers(1, [5] * 10), *answers(2, [5] * 10)], rng)
    assert not leaning.ready
    assert "lean" in leaning.why
    worse = learned(PercentScale(), [*answers(1, good), *answers(2, good), *answers(3, [20] * 10)], rng)
    assert not worse.ready
    assert "set 3" in worse.why
    short = learned(PercentScale(), [*answers(1, good), *answers(2, [0] * 5)], rng)
    assert not short.ready


def test_drift_inside_a_set_is_found_and_chance_is_not_taken_for_it(rng):
    rising = list(np.linspace(-9, 9, 12))
    found = learned(PercentScale(), [*answers(1, rising), *answers(2, rising)], rng)
    assert found.drift == pytest.approx(18)
    assert found.drift_p is not None
    assert found.drift_p < 0.01
    assert "drifted up" in found.says
    ps = [learned(PercentScale(), answers(1, rng.normal(0, 5, 12)), rng).drift_p or 1.0 for _ in range(60)]
    assert np.mean(np.array(ps) < 0.05) < 0.15


def test_neighbours_that_are_mixed_up_are_named_with_where_a_photo_would_help():
    own = [
        Given(1, 2, 1, 0),
        Given(2, 1, 1, 1),
        Given(1, 1, 1, 2),
        Given(2, 2, 1, 3),
        Given(0, 0, 1, 4),
        Given(0, 2, 1, 5),
    ]
    assert [(c.low, c.high, c.mixed, c.of) for c in confusions_in(WORDS, own)] == [(1, 2, 2, 4)]
    wanted = anchors_wanted(WORDS, {"Ann": own, "Bo": own})
    assert [(w.low, w.high, w.mixed, w.of, w.people) for w in wanted] == [(1, 2, 4, 8, 2)]
    assert not anchors_wanted(WORDS, {"Ann": own})
    assert not confusions_in(PercentScale(), own)


def test_eye_and_gauge_are_held_against_the_truth():
    truths = [10.0, 20, 30, 40, 50, 60, 70, 80]
    found = duel(
        truths, [t + d for t, d in zip(truths, (9, -8, 7, 9, -6, 8, 9, 7), strict=True)], [t + 1 for t in truths], "%"
    )
    assert (found.eye_nearer, found.gauge_nearer) == (0, 8)
    assert found.p == pytest.approx(0.0078, abs=0.001)
    assert "the gauge is nearer, by more than chance" in found.says
    same = duel(truths, truths, truths, "%")
    assert same.p is None
    assert same.eye == same.gauge == 0


def test_scorers_together_before_a_round():
    told = together({"Ann": {"312": 3, "487": 4}, "Bo": {"312": 3, "487": 4}, "Cy": {"312": 1, "487": 2}}, "grades")
    assert told is not None
    assert told.apart == {"312": 2, "487": 2}
    assert told.leaning == {"Ann": 1, "Bo": 1, "Cy": -2}
    assert "Cy gives 2 grades less" in told.says
    agreed = together({"Ann": {"312": 3}, "Bo": {"312": 3}}, "grades")
    assert agreed is not None
    assert "same" in agreed.says
    assert together({"Ann": {"312": 3}, "Bo": {"487": 3}}, "grades") is None
