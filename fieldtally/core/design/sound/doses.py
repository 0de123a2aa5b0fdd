"""What may be wrong with products and doses, as far as the plan alone tells.

Whether a rate can be worked out is judged by the dose workbench, which knows units; a plan without any doses is sound: not
everything that is compared is dosed.
"""

from __future__ import annotations

from collections.abc import Iterator

from fieldtally.core.design.plan import Plan
from fieldtally.core.design.sound.naming import key_problems, repeated
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.amounts import amount_in
from fieldtally.core.quantities.units import System

MOST_OVERAGE = 3.0
MOST_TIMES = 1000
LONGEST_STEP = 7 * 24 * 60


def dose_problems(plan: Plan) -> Iterator[Problem]:
    """Every reason why the doses may not be sealed as they are."""
    if not 0 <= plan.overage <= MOST_OVERAGE:
        yield Problem("overage", "What is mixed over lies between nothing and three times as much again.")
    yield from key_problems("products", [product.key for product in plan.products])
    for i, product in enumerate(plan.products):
        if not product.name.strip():
            yield Problem(f"products.{i}.name", "This product has no name.")
        if product.price is not None and product.price < 0:
            yield Problem(f"products.{i}.price", "A price cannot be below 0.")
        if product.keeps_open is not None and product.keeps_open < 1:
            yield Problem(
                f"products.{i}.keeps_open", "Once opened it keeps for at least a day; leave it empty if unknown."
            )
    for i, name in repeated([product.name for product in plan.products]):
        yield Problem(f"products.{i}.name", f"“{name}” stands among the products twice.")
    yield from _doses(plan)
    yield from _start_values(plan)


def _doses(plan: Plan) -> Iterator[Problem]:
    known = {product.key for product in plan.products}
    for i, treatment in enumerate(plan.treatments):
        yield from key_problems(f"treatments.{i}.doses", [dose.key for dose in treatment.doses])
        for j, dose in enumerate(treatment.doses):
            at = f"treatments.{i}.doses.{j}"
            if dose.product not in known:
                yield Problem(f"{at}.product", "Say which product this is a dose of.")
            if not dose.rate.strip():
                yield Problem(f"{at}.rate", "How much? Write it as the label does.")
            if not 1 <= dose.times <= MOST_TIMES:
                yield Problem(f"{at}.times", f"It is given between once and {MOST_TIMES:,} times.")
            if dose.stock and not dose.tool.strip():
                yield Problem(f"{at}.tool", "Say what the stock solution is measured with.")
            if dose.minutes is not None and not 0 < dose.minutes <= LONGEST_STEP:
                yield Problem(f"{at}.minutes", "A step lasts more than 0 minutes and at most a week.")
            if dose.water.strip() and not _is_volume(dose.water, plan.system):
                yield Problem(f"{at}.water", "How much is that? Write an amount, as in 200 mL.")


def _is_volume(text: str, system: System) -> bool:
    try:
        return amount_in(text, system).dimension == "volume"
    except Refused:
        return False


def _start_values(plan: Plan) -> Iterator[Problem]:
    if plan.start_values.balance and not any(value is not None for value in plan.start_values.values):
        yield Problem(
            "start_values.values", "To balance on start values, measure the samples first and write them down."
        )
    elif plan.start_values.values and len(plan.start_values.values) != plan.first_drawn.sample_count:
        yield Problem(
            "start_values.values",
            f"{len(plan.start_values.values)} start values for {plan.first_drawn.sample_count} samples: one for each place, please.",
        )
