"""What a trial costs: an unknown price is unknown everywhere, and hides no other."""

from dataclasses import replace

import pytest

from fieldtally.core.design.plan import Outcome, Outside, Plan, SharedCost, Treatment
from fieldtally.core.design.sound.treatments import treatment_problems
from fieldtally.core.dosing.costs import all_samples, beside_outside, sample_costs, whole_cost
from fieldtally.core.scales import CountScale

PLAN = Plan(
    title="Beans",
    treatments=(
        Treatment("none", "Nothing", "untreated", 4),
        Treatment("tea", "Tea", samples=4, cost=3.0),
        Treatment("tar", "Tar", samples=2),
    ),
    outcomes=(Outcome("o", "Pods", CountScale(20)),),
    sample_cost=0.5,
)


def test_an_unknown_price_is_named_and_is_never_nothing():
    costs = {one.treatment: one for one in sample_costs(PLAN)}
    assert (costs["Nothing"].money, costs["Tea"].money, costs["Tar"].money) == (0.5, 3.5, None)
    assert costs["Tar"].missing == ("Tar",)


def test_one_that_is_unpriced_hides_no_other():
    assert all_samples(PLAN) == (4 * 0.5 + 4 * 3.5, ("Tar",))


def test_one_that_has_no_name_yet_is_named_as_that():
    unnamed = replace(PLAN, treatments=(*PLAN.treatments, Treatment("new", " ", samples=2)))
    assert all_samples(unnamed)[1] == ("Tar", "a treatment without a name")


def test_two_plans_are_set_beside_each_other_only_where_all_is_priced():
    assert whole_cost(PLAN) is None
    priced = replace(PLAN, treatments=(*PLAN.treatments[:2], replace(PLAN.treatments[2], cost=1.0)))
    assert whole_cost(priced) == pytest.approx(2 + 14 + 3)


def test_what_every_sample_takes_is_all_where_nothing_else_is_named():
    plain = replace(PLAN, treatments=tuple(replace(one, cost=None) for one in PLAN.treatments))
    assert all_samples(plain) == (5.0, ())
    assert all_samples(replace(plain, sample_cost=None)) is None


def test_what_is_bought_once_is_shared_by_the_samples_that_use_it():
    tin = SharedCost("tin", "Tin", 8.0, ("tea", "none"))
    costs = {one.treatment: one for one in sample_costs(replace(PLAN, shared_costs=(tin,)))}
    assert (costs["Nothing"].money, costs["Tea"].money) == (1.5, 4.5)
    everybody = replace(PLAN, treatments=PLAN.treatments[:2], shared_costs=(SharedCost("t", "Tank", 16.0),))
    assert all_samples(everybody) == (0.5 * 8 + 3.0 * 4 + 16.0, ())
    bare = replace(
        everybody, treatments=tuple(replace(one, cost=None) for one in everybody.treatments), sample_cost=None
    )
    assert all_samples(bare) == (16.0, ())


def test_a_shared_thing_without_a_price_is_named_by_those_who_share_it():
    plan = replace(PLAN, shared_costs=(SharedCost("tin", "Tin", None, ("tea",)),))
    costs = {one.treatment: one for one in sample_costs(plan)}
    assert costs["Tea"].missing == ("Tin",) and costs["Nothing"].money == 0.5
    assert whole_cost(plan) is None
    gone = replace(plan, shared_costs=(SharedCost("tin", " ", -1, ("gone",)),))
    says = [one.at for one in treatment_problems(gone) if one.at.startswith("shared_costs")]
    assert says == ["shared_costs.0.what", "shared_costs.0.money", "shared_costs.0.treatments"]


def test_costs_are_set_beside_something_that_was_not_in_the_trial():
    shop = replace(PLAN, outside=(Outside("s", "A tin of beans", 1.75), Outside("g", "The neighbour's")))
    bought, neighbours = beside_outside(shop)
    assert bought == (
        "A tin of beans, which was not in the trial and is not judged here, costs £1.75; Nothing £0.50 (3.5 times less), "
        "Tea £3.50 (2 times as much). Not known: Tar."
    )
    assert neighbours == "The neighbour's, which was not in the trial: no price is known."
    alike = replace(PLAN, outside=(Outside("s", "Tea from the shop", 3.5),), treatments=PLAN.treatments[1:2])
    assert "Tea £3.50 (as much)." in beside_outside(alike)[0]
    bare = Plan("x", treatments=PLAN.treatments[2:], outside=(Outside("s", "Shop", 2.0),))
    assert beside_outside(bare)[0].endswith("costs £2.00; what is compared has no price.")


@pytest.mark.parametrize(
    ("outside", "at"), [(Outside("s", " ", 1.0), "outside.0.name"), (Outside("s", "Shop", -1.0), "outside.0.money")]
)
def test_what_it_is_set_beside_has_a_name_and_no_price_below_nothing(outside, at):
    assert at in {one.at for one in treatment_problems(replace(PLAN, outside=(outside,)))}
