"""What a verdict once said wrongly, each with what it should say; and the worked cases that are shared."""

import json
from pathlib import Path

import numpy as np
import pytest
from lifelines.statistics import logrank_test

import fieldtally
from fieldtally.cli import main
from fieldtally.core.compare.beating import chance_to_beat
from fieldtally.core.compare.columns import Column, compare_columns
from fieldtally.core.compare.events import Spans, event_course
from fieldtally.core.compare.means import treatment_means
from fieldtally.core.compare.pairs import one_pair
from fieldtally.core.compare.places import who_wins_where
from fieldtally.core.compare.structure import Structure
from fieldtally.core.design.plan import Checkpoint, Outcome, Plan, Stand, Treatment
from fieldtally.core.verdict.needed import power, samples_needed
from fieldtally.core.verdict.strength import judge
from tests.core.reference import ranks_in_blocks
from tests.depth import cells, plays

CASES = json.loads((Path(__file__).parent / "cases/verdicts.json").read_text())["cases"]


def rng(seed=3):
    return np.random.default_rng(seed)


@pytest.mark.parametrize("case", CASES, ids=[case["name"] for case in CASES])
def test_worked_cases(case, tmp_path, capsys):
    file = tmp_path / "data.csv"
    file.write_text(case["table"])
    assert main(["verdict", str(file), *case["args"], "--json"]) == 0
    answer = json.loads(capsys.readouterr().out)
    (outcome,) = answer["outcomes"]
    verdict, expect = outcome["verdict"], case["expect"]
    assert verdict["level"] in expect.get("level", [verdict["level"]])
    assert verdict["level"] not in expect.get("level_not", [])
    assert verdict["winner"] not in expect.get("winner_not", [])
    for name in ("winner", "winners"):
        assert verdict[name] == expect.get(name, verdict[name])
    for name, value in expect.get("estimate", {}).items():
        assert next(one["estimate"] for one in outcome["treatments"] if one["treatment"] == name) == value
    if "favours_pair" in expect:
        a, b, way = expect["favours_pair"]
        (pair,) = [one for one in outcome["pairs"] if {one["a"], one["b"]} == {a, b}]
        assert pair["favours"] == way
    assert expect.get("warning_has", "") in "".join(answer["warnings"])


def table(groups, blocks=None):
    rows = [(name, value) for name, own in groups.items() for value in own]
    found = {"t": [name for name, _ in rows], "v": [value for _, value in rows]}
    return found if blocks is None else found | {"block": blocks}


def told(groups, **asked):
    return fieldtally.verdict(table(groups), treatment="t", value="v", **asked)


def test_incomplete_blocks_name_no_leader_that_its_own_pairs_deny():
    """Over all, A is first by the additive model; where A and B stand together B is ahead of it."""
    rows = [
        ("A", 1, 10.0), ("A", 1, 10.2), ("C", 1, 3.0), ("C", 1, 3.2),
        ("A", 2, 9.9), ("A", 2, 10.1), ("C", 2, 3.1), ("C", 2, 2.9),
        ("B", 3, 20.0), ("B", 3, 20.2), ("C", 3, 18.0), ("C", 3, 18.2),
        ("A", 4, 4.9), ("A", 4, 5.1), ("B", 4, 6.0), ("B", 4, 6.1),
    ]  # fmt: skip
    found = fieldtally.verdict(
        {"t": [r[0] for r in rows], "b": [r[1] for r in rows], "v": [r[2] for r in rows]},
        treatment="t",
        block="b",
        value="v",
    )
    assert found.pair("A", "B").favours == "B"
    assert found.winner != "A"
    assert found.winner is None or found.winner == "B"
    assert "ahead of A" in found.sentence


def test_a_beats_b_beats_c_beats_a_is_said_and_nobody_leads():
    """Dice that beat each other in a circle; ranks over all are level for none."""
    dice = {"A": [2, 2, 4, 4, 9, 9], "B": [1, 1, 6, 6, 8, 8], "C": [3, 3, 5, 5, 7, 7]}
    found = told(dice, kind="grade")
    assert [found.pair(a, b).favours for a, b in (("A", "B"), ("B", "C"), ("C", "A"))] == ["A", "B", "C"]
    assert (found.winner, found.winners) == (None, ())
    assert "nobody leads" in found.sentence


def test_a_rival_with_one_sample_is_named_and_left_out_and_the_rest_is_judged():
    found = told({"A": [9, 9.5, 10, 9.2, 9.7], "B": [1, 1.5, 2, 1.2, 1.7], "C": [4]})
    assert (found.level, found.winner) == ("clear", "A")
    assert "Left out of this: C, it has one sample" in found.sentence
    assert told({"A": [9, 9.5, 10, 9.2, 9.7], "B": [1, 1.5, 2, 1.2, 1.7], "C": [40]}).level == "unreplicated"


def test_a_treatment_that_was_stopped_leaves_the_others_to_be_judged():
    found = told({"A": [9, 9.5, 10, 9.2, 9.7], "B": [1, 1.5, 2, 1.2, 1.7], "C": [5, "", "", "", ""], "D": [""] * 4})
    assert (found.level, found.winner) == ("clear", "A")
    out = found.last.to_dict()["verdict"]["left_out"]
    assert [one["treatment"] for one in out] == ["C", "D"]
    assert out[0]["why"] == "1 of its 5 samples have a reading"


def test_two_against_ten_is_never_clear_and_two_in_blocks_may_be():
    many = [1.0, 1.1, 1.2, 1.3, 1.4, 1.5, 1.6, 1.7, 1.8, 1.9]
    assert told({"A": [9.0, 9.1], "B": many}).level != "clear"
    rows = [("A", b, 9.0 + b + 0.1 * i) for b in range(3) for i in range(2)]
    rows += [("B", b, 1.0 + b + 0.1 * i) for b in range(3) for i in range(2)]
    found = fieldtally.verdict(
        {"t": [r[0] for r in rows], "b": [r[1] for r in rows], "v": [r[2] for r in rows]},
        treatment="t",
        block="b",
        value="v",
    )
    assert found.level == "clear"


def test_places_are_reversed_and_neither_is_the_winner_though_one_is_ahead_over_all():
    """Three times as many in the sun: over all D would be clear."""
    sun = {"B": [14, 15, 16] * 4, "D": [30, 31, 32] * 4}
    shade = {"B": [23, 24, 25, 23, 24], "D": [16, 17, 18, 16, 17]}
    rows = [(t, "sun", v) for t, own in sun.items() for v in own] + [
        (t, "shade", v) for t, own in shade.items() for v in own
    ]
    found = fieldtally.verdict(
        {"t": [r[0] for r in rows], "place": [r[1] for r in rows], "v": [r[2] for r in rows]},
        treatment="t",
        block="place",
        value="v",
    )
    assert (found.level, found.winner) == ("depends", None)
    assert found.to_dict()["outcomes"][0]["verdict"]["where"] == [
        {"place": "sun", "winner": "D"},
        {"place": "shade", "winner": "B"},
    ]
    assert found.sentence.startswith("It depends on the place: D did best at sun; B did best at shade")


def test_what_a_factor_does_may_depend_on_another():
    cells = (("old", "clay", 5), ("new", "clay", 15), ("old", "sand", 15), ("new", "sand", 5))
    rows = [(feed, soil, base + more) for feed, soil, base in cells for more in (0, 0.5, 1, 1.5, 2)]
    found = fieldtally.verdict(
        {"feed": [r[0] for r in rows], "soil": [r[1] for r in rows], "v": [r[2] for r in rows]},
        factor=("feed", "soil"),
        value="v",
    )
    assert found.level == "depends"


def test_readings_at_a_ceiling_are_not_equal_for_want_of_spread():
    """Nine in ten get the top grade: twelve of each that all do so do not show that none differs by a whole grade."""
    full = {"A": [5] * 12, "B": [5] * 12 + [4]}
    assert told(full, kind="grade", margin=0.3).level != "equal"
    assert told({"A": [5] * 60 + [4], "B": [5] * 60 + [4]}, kind="grade", margin=1.0).level == "equal"
    # All alike: equal only if the rule of three keeps what would matter out.
    assert told({"A": [100] * 5, "B": [100] * 5}, kind="percent", margin=10).level == "nothing"
    assert told({"A": [100] * 60, "B": [100] * 60}, kind="percent", margin=10).level == "equal"


@pytest.mark.parametrize("shape", [(8, 8), (5, 12)])
def test_leaning_comes_no_more_often_than_it_says_where_nothing_differs(shape):
    drawn, trials = rng(), plays(2_000, 1_000)
    labels = np.repeat([0, 1], shape)
    found = compare_columns(
        drawn.normal(size=(len(labels), trials)),
        [Column("measurement")] * trials,
        labels,
        ["a", "b"],
        np.zeros(len(labels), int),
        drawn,
        intervals=False,
        draws=999,
    )
    leaning = np.mean([judge(one).level == "leaning" for one in found])
    assert leaning <= 0.2
    assert "Chance alone gives such a lead" in told({"a": [1, 2, 3, 4.5], "b": [3, 4, 5, 4.4]}).sentence


SPREADS = [((3, 9), 5), ((4, 8), 8), ((5, 5), 8)]


@pytest.mark.parametrize(("shape", "times"), SPREADS)
def test_a_noisy_treatment_is_not_called_different_for_its_noise(shape, times):
    drawn, trials = rng(), plays(3_000, 1_500)
    labels = np.repeat([0, 1], shape)
    values = drawn.normal(size=(len(labels), trials)) * np.where(labels == 0, times, 1.0)[:, None]
    found = compare_columns(
        values, [Column("measurement")] * trials, labels, ["a", "b"], np.zeros(len(labels), int), drawn, intervals=False
    )
    # 6.5 %, and two standard errors of it over 3,000 trials; shuffling alone finds 9 to 15 %.
    assert np.mean([judge(one).level == "clear" for one in found]) <= 0.065 + 2 * np.sqrt(0.065 * 0.935 / trials)


@pytest.mark.parametrize("side", cells([4, 5], [4]))
def test_two_noisy_treatments_of_a_square_beside_quiet_ones(side):
    drawn, trials = rng(), plays(1_500, 600)
    rows, columns = np.divmod(np.arange(side * side), side)
    labels = (rows + columns) % side
    structure = Structure("latin", rows, columns=columns, squares=rows * 0)
    values = np.where(labels[:, None] < 2, drawn.normal(size=(side * side, trials)), -8.0)
    names = [str(t) for t in range(side)]
    found = compare_columns(
        values, [Column("measurement")] * trials, labels, names, rows, drawn, structure=structure, draws=400
    )
    assert np.mean([judge(one).level == "clear" for one in found]) <= 0.06 + 2 * np.sqrt(0.06 * 0.94 / trials)
    held = [pair.low <= 0 <= pair.high for one in found for pair in one.pairs if {pair.a, pair.b} == {"0", "1"}]
    assert np.mean(held) >= 0.93


@pytest.mark.parametrize(("n", "censored"), [(8, False), (20, False), (8, True)])
def test_the_median_times_interval_covers(n, censored):
    drawn, held = rng(), 0
    for _ in range(600):
        times = drawn.exponential(10, n)
        ends = drawn.uniform(4, 40, n) if censored else np.full(n, 1e9)
        seen, at = times <= ends, np.minimum(times, ends)
        course = event_course("x", Spans(np.where(seen, at - 1e-9, at), np.where(seen, at, np.inf)), 30.0)
        held += (course.low is None or course.low <= 10 * np.log(2)) and (
            course.high is None or course.high >= 10 * np.log(2)
        )
    assert held / 600 >= 0.93


def test_a_noisy_treatments_own_interval_in_blocks_covers():
    drawn, trials = rng(), 2_000
    labels, blocks = np.tile([0, 1, 2], 6), np.repeat(np.arange(6), 3)
    values = drawn.normal(size=(18, trials)) * np.where(labels == 0, 5.0, 1.0)[:, None] + blocks[:, None]
    found = treatment_means(values, labels, blocks, 3)
    for t in range(3):
        assert ((found.low[t] <= 2.5) & (found.high[t] >= 2.5)).mean() >= 0.93


@pytest.mark.parametrize("layout", [((8, 8),), ((4, 9),), ((2, 2), (2, 2), (2, 2), (2, 2))])
def test_the_chance_to_beat_is_held_by_its_interval(layout):
    drawn, trials = rng(), 2_000
    n = sum(a + b for a, b in layout)
    for shift in (0.0, 1.0):
        parts = [np.repeat([shift, 0.0], counts) for counts in layout]
        values = drawn.normal(size=(n, trials)) + np.concatenate(parts)[:, None]
        found = chance_to_beat(values, layout)
        true = 0.5 if shift == 0 else 0.76025
        assert ((found.low <= true) & (found.high >= true)).mean() >= 0.93


def test_effects_in_blocks_agree_with_comparisons_counted_one_by_one():
    """Grades in blocks: in how many comparisons inside a block one beats the other, and which way the ranks point, counted apart."""
    for seed in range(20):
        drawn = rng(seed)
        blocks = np.repeat([0, 1, 2], [5, 4, 6])
        labels = np.array([0, 0, 1, 1, 1, 0, 1, 1, 0, 0, 1, 0, 1, 1, 0])
        values = drawn.integers(0, 5, 15).astype(float)
        (found,) = compare_columns(values[:, None], [Column("grade")], labels, ["a", "b"], blocks, drawn)
        (pair,) = found.pairs
        wins = [
            (values[i] > values[j]) + 0.5 * (values[i] == values[j])
            for i in range(15)
            for j in range(15)
            if labels[i] == 0 and labels[j] == 1 and blocks[i] == blocks[j]
        ]
        assert pair.chance == pytest.approx(np.mean(wins))
        assert pair.favours == (None if np.mean(wins) == 0.5 else "a" if np.mean(wins) > 0.5 else "b")
        ranks = np.array(ranks_in_blocks(values.tolist(), blocks.tolist()))
        means = np.array([ranks[blocks == b].mean() for b in blocks])
        assert np.sign((ranks - means)[labels == 0].sum()) == np.sign(np.mean(wins) - 0.5)


def test_events_lead_as_lifelines_log_rank_says_or_nobody_does():
    for seed in range(40):
        drawn = rng(seed)
        n = 12
        labels = np.repeat([0, 1], n)
        times = np.ceil(drawn.weibull(drawn.uniform(0.6, 2.5), 2 * n) * np.where(labels == 0, 10, drawn.uniform(6, 18)))
        ends = drawn.integers(4, 25, 2 * n)
        seen, at = times <= ends, np.minimum(times, ends).astype(float)
        found = fieldtally.verdict(
            {"t": [("a", "b")[k] for k in labels], "day": at.tolist(), "seen": seen.astype(int).tolist()},
            treatment="t",
            value="day",
            event="seen",
            kind="event",
        )
        told_by = logrank_test(at[labels == 0], at[labels == 1], seen[labels == 0], seen[labels == 1])
        # Observed less expected in the first group, from lifelines' own statistic by pooled counts.
        grid = np.unique(at[seen])
        expected = sum(((at == t) & seen).sum() * ((at >= t) & (labels == 0)).sum() / (at >= t).sum() for t in grid)
        ahead = "a" if seen[labels == 0].sum() < expected else "b"
        if found.level == "nothing":
            continue
        assert found.pair("a", "b").favours == ahead
        assert found.winner in (ahead, None)
        assert found.pair("a", "b").p == pytest.approx(told_by.p_value, abs=0.06)


def test_ties_share_and_zeros_are_zeros():
    level = told({"B": [5, 6, 7], "A": [5, 6, 7], "C": [1, 2, 3]})
    assert (level.winners, level.winner) == (("B", "A"), None)
    assert "B and A share the first place" in level.sentence
    blocks = [1, 2, 3, 4, 5, 6] * 2
    dusty = fieldtally.verdict(
        table({"A": [0.1 * 3] * 6, "B": [0.3] * 6}, blocks), treatment="t", block="block", value="v"
    )
    assert "e-" not in dusty.sentence
    assert "000000" not in dusty.sentence


NAMES = ["x" * 10_000, "y"]


@pytest.mark.parametrize(
    ("rows", "asked", "says"),
    [
        ({"t": ["a", "a", "A", "A"], "v": [1, 2, 3, 4]}, {}, "differ in nothing but capitals"),
        ({"t": NAMES * 2, "v": [1, 2, 3, 4]}, {}, "10,000 letters"),
        ({"t": [f"t{i}" for i in range(10_000)], "v": list(range(10_000))}, {}, "10,000 treatments"),
        ({"t": ["a", "b"], "v": ["inf", 2]}, {}, "not a number"),
        ({"t": ["a", "b"], "v": ["1e300", 2]}, {}, "too large"),
        ({"t": ["a", "b"], "v": [-1, 2]}, {"kind": "count"}, "below 0"),
        ({"t": ["a", "b"], "v": [1.5, 2]}, {"kind": "count"}, "not a whole number"),
        ({"t": ["a", "b"], "v": [140, 2]}, {"kind": "percent"}, "no share of a whole"),
        ({"t": ["a", "b"], "v": [-3, 2]}, {"kind": "event"}, "below 0"),
        ({"t": ["a", "b"], "v": [1, 2]}, {"kind": "wonder"}, "no kind"),
        ({"t": ["a", "b"], "v": [1]}, {}, "not of one length"),
        ({}, {}, "empty"),
        ({"t": ["a", "b"], "v": [1, 2]}, {"margin": float("nan")}, "more than 0"),
    ],
)
def test_bad_tables_are_turned_down_in_a_sentence(rows, asked, says):
    with pytest.raises(fieldtally.Refused, match=says):
        fieldtally.verdict(rows, treatment="t", value="v", **asked)


def test_spoiled_where_all_that_decides_was_scored_with_the_key_known():
    from datetime import UTC, datetime

    from fieldtally.core.scales import MeasurementScale
    from fieldtally.core.verdict.study import CountedReading, Decisions, Placed, study_in

    plan = Plan(
        "x",
        treatments=(Treatment("a", "A", samples=4), Treatment("b", "B", samples=4)),
        outcomes=(Outcome("o", "Mass", MeasurementScale("g")),),
        checkpoints=(Checkpoint("d1", "Day 1", 1440), Checkpoint("d2", "Day 2", 2880)),
    )
    placed = [Placed(str(i), "ab"[i % 2]) for i in range(8)]
    at = datetime(2026, 5, 1, tzinfo=UTC)

    def level(seen_by, of=plan, scorers=("Ann",)):
        stands = [
            CountedReading(("o", "d2"), str(i), scorers[i % len(scorers)], None, 10.0 * (i % 2) + 0.1 * i, at)
            for i in range(8)
        ]
        found = study_in(of, "beef", placed, stands, Decisions(), seen_by).findings()
        return next(one.strength.level for one in found if one.checkpoint is None)

    assert level(set()) == "clear"
    assert level({("d2", "Ann")}) == "spoiled"
    assert level({("d1", "Ann")}) == "clear"
    assert level({("d2", "Ann")}, scorers=("Ann", "Bo")) == "clear"
    open_plan = Plan(**{**plan.__dict__, "fairness": (Stand("blind", False, "one person does both"),)})
    assert level({("d2", "Ann")}, open_plan) == "clear"


@pytest.mark.parametrize(("effect", "n"), [(1.0, 17), (0.5, 64), (2.0, 6)])
def test_what_would_settle_it_is_right_in_a_fresh_trial(effect, n):
    """The number that is told finds the difference 8 times in 10 when the verdict's own test is played on fresh samples."""
    labels = np.repeat([0, 1], 6)
    base = np.tile([-1.0, -0.6, -0.2, 0.2, 0.6, 1.0], 2)
    values = base / base[:6].std(ddof=1) + effect * (labels == 0)
    (found,) = compare_columns(values[:, None], [Column("measurement")], labels, ["a", "b"], labels * 0, rng())
    needed = samples_needed(found.pair("a", "b"), 0.05)
    assert needed == pytest.approx(n, abs=1)
    assert power(effect, needed, 0.05) >= 0.8
    drawn, trials = rng(), 400
    fresh = np.repeat([0, 1], needed)
    played = compare_columns(
        drawn.normal(size=(len(fresh), trials)) + effect * (fresh == 0)[:, None],
        [Column("measurement")] * trials,
        fresh,
        ["a", "b"],
        fresh * 0,
        drawn,
        intervals=False,
        draws=400,
    )
    assert 0.72 <= np.mean([judge(one).level == "clear" for one in played]) <= 0.9


def test_gaps_change_nothing_for_those_that_have_none():
    """A block that lost a sample is shuffled by itself; p agrees with a trial that never had that sample."""
    drawn = rng()
    labels, blocks = np.tile([0, 1], 20), np.repeat([0, 1], 20)
    values = drawn.normal(size=(40, 2)) + 0.8 * (labels == 0)[:, None]
    values[3, 1] = np.nan
    columns = [Column("measurement")] * 2
    both = compare_columns(values, columns, labels, ["a", "b"], blocks, rng())
    kept = np.arange(40) != 3
    alone = compare_columns(values[kept][:, 1:], columns[:1], labels[kept], ["a", "b"], blocks[kept], rng())
    ours, theirs = both[1].pairs[0], alone[0].pairs[0]
    assert ours.p == pytest.approx(theirs.p, abs=4 * np.sqrt(theirs.p / 20_000) + 1e-4)
    assert (ours.low, ours.high) == pytest.approx((theirs.low, theirs.high), abs=0.06)
    assert ours.difference == pytest.approx(theirs.difference)


def test_latin_squares_and_whole_plots_are_read_from_a_table():
    cells = [(r, c, (r + c) % 4) for r in range(4) for c in range(4)]
    rows = [(r, c, "ABCD"[k], 5.0 * (k == 0) + r + 2 * c + 0.05 * ((r * c) % 3)) for r, c, k in cells]
    square = {
        "r": [r[0] for r in rows],
        "c": [r[1] for r in rows],
        "t": [r[2] for r in rows],
        "v": [r[3] for r in rows],
    }
    found = fieldtally.verdict(square, treatment="t", value="v", row="r", column="c")
    assert (found.level, found.winner) == ("clear", "A")
    plots = {"plot": [], "t": [], "v": []}
    for plot in range(8):
        for t in ("xy", "zw")[plot % 2]:
            plots["plot"].append(plot)
            plots["t"].append(t)
            plots["v"].append({"x": 9, "y": 5, "z": 1, "w": 0}[t] + 0.1 * plot + 0.03 * (plot * len(plots["v"]) % 5))
    split = fieldtally.verdict(plots, treatment="t", value="v", plot="plot")
    # Whole plots against whole plots: four of each, not sixteen samples.
    assert split.pair("x", "z").n_a == 4
    with pytest.raises(fieldtally.Refused, match="both"):
        fieldtally.verdict(square, treatment="t", value="v", row="r")


def test_a_ladder_is_read_with_what_still_held():
    rows = {
        "t": ["a"] * 6 + ["b"] * 6,
        "kg": [25, 25, 25, 20, 22, 25, 10, 12, 8, 10, 15, 11],
        "held": [1, 1, 1, 0, 0, 1] + [0] * 6,
    }
    found = fieldtally.verdict(rows, treatment="t", value="kg", held="held", kind="ladder")
    assert (found.level, found.winner) == ("clear", "a")
    course = found.last.to_dict()["courses"][0]
    assert (course["treatment"], course["left"], course["median"]) == ("a", pytest.approx(4 / 6), None)


def test_a_data_frame_a_list_of_rows_and_a_file_tell_the_same(tmp_path):
    import pandas as pd

    rows = table({"dry": [9, 8, 10, 9, 8], "tea": [17, 18, 16, 18, 17]})
    frame = pd.DataFrame(rows)
    (tmp_path / "t.csv").write_text(frame.to_csv(index=False))
    listed = [dict(zip(rows, row, strict=True)) for row in zip(*rows.values(), strict=True)]
    answers = [
        fieldtally.verdict(one, treatment="t", value="v").to_dict() for one in (rows, frame, listed, tmp_path / "t.csv")
    ]
    assert all(answer == answers[0] for answer in answers)
    found = fieldtally.verdict(frame, treatment="t", value="v")
    assert found.pair("dry", "tea").difference == pytest.approx(-found.pair("tea", "dry").difference)
    assert "<b>tea did best" in found._repr_html_()
    with pytest.raises(KeyError):
        found.pair("dry", "mint")


def test_over_time_one_may_win_early_and_another_late():
    from fieldtally.core.design.plan import Summary
    from fieldtally.core.scales import MeasurementScale
    from fieldtally.core.verdict.conclude import Samples, conclude

    plan = Plan(
        "x",
        treatments=(Treatment("a", "A", samples=6), Treatment("b", "B", samples=6)),
        outcomes=(Outcome("o", "Shine", MeasurementScale(""), summary=Summary("area")),),
        checkpoints=(Checkpoint("d2", "Day 2", 2880), Checkpoint("d9", "Day 9", 12_960)),
    )
    noise = np.tile([0.0, 0.3, 0.6, 0.1, 0.5, 0.2], 2)
    first = np.repeat([0, 1], 6)
    values = {("o", "d2"): 9 - 5.0 * first + noise, ("o", "d9"): 4 + 5.0 * first + noise}
    samples = Samples(tuple("a" * 6 + "b" * 6), (None,) * 12)
    main = next(one for one in conclude(plan, samples, values, rng()) if one.checkpoint is None)
    assert main.strength.level == "depends"
    assert main.sentence.startswith("It depends on the time: A did best at Day 2; B did best at Day 9")
    same = {("o", "d2"): 9 - 5.0 * first + noise, ("o", "d9"): 9 - 3.0 * first + noise}
    main = next(one for one in conclude(plan, samples, same, rng()) if one.checkpoint is None)
    assert (main.strength.level, main.strength.winner) == ("clear", "A")


def test_where_all_places_are_tied_nobody_comes_first_in_any():
    values = np.tile([1.0, 2, 1, 2, 1, 2, 1, 2], 2)
    labels, groups = np.tile([0, 0, 1, 1], 4), np.repeat([0, 1], 8)
    found = who_wins_where(values, labels, ["A", "B"], groups, ["x", "y"], "place", np.random.default_rng(1))
    assert [one.winner for one in found.places] == [None, None]
    assert not found.changes
    assert not found.reverses


@pytest.mark.parametrize(("kind", "ends"), [("count", None), ("measurement", None), ("count", (0.0, 20.0))])
def test_readings_that_are_all_alike_give_no_interval_of_no_width(kind, ends):
    """Two counts of 4 were told as "4, between 4 and 4"; the true mean lay elsewhere 9 times in 100.  On a scale with ends the rule of
    three tells how far it may lie."""
    values = np.array([4, 4, 3, 5, 6, 2, 4, 5], float)[:, None]
    column, labels = Column(kind, ends=ends), np.array([0, 0] + [1] * 6)
    alike, others = compare_columns(values, [column], labels, ["a", "b"], np.zeros(8, int), rng())[0].treatments
    assert alike.estimate == 4
    assert (alike.low, alike.high) == (None, None) if ends is None else alike.low < 4 < alike.high
    assert others.low < others.estimate < others.high


def with_gaps(rng, columns: int, each: int = 40, missing: float = 0.02):
    """Two treatments in two blocks without any difference, and so many columns that each miss others."""
    labels = np.tile(np.repeat([0, 1], each // 2), 2)
    blocks = np.repeat([0, 1], each)
    values = rng.normal(size=(2 * each, columns))
    values[rng.random(values.shape) < missing] = np.nan
    return values, labels, blocks


def test_columns_with_gaps_share_the_draws_of_all_samples():
    """What is drawn for a column that misses some is what would be drawn for it alone, to within what draws can show; and one set of draws
    serves all columns, whatever each misses: counted."""
    values, labels, blocks = with_gaps(np.random.default_rng(5), 12)
    shared = {}
    kinds = [Column("measurement")] * values.shape[1]
    told = compare_columns(values, kinds, labels, "ab", blocks, np.random.default_rng(1), references=shared)
    (reference,) = shared.values()
    pairs = {key for key in reference._kept if len(key[1]) == 2}
    assert len(pairs) == len(np.unique(blocks)), pairs
    for j, one in enumerate(told):
        known = ~np.isnan(values[:, j])
        alone = one_pair(values[known, j][:, None], labels[known] == 0, blocks[known], np.random.default_rng(9))
        (pair,) = one.pairs
        assert pair.p == pytest.approx(alone.p[0], abs=0.02)
        assert pair.low == pytest.approx(alone.low[0], abs=0.05) and pair.high == pytest.approx(alone.high[0], abs=0.05)
        assert (pair.p <= 0.05) == (pair.low > 0 or pair.high < 0)


@pytest.mark.parametrize("kind", ["measurement", "grade"])
def test_gaps_find_nothing_in_no_difference_more_often_than_they_may(kind):
    found = []
    for seed in range(12):
        values, labels, blocks = with_gaps(np.random.default_rng(seed), 60, missing=0.03)
        values = np.round(values) if kind == "grade" else values
        columns = [Column(kind)] * values.shape[1]
        told = compare_columns(
            values, columns, labels, "ab", blocks, np.random.default_rng(seed), intervals=False, draws=2_000
        )
        found += [one.pairs[0].p for one in told]
    share = np.mean(np.array(found) <= 0.05)
    assert 0.03 <= share <= 0.07, share
