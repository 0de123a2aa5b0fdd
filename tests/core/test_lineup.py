"""The line-up: the true picture among nineteen that the layout itself could have dealt."""

import math
from collections import Counter
from dataclasses import replace

import numpy as np
import pytest

from fieldtally.core.blinding.allocation import allocate
from fieldtally.core.design.plan import Block, Checkpoint, Layout, Outcome, Plan, Treatment
from fieldtally.core.scales import MeasurementScale
from fieldtally.core.verdict.lineup import PICTURES, line_up
from fieldtally.core.verdict.study import Decisions, Placed, StudyData
from tests.depth import plays

PLAN = Plan(
    title="Beans",
    treatments=(Treatment("a", "Tap", "untreated", 3), Treatment("b", "Tea", samples=3)),
    layout=Layout("blocks", (Block("n", "North"), Block("s", "South"))),
    outcomes=(Outcome("h", "Height", MeasurementScale("cm")),),
    checkpoints=(Checkpoint("d4", "Day 4", 5760),),
)


def study(plan=PLAN, lead=0.0, seed="cafe", looks=("d4",), aside=()):
    placed = tuple(
        Placed(one.code, one.treatment, one.block, one.plot, one.row, one.column) for one in allocate(plan, seed)
    )
    rng = np.random.default_rng(int(seed, 16))
    block = {"n": 0.0, "s": 100.0}
    values = {
        ("h", look): {
            one.code: float(rng.normal(lead * (one.treatment == "b") + block.get(one.block, 0.0))) for one in placed
        }
        for look in looks
    }
    return StudyData(
        plan, int(seed, 16), placed, Decisions(aside=frozenset(aside)), values, values, {}, frozenset(), {}
    )


def shown(data, person="Robin", secret="secret"):
    return line_up(data, data.findings(), secret, person)


def test_the_true_picture_is_among_twenty_and_where_differs_by_person():
    data = study(lead=8.0)
    found = shown(data)
    assert len(found.pictures) == PICTURES
    true = found.pictures[found.truth]
    own = {key: sorted(v for code, v in data.values["h", "d4"].items() if by(data, code) == key) for key in "ab"}
    assert [list(group) for group in true.groups] == [own["a"], own["b"]]
    assert shown(data) == found
    places = Counter(shown(data, f"person {i}").truth for i in range(60))
    assert len(places) > 12


def by(data, code):
    return next(one.treatment for one in data.placed if one.code == code)


def test_the_others_are_dealt_inside_blocks_and_keep_every_value():
    found = shown(study(lead=8.0))
    everything = sorted(v for group in found.pictures[found.truth].groups for v in group)
    for picture in found.pictures:
        assert sorted(v for group in picture.groups for v in group) == everything
        # Three of each treatment in each block: a deal over all blocks would mix them otherwise.
        assert [sum(v > 50 for v in group) for group in picture.groups] == [3, 3]


def test_who_picks_at_random_finds_it_five_times_in_a_hundred():
    people = 1_000
    rng = np.random.default_rng(7)
    data = study()
    findings = data.findings()
    right = sum(
        line_up(data, findings, "secret", f"person {i}").truth == int(rng.integers(PICTURES)) for i in range(people)
    )
    assert abs(right / people - 0.05) < 4 * math.sqrt(0.05 * 0.95 / people)


def test_who_picks_the_largest_difference_finds_nothing_by_luck_and_a_true_one_nearly_always():
    def largest(found):
        gaps = [abs(np.mean(one.groups[0]) - np.mean(one.groups[1])) for one in found.pictures]
        return int(np.argmax(gaps))

    seeds = [f"{i:x}" for i in range(1, plays(161, 81))]
    lucky = [shown(study(seed=seed)) for seed in seeds]
    right = sum(largest(one) == one.truth for one in lucky if one is not None)
    assert right / len(seeds) < 0.05 + 4 * math.sqrt(0.05 * 0.95 / len(seeds))
    true = [shown(study(seed=seed, lead=6.0)) for seed in seeds[:25]]
    assert sum(largest(one) == one.truth for one in true if one is not None) >= 23


def test_series_are_shown_where_there_are_looks_enough():
    looks = tuple(Checkpoint(f"d{n}", f"Day {n}", 1440 * n) for n in (1, 2, 3))
    data = study(replace(PLAN, checkpoints=looks), looks=("d1", "d2", "d3"))
    found = shown(data)
    assert found.kind == "series"
    assert all(len(group) == 3 for picture in found.pictures for group in picture.groups)


def test_what_is_set_aside_is_in_no_picture():
    data = study(lead=8.0)
    code = data.placed[0].code
    found = shown(study(lead=8.0, aside=[code]))
    gone = data.values["h", "d4"][code]
    assert all(gone not in group for picture in found.pictures for group in picture.groups)


@pytest.mark.parametrize("samples", [1])
def test_none_where_the_layout_could_not_have_dealt_otherwise_often_enough(samples):
    few = replace(PLAN, treatments=tuple(replace(one, samples=samples) for one in PLAN.treatments))
    assert shown(study(few)) is None
    many = replace(PLAN, treatments=tuple(Treatment(f"t{i}", f"T{i}", samples=2) for i in range(7)))
    assert shown(study(many)) is None
