"""A layout that stands already: read as it is drawn, told back, checked, and put under codes."""

from dataclasses import replace
from datetime import UTC, datetime

import pytest
from hypothesis import given as given_by
from hypothesis import strategies as st

from fieldtally.core.blinding.allocation import allocate
from fieldtally.core.blinding.seal import canonical, seal_of, sealed_document, verify
from fieldtally.core.design.document import document_of, plan_in
from fieldtally.core.design.fairness import fairness_of
from fieldtally.core.design.given import drawn, given_in, given_names
from fieldtally.core.design.layout import lay_out
from fieldtally.core.design.plan import (
    Begun,
    Block,
    Checkpoint,
    Factor,
    FactorLevel,
    Grid,
    Layout,
    Outcome,
    Plan,
    Treatment,
)
from fieldtally.core.design.soundness import problems_in
from fieldtally.core.outlook.simulate import Design
from fieldtally.core.problems import Refused
from fieldtally.core.quantities.moments import moment_in
from fieldtally.core.scales import MeasurementScale
from fieldtally.core.schedule.calendar import planned_start

TWINES = Plan(
    title="Twine out in the weather",
    question="Which twine holds longest?",
    zone="Europe/London",
    treatments=(Treatment("t1", "Hemp", "standard"), Treatment("t2", "Jute"), Treatment("t3", "Sisal, oiled")),
    outcomes=(Outcome("o1", "Load", MeasurementScale("kg")),),
    checkpoints=(Checkpoint("c1", "Week 1", 7 * 1440, 1440, 1440), Checkpoint("c2", "Week 3", 21 * 1440, 1440, 1440)),
)
IN_TWO = replace(TWINES, layout=Layout("blocks", (Block("b1", "Sunny fence"), Block("b2", "Arch"))))


def begun(plan: Plan, text: str, **more) -> Plan:
    return replace(plan, begun=Begun("2027-03-01T09:00", "hand", "in turn", samples=given_in(text, plan), **more))


def test_letters_names_and_own_names_are_read():
    found = given_in(
        "A B (pot 7) C\nhemp, Jute, -, Sisal oiled",
        replace(TWINES, treatments=(*TWINES.treatments[:2], Treatment("t3", "Sisal oiled"))),
    )
    assert [(one.treatment, one.row, one.column, one.name) for one in found] == [
        ("t1", 1, 1, ""),
        ("t2", 1, 2, "pot 7"),
        ("t3", 1, 3, ""),
        ("t1", 2, 1, ""),
        ("t2", 2, 2, ""),
        ("t3", 2, 4, ""),
    ]


def test_a_column_of_names_is_an_order_and_no_grid():
    found = given_in("Hemp\nJute\nHemp\nJute\nSisal, oiled", TWINES)
    assert [one.treatment for one in found] == ["t1", "t2", "t1", "t2", "t3"]
    assert {(one.row, one.column) for one in found} == {(None, None)}


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("A B X", "“X” is no treatment"),
        ("", "Draw what stands where"),
        ("A; B; Hempp", "“Hempp” is no treatment"),
    ],
)
def test_what_is_not_understood_is_named(text, says):
    with pytest.raises(Refused) as told:
        given_in(text, TWINES)
    assert says in told.value.problems[0].says


def test_places_are_headings():
    with pytest.raises(Refused) as told:
        given_in("A B C", IN_TWO)
    assert "Sunny fence" in told.value.problems[0].says
    found = given_in("Sunny fence:\nA B C B\nArch\nC A B", IN_TWO)
    assert [one.block for one in found] == ["b1"] * 4 + ["b2"] * 3


def test_blocks_may_hold_different_numbers():
    plan = begun(IN_TWO, "Sunny fence:\nA B C B\nArch:\nC A B")
    assert [p for p in problems_in(plan) if p.at.startswith("begun")] == []
    assert [plan.per_treatment(t) for t in plan.treatments] == [2, 3, 2]
    assert plan.sample_count == 7
    assert sorted(slot.treatment for slot in lay_out(plan, "x") if slot.block == "b2") == ["t1", "t2", "t3"]
    assert Design.of_plan(plan).labels.shape == (7,)


@given_by(st.lists(st.lists(st.sampled_from("ABC"), min_size=2, max_size=5), min_size=2, max_size=4))
def test_what_is_drawn_is_told_back(rows):
    plan = begun(TWINES, "\n".join(" ".join(row) for row in rows))
    again = given_in(drawn(plan, plan.begun), plan)
    assert again == plan.begun.samples


def test_codes_are_drawn_for_what_stands_and_the_seal_can_be_checked():
    plan = begun(IN_TWO, "Sunny fence:\nA B C B\nArch:\nC A B")
    allocation = allocate(plan, "c0ffee")
    assert [(one.block, one.place, one.treatment) for one in allocation] == [
        ("b1", 1, "t1"),
        ("b1", 2, "t2"),
        ("b1", 3, "t3"),
        ("b1", 4, "t2"),
        ("b2", 1, "t3"),
        ("b2", 2, "t1"),
        ("b2", 3, "t2"),
    ]
    assert [one.code for one in allocate(plan, "another")] != [one.code for one in allocation]
    document = sealed_document(plan, "c0ffee", allocation)
    assert verify(document, seal_of(document)).same_allocation
    assert plan_in(document_of(plan)) == plan
    moved = begun(IN_TWO, "Sunny fence:\nB A C B\nArch:\nC A B")
    assert canonical(document_of(moved)) != canonical(document_of(plan))


def test_plans_of_earlier_versions_have_not_begun():
    document = document_of(TWINES)
    del document["begun"]
    assert plan_in(document).begun is None


def test_each_sample_has_its_own_start():
    plan = begun(TWINES, "A B C A B C")
    late = replace(plan.begun.samples[3], started="2027-03-04T09:00")
    plan = replace(plan, begun=replace(plan.begun, samples=(*plan.begun.samples[:3], late, *plan.begun.samples[4:])))
    assert [one.starts for one in allocate(plan, "x")] == [0, 0, 0, 3 * 1440, 0, 0]
    assert planned_start(plan) == datetime(2027, 3, 1, 9, tzinfo=UTC)


def test_names_are_treatment_and_number_unless_given():
    plan = begun(TWINES, "A B A (post 3) C")
    assert given_names(plan, plan.begun) == ("Hemp 1", "Jute 1", "post 3", "Sisal, oiled 1")


FACTORS = (Factor("f1", "Water", (FactorLevel("l1", "wet"), FactorLevel("l2", "dry")), hard=True),)
SPLIT = replace(
    TWINES,
    factors=FACTORS,
    layout=Layout("split", whole_plots=1),
    treatments=(
        Treatment("t1", "Hemp", samples=1, levels={"f1": "l1"}),
        Treatment("t2", "Jute", samples=1, levels={"f1": "l1"}),
        Treatment("t3", "Flax", samples=1, levels={"f1": "l2"}),
        Treatment("t4", "Nettle", samples=1, levels={"f1": "l2"}),
    ),
)
PAIRS = replace(
    TWINES, treatments=(Treatment("t1", "Hemp", samples=2), Treatment("t2", "Jute", samples=2)), layout=Layout("pairs")
)
SQUARE = replace(TWINES, treatments=tuple(replace(t, samples=3) for t in TWINES.treatments), layout=Layout("latin"))
ON_GRID = replace(TWINES, layout=Layout("random", grid=Grid(2, 3)))


@pytest.mark.parametrize(
    ("plan", "text", "says"),
    [
        (SPLIT, "A B\nC D", ""),
        (SPLIT, "A C\nB D", "holds several levels"),
        (PAIRS, "A B\nB A", ""),
        (PAIRS, "A B\nB B", "one of each"),
        (SQUARE, "A B C\nB C A\nC A B", ""),
        (SQUARE, "A B C\nB C A\nC B A", "no Latin square"),
        (ON_GRID, "A B C\nB C A", ""),
        (ON_GRID, "A B C A\nB C A C", "More is drawn than"),
        (TWINES, "A B A", "C, Sisal, oiled, stands nowhere."),
        (TWINES, "A (x) B (X) C", "Two samples are called"),
        (IN_TWO, "Sunny fence:\nA B C", "Nothing stands in Arch."),
    ],
)
def test_what_stands_is_held_against_the_layout(plan, text, says):
    found = [p.says for p in problems_in(begun(plan, text)) if p.at.startswith("begun")]
    assert (found == []) if not says else any(says in one for one in found), found


def test_a_heading_of_the_plan_that_changed_is_seen():
    plan = begun(IN_TWO, "Sunny fence:\nA B C\nArch:\nA B C")
    gone = replace(plan, layout=Layout("blocks", (Block("b1", "Sunny fence"), Block("b9", "Shed"))))
    assert any("places have changed" in p.says for p in problems_in(gone))
    fewer = replace(plan, treatments=plan.treatments[:2])
    assert any("no more in the plan" in p.says for p in problems_in(fewer))


@pytest.mark.parametrize(
    ("change", "at"),
    [
        ({"on": ""}, "begun.on"),
        ({"on": "soon"}, "begun.on"),
        ({"how": " "}, "begun.how"),
        ({"taken": ("c9",)}, "begun.taken"),
        ({"samples": ()}, "begun.samples"),
    ],
)
def test_what_is_missing_is_asked_for(change, at):
    plan = begun(TWINES, "A B C")
    found = {p.at for p in problems_in(replace(plan, begun=replace(plan.begun, **change)))}
    assert at in found


def test_places_chosen_by_hand_are_given_up_by_their_own_reason():
    by_hand = next(one for one in fairness_of(begun(TWINES, "A B C")) if one.key == "order")
    assert (by_hand.standing, by_hand.reason) == ("given_up", "in turn")
    plan = begun(TWINES, "A B C")
    by_lot = replace(plan, begun=replace(plan.begun, placed="drawn", how="cards from a hat"))
    kept = next(one for one in fairness_of(by_lot) if one.key == "order")
    assert kept.standing == "kept"
    assert "cards from a hat" in kept.says


def test_moments_are_those_of_the_place():
    assert moment_in("2027-03-01", "Europe/London") == datetime(2027, 3, 1, 12, tzinfo=UTC)
    assert moment_in("2027-10-31T01:30", "Europe/London") == datetime(2027, 10, 31, 0, 30, tzinfo=UTC)
    assert moment_in("2027-03-01T09:00+02:00", "Europe/London") == datetime(2027, 3, 1, 7, tzinfo=UTC)
    for wrong in ("2027-03-28T01:30", "1.3.", "2027-02-30"):
        with pytest.raises(Refused):
            moment_in(wrong, "Europe/London")
