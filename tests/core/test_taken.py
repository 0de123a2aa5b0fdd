"""Looks as they were truly taken: told by how much they slipped, and at their true time wherever times are counted with."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from fieldtally.core.design.plan import Checkpoint, Outcome, Plan, Summary, Treatment
from fieldtally.core.scales import MeasurementScale
from fieldtally.core.schedule.taken import plan_as_taken, slips_told, taken_looks
from fieldtally.core.verdict.study import CountedReading, Decisions, Placed, study_in

DAY = 1440
T0 = datetime(2026, 4, 1, 8, tzinfo=UTC)
LOOKS = (
    Checkpoint("d1", "Day 1", DAY, before=120, after=120),
    Checkpoint("d3", "Day 3", 3 * DAY, before=120, after=120),
    Checkpoint("end", "The end", 10 * DAY, after=240),
)
PLAN = Plan(
    title="Beans",
    sample_word="tanks",
    treatments=(Treatment("a", "Tap", "untreated", 4), Treatment("b", "Tea", samples=4)),
    outcomes=(Outcome("h", "Height", MeasurementScale("cm")),),
    checkpoints=LOOKS,
)
CODES = [str(100 + i) for i in range(8)]
STARTS = dict.fromkeys(CODES, T0)


def read(days, codes=CODES):
    return [(look, code, T0 + timedelta(days=at)) for look, at in days.items() for code in codes]


def test_a_look_inside_its_window_is_told_as_planned():
    taken = taken_looks(PLAN, STARTS, read({"d1": 1.05, "d3": 2.95, "end": 10.1}))
    assert slips_told(PLAN, taken) == ()
    assert plan_as_taken(PLAN, taken) == PLAN


def test_a_look_two_days_late_is_told_by_its_true_day_and_counted_at_it():
    taken = taken_looks(PLAN, STARTS, read({"d1": 1, "d3": 5}))
    assert slips_told(PLAN, taken) == ("Day 3 was taken 2 days late.",)
    look = plan_as_taken(PLAN, taken).checkpoints[1]
    assert (look.name, look.offset) == ("Day 5, planned for day 3", 5 * DAY)


def test_a_look_with_a_name_of_its_own_keeps_it():
    taken = taken_looks(PLAN, STARTS, read({"end": 14}))
    assert plan_as_taken(PLAN, taken).checkpoints[2].name == "The end, taken at day 14 and planned for day 10"


def test_a_late_starter_that_is_read_with_the_others_was_read_early():
    starts = STARTS | {"107": T0 + timedelta(days=1)}
    taken = taken_looks(PLAN, starts, read({"d3": 3}))
    assert slips_told(PLAN, taken) == ("At Day 3, 1 of 8 tanks (107) was read early, by up to 1 day.",)
    assert plan_as_taken(PLAN, taken).checkpoints[1].name == "Day 3"


def test_the_last_of_several_is_told_where_they_slipped_by_different_times():
    taken = taken_looks(PLAN, STARTS, [*read({"d3": 5}, CODES[:6]), *read({"d3": 7}, CODES[6:])])
    assert slips_told(PLAN, taken) == ("Day 3 was taken 2 days late, up to 4 days.",)


def test_stages_of_one_moment_stay_one_moment():
    staged = replace(
        PLAN,
        checkpoints=(
            Checkpoint("before", "Day 19", 19 * DAY, stage="before cleaning"),
            Checkpoint("after", "Day 19", 19 * DAY, stage="after cleaning"),
        ),
    )
    taken = taken_looks(staged, STARTS, read({"before": 21, "after": 21.1}))
    told = plan_as_taken(staged, taken).checkpoints
    assert told[0].offset == told[1].offset == 21 * DAY
    assert {one.name for one in told} == {"Day 21, planned for day 19"}


def test_looks_by_cycles_and_baselines_have_no_day_to_miss():
    plan = replace(
        PLAN, checkpoints=(Checkpoint("b", "Before", 0, baseline=True), Checkpoint("c", "After 5 washes", DAY, cycle=5))
    )
    assert taken_looks(plan, STARTS, read({"b": -3, "c": 40})) == {}


@pytest.mark.parametrize("kind", ["slope", "area"])
def test_true_times_are_what_slopes_and_areas_are_counted_by(kind):
    plan = replace(
        PLAN,
        checkpoints=LOOKS[:2],
        outcomes=(replace(PLAN.outcomes[0], summary=Summary(kind)),),
    )
    placed = [Placed(code, "ab"[i % 2]) for i, code in enumerate(CODES)]
    stands = [
        CountedReading((("h", look)), code, "Robin", None, 10.0 + 2 * at + i, T0 + timedelta(days=at))
        for i, code in enumerate(CODES)
        for look, at in (("d1", 1.0), ("d3", 5.0))
    ]
    study = study_in(plan, "beef", placed, stands, Decisions(), starts=STARTS)
    main = next(one for one in study.findings() if one.checkpoint is None)
    assert "to day 5, planned for day 3" in main.sentence
    if kind == "slope":
        assert main.numbers[0] == pytest.approx(2.0)
    assert study.slips == ("Day 3 was taken 2 days late.",)


def test_the_headline_says_the_true_day():
    placed = [Placed(code, "ab"[i % 2]) for i, code in enumerate(CODES)]
    stands = [
        CountedReading(("h", "d3"), code, "Robin", None, 10.0 + 5 * (i % 2) + 0.1 * i, T0 + timedelta(days=5))
        for i, code in enumerate(CODES)
    ]
    plan = replace(PLAN, checkpoints=LOOKS[1:2])
    main = study_in(plan, "beef", placed, stands, Decisions(), starts=STARTS).findings()[0]
    assert main.sentence.startswith("Tea did best on height at day 5, planned for day 3:")
