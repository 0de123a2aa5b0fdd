"""Ready means ready: nobody becomes it by guessing, by a constant, by leaning or by trying again, and good ones do."""

import numpy as np
import pytest

from fieldtally.core.scales import CountScale, GradeScale, Level, PassFailScale, PercentScale
from fieldtally.core.training.learning import BAD, SETS_NEEDED, Given, learned, limit_for
from fieldtally.core.training.readiness import evidence_of, guessing_p
from fieldtally.core.training.sets import SET_OF

GRADE = GradeScale(tuple(Level(float(i), str(i), f"level {i}") for i in range(5)))
PLAYS, SETS = 60, 10


def truths_of(scale, rng):
    match scale:
        case GradeScale():
            return rng.permutation(np.resize(np.arange(5.0), SET_OF))
        case PercentScale():
            return rng.permutation(np.round(100 * ((np.arange(SET_OF) + rng.random(SET_OF)) / SET_OF * 0.94 + 0.02)))
        case CountScale(of=of):
            return rng.permutation(np.round((of or 60) * (np.arange(SET_OF) + rng.random(SET_OF)) / SET_OF))
        case _:
            return rng.permutation(np.resize([0.0, 1.0], SET_OF))


def ever_ready(scale, answer, plays=PLAYS):
    """How often somebody who answers so is called ready within ten sets, looked at after each."""
    rng = np.random.default_rng(9)
    many = 0
    for _ in range(plays):
        sets = []
        for number in range(SETS):
            truths = truths_of(scale, rng)
            allowed = np.array([limit_for(scale, float(truth)) for truth in truths])
            sets.append((truths, np.asarray(answer(truths, rng), dtype=np.float64), allowed))
            if number + 1 >= SETS_NEEDED and evidence_of(sets, rng).enough:
                many += 1
                break
    return many / plays


def grades(spread):
    return lambda truths, rng: np.clip(np.round(truths + rng.normal(0, spread, len(truths))), 0, 4)


COARSE = PercentScale(resolution=20.0)
IDLE = {
    "grades by chance": (GRADE, lambda truths, rng: rng.integers(0, 5, len(truths))),
    "always the middle grade": (GRADE, lambda truths, rng: np.full(len(truths), 2.0)),
    "a step too high": (GRADE, lambda truths, rng: np.clip(truths + 1, 0, 4)),
    "percent in 20s, always 40 or 60": (COARSE, lambda truths, rng: rng.choice([40.0, 60.0], len(truths))),
    "count of 5, always 2": (CountScale(of=5), lambda truths, rng: np.full(len(truths), 2.0)),
    "a count by chance": (CountScale(), lambda truths, rng: rng.integers(0, 61, len(truths))),
    "pass or fail by chance": (PassFailScale(), lambda truths, rng: rng.integers(0, 2, len(truths))),
}
GOOD = {
    "grades": (GRADE, grades(0.3)),
    "percent in 5s": (PercentScale(resolution=5.0), lambda t, rng: np.round((t + rng.normal(0, 4, len(t))) / 5) * 5),
    "percent in 20s": (COARSE, lambda truths, rng: np.round((truths + rng.normal(0, 6, len(truths))) / 20) * 20),
    "a count off by a tenth": (CountScale(), lambda t, rng: np.round(t * (1 + rng.normal(0, 0.1, len(t))))),
    "pass or fail": (PassFailScale(), lambda t, rng: np.where(rng.random(len(t)) < 0.95, t, 1 - t)),
}


@pytest.mark.parametrize("who", IDLE)
def test_who_does_not_look_is_never_called_ready(who):
    assert ever_ready(*IDLE[who]) <= 0.02


@pytest.mark.parametrize("who", GOOD)
def test_who_is_good_is_called_ready_within_ten_sets(who):
    assert ever_ready(*GOOD[who]) >= 0.9


def test_trying_again_does_not_help_who_is_too_far_off():
    assert ever_ready(GRADE, grades(0.7), plays=150) <= 0.05


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
