"""Tests of the core that play many trials, or make many pictures, are slow; ``./test --quick`` leaves them out."""

import pytest

SLOW = (
    "test_no_wrong_winner.py::test_two_noisy",
    "test_outlook.py::test_the_planner_is_the_verdict",
    "test_planner.py",
    "test_panels.py::test_rankings_of_chance",
    "test_panels.py::test_grades_of_chance",
    "test_panels.py::test_intervals_cover",
    "test_settling.py::test_stopping_at_the_first_success",
    "test_verdict.py::test_clear",
    "test_rehearsal.py::test_no_layout",
    "test_library.py::test_the_package_holds",
    "test_telling.py::test_there_are_some_hundred",
    "test_telling.py::test_no_sentence_is_broken",
    "test_filing.py::test_made_up_photos",
    "test_persons.py::test_people_who_stick",
    "test_persons.py::test_the_promised_power",
    "test_stimuli.py::test_alike_by_person_is_promised",
    "test_readiness.py::test_trying_again",
    "test_doubts.py::test_each_measure",
    "test_doubts.py::test_a_colour_is_right",
)


def pytest_collection_modifyitems(items):
    """Mark them."""
    for item in items:
        if any(name in item.nodeid for name in SLOW):
            item.add_marker(pytest.mark.slow)
