"""What one sample of each treatment costs: its own price, its doses, and what every sample takes.  What is not known stays unknown; it is
never told as nothing."""

from __future__ import annotations

from dataclasses import dataclass

from fieldtally.core.design.plan import Plan, SharedCost, Treatment
from fieldtally.core.dosing.mixing import costs_of_doses

NEARLY, MANY_TIMES = 1.05, 1_000.0


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
    named = (
        plan.sample_cost is not None or bool(plan.shared_costs) or any(one.cost is not None for one in plan.treatments)
    )
    if not named and not any(product.price is not None for product in plan.products):
        return ()
    doses = costs_of_doses(plan)
    return tuple(_one(plan, treatment, doses.get(treatment.key)) for treatment in plan.treatments)


def _one(plan: Plan, treatment: Treatment, doses: tuple[float, float] | None) -> SampleCost:
    shared, unpriced = (plan.sample_cost or 0.0) + _share(plan, treatment), _unpriced(plan, treatment)
    if unpriced:
        return SampleCost(treatment.name, None, None, unpriced)
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


def _sharing(plan: Plan, one: SharedCost) -> list[Treatment]:
    """The treatments whose samples share it."""
    return [treatment for treatment in plan.treatments if not one.treatments or treatment.key in one.treatments]


def _share(plan: Plan, treatment: Treatment) -> float:
    """What one sample of ``treatment`` bears of what is bought once for many."""
    found = 0.0
    for one in plan.shared_costs:
        sharing = _sharing(plan, one)
        many = sum(plan.per_treatment(each) for each in sharing)
        if one.money is not None and treatment in sharing and many:
            found += one.money / many
    return found


def _unpriced(plan: Plan, treatment: Treatment) -> tuple[str, ...]:
    return tuple(
        one.what.strip() or "something shared"
        for one in plan.shared_costs
        if one.money is None and treatment in _sharing(plan, one)
    )


def all_samples(plan: Plan) -> tuple[float, tuple[str, ...]] | None:
    """What all samples take, as far as it is known, and what has no price; None where nothing has.  Where only what every sample takes is
    named, that is the whole of it."""
    own = any(one.cost is not None for one in plan.treatments) or any(one.price is not None for one in plan.products)
    shared = [one.money for one in plan.shared_costs if one.money is not None]
    if not own and (plan.sample_cost is not None or shared):
        missing = tuple(one.what.strip() or "something shared" for one in plan.shared_costs if one.money is None)
        return (plan.sample_cost or 0.0) * plan.sample_count + sum(shared), missing
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


def beside_outside(plan: Plan) -> tuple[str, ...]:
    """What costs are set beside, a sentence for each: dearer or cheaper than it, for as much as one sample takes.  It was not in the trial,
    so nothing is said of how good it is; what has no price is named.

    >>> beside_outside(Plan("x"))
    ()
    """
    costs = sample_costs(plan)
    found = []
    for one in plan.outside:
        name = one.name.strip()
        if one.money is None:
            found.append(f"{name}, which was not in the trial: no price is known.")
            continue
        told = [
            f"{cost.treatment.strip()} {_money(plan, cost.money)}{_against(cost.money, one.money)}"
            for cost in costs
            if cost.money is not None
        ]
        first = f"{name}, which was not in the trial and is not judged here, costs {_money(plan, one.money)}"
        missing = [cost.treatment.strip() for cost in costs if cost.money is None]
        without = f" Not known: {', '.join(missing)}." if missing and told else ""
        found.append(f"{first}; {', '.join(told)}.{without}" if told else f"{first}; what is compared has no price.")
    return tuple(found)


def _money(plan: Plan, money: float) -> str:
    return f"{plan.money}{money:,.2f}"


def _against(own: float, outside: float) -> str:
    """How many times as much or as little, where that says anything."""
    if own <= 0 or outside <= 0:
        return ""
    times = max(own, outside) / min(own, outside)
    if times < NEARLY:
        return " (as much)"
    return f" ({times:.2g} times {'as much' if own > outside else 'less'})" if times < MANY_TIMES else ""


def whole_cost(plan: Plan) -> float | None:
    """What all samples take; None where the price of any part of it is not known, so that two plans can be set beside each other."""
    whole = all_samples(plan)
    return None if whole is None or whole[1] else whole[0]
