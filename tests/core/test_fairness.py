"""The fairness list, the proof of a method, amendments: judged from the plan."""

from dataclasses import replace
from math import sqrt

import pytest
from scipy import stats

from fieldtally.core.design.changes import changes, forbidden, held_to
from fieldtally.core.design.fair.items import ITEMS
from fieldtally.core.design.fair.judges import Known
from fieldtally.core.design.fairness import fairness_of, fairness_problems, given_up
from fieldtally.core.design.method import proven, repeat_error
from fieldtally.core.design.plan import (
    Checkpoint,
    EndingRule,
    Factor,
    FactorLevel,
    Grid,
    HeldEqual,
    Layout,
    Outcome,
    Plan,
    Proof,
    Stand,
    Summary,
    Treatment,
)
from fieldtally.core.scales import CurveScale, GradeScale, Level, MeasurementScale
from fieldtally.core.scales.templates import letters, stars
from fieldtally.core.verdict.claims import Happened, may_not_be_claimed

DAY = 1440
BARE = Plan(
    "Twine",
    question="Which holds?",
    treatments=(Treatment("a", "Jute", samples=2), Treatment("b", "Hemp", samples=2)),
    outcomes=(Outcome("o", "Load", MeasurementScale("kg"), margin=2.0),),
)
FAIR = replace(
    BARE,
    school="same",
    treatments=(Treatment("a", "Jute", "standard", 4), Treatment("b", "Hemp", "placebo", 4)),
    held_equal=(HeldEqual("h", "Light", "south window"),),
    layout=Layout(grid=Grid(3, 8, guard_columns=True)),
    outcomes=(replace(BARE.outcomes[0], proof=Proof(repeats=((10.0, 10.2), (12.0, 12.1), (9.0, 9.3)))),),
    checkpoints=(Checkpoint("b", "Before", 0, baseline=True), Checkpoint("d", "Day 5", 5 * DAY)),
    pieces=3,
    piece_word="strands",
    fairness=tuple(Stand(key, True) for key in ("one_change", "blind", "order", "shelf_life")),
)


def standing(plan, predictions=1):
    return {one.key: one.standing for one in fairness_of(plan, Known(predictions))}


def test_a_fair_plan_keeps_every_item_and_a_bare_one_leaves_them_open():
    assert set(standing(FAIR).values()) == {"kept"}
    assert fairness_problems(FAIR, Known(1)) == []
    kept = {key for key, one in standing(BARE, 0).items() if one == "kept"}
    assert kept == {"exposure", "anchored"}
    assert {p.at for p in fairness_problems(BARE)} == {f"fairness.{i.key}" for i in ITEMS if i.key not in kept}


@pytest.mark.parametrize(
    ("key", "change"),
    [
        ("control", {"treatments": BARE.treatments}),
        ("replicates", {"treatments": (Treatment("a", "Jute", "standard", 2), Treatment("b", "Hemp", "placebo", 9))}),
        ("procedure", {"school": None}),
        ("held_equal", {"held_equal": (HeldEqual("h", "Light", ""),)}),
        ("baseline", {"checkpoints": FAIR.checkpoints[1:]}),
        ("anchored", {"outcomes": (Outcome("o", "State", stars(("gone", "", "new"))),)}),
        ("method", {"outcomes": BARE.outcomes}),
        ("stop", {"checkpoints": ()}),
    ],
)
def test_what_the_plan_decides_cannot_be_ticked_only_given_up(key, change):
    plan = replace(FAIR, **change)
    assert standing(plan)[key] == "open"
    ticked = replace(plan, fairness=(*plan.fairness, Stand(key, True, "surely")))
    assert standing(ticked)[key] == "open"
    wordless = replace(plan, fairness=(*plan.fairness, Stand(key, False, " ")))
    assert standing(wordless)[key] == "open"
    given = replace(plan, fairness=(*plan.fairness, Stand(key, False, "no room")))
    assert standing(given)[key] == "given_up"


def test_places_are_asked_and_what_was_sealed_before_that_is_not_asked_again():
    drawn = replace(FAIR, fairness=tuple(stand for stand in FAIR.fairness if stand.item != "order"))
    assert [p.at for p in fairness_problems(drawn, Known(1))] == ["fairness.order"]
    asked = next(one for one in fairness_of(drawn) if one.key == "order")
    assert not asked.by_plan and asked.says.endswith("be looked at in that order?")
    assert fairness_problems(drawn, Known(1, sealed=True)) == []
    by_hand = replace(drawn, fairness=(*drawn.fairness, Stand("order", False, "the bench is narrow")))
    assert [reason for _, reason in given_up(by_hand, Known(1, sealed=True))] == ["the bench is narrow"]


def test_a_reason_follows_to_the_verdict_and_mending_the_plan_takes_it_back():
    given = replace(
        FAIR, checkpoints=FAIR.checkpoints[1:], fairness=(*FAIR.fairness, Stand("baseline", False, "no time"))
    )
    (limit,) = given_up(given, Known(1))
    claims = may_not_be_claimed(given, Happened(predictions=1))
    assert f"{limit[0]} Given up beforehand: no time." in claims
    mended = replace(given, checkpoints=FAIR.checkpoints)
    assert standing(mended)["baseline"] == "kept"
    assert not any("no time" in claim for claim in may_not_be_claimed(mended, Happened(predictions=1)))


def test_a_package_a_difference_and_an_amendment_limit_the_claim():
    packed = replace(
        FAIR, treatments=(FAIR.treatments[0], replace(FAIR.treatments[1], package=True, changes="wax and knots"))
    )
    assert "package: Hemp" in next(one.says for one in fairness_of(packed) if one.key == "one_change")
    claims = may_not_be_claimed(
        packed, Happened(predictions=1, differences=(("Light", "half stood in shade"),), amendments=("rain",))
    )
    assert "That Hemp works by any one of its parts: it was a whole package (wax and knots)." in claims
    assert "That nothing but the treatment differed: light was not held equal (half stood in shade)." in claims
    assert "That all went as first planned: the plan was amended (rain)." in claims


def test_factors_and_whole_plots_are_recognised():
    bed = Factor("bed", "Bed", (FactorLevel("x", "X"), FactorLevel("y", "Y")), hard=True)
    made = replace(
        FAIR,
        factors=(bed,),
        fairness=(),
        layout=Layout("split"),
        pieces=1,
        treatments=tuple(replace(t, levels={"bed": level}) for t, level in zip(FAIR.treatments, "xy", strict=True)),
    )
    found = {one.key: one for one in fairness_of(made, Known(1))}
    assert found["one_change"].standing == found["unit"].standing == "kept"
    assert "plot counts" in found["unit"].says


def test_halves_and_signs_need_no_words_of_their_own():
    halves = stars(("gone", "middling", "new"), halves=True)
    school = letters(("no use", "badly", "in part", "with faults", "without fault"))
    for scale in (halves, school):
        assert scale.problems() == []
        assert standing(replace(FAIR, outcomes=(Outcome("o", "State", scale),)))["anchored"] == "kept"
    assert [level.label for level in school.levels][:4] == ["F", "D−", "D", "D+"]
    bare = GradeScale((Level(0, "0", "gone"), Level(1, "1", "")))
    assert standing(replace(FAIR, outcomes=(Outcome("o", "State", bare),)))["anchored"] == "open"


def test_repeat_error_is_the_pooled_deviation_within_things():
    rows = ((10.1, 10.4, 9.9), (12.0, 12.6), (7.7, 7.7))
    squares = [(len(row) - 1) * stats.tvar(row) for row in rows if len(set(row)) > 1]
    assert repeat_error(Proof(repeats=rows)) == pytest.approx(sqrt(sum(squares) / 4))
    assert repeat_error(Proof(repeats=((3.0,),))) is None


@pytest.mark.parametrize(
    ("repeats", "margin", "standing_of_it"),
    [
        (((10.0, 10.1), (12.0, 12.1)), 1.0, "sees"),
        (((10.0, 10.5), (12.0, 12.5)), 0.6, "strains"),
        (((10.0, 14.0), (12.0, 15.0)), 0.6, "blind"),
        ((), 0.6, "unproven"),
        (((10.0, 14.0),), None, "unproven"),
    ],
)
def test_what_a_method_can_see_is_held_against_what_matters(repeats, margin, standing_of_it):
    found = proven(Outcome("o", "Load", MeasurementScale("kg"), margin=margin, proof=Proof(repeats=repeats)), 4)
    assert found.standing == standing_of_it
    if standing_of_it == "blind":
        assert "cannot see that difference" in found.says
    if repeats:
        assert found.resolution == pytest.approx(2.77 * found.repeat_error)


def test_blanks_and_a_known_sample_give_offset_detection_and_bias():
    proof = Proof(blanks=(0.1, 0.3, 0.2), known=5.0, known_readings=(5.3, 5.5))
    found = proven(Outcome("o", "Load", MeasurementScale("kg"), proof=proof), 4)
    assert found.offset == pytest.approx(0.2)
    assert found.detection == pytest.approx(3.29 * 0.1)
    assert found.bias == pytest.approx(0.4)
    assert any("0.4 kg too high" in step for step in found.steps)


SEALED = replace(FAIR, outcomes=(*FAIR.outcomes, Outcome("n", "Colour", stars(("pale", "deep")), primary=False)))


@pytest.mark.parametrize(
    ("change", "where"),
    [
        ({"treatments": FAIR.treatments[:1]}, "treatments"),
        ({"alpha": 0.1}, "alpha"),
        ({"question": "Which is cheaper?"}, "question"),
        ({"layout": Layout("pairs")}, "layout"),
        ({"outcomes": SEALED.outcomes[1:]}, "outcomes"),
        ({"outcomes": (replace(SEALED.outcomes[0], margin=1.0), SEALED.outcomes[1])}, "outcomes.0.margin"),
        ({"outcomes": (SEALED.outcomes[0], replace(SEALED.outcomes[1], primary=True))}, "outcomes.1.primary"),
        ({"outcomes": (*SEALED.outcomes, Outcome("x", "New", MeasurementScale("g")))}, "outcomes.2.primary"),
        ({"checkpoints": SEALED.checkpoints[:1]}, "checkpoints"),
        ({"checkpoints": (SEALED.checkpoints[0], replace(SEALED.checkpoints[1], offset=6 * DAY))}, "checkpoints"),
    ],
)
def test_no_amendment_touches_what_the_seal_fixed(change, where):
    assert where in {p.at for p in forbidden(SEALED, replace(SEALED, **change), frozenset({"d"}))}


def test_an_amendment_is_told_in_sentences():
    after = replace(
        SEALED,
        checkpoints=(
            SEALED.checkpoints[0],
            replace(SEALED.checkpoints[1], after=600),
            Checkpoint("e", "Day 9", 9 * DAY),
        ),
        outcomes=SEALED.outcomes[:1],
        hazards="wear gloves",
        ending=EndingRule("half", "o"),
    )
    assert forbidden(SEALED, after, frozenset({"d"})) == []
    assert changes(SEALED, after) == (
        "Changed: what could hurt someone, from “nothing” to “wear gloves”.",
        "Changed: the rule that ends the trial.",
        "Changed: look “Day 5” (after).",
        "Added: look “Day 9”.",
        "Taken out: outcome “Colour”.",
    )
    assert changes(SEALED, SEALED) == ()


def test_a_look_that_is_added_later_does_not_take_the_place_of_the_one_that_is_judged():
    later = replace(SEALED, checkpoints=(*SEALED.checkpoints, Checkpoint("e", "Day 9", 9 * DAY)))
    pinned = held_to(SEALED, later)
    assert [later.judged_at(o) for o in later.outcomes] == ["e", "e"]
    assert [pinned.judged_at(o) for o in pinned.outcomes] == ["d", "d"]
    assert forbidden(SEALED, later) == []
    # What was pinned once stays so through the next amendment.
    assert held_to(pinned, replace(pinned, hazards="boots")).outcomes == pinned.outcomes
    changed = replace(SEALED, outcomes=(replace(SEALED.outcomes[0], summary=Summary("change")), *SEALED.outcomes[1:]))
    longer = replace(changed, checkpoints=(Checkpoint("a", "Day 1", DAY), *changed.checkpoints))
    summary = held_to(changed, longer).outcomes[0].summary
    assert (summary.checkpoint, summary.baseline) == ("d", "b")


def test_the_look_a_claim_is_judged_by_cannot_be_taken_out_even_without_readings():
    gone = replace(SEALED, checkpoints=SEALED.checkpoints[:1])
    assert any("is judged at a look that would be gone" in p.says for p in forbidden(SEALED, gone))


@pytest.mark.parametrize("item", ITEMS, ids=lambda item: item.key)
def test_every_item_says_why_it_matters_and_what_is_lost_without_it(item):
    assert item.why.endswith(".") and item.limit.endswith(".")
    assert item.judge(BARE, Known()).says
    assert item.judge(Plan(""), Known()).says
    for word in ("safe", "proves"):
        assert word not in f"{item.title} {item.why} {item.limit}".casefold().split()


STRETCH = CurveScale("mm", "kg", (1.0, 2.0, 3.0))
PULLED = replace(SEALED, outcomes=(replace(SEALED.outcomes[0], name="Stretch", scale=STRETCH), *SEALED.outcomes[1:]))


def pulled(scale) -> Plan:
    return replace(PULLED, outcomes=(replace(PULLED.outcomes[0], scale=scale), *PULLED.outcomes[1:]))


def test_steps_beyond_the_last_of_a_curve_may_be_added_and_are_told():
    longer = pulled(replace(STRETCH, steps=(1.0, 2.0, 3.0, 4.0, 4.5)))
    assert forbidden(PULLED, longer) == []
    assert "Steps added to “Stretch”: 4, 4.5 kg;" in " ".join(changes(PULLED, longer))
    # What was read to the third step is a slope as it was.
    assert longer.outcomes[0].scale.number_of((2.0, 4.0, 6.0)) == STRETCH.number_of((2.0, 4.0, 6.0))


@pytest.mark.parametrize(
    "other",
    [
        replace(STRETCH, steps=(1.0, 2.0)),
        replace(STRETCH, steps=(0.5, 1.0, 2.0, 3.0)),
        replace(STRETCH, steps=(1.0, 2.0, 2.5, 3.0)),
        replace(STRETCH, steps=(1.0, 2.0, 3.0, 4.0), unit="cm"),
        replace(STRETCH, number="last"),
    ],
)
def test_no_other_change_of_a_curve_follows_the_seal(other):
    (found,) = [one for one in forbidden(PULLED, pulled(other)) if one.at == "outcomes.0.scale"]
    assert "Only steps beyond the last may be added" in found.says


def test_a_curve_that_is_judged_at_its_last_step_gets_no_further_ones():
    at_last = replace(STRETCH, number="last")
    before = pulled(at_last)
    after = pulled(replace(at_last, steps=(1.0, 2.0, 3.0, 4.0)))
    assert [one.at for one in forbidden(before, after)] == ["outcomes.0.scale"]
