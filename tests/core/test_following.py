"""A follow-up asks some of the treatments again; what belonged to the others alone goes with these."""

from dataclasses import replace

import pytest

from fieldtally.core.design.following import followed
from fieldtally.core.design.plan import (
    Block,
    Checkpoint,
    Factor,
    FactorLevel,
    Layout,
    Outcome,
    Plan,
    SharedCost,
    Some,
    Treatment,
)
from fieldtally.core.design.soundness import problems_in
from fieldtally.core.problems import Refused
from fieldtally.core.scales import MeasurementScale

PLAN = Plan(
    "Twines on a fence",
    question="Which holds?",
    treatments=(
        Treatment("a", "Jute", "standard", levels={"f": "w"}),
        Treatment("b", "Sisal", levels={"f": "d"}),
        Treatment("c", "Coir", levels={"f": "w"}),
    ),
    factors=(Factor("f", "Water", (FactorLevel("w", "wet"), FactorLevel("d", "dry"))),),
    outcomes=(
        Outcome("o", "Load", MeasurementScale("kg", 0.1), "more", primary=True),
        Outcome("p", "Fluff", MeasurementScale("g", 0.1), "less", primary=False, only=Some(treatments=("c",))),
        Outcome("q", "Length", MeasurementScale("m", 0.1), "less", primary=False, only=Some(treatments=("b", "c"))),
    ),
    checkpoints=(
        Checkpoint("k", "Week 20", 201_600),
        Checkpoint("l", "Week 21", 211_680, only=Some(treatments=("c",))),
    ),
    shared_costs=(SharedCost("s", "hooks", 4.0), SharedCost("t", "tar", 2.0, ("c",))),
    compare="control",
)


def test_what_belonged_to_others_alone_goes_with_these():
    plan = followed(PLAN, ["b", "a"])
    assert [one.key for one in plan.treatments] == ["a", "b"]
    assert [one.key for one in plan.outcomes] == ["o", "q"]
    assert plan.outcomes[1].only.treatments == ("b",)
    assert [one.key for one in plan.checkpoints] == ["k"]
    assert [one.key for one in plan.shared_costs] == ["s"]
    assert plan.factors == () and all(not one.levels for one in plan.treatments)
    assert plan.compare == "control"
    assert followed(PLAN, ["b", "c"]).compare == "all"
    assert followed(PLAN, ["a", "b", "c"]) == PLAN


@pytest.mark.parametrize("kind", ["latin", "split", "pairs"])
def test_a_layout_that_needs_all_of_them_gives_way(kind):
    plan = followed(replace(PLAN, layout=Layout(kind)), ["a", "b"])
    assert plan.layout.kind == "random"
    assert not [p for p in problems_in(plan) if p.at.startswith("layout")]


def test_places_stay():
    blocks = Layout("blocks", (Block("s", "Sunny fence"), Block("d", "Arch")))
    assert followed(replace(PLAN, layout=blocks), ["a", "b"]).layout == blocks


@pytest.mark.parametrize("keys", [[], ["a"], ["a", "gone"]])
def test_one_alone_is_compared_with_nothing(keys):
    with pytest.raises(Refused):
        followed(PLAN, keys)
