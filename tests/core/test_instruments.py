"""Methods against each other, held against published figures and libraries."""

import numpy as np
import pytest
from scipy.stats import ttest_1samp
from statsmodels.stats.contingency_tables import mcnemar

from fieldtally.core.agreement.instruments import methods_compared
from fieldtally.core.design.plan import AgreementAsked
from fieldtally.core.design.soundness import problems_in
from fieldtally.core.problems import Refused
from fieldtally.core.scales import unit_of
from fieldtally.core.tables.methods import MethodColumns, as_plan, guessed, side_by_side
from fieldtally.core.tables.table import read_table

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


def test_a_kit_that_says_pass_or_fail_is_held_against_a_meter_at_the_limit() -> None:
    meter = np.array([2, 4, 11, 30, 12, 1, 9, 40], float)
    kit = np.array([0, 1, 1, 1, 0, 0, 0, 1], float)
    both = np.column_stack([kit, meter])
    (pair,) = methods_compared(["kit", "meter"], both, flags=[True, False], limit=10, unit="mg/L").pairs
    assert pair.limit is not None and (pair.limit.only_a, pair.limit.only_b, pair.limit.apart.of) == (1, 1, 8)
    assert pair.bias is None and pair.icc is None and not pair.means
    assert pair.says == "At the limit kit and meter disagree on 2 of 8: 1 fails by kit alone, 1 by meter alone."
    with pytest.raises(Refused, match="from which reading of meter a sample fails"):
        methods_compared(["kit", "meter"], both, flags=[True, False])
    (twins,) = methods_compared(["kit", "strip"], np.column_stack([kit, kit]), flags=[True, True]).pairs
    assert twins.says == "kit and strip say the same of all 8."


def test_a_kit_is_told_its_alarms_and_misses_without_a_bias() -> None:
    truth = np.array([0, 0, 0, 20, 20, 5, 0], float)
    other = np.array([0, 0, 0, 0, 0, 0, 1], bool)
    kit = np.array([[0, 0.2], [1, 0.1], [0, 0.3], [1, 21], [0, 19], [0, 5], [1, 0.2]], float)
    found = methods_compared(["kit", "meter"], kit, truth=truth, other=other, flags=[True, False], limit=10)
    first = found.against_truth[0]
    # The one of 5 holds less than the limit: no kit is blamed for letting it pass.
    assert first.misses and (first.misses.many, first.misses.of) == (1, 2)
    assert first.alarms and (first.alarms.many, first.alarms.of) == (1, 3)
    assert first.wrong and first.wrong.many == 1 and first.bias is None
    assert "off by" not in first.says


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


TABLE = (
    b"sample;Kit;Strip (mg/l);Meter [g/L];truth;other\n"
    b"1;pass;10;0,009;blank;\n2;FAIL;100-250;0,18;0.2 g/L;\n3;neg;between 25 and 50;0,03;20;\n4;+;250;0,2;;\n5;;125;0,1;;x\n"
)


def test_each_method_keeps_its_own_scale_and_unit() -> None:
    table = read_table(TABLE)
    columns = guessed(table)
    assert columns.methods == ("Kit", "Strip (mg/l)", "Meter [g/L]")
    sides = side_by_side(table, columns)
    assert (sides.names, sides.flags, sides.unit) == (("Kit", "Strip", "Meter"), (True, False, False), "mg/l")
    np.testing.assert_allclose(
        sides.values, [[0, 10, 9], [1, 175, 180], [0, 37.5, 30], [1, 250, 200], [np.nan, 125, 100]], equal_nan=True
    )
    assert sides.between == 2
    np.testing.assert_allclose(sides.truth, [0, 200, 20, np.nan, np.nan], equal_nan=True)


def test_methods_of_different_things_are_refused_by_name() -> None:
    table = read_table(b"sample;Paper (pH);Meter (mg/L)\n1;7;3\n2;6;4\n3;8;2\n")
    with pytest.raises(Refused, match="Paper reads pH, which is no amount of mg/L"):
        side_by_side(table, guessed(table), "mg/L")


def test_a_kit_column_with_a_strange_word_names_it() -> None:
    table = read_table(b"sample;Kit;Meter\n1;pass;3\n2;perhaps;4\n3;fail;2\n")
    columns = MethodColumns(("Kit", "Meter"))
    with pytest.raises(Refused, match="“perhaps” in column “Kit” is neither pass nor fail"):
        side_by_side(table, columns)


def test_a_table_becomes_a_trial_that_asks_the_same_of_new_samples() -> None:
    text = (
        "sample,strip [mg/L],meter [g/L],kit,truth,other\n1,0,0.0001,pass,blank,\n2,0,0.0001,pass,blank,\n3,10,0.009,pass,10,\n"
        "4,25,0.02,fail,,\n5,50,0.05,fail,blank,x\n6,25,0.03,fail,,\n"
    )
    table = read_table(text.encode())
    plan = as_plan(side_by_side(table, guessed(table)), "Again", limit=25.0)
    assert problems_in(plan) == []
    assert [(one.name, one.holds, one.other_substance, one.samples) for one in plan.treatments] == [
        ("Blank", 0.0, False, 2),
        ("Another substance", 0.0, True, 1),
        ("10 mg/L", 10.0, False, 1),
        ("Not known", None, False, 2),
    ]
    assert [(one.name, unit_of(one.scale)) for one in plan.outcomes] == [
        ("strip", "mg/L"),
        ("meter", "g/L"),
        ("kit", "share"),
    ]
    assert plan.agreement == AgreementAsked("mg/L", 25.0)
    assert plan.question == "Do strip, meter and kit agree?"


def test_more_known_amounts_than_a_trial_can_hold_are_refused() -> None:
    rows = "\n".join(f"{n},{n},{n}" for n in range(50))
    table = read_table(f"a,b,truth\n{rows}\n".encode())
    with pytest.raises(Refused, match="50 different amounts"):
        as_plan(side_by_side(table, guessed(table)), "Again")
