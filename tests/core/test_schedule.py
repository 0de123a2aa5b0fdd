"""How checkpoints stand against their windows."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from fieldtally.core.design.plan import Checkpoint
from fieldtally.core.schedule.standing import standing_at, times_of

START = datetime(2026, 3, 1, 8, 0, tzinfo=UTC)
DAY = 1440
LOOKS = [Checkpoint("d2", "Day 2", 2 * DAY, 60, 180), Checkpoint("d1", "Day 1", DAY, 60, 120)]


@pytest.mark.parametrize(
    ("hours", "standing"),
    [(22.9, "upcoming"), (23, "due"), (26, "due"), (26.1, "late"), (36, "late"), (36.1, "missed")],
)
def test_a_look_goes_from_upcoming_to_missed(hours, standing):
    times = times_of(LOOKS, START)["d1"]
    assert standing_at(times, START + timedelta(hours=hours), complete=False) == standing
    assert standing_at(times, START + timedelta(hours=hours), complete=True) == "taken"


def test_skipped_is_not_missed_and_the_last_look_waits_longest():
    times = times_of(LOOKS, START)["d2"]
    assert standing_at(times, START + timedelta(days=9), complete=False, skipped=True) == "skipped"
    assert standing_at(times, START + timedelta(days=2, hours=20), complete=False) == "late"


def test_elapsed_time_runs_through_a_change_of_the_clocks():
    before = datetime(2026, 3, 28, 20, 0, tzinfo=ZoneInfo("Europe/London"))
    times = times_of([Checkpoint("x", "x", DAY)], before.astimezone(UTC))["x"]
    assert times.due.astimezone(ZoneInfo("Europe/London")).hour == 21


def test_a_single_look_at_the_very_start_has_its_times():
    times = times_of([Checkpoint("b", "Baseline", 0, 0, 30)], START)["b"]
    assert times.opens == times.due == START < times.closes < times.lost
