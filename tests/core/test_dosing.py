"""Quantities and doses: the worked cases, there and back, and a sentence for what is not understood."""

import json
import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldtally.cli import main
from fieldtally.core.dosing.bench import alcohol, discharge, percent_change, percent_of_control, stiffness
from fieldtally.core.dosing.dilution import diluted, parts_of, ratio_in
from fieldtally.core.dosing.drawer import DRAWER, worked_out
from fieldtally.core.dosing.measuring import Tool, measured, tool_in
from fieldtally.core.dosing.rates import active_ratio, coverage_in, for_active, label_rate, size_for
from fieldtally.core.problems import Refused
from fieldtally.core.quantities.amounts import amount_in, rate_in, written_number
from fieldtally.core.quantities.converting import converted

CASES = json.loads((Path(__file__).parent / "cases/dosing.json").read_text())


def cases(*keys):
    return [pytest.param(case, id=" ".join(str(case[key]) for key in keys)) for case in CASES if keys[0] in case]


@pytest.mark.parametrize("case", cases("rate", "size"))
def test_the_labels_rate(case):
    worked = label_rate(rate_in(case["rate"]), amount_in(case["size"]))
    assert (worked.value, worked.unit) == (pytest.approx(case["dose_mL"], rel=1e-4), "mL")


@pytest.mark.parametrize("case", cases("pack", "size"))
def test_what_a_pack_treats(case):
    assert label_rate(coverage_in(case["pack"]), amount_in(case["size"])).value == pytest.approx(case["dose_mL"])


@pytest.mark.parametrize("case", cases("active", "fraction"))
def test_the_active_ingredient(case):
    worked = for_active(rate_in(case["active"]), amount_in(case["area"]), case["fraction"])
    assert (worked.value, worked.unit) == (pytest.approx(case["product_g"], rel=1e-4), "g")
    assert any(f"{100 * case['fraction']:g} %" in step for step in worked.steps)


@pytest.mark.parametrize("case", cases("dilution", "final"))
def test_dilution_from_a_stock(case):
    stock, wanted = (amount_in(part).value for part in case["dilution"].split(" to "))
    taken, water = diluted(stock, wanted, amount_in(case["final"]).to("milliliter"))
    assert (taken.value, water.value) == (pytest.approx(case["stock_mL"]), pytest.approx(case["water_mL"]))


@pytest.mark.parametrize("case", cases("ratio", "final"))
def test_a_ratio_says_which_is_which_and_how_many_parts(case):
    ratio = ratio_in(case["ratio"])
    water, product = parts_of(ratio, amount_in(case["final"]).to("milliliter"))
    assert (ratio.parts, product.value) == (case["parts"], pytest.approx(case["product_mL"]))
    assert water.value + product.value == pytest.approx(8000)
    assert "16 parts in all" in product.steps[0]


@pytest.mark.parametrize("case", cases("tool", "dose"))
def test_can_it_be_measured(case):
    found = measured(amount_in(case["dose"]).to("milliliter"), tool_in(case["tool"]))
    assert (found.relative_error, found.standing) == (pytest.approx(case["relative_error"]), case["advice"])
    assert len(found.advice) >= 2


def test_the_sums_of_the_bench():
    by_key = {key: case for case in CASES for key in case}
    assert alcohol(*by_key["gravity"]["gravity"]).value == pytest.approx(by_key["gravity"]["abv"], abs=1e-3)
    resistor = by_key["resistor_ohm"]
    hours = discharge(resistor["volts"], resistor["resistor_ohm"], resistor["capacity_mAh"])
    assert hours.value == pytest.approx(resistor["hours"], abs=1e-3)
    beam = by_key["beam"]["beam"]
    found = stiffness(beam["load_N"], beam["span_mm"], beam["width_mm"], beam["thickness_mm"], beam["deflection_mm"])
    assert found.value == pytest.approx(by_key["beam"]["E_MPa"], rel=1e-4)
    assert percent_change(20, 15).value == -25
    assert percent_of_control(15, 20).value == 75
    for wrong in (
        lambda: alcohol(1050, 1010),
        lambda: discharge(1.2, 0, 2000),
        lambda: percent_change(0, 5),
        lambda: percent_of_control(5, 0),
    ):
        with pytest.raises(Refused):
            wrong()


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("2.5 mL", "milliliter", 2.5),
        ("2,5 ml", "milliliter", 2.5),
        ("1 1/2 tsp", "milliliter", 7.5),
        ("½ tsp", "milliliter", 2.5),
        ("1½ L", "milliliter", 1500),
        ("0.4 lb", "gram", 181.436948),
        ("40 ft2", "meter**2", 3.71612),
        ("40 ft²", "meter**2", 3.71612),
        ("3 h 20 min", "minute", 200),
        ("6 %", "percent", 6),
        ("150 ppm", "ppm", 150),
        ("68 °F", "degC", 20),
        ("−4 °C", "degC", -4),
        ("1 US gal", "milliliter", 3785.411784),
        ("1 imp gal", "milliliter", 4546.09),
        ("2 fl. oz us", None, None),
    ],
)
def test_what_people_write_is_understood(text, unit, value):
    if unit is None:
        with pytest.raises(Refused):
            amount_in(text)
    else:
        assert amount_in(text).to(unit) == pytest.approx(value)


def test_gallons_and_spoons_are_those_of_the_trial_and_echoed_in_full():
    assert amount_in("1 gal", "us").to("liter") == pytest.approx(3.785411784)
    assert amount_in("1 gal", "imperial").to("liter") == pytest.approx(4.54609)
    assert amount_in("1 tsp", "us").to("milliliter") == pytest.approx(4.92892159)
    assert amount_in("1 gal", "us").echo == "1 US gallon"
    assert "US gallon" in rate_in("3/4 tsp/US gal").echo
    with pytest.raises(Refused, match="They differ"):
        amount_in("1 gal")


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "missing"),
        ("2.5", "has no unit"),
        ("mL", "is not understood"),
        ("2.5 florps", "“florps” is no unit"),
        ("-3 mL", "less than nothing"),
        ("3 mL 2 kg", "mixes two things"),
        ("3/0 mL", "divides by nothing"),
        ("1e99 mL", "too large"),
        ("3 mL!", "no unit"),
    ],
)
def test_what_is_not_understood_is_said_piece_by_piece(text, says):
    with pytest.raises(Refused) as refused:
        amount_in(text)
    assert says in refused.value.problems[0].says


def test_the_wrong_dimension_and_half_a_rate_are_said():
    for wrong in (
        lambda: amount_in("3 kg", dimension="volume"),
        lambda: rate_in("4 mL"),
        lambda: rate_in("4 mL/0 L"),
        lambda: label_rate(rate_in("4 mL/L"), amount_in("3 m2")),
        lambda: coverage_in("400 mL"),
        lambda: ratio_in("12:1"),
        lambda: ratio_in("some water"),
        lambda: diluted(10, 40, 3),
        lambda: for_active(rate_in("1 g/m2"), amount_in("1 m2"), 0),
        lambda: tool_in("a spoon"),
        lambda: tool_in("1 mL by 2 mL"),
        lambda: measured(0, Tool(1, 0.1, "mL")),
        lambda: amount_in("3 mL").to("gram"),
    ):
        with pytest.raises(Refused) as refused:
            wrong()
        assert refused.value.problems[0].says.endswith((".", ")."))


AMOUNTS = st.floats(0.001, 10_000, allow_nan=False)


@given(AMOUNTS, AMOUNTS, st.sampled_from(["mL/L", "g/m2", "tsp/US gal", "lb/1000 ft2", "mL/kg"]))
def test_a_dose_goes_there_and_back_and_scales_with_the_size(rate, size, unit):
    size = round(size, 6)  # as it is written below
    amount, per = unit.split("/")
    given_rate = rate_in(f"{rate:.6f} {unit}")
    of = per.split()[-1] if not per.startswith("US") else per
    dose = label_rate(given_rate, amount_in(f"{size:.6f} {of}"))
    again = size_for(given_rate, amount_in(f"{dose.value:.12f} {dose.unit}"))
    base = label_rate(given_rate, amount_in(f"{2 * size:.6f} {of}"))
    assert base.value == pytest.approx(2 * dose.value, rel=1e-4)
    if dose.value > 1e-3:
        size_in = converted(float(f"{size:.6f}"), of, again.unit.replace("²", "2"))
        assert again.value == pytest.approx(size_in, rel=1e-4)
    assert amount


@given(st.integers(0, 50), st.integers(0, 15), st.integers(1, 16))
def test_fractions_are_read_as_they_are_written(whole, above, below):
    text = f"{whole} {above}/{below}" if whole else f"{above}/{below}"
    assert written_number(text) == pytest.approx(whole + above / below)


@given(st.floats(0.001, 5))
def test_a_stock_solution_brings_the_dose_within_five_percent(dose):
    tool = Tool(10.0, 0.2, "mL")
    found = measured(dose, tool)
    if found.standing == "fine":
        assert tool.error(dose) <= 0.05
        return
    way = next(one for one in found.advice if one.startswith("Make a stock"))
    product, total, aliquot = (amount_in(part).value for part in re.findall(r"([\d.]+ mL)", way)[:3])
    assert product * aliquot / total == pytest.approx(dose, rel=2e-3)
    assert max(tool.error(product), tool.error(aliquot)) <= 0.0501


def test_a_finer_tool_at_hand_is_named_first_and_equal_active_is_told_as_a_ratio():
    found = measured(0.4, tool_in("10 mL by 0.5 mL"), [tool_in("1 mL by 0.01 mL"), tool_in("5 g by 0.1 g")])
    assert found.advice[0].startswith("Take 1 mL by 0.01 mL: it measures this to 1.3")
    assert active_ratio(4, 0.3, 2, 0.6) == 1


def test_the_headless_door_for_doses(capsys):
    assert main(["dose", "--rate", "4 mL/L", "--size", "750 mL", "--tool", "1 mL by 0.1 mL", "--json"]) == 0
    out = json.loads(capsys.readouterr().out)
    assert out["dose"] == {"value": pytest.approx(3.0), "unit": "mL"}
    assert out["relative_error"] == pytest.approx(0.05)
    assert set(out) == {"dose", "relative_error", "advice", "steps"}
    assert main(["dose", "--rate", "4 mL/L", "--size", "750 mL"]) == 0
    assert "3 mL" in capsys.readouterr().out
    for wrong in (["--rate", "4 mL", "--size", "1 L"], ["--rate", "4 mL/L", "--size", "1 L", "--tool", "5 g by 1 g"]):
        assert main(["dose", *wrong]) == 2
        said = capsys.readouterr().err.strip()
        assert said.count("\n") == 0 and said.endswith(".")


@pytest.mark.parametrize("one", DRAWER, ids=lambda one: one.key)
def test_every_sum_of_the_drawer_works_on_its_own_examples_and_refuses_nothing_and_nonsense(one):
    answer = worked_out(one.key, {asked.key: asked.example for asked in one.asks})
    assert answer.says.endswith(".") and answer.steps
    with pytest.raises(Refused) as refused:
        worked_out(one.key, {})
    assert [p.at for p in refused.value.problems] == [f"given.{a.key}" for a in one.asks if not a.optional]
    for asked in one.asks:
        odd = {a.key: a.example for a in one.asks} | {asked.key: "a pinch"}
        with pytest.raises(Refused) as refused:
            worked_out(one.key, odd)
        assert refused.value.problems[0].at == f"given.{asked.key}"


def test_the_drawer_says_when_a_tool_is_too_coarse_and_what_to_do():
    answer = worked_out("label", {"rate": "4 mL/L", "size": "100 mL", "tool": "10 mL by 0.5 mL"})
    assert answer.says == "0.4 mL for each."
    assert answer.advice[0] == "Measured to 63 % with that. That is too coarse."
    assert any(way.startswith("Make a stock") for way in answer.advice)
    assert (
        "E is 7911"
        in worked_out(
            "beam", {"load": "1 kg", "span": "40 cm", "width": "50 mm", "thickness": "4 mm", "deflection": "6.2 mm"}
        ).says
    )
    with pytest.raises(Refused):
        worked_out("alchemy", {})


@pytest.mark.parametrize(
    ("key", "given", "says"),
    [
        ("discharge", {"volts": "2.4 V", "ohms": "100 kohm"}, "0.024 mA flow."),
        ("discharge", {"volts": "2.4", "ohms": "100 kohm", "capacity": ""}, "0.024 mA flow."),
        ("discharge", {"volts": "1200 mV", "ohms": "22", "capacity": "2 Ah"}, "54.55 mA flow, for 36.67 h."),
        ("discharge", {"volts": "1.2", "ohms": "22 ohms", "capacity": "2000"}, "54.55 mA flow, for 36.67 h."),
        ("change", {"before": "2 kg", "after": "1500 g"}, "-25 %, that is 75 % of what was before."),
        ("change", {"before": "20", "after": "15"}, "-25 %, that is 75 % of what was before."),
    ],
)
def test_sums_take_amounts_with_their_units_and_without_and_answer_first_what_is_asked(key, given, says):
    assert worked_out(key, given).says == says


@pytest.mark.parametrize(
    ("key", "given", "at", "says"),
    [
        ("discharge", {"volts": "2.4 kg", "ohms": "22"}, "given.volts", "measures something else"),
        ("discharge", {"volts": "2.4", "ohms": "much"}, "given.ohms", "much"),
        ("change", {"before": "2 kg", "after": "3 m"}, "given.after", "two different things"),
        ("change", {"before": "20", "after": "3 m"}, "given.after", "3 m"),
        ("change", {"before": "2 kg", "after": "3"}, "given.after", "no unit"),
    ],
)
def test_sums_say_at_the_field_what_a_unit_is_not(key, given, at, says):
    with pytest.raises(Refused) as refused:
        worked_out(key, given)
    problem = refused.value.problems[0]
    assert (problem.at, says in problem.says) == (at, True), problem
