"""What the planner tells is what the verdict would say: a part of the plays of ``python -m benchmarks.planner``."""

import pytest

from benchmarks.planner import cases, judged, planned
from tests.depth import cells

SOME = cases()[7::7]


@pytest.mark.parametrize("case", cells(SOME, SOME[:1]), ids=lambda one: one.name)
def test_the_planner_plays_the_verdict_for_several_primaries_too(case):
    """Other plays than the planner's own: 600 of each differ by 9 points at most, 99 times in 100."""
    for told, right in zip(planned(case.plan, 600), judged(case.plan, 600), strict=True):
        assert told == pytest.approx(right, abs=0.09)
