"""What a design can tell: simulation against closed forms and enumeration."""

from dataclasses import replace
from math import comb, sqrt

import numpy as np
import pytest
from scipy import stats

from fieldtally.core.design.plan import Block, Layout, Outcome, Plan, Treatment
from fieldtally.core.outlook.outlook import outlook
from fieldtally.core.outlook.simulate import Design, Truth, drawn, play
from fieldtally.core.scales import CountScale, GradeScale, Level, MeasurementScale, PassFailScale

GRADES = GradeScale(tuple(Level(i, str(i)) for i in range(6)))
PENS = Plan(
    title="Pens",
    sample_word="label",
    treatments=tuple(Treatment(k, k.upper(), samples=3) for k in "abc"),
    outcomes=(Outcome("o", "Readable", GRADES, margin=1.0),),
)


def rng():
    return np.random.default_rng(11)


def test_power_agrees_with_the_closed_form_for_two_normal_samples():
    n, lead = 12, 1.2
    shares = play(Design.of((n, n), 1, (0, 1)), Truth(MeasurementScale("mL"), lead, 1.0, None, 0.05), rng(), 2000)
    shift = lead * sqrt(n / 2)
    critical = stats.t.ppf(0.975, 2 * n - 2)
    right = 1 - stats.nct.cdf(critical, 2 * n - 2, shift)
    assert shares.right == pytest.approx(right, abs=0.035)
    assert shares.right + shares.none + shares.wrong == pytest.approx(1)


def test_power_agrees_with_enumeration_for_pass_or_fail():
    """5 against 5, shares 0.9 and 0.1: the trial is clear where the counts' own exact p is at most 0.05."""
    n = 5
    right = 0.0
    for x in range(n + 1):
        for y in range(x):
            seen = abs(x - y)
            ways = sum(
                comb(n, i) * comb(n, x + y - i)
                for i in range(n + 1)
                if abs(2 * i - x - y) >= seen and 0 <= x + y - i <= n
            )
            if ways / comb(2 * n, x + y) <= 0.05:
                right += stats.binom.pmf(x, n, 0.9) * stats.binom.pmf(y, n, 0.1)
    shares = play(Design.of((n, n), 1, (0, 1)), Truth(PassFailScale(), 0.8, 0.5, None, 0.05), rng(), 3000)
    assert shares.right == pytest.approx(right, abs=0.03)


def test_without_a_difference_none_is_named_more_often_than_the_level():
    shares = play(Design.of((6, 6, 6), 2, (0, 1, 2)), Truth(MeasurementScale("g"), 0.0, 1.0, None, 0.05), rng(), 2000)
    assert shares.right + shares.wrong <= 0.05 + 2 * sqrt(0.05 * 0.95 / 2000)


@pytest.mark.parametrize("scale", [GRADES, CountScale(20), PassFailScale(), MeasurementScale("mL", low=0, high=9)])
def test_plays_stay_on_their_scale(scale):
    values, best = drawn(Design.of((3, 3), 1, (1,)), Truth(scale, 1.0, 2.0, None, 0.05), 50, rng())
    assert values.shape == (6, 50)
    assert set(best) == {1}
    assert all(scale.refusal(float(v)) is None for v in values.ravel())


def test_three_of_each_can_never_tell_and_the_advice_can():
    found = outlook(PENS, rng())
    assert found.standing == "impossible"
    assert found.headline == "Not enough. With 3 labels each, even a perfect result could be luck 1 time in 10."
    assert found.shares.right == 0
    assert found.found_8_in_10 is None
    advice = found.advice[0]
    assert advice.kind == "samples"
    assert advice.more == 3 * (advice.samples - 3)
    better = replace(PENS, treatments=tuple(replace(t, samples=advice.samples) for t in PENS.treatments))
    after = outlook(better, rng())
    assert after.shares.right > 0.72
    assert after.found_8_in_10 == pytest.approx(1.5, abs=0.3)


def test_blocks_count_and_the_same_plan_gets_the_same_answer():
    blocked = replace(PENS, layout=Layout("blocks", (Block("x", "X"), Block("y", "Y"))))
    assert outlook(blocked, rng()).smallest_p == pytest.approx(2 / 400)
    assert outlook(blocked, rng()) == outlook(blocked, rng())


def test_expectations_of_the_person_are_used_and_assumptions_named():
    assert outlook(PENS, rng()).assumed == ("spread", "lead")
    own = replace(PENS, outcomes=(replace(PENS.outcomes[0], expected=2.0, spread=0.5),))
    found = outlook(own, rng())
    assert (found.lead, found.spread, found.assumed) == (2.0, 0.5, ())
    fragile = replace(PENS, outcomes=(Outcome("o", "Held", PassFailScale()),))
    assert "If none of 3 fails, up to 63 in 100 may still fail" in outlook(fragile, rng()).rare


@pytest.mark.parametrize(
    "plan",
    [
        Plan(title=""),
        replace(PENS, outcomes=()),
        replace(PENS, treatments=PENS.treatments[:1]),
        replace(PENS, treatments=(*PENS.treatments[:2], Treatment("z", "Z", samples=0))),
        replace(PENS, outcomes=(Outcome("o", "x", MeasurementScale("")),)),
        replace(PENS, layout=Layout("blocks", ())),
        replace(PENS, alpha=0),
    ],
)
def test_too_little_to_say_anything(plan):
    assert outlook(plan, rng()) is None
