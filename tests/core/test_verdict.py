"""The rule of strength: each level where it belongs, and no more false alarms than agreed."""

from dataclasses import replace

import numpy as np
import pytest

from fieldtally.core.compare.columns import Column, compare_columns
from fieldtally.core.design.plan import Checkpoint, Outcome, Plan, Summary, Treatment
from fieldtally.core.scales import CountScale, GradeScale, Level, MeasurementScale, PassFailScale
from fieldtally.core.verdict.claims import Happened, may_not_be_claimed
from fieldtally.core.verdict.conclude import Samples, conclude
from fieldtally.core.verdict.strength import Circumstances, judge, ranked
from fieldtally.core.verdict.telling.headline import luck, sentence
from tests.depth import cells, plays


def compared(groups, better="more", kind="measurement", blocks=None):
    values = np.concatenate([np.asarray(own, float) for own in groups.values()])[:, None]
    labels = np.repeat(np.arange(len(groups)), [len(own) for own in groups.values()])
    where = np.zeros(len(labels), int) if blocks is None else np.asarray(blocks)
    column = Column(kind, better)
    return compare_columns(values, [column], labels, list(groups), where, np.random.default_rng(1))[0]


APART = {"dry": [1, 2, 3, 2, 1], "tea": [8, 9, 8, 9, 10], "water": [4, 5, 4, 5, 5]}


def test_clear_needs_every_rival_beaten():
    found = judge(compared(APART))
    assert (found.level, found.winner) == ("clear", "tea")
    assert "0.0079" in found.because.replace("0.00794", "0.0079")
    assert judge(compared(APART, better="less")).winner == "dry"
    assert judge(compared(APART | {"mint": [8, 9, 9, 9, 9]})).level != "clear"


def test_clear_needs_the_margin_too():
    assert judge(compared(APART), margin=4).level == "clear"
    lacking = judge(compared(APART), margin=5)
    assert lacking.level == "leaning"
    assert any("less than the margin" in step for step in lacking.steps)


def test_equal_where_no_difference_can_matter():
    alike = {"a": [5.0, 5.1, 4.9, 5.0, 5.05], "b": [5.02, 5.0, 4.95, 5.1, 5.0]}
    assert judge(compared(alike), margin=1).level == "equal"
    assert judge(compared(alike)).level in ("leaning", "too_close")


def test_too_close_says_how_many_would_settle_it():
    found = judge(compared({"a": [1, 9, 4, 6], "b": [2, 8, 5, 6.5]}))
    assert found.level == "too_close"
    assert found.winner is None
    leaning = judge(compared({"a": [1, 2, 3], "b": [4, 5, 6]}))
    assert (leaning.level, leaning.winner) == ("leaning", "b")


def test_unreplicated_and_spoiled():
    assert judge(compared({"a": [1], "b": [5]})).level == "unreplicated"
    assert judge(compared(APART), circumstances=Circumstances(key_known=True)).level == "spoiled"
    lost = Circumstances(planned=(5, 12, 5))
    left = judge(compared(APART), circumstances=lost)
    assert (left.level, left.winner) == ("clear", "water")
    assert [(one.treatment, one.why) for one in left.left_out] == [("tea", "5 of its 12 samples have a reading")]
    gone = Circumstances(controls=("untreated",))
    assert judge(compared(APART), circumstances=gone).level == "spoiled"
    assert judge(compared(APART), circumstances=Circumstances(controls=("dry",))).level == "clear"


def test_a_tie_at_the_top_has_no_winner():
    tied = judge(compared({"a": [5, 5, 5, 5, 5], "b": [5, 5, 5, 5, 5], "c": [1, 1, 1, 1, 1]}))
    assert tied.winner is None


@pytest.mark.parametrize("treatments", cells([2, 4], [4]))
@pytest.mark.parametrize("kind", ["measurement", "grade", "passfail"])
def test_clear_is_said_no_more_often_than_the_level_where_there_is_no_difference(treatments, kind):
    trials, each = plays(2000, 800), 5
    drawn = np.random.default_rng(42)
    shape = (treatments * each, trials)
    values = {
        "measurement": drawn.normal(size=shape),
        "grade": drawn.integers(0, 6, shape).astype(float),
        "passfail": drawn.integers(0, 2, shape).astype(float),
    }[kind]
    labels = np.repeat(np.arange(treatments), each)
    found = compare_columns(
        values, [Column(kind)] * trials, labels, [str(t) for t in range(treatments)], np.zeros(len(labels), int), drawn
    )
    clear = sum(judge(one).level == "clear" for one in found)
    # Two standard errors above 5 %; exact tests stay at or below the level on average.
    assert clear <= 0.05 * trials + 2 * np.sqrt(0.05 * 0.95 * trials)


def test_clear_in_blocks_keeps_the_level_as_well():
    trials = 2000
    drawn = np.random.default_rng(7)
    blocks = np.repeat(np.arange(4), 6)
    labels = np.tile(np.repeat(np.arange(3), 2), 4)
    values = drawn.normal(size=(24, trials)) + 3.0 * blocks[:, None]
    found = compare_columns(values, [Column("measurement")] * trials, labels, ["a", "b", "c"], blocks, drawn)
    assert sum(judge(one).level == "clear" for one in found) <= 119


PLAN = Plan(
    title="Peas",
    question="?",
    treatments=(Treatment("a", "Sown dry", "untreated", 5), Treatment("b", "Seaweed tea", samples=5)),
    outcomes=(
        Outcome("s", "Seeds sprouted", CountScale(20), summary=Summary("value", "d7")),
        Outcome("h", "Height", MeasurementScale("cm"), primary=False, summary=Summary("change")),
    ),
    checkpoints=(Checkpoint("d4", "Day 4", 5760), Checkpoint("d7", "Day 7", 10080)),
)
SAMPLES = Samples(tuple("ab" * 5), (None,) * 10)


def concluded(plan=PLAN, **values):
    arrays = {tuple(k.split("_")): np.array(v, float) for k, v in values.items()}
    return conclude(plan, SAMPLES, arrays, np.random.default_rng(1))


def test_a_trial_is_concluded_outcome_by_outcome_and_look_by_look():
    found = concluded(
        s_d4=[3, 6, 2, 7, 3, 5, 2, 6, 3, 7],
        s_d7=[9, 17, 8, 18, 9, 17, 10, 18, 9, 16],
        h_d4=[1, 1, 1, 1, 1, 1, 1, 1, 1, 1],
        h_d7=[2, 3, 2, 3, 2, 3, 2, 3, 2, 3.5],
    )
    assert [(f.outcome, f.checkpoint, f.claim) for f in found] == [
        ("s", None, True),
        ("s", "d4", False),
        ("s", "d7", False),
        ("h", None, False),
        ("h", "d4", False),
        ("h", "d7", False),
    ]
    assert found[0].sentence == "Seaweed tea did best on seeds sprouted at day 7: 17.2 of 20, against Sown dry 9 of 20."
    assert found[3].comparison.pairs[0].difference == pytest.approx(-1.1)
    assert "from day 4 to day 7" in found[3].sentence
    assert found[4].strength.winner is None


def test_several_primaries_share_the_level():
    both = replace(PLAN, outcomes=tuple(replace(o, primary=True) for o in PLAN.outcomes))
    nearly = [1, 5, 2, 6, 3, 8, 4, 9, 7, 10]
    sure = [1, 6, 2, 7, 3, 8, 4, 9, 5, 10]
    alone = concluded(s_d7=nearly, h_d4=[0] * 10, h_d7=nearly)[0]
    twice = concluded(both, s_d7=nearly, h_d4=[0] * 10, h_d7=nearly)[0]
    beside_a_sure_one = concluded(both, s_d7=nearly, h_d4=[0] * 10, h_d7=sure)[0]
    assert 0.025 < alone.comparison.pairs[0].p <= 0.05
    assert [one.strength.level == "clear" for one in (alone, twice, beside_a_sure_one)] == [True, False, True]


def test_nearest_a_target_is_judged_by_the_distance_from_it():
    acid = replace(
        PLAN,
        outcomes=(
            Outcome("h", "pH", MeasurementScale(""), better="target", target=7.0, summary=Summary("value", "d4")),
        ),
    )
    # b is nearer although a and b lie on either side; a's mean of 7 hides that it is far off both ways.
    found = concluded(acid, h_d4=[4, 7.1, 10, 6.9, 4, 7.2, 10, 6.8, 7.9, 7.05])[0]
    assert (found.strength.level, found.strength.winner) == ("clear", "Seaweed tea")
    assert found.sentence.startswith(
        "Seaweed tea did best on pH, distance from 7, at day 4: 0.13, against Sown dry 2.58"
    )


def test_a_look_nobody_took_is_spoiled_and_not_an_error():
    found = concluded(s_d7=[9, 17, 8, 18, 9, 17, 10, 18, 9, 16])
    assert found[1].strength.level == "spoiled"


def test_words_are_plain():
    comparison = compared(APART)
    strength = judge(comparison)
    assert sentence(strength, comparison, MeasurementScale("mL"), "Water drunk", "at Day 6") == (
        "tea did best on water drunk at day 6: 8.8 mL, against water 4.6 mL and dry 1.8 mL."
    )
    rates = compared({"a": [1, 1, 1, 0], "b": [0, 0, 0, 0]}, kind="passfail")
    assert "75 %" in sentence(judge(rates), rates, PassFailScale(), "Petals", "")
    assert luck(1 / 900) == "chance alone would do this once in 900 shuffles"
    assert [t.treatment for t in ranked(comparison)] == ["tea", "water", "dry"]
    grades = GradeScale(tuple(Level(n, "FEDCBAabcde"[n]) for n in range(11)))
    graded = compared(APART, kind="grade")
    assert "middle grade d, against" in sentence(judge(graded), graded, grades, "x", "")


def test_limits_follow_from_what_was_done():
    limits = may_not_be_claimed(PLAN, Happened(open_rounds=1, rounds=2, set_aside=1, last_checkpoint="Day 7"))
    assert any("seen the key" in one for one in limits)
    assert any("Day 7" in one for one in limits)
    assert any("height" in one for one in limits)
    bare = replace(PLAN, treatments=(Treatment("a", "A"), Treatment("b", "B")))
    assert "no control" in may_not_be_claimed(bare, Happened())[0]
