"""Methods against each other, held against published figures and libraries."""

import numpy as np
import pytest
from scipy.stats import ttest_1samp
from statsmodels.stats.contingency_tables import mcnemar

from fieldtally.core.agreement.instruments import methods_compared
from fieldtally.core.problems import Refused

# Peak expiratory flow by two meters, first readings, l/min: Bland & Altman 1986, Lancet 327:307, table.
LARGE = [494, 395, 516, 434, 476, 557, 413, 442, 650, 433, 417, 656, 267, 478, 178, 423, 427]
MINI = [512, 430, 520, 428, 500, 600, 364, 380, 658, 445, 432, 626, 260, 477, 259, 350, 451]


def test_flow_meters_as_published() -> None:
    (pair,) = methods_compared(["large", "mini"], np.column_stack([LARGE, MINI]).astype(float), unit="l/min").pairs
    assert pair.bias and pair.lower and pair.upper
    # Published: mean difference −2.1 l/min, standard deviation 38.8.
    apart = np.array(LARGE, float) - MINI
    assert pair.bias.value == pytest.approx(-2.1, abs=0.05)
    assert apart.std(ddof=1) == pytest.approx(38.8, abs=0.05)
    ours = ttest_1samp(apart, 0).confidence_interval()
    assert (pair.bias.low, pair.bias.high) == pytest.approx((ours.low, ours.high))
    # With t and the mean's own error the limits lie a little outside the published −79.7 and 75.5 of two standard deviations.
    assert -90 < pair.lower.value < -79.7 and 75.5 < pair.upper.value < 85
    assert "no bias is shown" in pair.says


def test_limits_hold_nineteen_of_twenty() -> None:
    rng = np.random.default_rng(3)
    held = []
    for _ in range(2_000):
        drawn = rng.normal(0.4, 1.0, (11, 1)) * [1, 0]
        (pair,) = methods_compared(["a", "b"], drawn[:10]).pairs
        assert pair.lower and pair.upper
        held.append(pair.lower.value <= drawn[10, 0] <= pair.upper.value)
    assert 0.935 < np.mean(held) < 0.965


def test_limit_disagreement_is_mcnemars() -> None:
    a = np.array([12, 15, 8, 11, 14, 9, 13, 16, 7, 12], float)
    b = np.array([9, 11, 7, 9, 12, 8, 9, 9, 6, 8], float)
    (pair,) = methods_compared(["a", "b"], np.column_stack([a, b]), limit=10).pairs
    assert pair.limit is not None
    both, only_a, only_b = ((a >= 10) & (b >= 10)).sum(), ((a >= 10) & (b < 10)).sum(), ((a < 10) & (b >= 10)).sum()
    assert (pair.limit.only_a, pair.limit.only_b) == (only_a, only_b)
    assert pair.limit.p == pytest.approx(mcnemar([[both, only_a], [only_b, 3]], exact=True).pvalue)
    assert pair.limit.apart.many == 5 and pair.limit.apart.of == 10


def test_blanks_misses_and_the_wrong_substance() -> None:
    truth = np.array([0, 0, 0, 0, 20, 20, 20, 40, 0, 0], float)
    other = np.array([0] * 8 + [1, 1], bool)
    strip = np.array([0, 5, 0, 0, 10, 25, 0, 50, 25, 25], float)
    meter = np.array([0, 0, 0, 0, 19, 21, 20, 41, 0, 0], float)
    found = methods_compared(["strip", "meter"], np.column_stack([strip, meter]), truth=truth, other=other, unit="mg/L")
    first, second = found.against_truth
    assert (first.alarms.many, first.alarms.of) == (1, 4) and (first.misses.many, first.misses.of) == (1, 4)  # type: ignore[union-attr]
    assert (first.wrong.many, first.wrong.of) == (2, 2) and "wrong substance in 2 of 2" in first.says  # type: ignore[union-attr]
    assert second.alarms.many == 0 and second.wrong.many == 0 and second.bias.value == pytest.approx(0.25)  # type: ignore[union-attr]
    assert "does not react" in second.says


def test_a_gap_that_grows_is_said() -> None:
    true = np.linspace(1, 50, 25)
    (pair,) = methods_compared(["strip", "meter"], np.column_stack([1.2 * true, true + np.sin(true) / 5])).pairs
    assert pair.slope_p is not None and pair.slope_p < 1e-6 and "changes with how much" in pair.says


@pytest.mark.parametrize(
    ("methods", "values", "says"),
    [
        (["a"], [[1.0]] * 5, "at least two"),
        (["a", "a"], [[1.0, 2.0]] * 5, "name of its own"),
        (["a", "b"], [[1.0, np.nan]] * 5, "nothing to compare"),
    ],
)
def test_bad_input(methods: list[str], values: list[list[float]], says: str) -> None:
    with pytest.raises(Refused, match=says):
        methods_compared(methods, np.array(values))
