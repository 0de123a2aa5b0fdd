"""One number for each sample, what lies behind a verdict, and the tally over outcomes."""

from dataclasses import replace

import numpy as np
import pytest

from fieldtally.core.compare.odd import odd_among
from fieldtally.core.design.plan import (
    Checkpoint,
    Factor,
    FactorLevel,
    Outcome,
    Plan,
    Summary,
    Treatment,
)
from fieldtally.core.design.soundness import problems_in
from fieldtally.core.scales import EventScale, LadderScale, MeasurementScale
from fieldtally.core.verdict.conclude import Samples, conclude
from fieldtally.core.verdict.summing import mean_over_time, slopes
from fieldtally.core.verdict.supporting import supporting
from fieldtally.core.verdict.tally import tallied

DAY = 24 * 60
PLAN = Plan(
    title="Soaks",
    treatments=(Treatment("dry", "Dry", "untreated", 6, cost=1.0), Treatment("tea", "Tea", samples=6, cost=3.0)),
    outcomes=(Outcome("mass", "Mass", MeasurementScale("g"), margin=1.0),),
    checkpoints=tuple(Checkpoint(f"d{n}", f"Day {n}", n * DAY, 60, 60) for n in (0, 2, 4, 8)),
)
SAMPLES = Samples(("dry",) * 6 + ("tea",) * 6, (None,) * 12)
GROWS = {"d0": [10.0] * 12, "d2": [11.0] * 6 + [14.0] * 6, "d4": [13.0] * 6 + [19.0] * 6, "d8": [14.2] * 6 + [20.5] * 6}


def rng(seed=3):
    return np.random.default_rng(seed)


def values(noise=0.1, **series):
    shaken = rng(1).normal(0, noise, (len(series), 12))
    return {("mass", key): np.array(own) + shaken[i] for i, (key, own) in enumerate(series.items())}


def judged(summary, plan=PLAN, series=None, **change):
    outcome = replace(plan.outcomes[0], summary=summary, **change)
    plan = replace(plan, outcomes=(outcome,))
    found = conclude(plan, SAMPLES, series or values(**GROWS), rng())
    return plan, found, found[0]


def estimates(finding):
    return {one.treatment: one.estimate for one in finding.comparison.treatments}


@pytest.mark.parametrize(
    ("summary", "dry", "tea", "unit", "when"),
    [
        (Summary("percent", "d8", "d0"), 40, 100, "%", "from Day 0 to Day 8"),
        (
            Summary("area"),
            (10.5 * 2 + 12 * 2 + 13.5 * 4) / 8,
            (12 * 2 + 16.5 * 2 + 19.5 * 4) / 8,
            "g",
            "from Day 0 to Day 8",
        ),
        (Summary("slope", "d4"), 0.75, 2.25, "g per day", "from Day 0 to Day 4"),
        (Summary("change"), 4, 10, "g", "from Day 0 to Day 8"),
    ],
)
def test_a_series_becomes_one_number(summary, dry, tea, unit, when):
    _, _, main = judged(summary)
    assert estimates(main)["Dry"] == pytest.approx(dry, rel=0.05)
    assert estimates(main)["Tea"] == pytest.approx(tea, rel=0.05)
    assert main.scale.unit == unit
    assert main.when == when
    assert (main.strength.level, main.strength.winner) == ("clear", "Tea")


@pytest.mark.parametrize(("better", "winner"), [("more", "Tea"), ("less", "Dry")])
def test_the_time_to_a_threshold_is_an_event_and_sooner_is_better_on_the_better_side(better, winner):
    plan, _, main = judged(Summary("threshold", threshold=13.5), better=better)
    assert main.scale.unit == "days"
    assert estimates(main)["Tea"] == pytest.approx(1.0)
    assert estimates(main)["Dry"] == pytest.approx(6.0, abs=0.8)
    assert main.strength.winner == winner
    assert {one.treatment: one.median for one in main.courses} == {"Dry": 8.0, "Tea": 2.0}
    assert "time until mass is above 13.5" in main.sentence
    assert not list(problems_in(plan)) or all("summary" not in one.at for one in problems_in(plan))


def test_an_event_is_judged_by_the_time_without_it():
    plan = replace(PLAN, outcomes=(Outcome("drop", "First drop", EventScale("a petal lies"), better="less"),))
    seen = {
        "d0": [0] * 12,
        "d2": [0] * 6 + [1] * 5 + [0],
        "d4": [0] * 5 + [1] + [1] * 6,
        "d8": [1, 1, 0, 0, 0, 1] + [1] * 6,
    }
    found = conclude(plan, SAMPLES, {("drop", key): np.array(own, dtype=float) for key, own in seen.items()}, rng())
    main = found[0]
    assert main.comparison.column.kind == "event"
    assert (main.strength.level, main.strength.winner) == ("clear", "Dry")
    assert main.sentence.startswith("Dry did best on time without first drop, up to day 8")
    assert main.numbers[2] == 8.0
    assert {one.treatment: one.seen for one in main.courses} == {"Dry": 3, "Tea": 6}
    assert main.comparison.pairs[0].difference > 3
    # Look by look it stays a share, as support.
    assert found[-1].scale == plan.outcomes[0].scale


def test_what_held_the_top_of_a_ladder_is_known_only_to_bear_more():
    plan = replace(PLAN, outcomes=(Outcome("load", "Load", LadderScale("kg", (5.0, 10.0, 15.0))),))
    held = np.array([5, 5, 0, 5, 10, 5, 15, 15, 10, 15, 15, 10], dtype=float)
    main = conclude(plan, SAMPLES, {("load", "d8"): held}, rng())[0]
    courses = {one.treatment: one for one in main.courses}
    assert (courses["Tea"].seen, courses["Tea"].n) == (2, 6)
    assert courses["Tea"].median is None
    assert courses["Dry"].median == 10.0


@pytest.mark.parametrize(
    ("summary", "at"),
    [(Summary("threshold"), "summary.threshold"), (Summary("percent", "d0", "d0"), "summary.baseline")],
)
def test_a_summary_that_cannot_be_is_told_at_its_field(summary, at):
    plan = replace(PLAN, outcomes=(replace(PLAN.outcomes[0], summary=summary),))
    assert any(one.at == f"outcomes.0.{at}" for one in problems_in(plan))


def test_areas_and_slopes_bridge_gaps_and_give_no_number_where_ends_are_missing():
    times = np.array([0.0, 2.0, 4.0])
    table = np.array([[1.0, np.nan, 3.0], [np.nan, 2.0, 3.0], [2.0, 2.0, np.nan]])
    assert mean_over_time(table, times)[0] == 2.0
    assert np.isnan(mean_over_time(table, times)[1:]).all()
    assert slopes(table, times)[:2].tolist() == [0.5, 0.5]


def test_behind_a_verdict_stand_time_control_and_levelling():
    plan, found, _ = judged(Summary())
    (told,) = supporting(plan, SAMPLES, values(**GROWS), found, rng())
    assert told.when.parts == "d2"
    assert told.when.p < 0.01
    assert {one.treatment: round(one.percent) for one in told.of_control} == {"Tea": 145}
    assert [one.off_at for one in told.levelled] == [None, None]
    assert told.unit == "days"
    assert told.effects == ()


def test_factors_are_told_where_treatments_are_made_from_them():
    factors = tuple(Factor(f, f, (FactorLevel("lo", "low"), FactorLevel("hi", "high"))) for f in ("feed", "light"))
    treatments = tuple(
        Treatment(f"{a}{b}", f"{a} {b}", samples=4, levels={"feed": a, "light": b})
        for a in ("lo", "hi")
        for b in ("lo", "hi")
    )
    plan = replace(PLAN, treatments=treatments, factors=factors)
    samples = Samples(tuple(t.key for t in treatments for _ in range(4)), (None,) * 16)
    effect = np.repeat([0.0, 0.0, 5.0, 5.0], 4) + rng(7).normal(0, 0.5, 16)
    series = {("mass", "d8"): effect}
    (told,) = supporting(plan, samples, series, conclude(plan, samples, series, rng()), rng())
    found = {one.factors: one.p for one in told.effects}
    assert found["feed",] < 0.001
    assert found["light",] > 0.05
    assert found["feed", "light"] > 0.05


def test_an_odd_value_is_held_against_its_own_treatment():
    normal = np.concatenate([rng(4).normal(10, 1, 8), rng(5).normal(30, 1, 8)])
    labels = np.repeat([0, 1], 8)
    assert not odd_among(normal, labels).any()
    normal[3] = 30.0
    assert np.flatnonzero(odd_among(normal, labels)).tolist() == [3]
    assert not odd_among(np.ones(16), labels).any()


# The tally


TWO = replace(
    PLAN,
    outcomes=(
        PLAN.outcomes[0],
        Outcome("harm", "Scorch", MeasurementScale("mm"), better="less", primary=False, margin=1.0),
    ),
)


def two(mass_tea=20.0, harm_tea=6.0):
    noise = rng(6).normal(0, 0.3, (2, 12))
    return {
        ("mass", "d8"): np.array([14.0] * 6 + [mass_tea] * 6) + noise[0],
        ("harm", "d8"): np.array([1.0] * 6 + [harm_tea] * 6) + noise[1],
    }


def tally(plan=TWO, weights=None, **more):
    found = conclude(plan, SAMPLES, two(**more), rng())
    return tallied(plan, SAMPLES, found, rng(), weights)


def test_weights_decide_what_is_worth_most():
    for weights, first in (({"mass": 3, "harm": 1}, "Tea"), ({"mass": 1, "harm": 3}, "Dry")):
        found = tally(weights=weights)
        assert found.rows[0].treatment == first
        assert found.rows[0].first > 0.95
        assert sum(found.weights) == pytest.approx(1)
        assert sum(row.first for row in found.rows) == pytest.approx(1)
        assert found.rows[0].beaten_by == ()
    assert tally(weights={"mass": 0, "harm": 0}) is None
    one = tally(weights={"mass": 1, "harm": 0})
    assert one.rows[0].first == pytest.approx(1)


def test_a_tie_in_weights_is_no_steady_order():
    rows = tally(mass_tea=20.0, harm_tea=7.0, weights={"mass": 1, "harm": 1}).rows
    assert all(0.2 < row.first < 0.8 for row in rows)


def test_who_is_never_better_is_said_and_money_is_told_for_each_good_one():
    found = {row.treatment: row for row in tally(mass_tea=20.0, harm_tea=0.0).rows}
    assert found["Dry"].beaten_by == ("Tea",)
    assert found["Tea"].beaten_by == ()
    assert (found["Tea"].cost, found["Tea"].per_good) == (3.0, 3.0)
    assert found["Dry"].per_good is None


def test_a_difference_below_the_margin_does_not_fill_the_scale():
    found = tally(mass_tea=14.2, harm_tea=1.0)
    worths = [row.worth[0] for row in found.rows]
    assert abs(worths[0] - worths[1]) < 0.2


def test_whole_blocks_are_drawn_again_and_nothing_from_one_sample_each():
    """One of each in each block, pure noise: who happens to be ahead does not come first in every draw."""
    from fieldtally.core.verdict.tally import _first_places, robust_ends

    drawn = np.random.default_rng(3)
    labels, blocks = np.tile([0, 1, 2], 5), np.repeat(np.arange(5), 3)
    tables = [drawn.random((15, 1)) for _ in range(40)]
    firsts = [_first_places(table, labels, blocks, 3, np.ones(1), drawn) for table in tables]
    assert all(first.sum() == pytest.approx(1) for first in firsts)
    # Drawing inside cells of one sample would say 1 of every one of them.
    assert np.mean([first.max() for first in firsts]) < 0.9
    table = tables[0]
    assert _first_places(table[:3], labels[:3], blocks[:3], 3, np.ones(1), drawn) is None
    # 5000 typed for 50 does not stretch the scale.
    assert robust_ends(np.array([48.0, 50.0, 49.0, 52.0, 51.0, 55.0, 5000.0, np.nan])) == (48.0, 55.0)
