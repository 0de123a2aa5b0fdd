"""Dry runs: the verdict of imagined trials, right as often as the truth allows."""

from dataclasses import replace
from math import sqrt

import numpy as np
import pytest

from fieldtally.core.design.layout import lay_out
from fieldtally.core.design.plan import (
    Block,
    Checkpoint,
    Factor,
    FactorLevel,
    Layout,
    Outcome,
    Plan,
    Summary,
    Treatment,
)
from fieldtally.core.problems import Refused
from fieldtally.core.rehearsal.dryrun import dry_run, dry_runs
from fieldtally.core.rehearsal.imagined import Imagined, readings, usual
from fieldtally.core.scales import (
    CountScale,
    CurveScale,
    EventScale,
    LadderScale,
    MeasurementScale,
    NoteScale,
    PassFailScale,
    PercentScale,
    Shade,
    ShadeScale,
)
from fieldtally.core.scales.templates import stars
from tests.depth import cells

DAY = 1440
SCALES = {
    "grade": stars(("gone", "poor", "fair", "good")),
    "halves": stars(("gone", "poor", "fair", "good"), halves=True),
    "measurement": MeasurementScale("mL", 1.0, 0.0, 100.0),
    "count": CountScale(20, "seeds"),
    "passfail": PassFailScale(),
    "percent": PercentScale("brown"),
    "shade": ShadeScale(tuple(Shade(str(n)) for n in range(1, 8))),
    "event": EventScale("first crack"),
    "ladder": LadderScale("kg", (5.0, 10.0, 15.0, 20.0)),
    "curve": CurveScale("mm", "kg", (1.0, 2.0, 3.0)),
}
BED = Factor("bed", "Bed", (FactorLevel("x", "X"), FactorLevel("y", "Y")), hard=True)
LAYOUTS = {
    "random": (Layout(), 4),
    "blocks": (Layout("blocks", (Block("n", "N"), Block("s", "S"))), 3),
    "pairs": (Layout("pairs"), 8),
    "latin": (Layout("latin"), 6),
    "split": (Layout("split", whole_plots=6), 1),
}


def planned(scale, layout="random"):
    kind, samples = LAYOUTS[layout]
    count = {"pairs": 2, "split": 4}.get(layout, 3)
    return Plan(
        "Dry",
        factors=(BED,) if layout == "split" else (),
        treatments=tuple(
            Treatment(
                k,
                k.upper(),
                "standard" if k == "a" else "treatment",
                samples,
                levels={"bed": level} if layout == "split" else {},
            )
            for k, level in zip("abcd"[:count], "xxyy", strict=False)
        ),
        layout=kind,
        outcomes=(
            Outcome("o", "Thing", scale, summary=Summary("value", "late")),
            Outcome("n", "Words", NoteScale(), primary=False),
        ),
        checkpoints=(Checkpoint("early", "Day 2", 2 * DAY), Checkpoint("late", "Day 6", 6 * DAY)),
    )


def truth(plan, lead=None):
    own = usual(plan, plan.outcomes[0])
    if lead is None:
        return own
    middle = sum(own.means.values()) / len(own.means)
    return replace(own, means={key: middle + (lead if key == "b" else 0.0) for key in own.means})


@pytest.mark.parametrize("scale", SCALES)
def test_every_scale_is_played_on_its_own_values_and_judged(scale):
    plan = planned(SCALES[scale])
    slots = lay_out(plan, "1")
    found = readings(plan, slots, [truth(plan)], np.random.default_rng(2))
    assert set(found) == {("o", "early"), ("o", "late")}
    for values in found.values():
        assert all(SCALES[scale].refusal(float(value)) is None for value in values)
    if scale == "event":
        assert (found["o", "late"] >= found["o", "early"]).all()
    run = dry_run(plan, [truth(plan)], 3)
    assert run == dry_run(plan, [truth(plan)], 3)
    assert len(run.samples) == plan.sample_count
    assert run.ended in ("right", "missed", "false_alarm")


@pytest.mark.parametrize("layout", cells(list(LAYOUTS), list(LAYOUTS)[1:2]))
def test_no_layout_names_a_winner_by_chance_more_often_than_its_level(layout):
    plan = planned(MeasurementScale("mL"), layout)
    none = truth(plan, 0.0)
    runs = 100
    found = dry_runs(plan, [none], runs)
    assert found.right == found.missed == 0
    assert found.false_alarms / runs <= 0.05 + 2 * sqrt(0.05 * 0.95 / runs)
    assert found.rightly_none + found.false_alarms == runs


@pytest.mark.parametrize("layout", LAYOUTS)
def test_a_large_lead_is_found_in_every_layout(layout):
    plan = planned(MeasurementScale("mL"), layout)
    plan = replace(plan, outcomes=(replace(plan.outcomes[0], spread=1.0, between=0.5),))
    seen: list[int] = []
    found = dry_runs(plan, [truth(plan, 30.0)], 10, seen.append)
    assert found.right >= 9
    assert seen == list(range(1, 11))


def test_misses_and_false_alarms_can_be_looked_at():
    plan = planned(MeasurementScale("mL"))
    own = replace(truth(plan, 1.0), spread=1.0)
    found = dry_runs(plan, [own], 40)
    assert found.missed
    assert dry_run(plan, [own], found.a_miss).ended == "missed"
    assert "A miss: B is truly best" in dry_run(plan, [own], found.a_miss).says


@pytest.mark.parametrize(
    ("imagined", "where"),
    [
        (Imagined("gone", {}, 1.0), "imagined.0"),
        (Imagined("o", {"a": 1.0, "b": 2.0}, 1.0), "imagined.0.means.c"),
        (Imagined("o", {"a": 1.0, "b": 2.0, "c": 200.0}, 1.0), "imagined.0.means.c"),
        (Imagined("o", {"a": 1.0, "b": 2.0, "c": 3.0}, 0.0), "imagined.0.spread"),
    ],
)
def test_a_truth_that_cannot_be_is_refused_at_its_field(imagined, where):
    with pytest.raises(Refused) as refused:
        dry_run(planned(SCALES["measurement"]), [imagined], 0)
    assert where in {p.at for p in refused.value.problems}
