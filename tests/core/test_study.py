"""From readings to one value for each sample and look: what counts, what is left out, and that it is the same however it is kept."""

import random
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from fieldtally.core.compare import reference
from fieldtally.core.design.plan import Block, Checkpoint, Layout, Outcome, Plan, Treatment
from fieldtally.core.scales import CurveScale, GradeScale, Level, MeasurementScale
from fieldtally.core.verdict.conclude import Samples, conclude
from fieldtally.core.verdict.interim import cut_at, interim_look
from fieldtally.core.verdict.settling import what_would_settle
from fieldtally.core.verdict.study import CountedReading, Decisions, Placed, StudyData, study_in

DAY = 1440
T0 = datetime(2026, 4, 1, 8, tzinfo=UTC)
PLAN = Plan(
    title="Beans",
    treatments=(Treatment("a", "Tap", "untreated", 4), Treatment("b", "Tea", samples=4)),
    outcomes=(
        Outcome("h", "Height", MeasurementScale("cm")),
        Outcome("g", "Vigour", GradeScale(tuple(Level(float(n), str(n)) for n in range(6))), primary=False),
    ),
    checkpoints=(Checkpoint("d4", "Day 4", 4 * DAY), Checkpoint("d8", "Day 8", 8 * DAY)),
)
PLACED = [Placed(str(100 + i), "ab"[i % 2]) for i in range(8)]


def reading(code, value, *, look=("h", "d8"), scorer="Robin", second=None, hours=0.0, responses=None):
    return CountedReading(look, str(code), scorer, second, float(value), T0 + timedelta(hours=hours), responses)


def heights(shift=2.0, look=("h", "d8")):
    return [reading(100 + i, 10 + i * 0.3 + shift * (i % 2), look=look) for i in range(8)]


def study(stands, plan=PLAN, placed=PLACED, **decided):
    return study_in(plan, "beef", placed, stands, Decisions(**decided))


def test_several_takes_are_settled_by_the_plans_rule_then_scorers_averaged():
    takes = [reading(100, value, hours=i) for i, value in enumerate((10, 90, 12))]
    other = [reading(100, 20, scorer="Sam")]
    for rule, own in (("median", 12), ("mean", 112 / 3), ("last", 12)):
        plan = replace(PLAN, outcomes=(replace(PLAN.outcomes[0], retest=rule),))
        assert study([*takes, *other], plan).values["h", "d8"]["100"] == pytest.approx((own + 20) / 2)


def test_second_codes_are_averaged_with_the_first_before_scorers_are():
    stands = [reading(100, 10), reading(100, 14, second="777"), reading(100, 30, scorer="Sam")]
    assert study(stands).values["h", "d8"]["100"] == pytest.approx((12 + 30) / 2)


def test_grades_of_three_scorers_give_their_median():
    stands = [reading(100, value, look=("g", "d8"), scorer=name) for name, value in (("A", 1), ("B", 2), ("C", 5))]
    found = study(stands)
    assert found.values["g", "d8"]["100"] == 2
    assert found.by_scorer["C"]["g", "d8"]["100"] == 5


def test_one_scorer_alone_has_no_verdict_of_their_own():
    assert study(heights()).by_scorer == {}
    two = [*heights(), *[replace(one, scorer="Sam") for one in heights(shift=-2.0)]]
    told = study(two).concluded().by_scorer
    assert {name: found[0].strength.winner for name, found in told.items()} == {"Robin": "Tea", "Sam": "Tap"}


def test_a_sample_that_is_set_aside_counts_in_the_verdict_with_all_alone():
    spoiled = [*heights()[:-1], reading(107, 0)]
    found = study(spoiled, aside=frozenset({"107"})).concluded()
    without, with_all = found.findings[0], found.with_all[0]
    assert [t.n for t in without.comparison.treatments] == [4, 3]
    assert [t.n for t in with_all.comparison.treatments] == [4, 4]
    assert without.comparison.pairs[0].difference != with_all.comparison.pairs[0].difference
    assert study(heights()).concluded().with_all == []


def test_what_was_read_before_an_accident_counts_and_what_comes_after_does_not():
    stands = [reading(100, 5, look=("h", "d4"), hours=1), reading(100, 50, hours=9)]
    found = study(stands, left_out={"100": T0 + timedelta(hours=5)})
    assert found.values["h", "d4"] == {"100": 5}
    assert "100" not in found.values.get(("h", "d8"), {})
    assert found.all_values["h", "d8"] == {"100": 50}
    assert found.leaves_out


def test_a_withdrawn_outcome_is_in_no_verdict():
    stands = [*heights(), *heights(look=("g", "d8"))]
    found = study(stands, withdrawn=frozenset({"h"}))
    assert [outcome.key for outcome in found.plan.outcomes] == ["g"]
    assert ("h", "d8") not in found.values


def test_of_an_outcome_that_was_split_only_the_side_where_it_is_judged_counts():
    early = [replace(one, look=("h", "d4")) for one in heights()]
    late = [replace(one, at=T0 + timedelta(hours=9)) for one in heights()]
    after = study([*early, *late], split={"h": T0 + timedelta(hours=5)})
    assert ("h", "d4") not in after.values
    assert len(after.values["h", "d8"]) == 8
    # Nothing was read in the new way where it is judged: then the old way counts.
    before = study([*early, *heights()], split={"h": T0 + timedelta(hours=5)})
    assert len(before.values["h", "d4"]) == 8


def test_readings_far_from_all_others_are_left_out_once_more_and_nowhere_else():
    many = [Placed(str(200 + i), "ab"[i % 2]) for i in range(20)]
    plan = replace(PLAN, treatments=tuple(replace(t, samples=10) for t in PLAN.treatments))
    stands = [reading(200 + i, 10 + (i // 2) * 0.1 + 2 * (i % 2)) for i in range(19)] + [reading(219, 400)]
    found = study(stands, plan, many).concluded()
    assert found.findings[0].comparison.treatments[1].n == 10
    assert found.without_odd[0].comparison.treatments[1].n == 9
    assert study(heights()).concluded().without_odd == []


def test_the_order_in_which_readings_come_does_not_matter():
    stands = [*heights(), *heights(look=("h", "d4")), *[replace(one, scorer="Sam") for one in heights(1.0)]]
    first = study(stands).concluded()
    for seed in range(3):
        shuffled = stands[:]
        random.Random(seed).shuffle(shuffled)
        assert study(shuffled).concluded() == first


def test_curves_are_kept_at_the_look_that_is_judged():
    plan = replace(PLAN, outcomes=(Outcome("h", "Bend", CurveScale("mm", "kg", (1.0, 2.0))),))
    stands = [reading(100, 1, look=("h", "d4"), responses=(1.0, 2.0)), reading(100, 2, responses=(2.0, 4.0))]
    assert study(stands, plan).curves == {"h": {"100": (2.0, 4.0)}}


def test_the_tally_follows_its_weights():
    grades = [reading(100 + i, 5 - 4 * (i % 2), look=("g", "d8")) for i in range(8)]
    data = study([*heights(4.0), *grades])
    done = data.findings()
    first = data.tally(done, {"h": 1.0, "g": 0.0})
    second = data.tally(done, {"h": 0.0, "g": 1.0})
    assert first is not None
    assert second is not None
    best = [max(tally.rows, key=lambda row: row.total or 0).treatment for tally in (first, second)]
    assert best == ["Tea", "Tap"]


# Interim looks and what would settle, over the layouts


def test_an_interim_look_sees_nothing_that_comes_later():
    plan = replace(PLAN, interim=("d4",))
    early = [replace(one, look=("h", "d4")) for one in heights(0.0)]
    quiet, loud = study([*early, *heights(0.0)], plan), study([*early, *heights(40.0)], plan)
    assert quiet.interim("d4") == loud.interim("d4")
    assert not loud.interim("d4").stop


def test_an_interim_look_stops_only_when_every_primary_outcome_is_clear():
    both = replace(PLAN, interim=("d4",), outcomes=(PLAN.outcomes[0], replace(PLAN.outcomes[1], primary=True)))
    many = [Placed(str(300 + i), "ab"[i % 2]) for i in range(16)]
    plan = replace(both, treatments=tuple(replace(t, samples=8) for t in both.treatments))
    clear = [reading(300 + i, 10 + i * 0.01 + 5 * (i % 2), look=("h", "d4")) for i in range(16)]
    dull = [reading(300 + i, 3 + (i // 2) % 2, look=("g", "d4")) for i in range(16)]
    sharp = [reading(300 + i, 1 + 3 * (i % 2), look=("g", "d4")) for i in range(16)]
    assert not study([*clear, *dull], plan, many).interim("d4").stop
    assert study([*clear, *sharp], plan, many).interim("d4").stop


def test_an_outcome_that_is_not_looked_at_by_then_keeps_the_trial_going():
    late = replace(PLAN.outcomes[0], checkpoints=("d8",))
    plan = replace(PLAN, interim=("d4",), outcomes=(late,))
    assert cut_at(plan, "d4").outcomes == ()
    told = interim_look(plan, _of(PLACED), {}, "d4", np.random.default_rng(1))
    assert not told.stop


@pytest.mark.parametrize(
    ("layout", "samples", "each", "says"),
    [
        (Layout(), 4, 1, "of each"),
        (Layout("blocks", (Block("x", "X"), Block("y", "Y"))), 2, 2, "in each of 2 blocks"),
        (Layout("pairs"), 4, 1, "pairs"),
    ],
)
def test_the_number_that_would_settle_it_is_as_the_layout_counts(layout, samples, each, says):
    plan = replace(PLAN, layout=layout, treatments=tuple(replace(t, samples=samples) for t in PLAN.treatments))
    codes = [
        Placed(str(400 + i), "ab"[i % 2], "xy"[i % 4 // 2] if layout.in_blocks else None, i // 2 + 1) for i in range(8)
    ]
    rows = [3, 6, 5, 5.2, 7, 9.5, 9, 8.4]
    data = study([reading(400 + i, value) for i, value in enumerate(rows)], plan, codes)
    main = data.findings()[0]
    assert main.strength.level in ("too_close", "leaning")
    found = {one.kind: one for one in what_would_settle(data.plan, main)}
    assert says in found["samples"].says
    assert found["samples"].samples is not None
    assert found["samples"].total == 2 * found["samples"].samples * each


def test_a_clear_verdict_needs_no_settling():
    many = [Placed(str(500 + i), "ab"[i % 2]) for i in range(12)]
    plan = replace(PLAN, treatments=tuple(replace(t, samples=6) for t in PLAN.treatments))
    data = study([reading(500 + i, i * 0.01 + 9 * (i % 2)) for i in range(12)], plan, many)
    (main, *_) = conclude(
        plan, _of(many), {("h", "d8"): np.array([i * 0.01 + 9 * (i % 2) for i in range(12)])}, np.random.default_rng(1)
    )
    assert main.strength.level == "clear"
    assert what_would_settle(plan, data.findings()[0]) == ()


def _of(placed):
    return Samples(tuple(one.treatment for one in placed), (None,) * len(placed))


def test_looks_and_gaps_draw_no_shuffles_of_their_own(monkeypatch):
    """What is drawn for a verdict does not grow with looks, outcomes or the few values that are missing."""
    drawn = []
    real = reference._drawn

    def counted(counts, many, rng):
        drawn.append(many * sum(counts))
        return real(counts, many, rng)

    monkeypatch.setattr(reference, "_drawn", counted)

    def told(looks, missing):
        drawn.clear()
        rng = np.random.default_rng(4)
        plan = Plan(
            "x",
            treatments=tuple(Treatment(key, key, samples=10) for key in "abc"),
            layout=Layout("blocks", tuple(Block(f"b{i}", f"B{i}") for i in range(3))),
            outcomes=(Outcome("cm", "Height", MeasurementScale("cm", 0.1)),),
            checkpoints=tuple(Checkpoint(f"d{i}", f"D{i}", i * 1440) for i in range(1, looks + 1)),
        )
        placed = tuple(
            Placed(f"{t}{b}{k}", t, f"b{b}", None, None, None) for t in "abc" for b in range(3) for k in range(10)
        )
        values = {
            ("cm", look.key): {
                one.code: float(rng.normal(10 + "abc".index(one.treatment), 1))
                for one in placed
                if rng.random() >= missing
            }
            for look in plan.checkpoints
        }
        StudyData(plan, 5, placed, Decisions(), values, values, {}, frozenset(), {}).findings()
        return sum(drawn)

    once = told(1, 0.0)
    assert once > 0
    assert told(12, 0.0) <= 1.01 * once
    assert told(12, 0.02) <= 1.5 * once
