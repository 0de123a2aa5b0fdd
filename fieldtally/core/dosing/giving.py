"""What one dose of the plan comes to for one sample: worked out from how its rate is written, and from what it is taken of."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

from fieldtally.core.design.plan import Dose, Plan, Product
from fieldtally.core.dosing.dilution import Ratio, diluted, parts_of, ratio_in
from fieldtally.core.dosing.rates import base, coverage_in, for_active, label_rate
from fieldtally.core.dosing.steps import Worked
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.amounts import Amount, amount_in, rate_in

T = TypeVar("T")


@dataclass(frozen=True)
class Given:
    """A dose for one sample: the amount of product (mL, g …) with its steps, how its rate was understood, and the active
    ingredient in it (same unit; None where its share is not known)."""

    worked: Worked
    echo: str
    active: float | None


def given_by(plan: Plan, dose: Dose) -> Given:
    """What ``dose`` gives one sample of ``plan``.

    :raises Refused: at ``rate``, ``product``, ``share`` or ``sample_size``, whichever cannot be used as it is.
    """
    product = plan.product_named.get(dose.product)
    if product is None:
        raise Refused("Say which product this is a dose of.", "product")
    worked, echo = _worked(plan, dose, product)
    share = share_of(product, plan)
    return Given(worked, echo, None if share is None else worked.value * share)


def size_of(plan: Plan) -> Amount:
    """The size of one sample.

    :raises Refused: at ``sample_size``, where it is missing or not understood.
    """
    return _at("sample_size", lambda: amount_in(plan.sample_size, plan.system))


def share_of(product: Product, plan: Plan) -> float | None:
    """The share of active ingredient in ``product``, above 0 and up to 1; None where none is written.

    :raises Refused: at ``share``, where it is not understood.
    """
    if not product.share.strip():
        return None
    share = _at("share", lambda: amount_in(product.share, plan.system, "share")).to("percent") / 100
    if not 0 < share <= 1:
        raise Refused("The share of active ingredient lies above 0 and at most at 100 %.", "share")
    return share


def _worked(plan: Plan, dose: Dose, product: Product) -> tuple[Worked, str]:
    match dose.way:
        case "label":
            rate = _at("rate", lambda: rate_in(dose.rate, plan.system))
            size = size_of(plan)
            return _at("rate", lambda: label_rate(rate, size)), rate.echo
        case "pack":
            rate = _at("rate", lambda: coverage_in(dose.rate, plan.system))
            size = size_of(plan)
            return _at("rate", lambda: label_rate(rate, size)), rate.echo
        case "active":
            rate = _at("rate", lambda: rate_in(dose.rate, plan.system))
            share = share_of(product, plan)
            if share is None:
                raise Refused("How much active ingredient does this product hold, as in 34 %?", "share")
            size, fraction = size_of(plan), share
            named = f" of {product.active.strip()}" if product.active.strip() else " of active"
            return _at("rate", lambda: for_active(rate, size, fraction)), rate.echo.replace(
                " for each", f"{named} for each"
            )
        case "parts":
            ratio = _at("rate", lambda: ratio_in(dose.rate))
            final, unit = _volume(plan)
            first, second = parts_of(ratio, final, unit)
            echo = (
                f"{ratio.first:g} {ratio.first_name} and {ratio.second:g} {ratio.second_name}, {ratio.parts:g} in all"
            )
            return (first if _first_is_product(ratio, product, plan) else second), echo
        case "strength":
            wanted = _at("rate", lambda: amount_in(dose.rate, plan.system, "share"))
            share = share_of(product, plan)
            if share is None:
                raise Refused("How strong is this product itself, as in 40 %?", "share")
            final, unit = _volume(plan)
            return _at("rate", lambda: diluted(100 * share, wanted.to("percent"), final, unit))[0], wanted.echo
        case "amount":
            amount = _at("rate", lambda: amount_in(dose.rate, plan.system))
            value, unit = base(amount)
            if unit not in ("mL", "g"):
                raise Refused(f"{amount.echo} is neither a volume nor a mass of something.", "rate")
            return Worked(value, unit, (f"{amount.echo} for each {plan.sample.one}.",)), amount.echo


def _volume(plan: Plan) -> tuple[float, str]:
    size = size_of(plan)
    if size.dimension != "volume":
        raise Refused(f"A mix fills a volume, but a sample is {size.echo}.", "sample_size")
    return base(size)


def _first_is_product(ratio: Ratio, product: Product, plan: Plan) -> bool:
    """Which side of ``ratio`` is the product: the one that is named so, else the one that is not the carrier."""
    carriers = {"water", *plan.carrier.casefold().split()}
    for name, is_first in ((ratio.first_name, True), (ratio.second_name, False)):
        words = set(name.casefold().split())
        if "product" in words or words & set(product.name.casefold().split()):
            return is_first
    return not set(ratio.first_name.casefold().split()) & carriers


def _at(at: str, work: Callable[[], T]) -> T:
    """What ``work`` answers; what it refuses is refused at that field."""
    try:
        return work()
    except Refused as refused:
        raise Refused([Problem(at, problem.says) for problem in refused.problems]) from refused
