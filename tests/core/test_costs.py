"""What a trial costs: an unknown price is unknown everywhere, and hides no other."""

from dataclasses import replace

import pytest

from fieldtally.core.design.plan import Outcome, Plan, Treatment
from fieldtally.core.dosing.costs import all_samples, sample_costs, whole_cost
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
