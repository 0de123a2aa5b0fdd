"""How checkpoints stand against their windows."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldtally.core.design.plan import Block, Checkpoint, EndingRule, Layout, Outcome, Plan, Treatment
from fieldtally.core.problems import Refused
from fieldtally.core.scales import EventScale, MeasurementScale
from fieldtally.core.schedule.calendar import Engagement, dated, planned_start
from fieldtally.core.schedule.ending import ending_finding
from fieldtally.core.schedule.repeat import repeated
from fieldtally.core.schedule.slip import slip
from fieldtally.core.schedule.standing import Times, cycle_times, standing_at, times_of

START = datetime(2026, 3, 1, 8, 0, tzinfo=UTC)
DAY = 1440


def looking(*checkpoints, **more):
    return Plan("Looks", checkpoints=checkpoints, **more)


PLAN = looking(Checkpoint("d2", "Day 2", 2 * DAY, 60, 180), Checkpoint("d1", "Day 1", DAY, 60, 120))


@pytest.mark.parametrize(
    ("hours", "standing"),
    [(22.9, "upcoming"), (23, "due"), (26, "due"), (26.1, "late"), (36, "late"), (36.1, "missed")],
)
def test_a_look_goes_from_upcoming_to_missed(hours, standing):
    times = times_of(PLAN, START)["d1"]
    assert standing_at(times, START + timedelta(hours=hours), complete=False) == standing
    assert standing_at(times, START + timedelta(hours=hours), complete=True) == "taken"


def test_skipped_is_not_missed_and_the_last_look_waits_longest():
    times = times_of(PLAN, START)["d2"]
    assert standing_at(times, START + timedelta(days=9), complete=False, skipped=True) == "skipped"
    assert standing_at(times, START + timedelta(days=2, hours=20), complete=False) == "late"


def test_elapsed_time_runs_through_a_change_of_the_clocks():
    before = datetime(2026, 3, 28, 20, 0, tzinfo=ZoneInfo("Europe/London"))
    times = times_of(looking(Checkpoint("x", "x", DAY)), before.astimezone(UTC))["x"]
    assert times.due.astimezone(ZoneInfo("Europe/London")).hour == 21


def test_a_single_look_at_the_very_start_has_its_times():
    times = times_of(looking(Checkpoint("b", "Baseline", 0, 0, 30)), START)["b"]
    assert times.opens == times.due == START < times.closes < times.lost


def test_a_look_with_an_hour_of_its_own_follows_the_clocks():
    """Summer time begins on 29 March 2026: eight o'clock stays eight o'clock, though a day has 23 hours."""
    plan = looking(*(Checkpoint(f"d{n}", f"Day {n}", n * DAY, clock=8 * 60) for n in (1, 2)), zone="Europe/London")
    times = times_of(plan, datetime(2026, 3, 27, 17, 0, tzinfo=UTC))
    assert [times[key].due for key in ("d1", "d2")] == [
        datetime(2026, 3, 28, 8, 0, tzinfo=UTC),
        datetime(2026, 3, 29, 7, 0, tzinfo=UTC),
    ]


def test_staggered_starts_keep_a_look_open_for_the_last_sample():
    layout = Layout("blocks", (Block("a", "A"), Block("b", "B", starts=120)), stagger=10)
    plan = looking(
        Checkpoint("d1", "Day 1", DAY, 30, 30),
        Checkpoint("d2", "Day 2", 2 * DAY),
        layout=layout,
        treatments=(Treatment("x", "X", samples=2), Treatment("y", "Y", samples=1)),
    )
    times = times_of(plan, START)["d1"]
    assert times.opens == START + timedelta(minutes=DAY - 30)
    assert times.closes == START + timedelta(minutes=DAY + 30 + 120 + 2 * 10)


def test_a_baseline_closes_with_the_start_and_parts_of_a_look_share_their_time():
    plan = looking(
        Checkpoint("b", "Before", 0, baseline=True),
        Checkpoint("x", "Day 1", DAY, 0, 60, stage="before cleaning"),
        Checkpoint("y", "Day 1", DAY, 0, 60, stage="after cleaning"),
        Checkpoint("z", "Day 3", 3 * DAY),
    )
    times = times_of(plan, START)
    assert times["b"].opens < times["b"].closes == START
    assert times["x"] == times["y"]
    assert times["x"].lost == START + timedelta(days=2)


@pytest.mark.parametrize(
    ("rule", "offsets"),
    [
        ("every 5 days, eight times", [5 * DAY * n for n in range(1, 9)]),
        ("Every 12 hours for 3 days", [720 * n for n in range(1, 7)]),
        ("every 2h until 8 h", [120, 240, 360, 480]),
        ("hourly, twice", [60, 120]),
        ("weekly 3 times", [7 * DAY, 14 * DAY, 21 * DAY]),
        ("after 1, 3, 7 and 14 days", [DAY, 3 * DAY, 7 * DAY, 14 * DAY]),
        ("days 2 and 1", [DAY, 2 * DAY]),
        ("after 1,5 hours", [60, 300]),
        ("after 2 h and 24 h", [120, DAY]),
        ("2 h, 3 days and 1 week", [120, 3 * DAY, 7 * DAY]),
        ("after 2, 4 h and 1 day", [120, 240, DAY]),
        ("monthly, 3 times", [30 * DAY, 61 * DAY, 91 * DAY]),
        ("every 6 months for 2 years", [183 * DAY, 365 * DAY, 548 * DAY, 730 * DAY]),
        ("after 1 and 3 months", [30 * DAY, 91 * DAY]),
        ("after 1 week and 2 months", [7 * DAY, 61 * DAY]),
        ("monthly, 500 times", None),
        ("after 2 h and 5 washes", None),
        ("after 0 h and 2 days", None),
        ("every half hour", None),
        ("now and then", None),
        ("every 5 days", None),
        ("every 5 fortnights, twice", None),
        ("every 0 days, twice", None),
        ("every minute for 3 days", None),
        ("", None),
    ],
)
def test_a_rule_as_people_write_it(rule, offsets):
    if offsets is None:
        with pytest.raises(Refused) as refused:
            repeated(rule)
        assert refused.value.problems[0].says.endswith((".", "?"))
    else:
        assert [look.offset for look in repeated(rule)] == offsets


@pytest.mark.parametrize(
    ("rule", "names"),
    [
        ("after 2 h and 24 h", ["2 h", "24 h"]),
        ("every 12 hours for 2 days", ["12 h", "24 h", "36 h", "48 h"]),
        ("after 24 h and 48 h", ["Day 1", "Day 2"]),
        ("after 2 h and 3 days", ["2 h", "72 h"]),
        ("after 2 h and 3 weeks", ["2 h", "Day 21"]),
        ("monthly, twice", ["Month 1", "Month 2"]),
        ("every 6 months for 1 year", ["Month 6", "Month 12"]),
        ("after 3 months at 8:00", ["Day 91"]),
        ("weekly, twice", ["Week 1", "Week 2"]),
        ("day 1, day 3 and day 7", ["Day 1", "Day 3", "Day 7"]),
        ("after 1 week, after 2 weeks and after 4 weeks", ["Week 1", "Week 2", "Week 4"]),
        ("week 1, week 2", ["Week 1", "Week 2"]),
    ],
)
def test_looks_of_a_rule_keep_one_style_of_names(rule, names):
    assert [look.name for look in repeated(rule)] == names


def test_rules_with_an_hour_and_rules_of_cycles():
    daily = repeated("daily at 08:00, 12 times")
    assert {look.clock for look in daily} == {480}
    assert [look.name for look in daily[:2]] == ["Day 1", "Day 2"]
    assert repeated("every 2 days at 7 pm, twice")[0].clock == 19 * 60
    washes = repeated("after every 5 washes, six times", cycle_word="wash")
    assert [(look.name, look.cycle, look.offset) for look in washes[:2]] == [
        ("After 5 washes", 5, None),
        ("After 10 washes", 10, None),
    ]
    assert [look.cycle for look in repeated("after 10, 20 and 40 firings", cycle_word="firing")] == [10, 20, 40]
    for wrong in ("every 5 washes, six times", "every 6 hours at 8:00, twice", "daily at 27:00, twice"):
        with pytest.raises(Refused):
            repeated(wrong)


def test_the_calendar_names_weekends_and_what_else_falls_due():
    plan = looking(
        Checkpoint("d1", "Day 1", DAY),
        Checkpoint("d5", "Day 5", 5 * DAY),
        zone="Europe/London",
        starts_on="2026-06-01T09:00",
    )
    start = planned_start(plan)
    others = [
        Engagement("Peas", "Day 4", datetime(2026, 6, 2, 8, 30, tzinfo=UTC)),
        Engagement("Twine", "Week 2", datetime(2026, 6, 2, 18, 0, tzinfo=UTC)),
    ]
    first, second = dated(plan, start, others)
    assert first.due == datetime(2026, 6, 2, 8, 0, tzinfo=UTC)
    assert (first.clashes, first.same_day, first.weekend) == (("Peas: Day 4",), ("Twine: Week 2",), False)
    assert (second.clashes, second.weekend) == ((), True)
    assert planned_start(looking(starts_on="soon")) is None
    with pytest.raises(Refused):
        dated(looking(Checkpoint("x", "x", DAY)), datetime(9999, 12, 31, 12, tzinfo=UTC), [])


def test_a_look_after_cycles_is_due_when_they_are_done_and_lost_with_the_next():
    look = Checkpoint("w", "After 2 washes", 2 * DAY, after=600, cycle=2)
    days = [START + timedelta(days=n) for n in (1, 4, 9)]
    assert cycle_times(look, days[:1]) is None
    done = cycle_times(look, days[:2])
    assert (done.due, done.closes) == (days[1], days[1] + timedelta(hours=10))
    assert standing_at(done, days[1] + timedelta(days=60), complete=False) == "late"
    assert standing_at(cycle_times(look, days), days[2] + timedelta(minutes=1), complete=False) == "missed"


def test_an_unplanned_look_changes_nothing_for_planned_ones():
    extra = replace(
        PLAN, checkpoints=(*PLAN.checkpoints, Checkpoint("u", "Unplanned", DAY + 90, 0, 120, unplanned=True))
    )
    assert {k: v for k, v in times_of(extra, START).items() if k != "u"} == times_of(PLAN, START)
    outcome = Outcome("o", "Load", MeasurementScale("kg"))
    late = replace(PLAN, checkpoints=(*PLAN.checkpoints, Checkpoint("u", "Unplanned", 9 * DAY, unplanned=True)))
    assert late.judged_at(outcome) == "d2"


LASTS = Outcome("e", "Crack", EventScale("a crack"), "less", primary=False)
GROWS = Outcome("g", "Height", MeasurementScale("cm"), margin=2.0)
THREE = tuple(Checkpoint(f"d{n}", f"Day {n}", n * DAY) for n in (1, 2, 3))


@pytest.mark.parametrize(
    ("kind", "outcome", "values", "met", "says"),
    [
        ("half", "e", {"d1": {"1": 0, "2": 0}, "d2": {"1": 1, "2": 0}}, True, "1 of 2 have failed"),
        ("all", "e", {"d1": {"1": 1, "2": 0}, "d2": {"1": 0, "2": 0}}, False, "it ends once all have"),
        ("all", "e", {"d1": {"1": 1}, "d2": {"1": 0, "2": 1}}, True, "2 of 2 have failed"),
        ("levelled", "g", {"d1": {"1": 5, "2": 6}, "d2": {"1": 6, "2": 7}}, False, "two steps in a row"),
        ("levelled", "g", {"d1": {"1": 5}, "d2": {"1": 6}, "d3": {"1": 6.5}}, True, "changed by 1 and 0.5 cm"),
        ("levelled", "g", {"d1": {"1": 5}, "d2": {"1": 9}, "d3": {"1": 9.5}}, False, "once both are below 2"),
        ("levelled", "g", {"d1": {"1": 5}, "d2": {"2": 9}, "d3": {"2": 9.5}}, False, "share no sample"),
    ],
)
def test_the_stop_rule_is_judged_over_all_samples_together(kind, outcome, values, met, says):
    plan = Plan("x", outcomes=(LASTS, GROWS), checkpoints=THREE, ending=EndingRule(kind, outcome))
    found = ending_finding(plan, values, 2)
    assert found.met is met
    assert says in found.says


def test_a_fixed_end_needs_no_judging():
    assert ending_finding(Plan("x", outcomes=(LASTS,), checkpoints=THREE), {}, 2) is None


@given(st.integers(0, 500), st.integers(0, 500), st.integers(-2_000, 2_000))
def test_slip_is_told_outside_the_window_alone_and_from_the_moment_it_fell_due(before, after, late):
    due = START + timedelta(days=2)
    window = Times(due - timedelta(minutes=before), due, due + timedelta(minutes=after), due + timedelta(days=9))
    found = slip(window, due + timedelta(minutes=late))
    assert found == (None if -before <= late <= after else timedelta(minutes=late))
