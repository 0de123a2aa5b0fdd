"""What a design can tell: simulation against closed forms and enumeration."""

from dataclasses import replace
from math import comb, sqrt

import numpy as np
import pytest
from scipy import stats

from fieldtally.core.compare.columns import Column, compare_columns, compared_as
from fieldtally.core.compare.events import Spans
from fieldtally.core.design.plan import Block, Checkpoint, Layout, Outcome, Plan, Proof, Treatment
from fieldtally.core.outlook.advice import with_samples
from fieldtally.core.outlook.outlook import expectation, outlook
from fieldtally.core.outlook.quick import leads
from fieldtally.core.outlook.simulate import Design, Truth, drawn, play
from fieldtally.core.outlook.smallest import hardest_pair
from fieldtally.core.scales import (
    CountScale,
    EventScale,
    GradeScale,
    LadderScale,
    Level,
    MeasurementScale,
    PassFailScale,
    PercentScale,
)
from fieldtally.core.verdict.strength import judge
from tests.core.test_layouts import of, split
from tests.depth import cells

GRADES = GradeScale(tuple(Level(i, str(i)) for i in range(6)))
PENS = Plan(
    title="Pens",
    sample_word="label",
    treatments=tuple(Treatment(k, k.upper(), samples=3) for k in "abc"),
    outcomes=(Outcome("o", "Readable", GRADES, margin=1.0),),
)


def rng():
    return np.random.default_rng(11)


def blocked(treatments, samples):
    blocks = Layout("blocks", (Block("x", "X"), Block("y", "Y")))
    return replace(of(treatments, samples, kind="random"), layout=blocks)


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


LADDER = LadderScale("kg", (5.0, 10.0, 15.0, 20.0, 25.0))
PLAYED = [
    # layout, samples, scale, lead, spread, margin
    (of(3, 5, kind="random"), GRADES, 2.0, 0.9, 1.0),
    (of(2, 8, kind="random"), MeasurementScale("mL", 1.0), 9.0, 6.0, 2.0),
    (of(4, 4, kind="random"), EventScale("gone"), 0.8, 0.5, None),
    (of(3, 6, kind="random"), LADDER, 6.0, 4.0, None),
    (of(2, 9, kind="pairs"), CountScale(20), 2.5, 2.0, None),
    (of(2, 9, kind="pairs"), GRADES, 1.6, 0.9, None),
    (blocked(3, 3), PercentScale(), 18.0, 10.0, 5.0),
    (blocked(3, 3), EventScale("gone"), 0.8, 0.5, None),
    (blocked(2, 4), GRADES, 1.5, 0.9, None),
    (of(4, 4, kind="latin"), MeasurementScale("mL"), 2.6, 1.0, None),
    (of(5, 5, kind="latin"), GRADES, 1.9, 0.8, None),
    (of(4, 8, kind="latin"), PassFailScale(), 0.8, 0.5, None),
    (split(5, 2), MeasurementScale("mL"), 2.0, 1.0, None),
    (split(6, 2), GRADES, 2.0, 0.9, None),
]


@pytest.mark.parametrize("case", cells(range(len(PLAYED)), range(0, len(PLAYED), 4)))
def test_the_planner_is_the_verdict(case):
    """The same plays, judged by the verdict's own code one by one: a plan is told what would really be said of it."""
    plan, scale, lead, spread, margin = PLAYED[case]
    outcome = Outcome("o", "State", scale, expected=lead, spread=spread, margin=margin)
    looks = tuple(Checkpoint(f"d{d}", f"Day {d}", d * 1440) for d in (2, 4, 6, 8, 10))
    plan = replace(plan, outcomes=(outcome,), checkpoints=looks)
    design = Design.of_plan(plan)
    truth, _ = expectation(plan, outcome)
    plays = 300
    read, best = drawn(design, truth, plays, rng())
    led = leads(read, design.labels, design.structure, design.treatments, rng(), highest=plan.level)
    quick = np.where((led.p <= plan.level) & (led.gap >= (margin or 0) * (1 - 1e-9)), led.leader, -1)
    kind = "event" if isinstance(scale, EventScale) else compared_as(scale)
    spans = None
    if read.cells is not None:
        ends = np.array([0.0, *truth.looks] if kind == "event" else [0.0, *LADDER.steps])
        beyond = np.append(ends[1:], np.inf)
        spans = {j: Spans(ends[read.cells[:, j]], beyond[read.cells[:, j]]) for j in range(plays)}
    found = compare_columns(
        read.values,
        [Column(kind, ends=scale.ends if kind != "event" else None)] * plays,
        design.labels,
        [str(t) for t in range(design.treatments)],
        design.structure.blocks,
        rng(),
        structure=design.structure,
        spans=spans,
        draws=2_000,
    )
    judged = [judge(one, alpha=plan.level, margin=margin if kind != "event" else None) for one in found]
    slow = np.array([int(one.winner) if one.level == "clear" else -1 for one in judged])
    assert (quick == slow).mean() > 0.95
    assert (slow == best).mean() == pytest.approx((quick == best).mean(), abs=0.03)
    assert 0.15 < (slow == best).mean() < 0.97


def test_several_primaries_share_the_level_in_the_planner_too():
    """4 of each never go below p 0.029, which is more than half the level: with two primaries one alone is never named."""
    four = replace(PENS, treatments=tuple(replace(t, samples=4) for t in PENS.treatments[:2]))
    outcome = Outcome("o", "Length", MeasurementScale("mm"), expected=9.0, spread=1.0)
    alone = outlook(replace(four, outcomes=(outcome,)), rng())
    twin = replace(outcome, key="p", name="Width")
    other = replace(twin, expected=0.001)
    both = outlook(replace(four, outcomes=(outcome, other)), rng())
    assert alone.shares.right > 0.9
    assert both.shares.right < 0.05
    assert [one.outcome for one in both.others] == ["Width"]
    # p of 0.029 is above a third of the level, so that three sure ones are never named either.
    three = outlook(replace(four, outcomes=(outcome, twin, replace(twin, key="q", name="Weight"))), rng())
    assert three.shares.right == 0


def test_an_impossible_pair_of_a_split_plot_makes_the_design_impossible():
    found = outlook(replace(split(4, 1), outcomes=PENS.outcomes), rng())
    assert (found.standing, found.smallest_p) == ("impossible", 0.125)
    assert found.advice[0].says.endswith("plots of each level")


@pytest.mark.parametrize(
    ("layout", "samples", "p"),
    [("latin", 4, 1 / 108), ("pairs", 5, 0.0625), ("pairs", 6, 0.03125), ("random", 4, 0.028571)],
)
def test_the_smallest_p_of_each_layout_can_be_reached_but_not_passed(layout, samples, p):
    plan = of(4 if layout == "latin" else 2, samples, kind=layout)
    assert hardest_pair(plan)[2] == pytest.approx(p, abs=1e-5)


def test_advice_is_what_the_changed_plan_will_say_of_itself():
    roomy = replace(PENS, sample_cost=0.5, outcomes=(replace(PENS.outcomes[0], spread=1.0, between=0.8),))
    plan = replace(roomy, treatments=tuple(replace(t, samples=8) for t in PENS.treatments))
    kinds = {one.kind: one for one in outlook(plan, rng()).advice}
    assert {"samples", "fewer", "blocks", "longer"} <= set(kinds)
    taken = with_samples(plan, kinds["samples"].samples)
    assert outlook(taken, rng()).shares.right == kinds["samples"].right >= 0.8
    assert kinds["samples"].more_cost == pytest.approx(kinds["samples"].more * 0.5)
    fewer = replace(plan, treatments=tuple(replace(t, samples=12) for t in plan.treatments[:2]))
    assert outlook(fewer, rng()).shares.right == kinds["fewer"].right
    assert outlook(plan, rng()).cost == 12.0


def test_a_finer_scale_and_a_second_reading_help_where_they_do():
    coarse = GradeScale(tuple(Level(i, str(i)) for i in range(3)))
    outcome = Outcome(
        "o", "State", coarse, expected=0.7, spread=0.35, proof=Proof(repeats=((1.0, 1.5), (1.0, 0.6), (2.0, 1.5)))
    )
    plan = replace(PENS, treatments=tuple(replace(t, samples=5) for t in PENS.treatments), outcomes=(outcome,))
    kinds = {one.kind for one in outlook(plan, rng()).advice}
    assert {"finer", "repeats"} & kinds


def test_without_a_difference_none_is_named_more_often_than_the_level():
    shares = play(Design.of((6, 6, 6), 2, (0, 1, 2)), Truth(MeasurementScale("g"), 0.0, 1.0, None, 0.05), rng(), 2000)
    assert shares.right + shares.wrong <= 0.05 + 2 * sqrt(0.05 * 0.95 / 2000)


@pytest.mark.parametrize("scale", [GRADES, CountScale(20), PassFailScale(), MeasurementScale("mL", low=0, high=9)])
def test_plays_stay_on_their_scale(scale):
    read, best = drawn(Design.of((3, 3), 1, (1,)), Truth(scale, 1.0, 2.0, None, 0.05), 50, rng())
    values = read.values
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


def test_how_rare_a_failure_is_looked_for_decides_how_many_are_needed():
    fails = replace(
        PENS, outcomes=(Outcome("o", "Snaps", PassFailScale("whole", "snapped"), better="more", rare=0.01),)
    )
    told = outlook(fails, rng()).rare
    assert "1 time in 100 takes 299 of each: there are too few. All 9 together are too few, too." in told
    assert "if none of all 9 does, up to 28 in 100 over all" in told
    many = replace(fails, treatments=tuple(replace(t, samples=150) for t in fails.treatments))
    assert "there are too few. All 450 together are enough." in outlook(many, rng(), whole=False).rare
    often = replace(fails, outcomes=(replace(fails.outcomes[0], rare=0.5),), treatments=many.treatments)
    assert outlook(often, rng(), whole=False).rare.endswith("there are enough.")


def test_what_one_primary_outcome_less_would_bring_is_told():
    two = replace(PENS, outcomes=(PENS.outcomes[0], Outcome("p", "Bright", GRADES, margin=1.0)))
    found, alone = outlook(two, rng()), outlook(PENS, rng())
    assert found.alone is not None and abs(found.alone - alone.shares.right) < 0.06
    assert alone.alone is None and outlook(two, rng(), whole=False).alone is None
    assert found.minutes == 0
