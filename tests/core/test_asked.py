"""Not every sample, not every look: who is asked for what, what the planner plays, and what the verdict says of it."""

from dataclasses import replace

import numpy as np
import pytest

from fieldtally.core.design.asked import (
    Spot,
    asked_at,
    asks_some,
    carried,
    done_after,
    left_to_read,
    part_for,
    planned_for,
    readings_of,
    spots_of,
    told,
)
from fieldtally.core.design.plan import (
    Block,
    Checkpoint,
    Done,
    Group,
    Layout,
    Outcome,
    Plan,
    Some,
    Treatment,
)
from fieldtally.core.design.soundness import problems_in
from fieldtally.core.dosing.mixing import mix_sheet
from fieldtally.core.outlook.outlook import outlook
from fieldtally.core.rehearsal.dryrun import dry_run
from fieldtally.core.rehearsal.imagined import usual
from fieldtally.core.scales import GradeScale, Level, MeasurementScale
from fieldtally.core.verdict.claims import Happened, may_not_be_claimed

DAY = 1440
RUST = Outcome(
    "rust",
    "Rust",
    GradeScale(tuple(Level(n, str(n), f"grade {n}") for n in range(4))),
    better="less",
    done=Done(3),
)
PULL = Outcome("pull", "Pull", MeasurementScale("N"), only=Some(kinds=("pull",)), checkpoints=("late",))
TWIST = Outcome(
    "twist", "Twist", MeasurementScale("N·m"), primary=False, only=Some(kinds=("twist",)), checkpoints=("late",)
)
BOLTS = Plan(
    "Bolts in the tub",
    "Which grease keeps bolts free?",
    sample_word="bolt",
    groups=(Group("g-wax", "Waxes"), Group("g-oil", "Oils", "oily rags can catch fire by themselves")),
    kinds=("pull", "twist"),
    treatments=(
        Treatment("dry", "Dry", "untreated", 4),
        Treatment("wax", "Beeswax", samples=4, group="g-wax"),
        Treatment("tallow", "Tallow", samples=4, group="g-wax"),
        Treatment("oil", "Linseed", samples=4, group="g-oil"),
    ),
    outcomes=(RUST, PULL, TWIST),
    checkpoints=(
        Checkpoint("early", "Week 1", 7 * DAY, DAY, DAY),
        Checkpoint("wiped", "Week 2, wiped", 14 * DAY, DAY, DAY, only=Some(groups=("g-wax",))),
        Checkpoint("late", "Week 3", 21 * DAY, DAY, DAY),
    ),
)


def spot_by_spot(plan: Plan) -> dict[int, Spot]:
    return dict(
        enumerate(spots_of(plan, [(one.key, None) for one in plan.treatments for _ in range(plan.per_treatment(one))]))
    )


def test_each_treatment_has_its_share_of_every_kind():
    for blocks in ((), ("e", "w"), ("e", "m", "w")):
        layout = Layout("blocks", tuple(Block(key, key) for key in blocks)) if blocks else Layout()
        plan = replace(BOLTS, layout=layout, treatments=tuple(replace(t, samples=2) for t in BOLTS.treatments))
        placed = [(t.key, b) for b in blocks or (None,) for t in plan.treatments for _ in range(2)]
        for treatment in plan.treatments:
            kinds = [spot.kind for spot in spots_of(plan, placed) if spot.treatment == treatment.key]
            assert kinds.count("pull") == kinds.count("twist")


def test_one_in_each_place_takes_turns_from_place_to_place():
    plan = replace(BOLTS, layout=Layout("blocks", (Block("e", "East"), Block("w", "West"))))
    assert [one.kind for one in spots_of(plan, [("dry", "e"), ("wax", "e"), ("dry", "w"), ("wax", "w")])] == [
        "pull",
        "pull",
        "twist",
        "twist",
    ]


@pytest.mark.parametrize(
    ("look", "spot", "keys"),
    [
        ("early", Spot("dry", None, "pull"), {"rust"}),
        ("wiped", Spot("dry", None, "pull"), set()),
        ("wiped", Spot("wax", None, "twist"), {"rust"}),
        ("wiped", Spot("oil", None, "twist"), set()),
        ("late", Spot("oil", None, "twist"), {"rust", "twist"}),
        ("late", Spot("oil", None, "pull"), {"rust", "pull"}),
    ],
)
def test_who_is_asked_for_what(look, spot, keys):
    checkpoint = next(one for one in BOLTS.checkpoints if one.key == look)
    assert asked_at(BOLTS, checkpoint, spot) == keys


def test_treatments_and_groups_add_up_and_all_else_narrows():
    only = Some(treatments=("dry",), groups=("g-oil",), kinds=("twist",))
    plan = replace(BOLTS, outcomes=(replace(RUST, only=only),))
    assert planned_for(plan, plan.outcomes[0]) == (2, 0, 0, 2)
    assert told(plan, only) == "bolts of Oils and Dry for twist"
    assert told(plan, Some()) == "" and not Some() and asks_some(plan)


def test_a_sample_that_is_done_is_asked_no_more_and_its_last_reading_stands():
    read = [(0, "rust", "early", 3.0), (1, "rust", "early", 2.0), (1, "rust", "late", 3.0)]
    done = done_after(BOLTS, read)
    assert done == {0: 0, 1: 2}
    spots = spot_by_spot(BOLTS)
    early, _, late = BOLTS.checkpoints
    assert 0 in left_to_read(BOLTS, early, spots, done)
    left = left_to_read(BOLTS, late, spots, done)
    assert 0 not in left and left[1] == {"rust", "twist"}
    values = {("rust", "early"): {"a": 3.0, "b": 1.0}, ("rust", "late"): {"b": 2.0}}
    assert carried(BOLTS, values)["rust", "late"] == {"a": 3.0, "b": 2.0}
    assert carried(BOLTS, values)["rust", "wiped"] == {"a": 3.0}
    less = replace(BOLTS, outcomes=(replace(RUST, done=Done(1, "or less")),))
    assert done_after(less, read) == {} and done_after(less, [(0, "rust", "late", 0.5)]) == {0: 2}


def test_the_planner_plays_the_samples_that_are_read():
    assert planned_for(BOLTS, PULL) == (2, 2, 2, 2)
    assert part_for(BOLTS, RUST) == BOLTS
    assert [one.samples for one in part_for(BOLTS, PULL).treatments] == [2, 2, 2, 2]
    alone = replace(BOLTS, outcomes=(PULL,), kinds=("pull", "twist"))
    half = replace(
        alone,
        kinds=(),
        treatments=tuple(replace(one, samples=2) for one in alone.treatments),
        outcomes=(replace(PULL, only=Some()),),
    )
    some, plain = (outlook(one, np.random.default_rng(5)) for one in (alone, half))
    assert some is not None and plain is not None
    assert some.shares == plain.shares and some.smallest_p == plain.smallest_p
    assert some.samples == 16 and "read on 8 of 16 bolts" in " ".join(some.steps)


def test_the_dry_run_reads_what_would_be_read():
    pull = replace(PULL, expected=4.0, spread=1.0)
    for rust, many in ((replace(RUST, done=None), {8}), (RUST, set(range(8)))):
        plan = replace(BOLTS, outcomes=(pull, rust, TWIST))
        play = dry_run(plan, [usual(plan, one) for one in plan.outcomes], 3)
        assert len(play.samples) in many


@pytest.mark.parametrize(
    ("changed", "says"),
    [
        ({"outcomes": (replace(RUST, only=Some(treatments=("gone",))),)}, "no longer in the plan"),
        ({"outcomes": (replace(RUST, only=Some(blocks=("b",))),)}, "a place that is no longer"),
        ({"outcomes": (replace(RUST, only=Some(treatments=("wax",))),)}, "Fewer than two"),
        ({"outcomes": (replace(RUST, only=Some(groups=("g-wax",))),), "compare": "control"}, "Dry would not be read"),
        ({"outcomes": (replace(RUST, done=Done(7)),)}, "nothing would reach that"),
        ({"kinds": ("pull",)}, "2 to 6 kinds"),
        ({"kinds": ("pull", "Pull ")}, "Two kinds"),
        ({"kinds": ("a", "b", "c", "d", "e")}, "too few for 5 kinds"),
        ({"groups": (Group("g-wax", " "), Group("g-oil", "Oils"))}, "no name"),
        ({"groups": (Group("g-wax", "Oils"), Group("g-oil", "oils"))}, "Two groups"),
        ({"groups": ()}, "a group that is no longer"),
    ],
)
def test_what_does_not_fit_together_is_said_where_it_stands(changed, says):
    outcomes = (RUST,) if "kinds" not in changed else ()
    plan = replace(BOLTS, **{"outcomes": outcomes, **changed})
    assert any(says in one.says for one in problems_in(plan)), [one.says for one in problems_in(plan)]


def test_a_sound_plan_of_some_has_nothing_against_it():
    at = [one.at for one in problems_in(BOLTS)]
    assert not [one for one in at if one.startswith(("groups", "kinds", "outcomes", "checkpoints"))]


def test_the_verdict_says_what_it_may_not_say_of_the_others():
    limits = " ".join(may_not_be_claimed(BOLTS, Happened()))
    assert "Pull of other bolts: it was planned for bolts for pull alone." in limits
    assert "only bolts of Waxes were looked at then" in limits
    assert "once rust was 3 or more: they were done, as planned" in limits


def test_a_group_s_cautions_and_cleaning_stand_on_the_mix_sheet_of_each_of_its_treatments():
    plan = replace(
        BOLTS, cleaning="soap", groups=(Group("g-wax", "Waxes"), replace(BOLTS.groups[1], cleaning="spirit"))
    )
    mixes = {mix.treatment: [step.says for step in mix.steps] for mix in mix_sheet(plan).mixes}
    assert mixes["oil"][0] == "Oils: oily rags can catch fire by themselves."
    assert "with spirit," in mixes["oil"][1]
    assert "with soap," in mixes["wax"][0] and "with soap," in mixes["dry"][0]


def test_what_scoring_takes_counts_what_is_asked():
    plain = replace(BOLTS, kinds=(), outcomes=(replace(RUST, done=None),), checkpoints=BOLTS.checkpoints[::2])
    assert readings_of(plain) == 32
    # Rust of all at two looks and of the waxed at the third, and one of pull and twist on each.
    assert readings_of(BOLTS) == 16 + 8 + 16 + 16
