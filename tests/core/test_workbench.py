"""Doses of a plan: worked out however they are written, measured or not, equal in active, mixed, bought and logged."""

from collections import Counter
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fieldtally.core.blinding.allocation import allocate
from fieldtally.core.blinding.checking import LETTERS, check_letter, code_on_tag
from fieldtally.core.design.changes import changes, forbidden
from fieldtally.core.design.plan import Block, Dose, Layout, Outcome, Plan, Product, StartValues, Treatment
from fieldtally.core.design.sound.doses import dose_problems
from fieldtally.core.design.starting import imbalance, odd_starts
from fieldtally.core.dosing.bench import area, by_chart, volume
from fieldtally.core.dosing.giving import given_by
from fieldtally.core.dosing.log import by_version, given_in, off_plan, setting_off
from fieldtally.core.dosing.measuring import Tool, best_of, measured, stock_for, tool_in
from fieldtally.core.dosing.mixing import mix_sheet
from fieldtally.core.dosing.workbench import workbench
from fieldtally.core.hazards.finding import DEFERS, cautions_for, clashes_in
from fieldtally.core.hazards.plan_uses import uses_in
from fieldtally.core.problems import Refused
from fieldtally.core.scales import LadderScale, PercentScale

PRODUCTS = (
    Product("strong", "Stemkin", "sugar", "34 %", "250 mL", 5.0),
    Product("weak", "Vaselode", "Sugar", "15 %", "0.5 L", 4.0),
    Product("dust", "Lime dust", "", "", "1 kg", 2.0),
)
PLAN = Plan(
    title="Vases",
    sample_word="stem",
    sample_size="750 mL",
    carrier="tap water",
    top_up=True,
    products=PRODUCTS,
    layout=Layout("blocks", (Block("a", "Porch"), Block("b", "Kitchen"))),
    treatments=(
        Treatment("plain", "Plain water", "untreated", 3),
        Treatment("one", "Stemkin", samples=3, doses=(Dose("d1", "strong", "label", "4 mL/L"),)),
        Treatment("two", "Vaselode", samples=3, doses=(Dose("d2", "weak", "label", "4 mL/L", times=2),)),
    ),
)


def dosed(way, rate, size="750 mL", **product):
    one = replace(PRODUCTS[0], **product)
    return replace(PLAN, sample_size=size, products=(one,)), Dose("d", "strong", way, rate)


@pytest.mark.parametrize(
    ("way", "rate", "size", "value", "unit"),
    [
        ("label", "4 mL/L", "750 mL", 3.0, "mL"),
        ("pack", "400 mL treats 80 L", "150 mL", 0.75, "mL"),
        ("active", "0.4 lb/1000 ft2", "40 ft2", 21.346, "g"),
        ("parts", "15:1 water to product", "8 L", 500.0, "mL"),
        ("parts", "1:15 Stemkin to tap water", "8 L", 500.0, "mL"),
        ("strength", "3.4 %", "3 L", 300.0, "mL"),
        ("amount", "1 1/2 tsp", "", 7.5, "mL"),
        ("amount", "0.5 oz", "", 14.1748, "g"),
    ],
)
def test_every_way_of_writing_a_rate_is_worked_out_with_steps_and_echoed(way, rate, size, value, unit):
    found = given_by(*dosed(way, rate, size))
    assert (found.worked.value, found.worked.unit) == (pytest.approx(value, rel=1e-4), unit)
    assert found.worked.steps and found.echo
    assert found.active == pytest.approx(0.34 * value, rel=1e-4)


@pytest.mark.parametrize(
    ("way", "rate", "size", "share", "at"),
    [
        ("label", "4 mL", "750 mL", "34 %", "rate"),
        ("label", "4 mL/L", "", "34 %", "sample_size"),
        ("label", "4 mL/L", "2 m2", "34 %", "rate"),
        ("pack", "400 mL", "1 L", "34 %", "rate"),
        ("active", "4 g/L", "1 L", "", "share"),
        ("active", "4 g/L", "1 L", "134 %", "share"),
        ("parts", "15:1", "1 L", "", "rate"),
        ("parts", "15:1 water to product", "2 kg", "", "sample_size"),
        ("strength", "50 %", "1 L", "34 %", "rate"),
        ("strength", "5 %", "1 L", "", "share"),
        ("amount", "3 m", "1 L", "", "rate"),
        ("amount", "a bit", "1 L", "", "rate"),
    ],
)
def test_what_cannot_be_worked_out_is_said_at_the_field_it_belongs_to(way, rate, size, share, at):
    with pytest.raises(Refused) as refused:
        given_by(*dosed(way, rate, size, share=share))
    assert refused.value.problems[0].at == at


def test_problems_of_the_workbench_stand_at_paths_of_the_plan_and_the_rest_is_worked_out():
    bad = replace(PLAN.treatments[1], doses=(Dose("d1", "strong", "label", "4 mL per pinch"), Dose("x", "gone")))
    found = workbench(replace(PLAN, treatments=(PLAN.treatments[0], bad, PLAN.treatments[2])))
    assert [p.at for p in found.problems] == ["treatments.1.doses.0.rate", "treatments.1.doses.1.product"]
    assert [len(one.doses) for one in found.treated] == [0, 0, 1]
    no_share = replace(PLAN, products=(replace(PRODUCTS[0], share="lots"), *PRODUCTS[1:]))
    assert [p.at for p in workbench(no_share).problems] == ["products.0.share"]


@pytest.mark.parametrize("tool", ["kitchen scale: 2 kg by 1 g", "a spoon"])
@pytest.mark.parametrize("stock", [False, True])
def test_a_tool_that_cannot_measure_it_is_refused_at_the_tool_and_takes_no_amount_away(tool, stock):
    dose = replace(PLAN.treatments[1].doses[0], tool=tool, stock=stock)
    wrong = replace(
        PLAN, treatments=(PLAN.treatments[0], replace(PLAN.treatments[1], doses=(dose,)), PLAN.treatments[2])
    )
    syringe = tool_in("small syringe: 1 mL by 0.01 mL")
    found, right = workbench(wrong, [syringe]), workbench(PLAN, [syringe])
    (problem,) = found.problems
    assert problem.at == "treatments.1.doses.0.tool"
    assert "measures g. Choose one that measures mL" in problem.says or "no tool" in problem.says
    assert found.treated == right.treated


def test_the_two_schools_stand_side_by_side_and_the_same_active_really_is_the_same():
    (school,) = workbench(PLAN).schools
    first, second = school.rows
    assert (first.now, first.active, first.times) == ("3 mL", "1.02 mL", 1.0)
    assert second.times == pytest.approx(0.15 / 0.34)
    assert second.same == "6.8 mL"
    assert school.says.startswith("Stemkin brings 2.27 times as much sugar as Vaselode.")
    same = replace(PLAN.treatments[2], doses=(Dose("d2", "weak", "active", second.rate),))
    equal = workbench(replace(PLAN, treatments=(*PLAN.treatments[:2], same), school="label"))
    assert equal.schools[0].rows[1].times == pytest.approx(1, rel=1e-5)
    assert equal.schools[0].says.startswith(
        "All bring the same sugar. The plan asks about the products as their labels"
    )
    assert "one procedure" in workbench(replace(PLAN, school="same")).schools[0].says


def test_the_untreated_get_as_much_carrier_as_the_largest_dose_adds():
    double = replace(PLAN.treatments[2], doses=(Dose("d2", "weak", "label", "8 mL/L"),))
    found = workbench(replace(PLAN, treatments=(*PLAN.treatments[:2], double)))
    assert [one.top_up for one in found.treated] == pytest.approx([6, 3, 0])
    assert found.treated[0].top_up_says.startswith("6 mL of tap water more for each")
    assert [one.top_up for one in workbench(replace(PLAN, top_up=False)).treated] == [0, 0, 0]


def test_a_coarse_tool_warns_and_the_stock_that_is_offered_really_measures_to_five_percent():
    small = replace(PLAN, sample_size="100 mL")
    spoon, syringe = tool_in("10 mL by 0.5 mL"), tool_in("small syringe: 1 mL by 0.01 mL")
    one = workbench(small, [spoon]).treated[1].doses[0]
    assert (one.value, one.standing, round(one.relative_error, 3)) == (pytest.approx(0.4), "refuse", 0.625)
    assert one.tool == "10 mL by 0.5 mL"
    assert any(way.startswith("Make a stock") for way in one.ways)
    assert workbench(small, [spoon, syringe]).treated[1].doses[0].tool == "small syringe"
    named = replace(small.treatments[1], doses=(replace(small.treatments[1].doses[0], tool="10 mL by 0.5 mL"),))
    warned = workbench(replace(small, treatments=(named,)), [spoon, syringe]).treated[0].doses[0]
    assert warned.ways[0].startswith("Take small syringe")
    stocked = replace(named, doses=(replace(named.doses[0], stock=True),))
    told = workbench(replace(small, treatments=(stocked,)), [spoon]).treated[0].doses[0]
    assert told.standing == "fine" and "made up to" in told.stock and told.measures.endswith("of the stock")
    wrong = replace(named, doses=(replace(named.doses[0], tool="5 g by 1 g"),))
    assert [p.at for p in workbench(replace(small, treatments=(wrong,))).problems] == ["treatments.0.doses.0.tool"]


@given(
    st.floats(1e-4, 50),
    st.sampled_from([0.01, 0.1, 0.2, 0.5, 1.0, 5.0]),
    st.sampled_from(["mL", "g"]),
    st.integers(1, 40),
)
@settings(deadline=None)
def test_a_stock_holds_the_dose_exactly_and_both_its_amounts_are_measured_to_five_percent(dose, mark, unit, samples):
    tool, cup = Tool(10 * mark, mark, unit), Tool(100, 0.5, "mL", "cup")
    made = stock_for(dose, tool, [cup], dose * samples)
    assert made.product / made.total * made.aliquot == pytest.approx(dose, rel=1e-9)
    assert made.product >= dose * samples * (1 - 1e-9)
    with_what = tool if unit == "mL" else cup
    assert with_what.graduation / 2 / made.aliquot <= 0.05 + 1e-9
    assert mark / 2 / made.product <= 0.05 + 1e-9


@given(st.floats(0.001, 1000), st.floats(0.01, 100), st.floats(0.1, 10))
def test_a_dose_grows_with_the_size_of_the_sample_and_with_nothing_else(rate, size, times):
    def value(size):
        return given_by(*dosed("label", f"{rate:.6f} mL/L", f"{size:.6f} L")).worked.value

    assert value(size * times) == pytest.approx(times * value(size), rel=1e-3, abs=1e-5)
    gallons = given_by(*dosed("label", f"{rate:.6f} mL/L", f"{size / 3.785411784:.9f} US gal")).worked.value
    assert gallons == pytest.approx(value(size), rel=1e-4, abs=1e-6)


def test_the_best_tool_is_the_finest_that_measures_the_same_thing():
    tools = [tool_in("10 mL by 0.5 mL"), tool_in("1 mL by 0.01 mL"), tool_in("50 g by 0.1 g")]
    assert best_of(tools, 0.4, "mL") == tools[1]
    assert best_of(tools, 30, "mL").most == 1 or best_of(tools, 30, "mL").most == 10
    assert best_of(tools, 3, "g") == tools[2] and best_of(tools[:2], 3, "g") is None and best_of(tools, 0, "mL") is None
    assert measured(3, tools[2], tools).standing == "fine"


def test_the_mix_sheet_in_batches_says_what_to_mix_in_which_order():
    sheet = mix_sheet(replace(PLAN, mixing="batch", sample_size="400 mL", cleaning="hot soapy water"))
    plain, one, two = sheet.mixes
    assert [step.kind for step in one.steps] == ["clean", "fill", "measure", "share_out"]
    assert "hot soapy water" in one.steps[0].says and "no tool goes on" in one.steps[0].says
    # 6 stems of 400 mL and a tenth over: 2.64 L, with 1.6 mL × 6.6.
    assert "2640 mL" in one.steps[1].says and "10.56 mL of Stemkin" in one.steps[2].says
    assert "400 mL to each of 6 stems" in one.steps[3].says
    assert [step.kind for step in plain.steps] == ["clean", "fill", "top_up", "share_out", "handle"][: len(plain.steps)]
    assert "2 times in the trial" in two.steps[2].says
    assert len({step.key for mix in sheet.mixes for step in mix.steps}) == sum(len(m.steps) for m in sheet.mixes)


def test_each_sample_is_dosed_by_itself_and_the_shopping_is_in_whole_packs_with_what_is_left():
    sheet = mix_sheet(PLAN, [tool_in("5 mL by 0.1 mL")])
    assert sheet.mixes[1].steps[1].says == "Give each stem 3 mL of Stemkin, measured with 5 mL by 0.1 mL."
    strong, weak = sheet.shopping
    # 6 × 3 mL × 1.1, and twice that for the one given twice.
    assert (strong.needed, strong.packs, strong.left, strong.cost) == ("19.8 mL", 1, "230.2 mL", 5.0)
    assert (weak.needed, weak.packs, weak.cost) == ("39.6 mL", 1, 4.0)
    assert sheet.cost == 9.0
    one, two = sheet.mixes[1].costs, sheet.mixes[2].costs
    assert (one.sample, one.use) == (pytest.approx(3 / 250 * 5), pytest.approx(3 / 250 * 5))
    assert (two.sample, two.use) == (pytest.approx(2 * 3 / 500 * 4), pytest.approx(3 / 500 * 4))
    assert (one.size, one.per) == (pytest.approx(one.sample / 0.75), "L")


def test_one_product_of_two_treatments_is_bought_once_and_a_pack_in_another_unit_is_said():
    both = (
        *PLAN.treatments[:2],
        Treatment("half", "Half Stemkin", samples=3, doses=(Dose("h", "strong", "label", "2 mL/L"),)),
    )
    (bought,) = mix_sheet(replace(PLAN, treatments=both)).shopping
    assert bought.needed == "29.7 mL"
    odd = mix_sheet(replace(PLAN, treatments=both, products=(replace(PRODUCTS[0], pack="1 kg"),)))
    assert odd.shopping[0].packs is None and "told in g, the dose in mL" in odd.shopping[0].problem and odd.cost is None
    assert odd.mixes[1].costs is None
    assert (
        "not understood"
        in mix_sheet(replace(PLAN, treatments=both, products=(replace(PRODUCTS[0], pack="a tub"),))).shopping[0].problem
    )


def test_acid_and_bleach_in_one_vessel_are_found_and_apart_they_are_not():
    acid = Product("acid", "Descaler", "citric acid")
    bleach = Product("bleach", "Household bleach", "hypochlorite")
    two = (
        Treatment("a", "Way one", samples=4, doses=(Dose("a", "acid", "amount", "2 g"),), vessel="Blue bucket"),
        Treatment("b", "Way two", samples=4, doses=(Dose("b", "bleach", "amount", "2 mL"),), vessel="blue bucket"),
    )
    plan = replace(PLAN, treatments=two, products=(acid, bleach), carrier="", top_up=False)
    (clash,) = {c.says for c in clashes_in(uses_in(plan))}
    assert "acid and bleach must not meet in blue bucket" in clash.casefold() or "must not meet in Blue bucket" in clash
    assert clash.endswith(DEFERS) and "safe" not in clash.replace("safety data sheet", "")
    apart = replace(plan, treatments=(two[0], replace(two[1], vessel="")))
    assert clashes_in(uses_in(apart)) == ()
    assert clashes_in(uses_in(replace(apart, treatments=(two[0],), cleaning="thin bleach")))
    together = replace(two[0], doses=(*two[0].doses, *two[1].doses))
    assert clashes_in(uses_in(replace(plan, treatments=(together,))))


def test_what_was_given_is_held_against_what_was_planned():
    assert not off_plan(4.0, 4.15, "mL").matters
    less = off_plan(4.0, 3.2, "mL")
    assert less.matters and less.share == pytest.approx(-0.2) and less.says.endswith("20 % too little.")
    assert off_plan(2.0, 3.0, "g").says.endswith("50 % too much.")
    assert given_in("3,2", "mL") == pytest.approx(3.2) and given_in("1 tsp", "mL") == pytest.approx(5)
    assert given_in("0.5 oz", "g") == pytest.approx(14.1748, rel=1e-4)
    for wrong in ("", "a spoon", "3 g", "-2 mL"):
        with pytest.raises(Refused):
            given_in(wrong, "mL")


def test_an_amended_dose_knows_which_samples_got_which():
    rows = [(0, "4 mL", "412"), (1, "3 mL", "530"), (0, "4 mL", "198"), (0, "4 mL", "412")]
    assert [(v.version, v.amount, v.codes) for v in by_version(rows)] == [
        (0, "4 mL", ("198", "412")),
        (1, "3 mL", ("530",)),
    ]
    smaller = replace(PLAN.treatments[1], doses=(replace(PLAN.treatments[1].doses[0], rate="3 mL/L"),))
    after = replace(PLAN, treatments=(PLAN.treatments[0], smaller, PLAN.treatments[2]))
    assert forbidden(PLAN, after) == []
    assert changes(PLAN, after) == ("Changed: what Stemkin gives (Stemkin, from “4 mL/L” to “3 mL/L”).",)
    assert forbidden(PLAN, replace(after, treatments=after.treatments[:2]))


def test_doses_that_cannot_be_sealed_are_said():
    wrong = replace(
        PLAN,
        overage=9,
        products=(
            Product("strong", "", price=-1),
            Product("weak", "Vaselode", keeps_open=0),
            Product("w2", "vaselode "),
        ),
        treatments=(
            Treatment(
                "x", "X", doses=(Dose("d", "gone", rate="", times=0), Dose("e", "weak", rate="1 mL/L", stock=True))
            ),
        ),
    )
    assert [p.at for p in dose_problems(wrong)] == [
        "overage",
        "products.0.name",
        "products.0.price",
        "products.1.keeps_open",
        "products.2.name",
        "treatments.0.doses.0.product",
        "treatments.0.doses.0.rate",
        "treatments.0.doses.0.times",
        "treatments.0.doses.1.tool",
    ]
    assert list(dose_problems(PLAN)) == []


@given(st.from_regex(r"[1-9][0-9][0-9]", fullmatch=True), st.text(min_size=1, max_size=36), st.data())
def test_the_check_letter_notices_one_wrong_digit_and_two_exchanged(code, trial, data):
    letter = check_letter(code, trial)
    assert letter in LETTERS and code_on_tag(f"{code}-{letter.lower()}", trial, {code}) == code
    i = data.draw(st.integers(0, 2))
    other = code[:i] + data.draw(st.sampled_from([d for d in "0123456789" if d != code[i]])) + code[i + 1 :]
    swapped = code[1] + code[0] + code[2]
    for wrong in {other, swapped} - {code}:
        assert check_letter(wrong, trial) != letter
        with pytest.raises(Refused, match="does not go with"):
            code_on_tag(f"{wrong}{letter}", trial, {wrong})


def test_a_typed_code_that_is_none_is_refused_in_words():
    for text, part in (("", "is no code"), ("bench", "is no code"), ("777", "no sample 777")):
        with pytest.raises(Refused, match=part):
            code_on_tag(text, "x", {"412"})
    assert code_on_tag(" 412 ", "x", {"412"}) == "412"


def test_a_setting_of_a_cycle_that_was_another_is_said():
    assert (
        setting_off("40 °C", "104 °F") == "" and setting_off("1 h", "60 min") == "" and setting_off("hot", "Hot ") == ""
    )
    assert setting_off("40 °C", "45 °C") == "45 °C where 40 °C was planned."
    assert setting_off("1 h", "30 min") and setting_off("hot", "lukewarm") and setting_off("40 °C", "40 min")
    assert setting_off("", "40 °C") == "" and setting_off("40 °C", "") == "nothing told where 40 °C was planned."


def test_samples_that_start_odd_are_pointed_out_among_their_own_block():
    values = [50, 52, 51, 49, 90, 150, 152, 151, 149, None]
    blocks = ["a"] * 5 + ["b"] * 5
    names = [f"Place {i}" for i in range(10)]
    (odd,) = odd_starts(values, blocks, names, "g")
    assert odd.index == 4 and odd.says.startswith("Place 4 measures 90 g, its peers 51 g")
    assert odd_starts([1, 1, 1, 1, 2], ["a"] * 5, names[:5], "")[0].index == 4
    assert odd_starts([1, 2, 90], ["a"] * 3, names[:3], "g") == () == odd_starts([], [], [], "g")


def test_an_allocation_balanced_on_start_values_begins_more_alike_and_is_drawn_again_by_its_seed():
    plan = replace(PLAN, treatments=tuple(replace(t, samples=4) for t in PLAN.treatments))
    values = tuple(float(40 + (i * 7) % 23) for i in range(plan.sample_count))
    start = StartValues("weight", "g", values, balance=True)
    balanced, free = replace(plan, start_values=start), replace(plan, start_values=replace(start, balance=False))

    def apart(one, seed):
        drawn = allocate(one, seed)
        assert drawn == allocate(one, seed)
        return imbalance(values, [a.block for a in drawn], [a.treatment for a in drawn])

    seeds = [f"s{i}" for i in range(30)]
    with_it, without = [apart(balanced, s) for s in seeds], [apart(free, s) for s in seeds]
    assert sum(with_it) / 30 < 0.35 * sum(without) / 30
    assert [a.treatment for a in allocate(free, "s1")] == [a.treatment for a in allocate(plan, "s1")]
    counts = Counter((a.block, a.treatment) for a in allocate(balanced, "s2"))
    assert set(counts.values()) == {4}
    wrong = replace(plan, start_values=replace(start, values=values[:-1]))
    assert [p.at for p in dose_problems(wrong)] == ["start_values.values"]
    assert [p.at for p in dose_problems(replace(plan, start_values=StartValues(balance=True)))] == [
        "start_values.values"
    ]


def test_plots_vessels_and_charts_of_the_bench():
    assert area(2.4, 1.2).value == pytest.approx(2.88) and area(2, None).value == pytest.approx(3.14159, rel=1e-5)
    assert volume(20, 12, 15).value == pytest.approx(3.6) and volume(10, None, 10).value == pytest.approx(
        0.785398, rel=1e-5
    )
    between = by_chart([0, 0.25, 0.5, 1, 2, 4], 4.5, "ppm")
    assert between.value == pytest.approx(1.5) and between.steps[-1] == "Read to half a step: ± 0.5 ppm."
    on_step = by_chart([0, 0.25, 0.5, 1], 3, "ppm")
    assert on_step.value == pytest.approx(0.5) and on_step.steps[-1].endswith("± 0.25 ppm.")
    for steps, place in (([1], 1), ([2, 1], 1), ([0, 1], 3), ([0, 1], 0.5)):
        with pytest.raises(Refused):
            by_chart(steps, place, "ppm")


def test_the_name_of_an_outcome_raises_no_caution_a_rising_load_does():
    plan = Plan(
        "Stains",
        outcomes=(Outcome("o", "Bleach marks", PercentScale()), Outcome("p", "Held", LadderScale("kg", (1.0, 2.0)))),
    )
    assert [one.key for one in cautions_for(uses_in(plan))] == ["load"]
    assert cautions_for(uses_in(replace(plan, outcomes=plan.outcomes[:1]))) == ()
