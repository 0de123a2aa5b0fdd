"""Doses as they are given: steps in their order, with what is between them; what must not meet stops the seal."""

from dataclasses import replace

import pytest

from fieldtally.core.design.plan import Dose, Plan, Product, Treatment
from fieldtally.core.design.sound.doses import dose_problems
from fieldtally.core.dosing.mixing import mix_sheet
from fieldtally.core.hazards.plan_uses import clash_problems

BATH = Dose("d-1", "acid", "amount", "20 mL", water="2 L", vessel="the glass tray", minutes=10)
BLEACH = Dose("d-2", "bleach", "amount", "5 mL")
POTS = Plan(
    "Lime on pots",
    sample_word="pot",
    carrier="tap water",
    products=(Product("acid", "Pot cleaner", "citric acid"), Product("bleach", "White", "sodium hypochlorite bleach")),
    treatments=(
        Treatment(
            "both", "Bath and white", doses=(replace(BATH, rinse="clear water, twice", check="no bubbles"), BLEACH)
        ),
        Treatment("none", "Nothing", "untreated"),
    ),
)


def with_doses(*doses: Dose, **more) -> Plan:
    return replace(POTS, treatments=(replace(POTS.treatments[0], doses=doses), POTS.treatments[1]), **more)


def test_a_step_says_in_what_how_long_and_what_comes_before_the_next():
    steps = [step.says for step in mix_sheet(POTS).mixes[0].steps]
    at = next(i for i, says in enumerate(steps) if "Pot cleaner" in says)
    assert steps[at : at + 4] == [
        "Give each pot 20 mL of Pot cleaner, in 2 L of tap water, in the glass tray; leave it for 10 min.",
        "Rinse each pot with clear water, twice.",
        "Go on once: no bubbles.",
        "Give each pot 5 mL of White.",
    ]


def test_what_must_not_meet_is_not_sealed_without_a_rinse_between():
    assert [*clash_problems(POTS)] == []
    (found,) = clash_problems(with_doses(BATH, BLEACH))
    assert found.at == "treatments.0.doses.0.rinse"
    assert "must not meet" in found.says and "rinsed with between them" in found.says
    # In one batch they meet, whatever is rinsed afterwards.
    (found,) = clash_problems(replace(POTS, mixing="batch"))
    assert "Give each by itself" in found.says


def test_treatments_that_share_a_vessel_must_not_clash():
    apart = replace(
        POTS,
        treatments=(
            Treatment("one", "Acid", doses=(BATH,), vessel="Tub"),
            Treatment("two", "White", doses=(BLEACH,), vessel="tub "),
        ),
    )
    (found,) = clash_problems(apart)
    assert found.at == "treatments.1.vessel" and "in Tub" in found.says
    two = replace(apart.treatments[1], vessel="bucket")
    assert [*clash_problems(replace(apart, treatments=(apart.treatments[0], two)))] == []


@pytest.mark.parametrize(
    ("changed", "part"),
    [
        ({"water": "a good deal"}, "water"),
        ({"water": "3 kg"}, "water"),
        ({"minutes": 0}, "minutes"),
        ({"minutes": 1e6}, "minutes"),
    ],
)
def test_what_is_no_step_is_said_at_its_field(changed, part):
    assert [one.at for one in dose_problems(with_doses(replace(BATH, **changed)))] == [f"treatments.0.doses.0.{part}"]
