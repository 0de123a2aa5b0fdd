"""What one sample of each treatment costs: its own price, its doses, and what every sample takes.  What is not known stays unknown; it is
never told as nothing."""

from __future__ import annotations

from dataclasses import dataclass

from fieldtally.core.design.plan import Plan, Treatment
from fieldtally.core.dosing.mixing import costs_of_doses


@dataclass(frozen=True)
class SampleCost:
    """One sample of a treatment: ``money`` for the whole trial and for one ``use`` (of doses given several times), in the plan's money;
    None where ``missing`` names what has no price, or where nothing is known of it."""

    treatment: str
    money: float | None
    use: float | None = None
    missing: tuple[str, ...] = ()


def sample_costs(plan: Plan) -> tuple[SampleCost, ...]:
    """What one sample of each treatment costs, in the order of the plan; empty where no price is named at all."""
    named = plan.sample_cost is not None or any(one.cost is not None for one in plan.treatments)
    if not named and not any(product.price is not None for product in plan.products):
        return ()
    doses = costs_of_doses(plan)
    return tuple(_one(plan, treatment, doses.get(treatment.key)) for treatment in plan.treatments)


def _one(plan: Plan, treatment: Treatment, doses: tuple[float, float] | None) -> SampleCost:
    shared = plan.sample_cost or 0.0
    products = plan.product_named
    if treatment.doses and doses is None:
        named = [products[dose.product] for dose in treatment.doses if dose.product in products]
        without = [product.name.strip() or "a product" for product in named if product.price is None]
        return SampleCost(treatment.name, None, None, tuple(dict.fromkeys(without or ["its doses"])))
    if treatment.doses and doses is not None:
        sample, use = doses
        times = max((dose.times for dose in treatment.doses), default=1)
        return SampleCost(treatment.name, shared + sample, use if times > 1 else None)
    if treatment.cost is not None:
        return SampleCost(treatment.name, shared + treatment.cost)
    if treatment.kind == "untreated":
        return SampleCost(treatment.name, shared)
    return SampleCost(treatment.name, None, None, (treatment.name.strip() or "a treatment without a name",))


def all_samples(plan: Plan) -> tuple[float, tuple[str, ...]] | None:
    """What all samples take, as far as it is known, and what has no price; None where nothing has.  Where only what every sample takes is
    named, that is the whole of it."""
    own = any(one.cost is not None for one in plan.treatments) or any(one.price is not None for one in plan.products)
    if plan.sample_cost is not None and not own:
        return plan.sample_cost * plan.sample_count, ()
    costs = sample_costs(plan)
    known = [
        (cost.money, plan.per_treatment(treatment))
        for cost, treatment in zip(costs, plan.treatments, strict=False)
        if cost.money is not None
    ]
    if not known:
        return None
    missing = tuple(dict.fromkeys(name for cost in costs for name in cost.missing))
    return sum(money * many for money, many in known), missing


def whole_cost(plan: Plan) -> float | None:
    """What all samples take; None where the price of any part of it is not known, so that two plans can be set beside each other."""
    whole = all_samples(plan)
    return None if whole is None or whole[1] else whole[0]
