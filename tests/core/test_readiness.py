"""Ready means ready: nobody becomes it by guessing, by a constant, by leaning or by trying again, and good ones do."""

from dataclasses import replace

import numpy as np
import pytest

from benchmarks.ready import GOOD, GRADE, IDLE, NEARLY, ever_ready, truths_of
from fieldtally.core.agreement.drift import Drift
from fieldtally.core.agreement.repeats import WithinScorer
from fieldtally.core.agreement.together import Alone
from fieldtally.core.scales import CountScale, PercentScale
from fieldtally.core.training.drifting import drifted
from fieldtally.core.training.learning import BAD, Given, learned, limit_for
from fieldtally.core.training.readiness import guessing_p
from fieldtally.core.training.sets import SET_OF
from tests.depth import cells, plays

PLAYS = 60


@pytest.mark.parametrize("who", cells(list(IDLE), list(IDLE)[::3]))
def test_who_does_not_look_is_never_called_ready(who):
    assert ever_ready(*IDLE[who], PLAYS) <= 0.02


@pytest.mark.parametrize("who", GOOD)
def test_who_is_good_is_called_ready_within_ten_sets(who):
    assert ever_ready(*GOOD[who], PLAYS) >= 0.9


def test_trying_again_does_not_help_who_is_too_far_off():
    assert ever_ready(*NEARLY["grades, a spread of 0.7 step"], plays(150, 80)) <= 0.05


def test_p_of_guessing_is_one_for_a_constant_and_even_for_chance():
    rng = np.random.default_rng(3)
    assert guessing_p(np.arange(12.0), np.full(12, 5.0), rng) == 1
    found = [guessing_p(truths_of(GRADE, rng), rng.integers(0, 5, SET_OF).astype(float), rng) for _ in range(300)]
    assert np.mean(np.array(found) <= 0.05) <= 0.09
    assert 0.4 <= np.mean(found) <= 0.65


def test_a_bad_last_set_takes_it_back_and_is_named():
    rng = np.random.default_rng(5)
    scale = PercentScale(resolution=5.0)

    def one(number, off):
        truths = truths_of(scale, rng)
        return [Given(float(t), float(np.clip(t + off * (-1) ** i, 0, 100)), number, i) for i, t in enumerate(truths)]

    good = [*one(1, 2), *one(2, 2), *one(3, 2)]
    assert learned(scale, good, rng).ready
    worse = learned(scale, [*good, *one(4, 15)], rng)
    assert (worse.ready, worse.taken_back) == (False, True)
    assert "In set 4 you were off by" in worse.why
    assert worse.sets[-1].off > BAD * worse.limit
    again = learned(scale, [*good, *one(4, 15), *one(5, 2), *one(6, 2)], rng)
    assert again.ready


def test_limits_scale_with_what_is_counted_and_how_finely():
    assert [limit_for(CountScale(), truth) for truth in (0, 10, 40)] == [1.5, 1.5, 6.0]
    assert (
        "15 % of the count"
        in learned(CountScale(), [Given(10, 10, 1, i) for i in range(8)], np.random.default_rng(1)).why
    )
    assert limit_for(PercentScale(resolution=20.0)) < 20


def test_what_is_done_in_real_rounds_speaks_against_being_ready():
    steady = Alone("a", WithinScorer(12, 0.8, 1.0, 2.8), Drift(3.0, 0.5, 0.3))
    assert not drifted(steady, 5.0)
    assert drifted(Alone("a", None, Drift(0, -3.0, 0.01)), 5.0)
    # A slope that is small, or may be chance, does not.
    assert not drifted(Alone("a", None, Drift(0, -1.0, 0.01)), 5.0)
    assert not drifted(Alone("a", None, Drift(0, -3.0, 0.2)), 5.0)
    assert not drifted(Alone("a", None, Drift(0, -3.0, None)), 5.0)
    unsteady = Alone("a", WithinScorer(12, 0.1, 7.0, 19.0), None)
    assert drifted(unsteady, 5.0)
    assert not drifted(replace(unsteady, within=WithinScorer(3, 0.1, 7.0, 19.0)), 5.0)
    assert not drifted(replace(unsteady, within=WithinScorer(12, 0.1, 7.0, 19.0, blind=False)), 5.0)
