"""Interim looks and their price, ratios, curves that leave their line, stages, and what would settle an open verdict."""

from dataclasses import replace

import numpy as np
import pytest

from fieldtally.core.compare.pairs import one_pair
from fieldtally.core.compare.ratios import ratio_of
from fieldtally.core.compare.structure import Structure
from fieldtally.core.design.plan import Block, Checkpoint, Layout, Outcome, Plan, Treatment
from fieldtally.core.design.soundness import problems_in
from fieldtally.core.outlook.outlook import outlook
from fieldtally.core.problems import Refused
from fieldtally.core.scales import CountScale, CurveScale, GradeScale, Level, MeasurementScale
from fieldtally.core.scales.departing import straight
from fieldtally.core.verdict.conclude import Samples, conclude
from fieldtally.core.verdict.interim import cut_at, interim_look, price
from fieldtally.core.verdict.supporting import supporting
from tests.depth import plays

DAY = 24 * 60
LOOKS = tuple(Checkpoint(f"d{n}", f"Day {n}", n * DAY, 60, 60) for n in (2, 4, 6))
PLAN = Plan(
    title="Soaks",
    question="Which?",
    treatments=(Treatment("dry", "Dry", "untreated", 6, cost=2.0), Treatment("tea", "Tea", samples=6, cost=3.0)),
    outcomes=(Outcome("mass", "Mass", MeasurementScale("g")),),
    checkpoints=LOOKS,
)
SAMPLES = Samples(("dry",) * 6 + ("tea",) * 6, (None,) * 12)


def rng(seed=3):
    return np.random.default_rng(seed)


def series(table):
    return {("mass", look.key): np.asarray(row, float) for look, row in zip(LOOKS, table, strict=True)}


def test_the_price_is_told_and_paid():
    looks = replace(PLAN, interim=("d2", "d4"))
    assert looks.level == pytest.approx(0.05 / 3)
    assert price(looks) == "With 2 interim looks and the end, each is judged at 1.7 % instead of 5 %, used or not."
    assert price(PLAN) == ""
    # p of 0.026 is clear without interim looks, and not with two of them.
    values = series([[0] * 12, [0] * 12, [1, 2, 3, 4, 5, 6.3, 4.5, 5.5, 6, 7, 8, 9]])
    before = conclude(PLAN, SAMPLES, values, rng())[0]
    after = conclude(looks, SAMPLES, values, rng())[0]
    assert 0.0167 < before.comparison.pairs[0].p < 0.05
    assert (before.strength.level, after.strength.level) == ("clear", "leaning")
    told = outlook(replace(looks, treatments=tuple(replace(t, samples=4) for t in looks.treatments)), rng())
    assert told is not None and told.standing == "impossible"


def test_an_interim_look_says_stop_or_go_on_and_no_more():
    plan = replace(PLAN, interim=("d2", "d4"))
    table = [[5.0] * 6 + [5.1] * 6, [5, 5.1, 5.2, 5.3, 5.4, 5.5, 9, 9.1, 9.2, 9.3, 9.4, 9.5], [np.nan] * 12]
    table[0] = list(np.array(table[0]) + np.tile([0, 0.3, 0.1, 0.2, 0.4, 0.5], 2))
    first = interim_look(plan, SAMPLES, series(table), "d2", rng())
    second = interim_look(plan, SAMPLES, series(table), "d4", rng())
    assert not first.stop and second.stop
    assert first.says == "Go on: not yet clear at 1.7 %."
    for told in (first, second):
        assert not any(word in told.says for word in ("Dry", "Tea", "9", "5."))
    assert [c.key for c in cut_at(plan, "d4").checkpoints] == ["d2", "d4"]


def test_stopping_at_the_first_success_keeps_the_level():
    plan, draws, false = replace(PLAN, interim=("d2", "d4")), rng(7), 0
    many = plays(400, 200)
    for _ in range(many):
        table = draws.normal(size=(3, 12)).cumsum(axis=0)
        looks = [interim_look(plan, SAMPLES, series(table), key, rng()).stop for key in plan.interim]
        false += any(looks) or conclude(plan, SAMPLES, series(table), rng())[0].strength.level == "clear"
    # At most 5 in 100, and three standard errors.
    assert false / many <= 0.05 + 3 * np.sqrt(0.05 * 0.95 / many)


@pytest.mark.parametrize(
    ("interim", "says"),
    [
        (("d6",), "before the last look"),
        (("d2", "d2"), "twice"),
        (("gone",), "no more in the plan"),
        (("base",), "after the start"),
    ],
)
def test_interim_looks_that_cannot_be(interim, says):
    base = Checkpoint("base", "Before", 0, baseline=True)
    found = [p for p in problems_in(replace(PLAN, checkpoints=(base, *LOOKS), interim=interim)) if p.at == "interim"]
    assert len(found) == 1 and says in found[0].says


def test_a_ratio_is_where_the_pair_test_stops_contradicting():
    labels = np.repeat([0, 1], 8)
    values = rng(1).poisson(np.where(labels == 0, 12, 6)).astype(float)
    found = ratio_of(values, labels, Structure.plain(np.zeros(16, np.int64)), (0, 1), ("a", "b"), rng())
    assert found is not None and found.low is not None and found.high is not None
    assert found.ratio == pytest.approx(values[:8].mean() / values[8:].mean())
    assert found.low < found.ratio < found.high
    for end, way in ((found.low, -1), (found.high, 1)):
        for step, rejected in ((0.04, True), (-0.04, False)):
            rho = end * np.exp(way * step)
            tested = one_pair(
                np.where(labels == 0, values / rho, values)[:, None], labels == 0, np.zeros(16, np.int64), rng()
            )
            assert (tested.p[0] <= 0.05) == rejected


def test_ratios_hold_the_truth():
    labels, held, draws = np.repeat([0, 1], 6), 0, rng(5)
    for _ in range(300):
        values = draws.poisson(np.where(labels == 0, 20, 10)).astype(float)
        found = ratio_of(values, labels, Structure.plain(np.zeros(12, np.int64)), (0, 1), ("a", "b"), draws)
        assert found is not None
        held += (found.low is None or found.low <= 2) and (found.high is None or found.high >= 2)
    assert held / 300 >= 0.915


def test_no_ratio_without_something_on_both_sides():
    labels = np.repeat([0, 1], 3)
    assert (
        ratio_of(
            np.array([0.0, 0, 0, 1, 2, 3]), labels, Structure.plain(np.zeros(6, np.int64)), (0, 1), ("a", "b"), rng()
        )
        is None
    )


@pytest.mark.parametrize(
    ("responses", "at"),
    [
        ([1, 2, 3, 4, 5, 6, 7, 8, 9], None),
        ([1, 2, 3, 4, 5, 6, 8, 11, 15], (6, 7)),
        ([1, 2, 3, 3.2, 3.3, 3.4, 3.5, 3.6, 3.7], (3, 4)),
        # Once off and back on again is no departure.
        ([1, 2, 3, 4, 7, 6, 7, 8, 9], None),
    ],
)
def test_where_a_curve_leaves_its_line(responses, at):
    found = straight(range(1, len(responses) + 1), responses)
    assert found.told
    assert found.leaves == at


def test_a_step_that_was_not_taken_is_left_out():
    scale = CurveScale("mm", "kg", (1.0, 2.0, 3.0, 4.0, 5.0, 6.0))
    read = (2.0, None, 6.0, 8.0, None, 17.0)
    assert scale.number_of(read) == pytest.approx(2.0)
    assert straight(scale.steps, read).leaves == (4.0, 6.0)
    assert not straight(scale.steps, (2.0, None, 6.0, None)).told
    for too_few in ((None, None, 2.0), (1.0,) * 7):
        with pytest.raises(Refused):
            scale.number_of(too_few)
    with pytest.raises(Refused, match="the last one has none"):
        replace(scale, number="last").number_of((2.0, 4.0, 6.0, 8.0, 10.0, None))
    # Added later: what was read at fewer steps goes on being judged.
    assert replace(scale, steps=(*scale.steps, 7.0)).number_of(read) == pytest.approx(2.0)


def test_stiffness_is_that_of_the_straight_part_and_departure_is_bracketed():
    """Two beams, one 2.8 times as yielding; both go soft beyond 2 kg, the weak one much more."""
    steps = (0.5, 0.97, 1.46, 1.94, 2.43, 2.92)
    weak = [2.8 * x for x in steps[:4]] + [11.0, 18.0]
    firm = [1.0 * x for x in steps[:4]] + [2.9, 4.0]
    scale = CurveScale("mm", "kg", steps, through_zero=True)
    assert scale.number_of(tuple(weak)) / scale.number_of(tuple(firm)) == pytest.approx(2.8)
    assert straight(steps, weak, through_zero=True).leaves == (1.94, 2.43)
    offset = [y + 1.0 for y in weak]
    assert straight(steps, offset).slope == pytest.approx(2.8)
    # A piece that broke after three steps has a slope, but nobody can say whether it would have left its line.
    assert scale.number_of(tuple(weak[:3])) == pytest.approx(2.8)
    assert not straight(steps, weak[:3]).told
    with pytest.raises(Refused):
        CurveScale("mm", "kg", steps, "last").number_of(tuple(weak[:3]))


def test_stiffness_and_departure_in_the_verdict():
    steps = (5.0, 10.0, 15.0, 20.0, 25.0)
    scale = CurveScale("mm", "kg", steps)
    plan = replace(PLAN, outcomes=(Outcome("bend", "Bend", scale, better="less"),), checkpoints=LOOKS[:1])
    soft = [tuple(2 * s + (i - 3) * 0.01 * s + (8 if s > 18 else 0) for s in steps) for i in range(6)]
    stiff = [tuple(1.0 * s + i * 0.01 * s for s in steps) for i in range(6)]
    curves = {"bend": [*soft, *stiff]}
    values = {("bend", "d2"): np.array([scale.number_of(one) for one in curves["bend"]])}
    findings = conclude(plan, SAMPLES, values, rng())
    (found,) = supporting(plan, SAMPLES, values, findings, rng(), curves)
    (ratio,) = found.ratios
    assert ratio.ratio > 1.9 and ratio.low is not None and ratio.low > 1.5
    dry, tea = found.departed
    assert (dry.left, dry.told, tea.left, tea.told, tea.low) == (6, 6, 0, 6, None)
    assert (dry.low, dry.high) == (15, 20)
    assert len(dry.mean) == len(steps)


def test_before_and_after_cleaning():
    looks = (
        Checkpoint("raw", "Day 2", 2 * DAY, stage="before cleaning"),
        Checkpoint("clean", "Day 2", 2 * DAY, stage="after cleaning"),
    )
    plan = replace(PLAN, checkpoints=looks)
    values = {
        ("mass", "raw"): np.array([5.0] * 12) + np.tile(np.arange(6) / 10, 2),
        ("mass", "clean"): np.array([5.1] * 6 + [2.0] * 6) + np.tile(np.arange(6) / 10, 2),
    }
    (found,) = supporting(plan, SAMPLES, values, conclude(plan, SAMPLES, values, rng()), rng())
    (staged,) = found.stages
    assert (staged.before, staged.after) == ("Day 2, before cleaning", "Day 2, after cleaning")
    assert staged.means_before == pytest.approx((5.25, 5.25)) and staged.means_after == pytest.approx((5.35, 2.25))
    assert staged.p is not None and staged.p < 0.01


def open_verdict(plan, values, samples=SAMPLES):
    findings = conclude(plan, samples, values, rng())
    (found,) = supporting(plan, samples, values, findings, rng())
    return findings[0], {one.kind: one for one in found.settle}


def test_what_would_settle_it_and_what_that_costs():
    values = series([[5.0] * 12, [5.0] * 12, [1, 2, 3, 4, 5, 6, 1.5, 2.5, 3.5, 4.5, 5.5, 6.5]])
    main, found = open_verdict(PLAN, values)
    more = found["samples"]
    assert main.strength.level == "too_close" and more.samples == main.strength.settle
    assert more.total == 2 * more.samples and more.cost == pytest.approx(5.0 * more.samples)
    assert "blocks" in found and "control" not in found and "longer" not in found


def test_one_sample_each_is_told_how_many_it_takes_at_least():
    plan = replace(PLAN, treatments=tuple(replace(t, samples=1) for t in PLAN.treatments))
    values = {("mass", look.key): np.array([1.0, 2.0]) for look in LOOKS}
    main, found = open_verdict(plan, values, Samples(("dry", "tea"), (None, None)))
    assert main.strength.level == "unreplicated"
    assert found["samples"].samples == 4 and "fewest" in found["samples"].says


def test_in_blocks_the_number_is_that_of_each_block():
    blocks = tuple(Block(f"b{n}", f"Bench {n}") for n in range(3))
    plan = replace(
        PLAN, layout=Layout("blocks", blocks), treatments=tuple(replace(t, samples=2) for t in PLAN.treatments)
    )
    placed = Samples(("dry", "dry", "tea", "tea") * 3, tuple(f"b{n // 4}" for n in range(12)))
    values = {("mass", look.key): np.array([0, 2, 0.5, 2.4, 1, 2, 1.5, 2.9, 0, 1.2, 1, 2.1]) for look in LOOKS}
    main, found = open_verdict(plan, values, placed)
    assert main.strength.settle is not None and found["samples"].samples == -(-main.strength.settle // 3)
    assert found["samples"].total == 6 * found["samples"].samples and "blocks" not in found


def test_a_winner_of_its_own_in_each_place_is_not_settled_by_more_of_the_same():
    blocks = tuple(Block(f"b{n}", f"Bench {n}") for n in range(2))
    plan = replace(
        PLAN, layout=Layout("blocks", blocks), treatments=tuple(replace(t, samples=3) for t in PLAN.treatments)
    )
    placed = Samples(("dry",) * 3 + ("tea",) * 3 + ("dry",) * 3 + ("tea",) * 3, ("b0",) * 6 + ("b1",) * 6)
    values = {("mass", look.key): np.array([1, 2, 3, 8, 9, 10, 9, 8, 10.5, 1, 2, 3]) for look in LOOKS}
    _, found = open_verdict(plan, values, placed)
    assert "place by place" in found["places"].says and "samples" not in found


def test_a_crowded_scale_and_a_gap_that_grows():
    grades = GradeScale(tuple(Level(n, str(n)) for n in range(4)))
    plan = replace(
        PLAN,
        outcomes=(Outcome("mass", "Mass", grades),),
        treatments=tuple(replace(t, kind="treatment") for t in PLAN.treatments),
    )
    values = series([[3] * 12, [3] * 11 + [2], [3] * 6 + [3, 3, 3, 3, 2, 2]])
    _, found = open_verdict(plan, values)
    assert "Half steps" in found["finer"].says and "control" in found and "longer" in found
    assert not open_verdict(PLAN, series([[1] * 6 + [9] * 6] * 3 + rng().normal(0, 0.1, (3, 12))))[1]


def test_counts_get_ratios_and_changes_do_not():
    plan = replace(PLAN, outcomes=(Outcome("mass", "Seeds", CountScale()),))
    values = series(rng(4).poisson([10.0] * 6 + [20.0] * 6, (3, 12)))
    (found,) = supporting(plan, SAMPLES, values, conclude(plan, SAMPLES, values, rng()), rng())
    assert [(one.a, one.b) for one in found.ratios] == [("Dry", "Tea")] and found.ratios[0].ratio < 0.7
