"""Several trials taken together, held against an independent library."""

import numpy as np
import pytest
from scipy.stats import norm
from statsmodels.stats.meta_analysis import combine_effects

from fieldtally.core.problems import Refused
from fieldtally.core.verdict.combining import OneTrial, combined

Z = norm.ppf(0.975)


def trials(effects, errors):
    return [OneTrial(f"T{i}", y, y - Z * e, y + Z * e) for i, (y, e) in enumerate(zip(effects, errors, strict=True))]


@pytest.mark.parametrize(
    ("effects", "errors"),
    [([1.2, 0.8, 1.9, 1.1], [0.3, 0.4, 0.5, 0.2]), ([2.0, -1.0, 3.0], [0.3, 0.4, 0.3]), ([0.1, 0.12], [1.0, 2.0])],
)
def test_fixed_and_random_effects_are_those_of_a_library(effects, errors):
    found = combined(trials(effects, errors), "Tea", "Water", "cm")
    theirs = combine_effects(np.array(effects), np.array(errors) ** 2, method_re="dl", use_t=False)
    assert found.fixed.difference == pytest.approx(theirs.mean_effect_fe)
    assert (found.fixed.low, found.fixed.high) == pytest.approx(tuple(theirs.conf_int()[0]))
    if theirs.tau2 > 0:
        assert found.random.difference == pytest.approx(theirs.mean_effect_re)
        assert found.random.weights == pytest.approx(tuple(theirs.weights_rel_re))
    else:
        # No more than chance between them: then both are the same.
        assert found.random.difference == pytest.approx(found.fixed.difference)
    assert found.q == pytest.approx(theirs.q)
    assert found.fixed.weights == pytest.approx(tuple(theirs.weights_rel_fe))
    assert found.i_squared == pytest.approx(max(0, theirs.i2), abs=1e-9)


def test_it_says_whether_they_agree():
    agree = combined(trials([1.2, 1.0, 1.1], [0.2, 0.3, 0.2]), "Tea", "Water", "cm")
    assert agree.agree and agree.says.startswith("Over 3 trials Tea lies 1.12 cm above Water") and "agree" in agree.says
    apart = combined(trials([3.0, -2.0, 0.5], [0.2, 0.3, 0.2]), "Tea", "Water")
    assert not apart.agree and "differ by more than chance" in apart.says and "no difference" in apart.says


def test_few_trials_are_not_surer_than_they_are():
    draws, held = np.random.default_rng(4), 0
    for _ in range(1_000):
        truth = draws.normal(1.0, 0.5, 4)
        found = combined(trials(draws.normal(truth, 0.3), [0.3] * 4), "a", "b")
        held += found.random.low <= 1.0 <= found.random.high
    assert held / 1_000 > 0.93


def test_what_cannot_be_weighed_is_refused():
    with pytest.raises(Refused, match="two trials"):
        combined(trials([1.0], [0.2]), "a", "b")
    with pytest.raises(Refused, match="no interval"):
        combined([*trials([1.0], [0.2]), OneTrial("flat", 1.0, 1.0, 1.0)], "a", "b")
